/* SPDX-License-Identifier: MIT */
/* What one of several jobs tells that go on side by side: each has a thread,
 * and a lane into which its progress and its errors go, instead of to the
 * screen. */
#ifndef TOOL_LANE_H
#define TOOL_LANE_H

#include <pthread.h>
#include <stdbool.h>

#define LANE_ROOM 200
#define LANE_SAID 4000

struct lane {
    pthread_mutex_t lock;
    char line[LANE_ROOM]; /* "Writing  34 %, ..."; "" before the first one */
    char said[LANE_SAID]; /* errors, one a line, with how to go on */
};

/* Give each of them back with lane_close. */
void lane_open(struct lane *lane);
void lane_close(struct lane *lane);

/* From now on this thread has that lane; NULL: it has none. */
void lane_enter(struct lane *lane);

/* That of this thread; NULL: it tells the screen. */
struct lane *lane_here(void);

/* What this job does just now, in place of what it did before. */
void lane_progress(struct lane *lane, const char *line);

/* One more line of what went wrong. */
void lane_say(struct lane *lane, const char *line);

/* As they are now. */
void lane_get(struct lane *lane, char line[LANE_ROOM]);

#endif
