/* SPDX-License-Identifier: MIT */
/* What one of several jobs tells that go on side by side. */
#include "base/base.h"

static _Thread_local struct lane *here;

void lane_open(struct lane *lane)
{
    memset(lane, 0, sizeof *lane);
    pthread_mutex_init(&lane->lock, NULL);
}

void lane_close(struct lane *lane)
{
    pthread_mutex_destroy(&lane->lock);
}

void lane_enter(struct lane *lane)
{
    here = lane;
}

struct lane *lane_here(void)
{
    return here;
}

void lane_progress(struct lane *lane, const char *line)
{
    pthread_mutex_lock(&lane->lock);
    snprintf(lane->line, sizeof lane->line, "%s", line);
    pthread_mutex_unlock(&lane->lock);
}

void lane_say(struct lane *lane, const char *line)
{
    size_t used;

    pthread_mutex_lock(&lane->lock);
    used = strlen(lane->said);
    snprintf(lane->said + used, sizeof lane->said - used, "%s%s",
             used == 0 ? "" : "\n", line);
    pthread_mutex_unlock(&lane->lock);
}

void lane_get(struct lane *lane, char line[LANE_ROOM])
{
    pthread_mutex_lock(&lane->lock);
    memcpy(line, lane->line, LANE_ROOM);
    pthread_mutex_unlock(&lane->lock);
}
