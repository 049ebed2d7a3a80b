/* SPDX-License-Identifier: MIT */
/* What the tool keeps between runs. */
#ifndef TOOL_STATE_H
#define TOOL_STATE_H

#include <jansson.h>

#include "attached.h"

/* ~/.local/state/trueslate, or below XDG_STATE_HOME; made when not there. */
bool state_folder(char *path, size_t room);

/* Where a file of a device is, named by its tag and what tells it from others.
 */
bool state_path(const char *tag, const uint8_t digest[8], const char *ending,
                char *path, size_t room);

/* The files that are kept of one device, by its tag and what their names end
 * with. */
#define STATE_PATH_ROOM 4200

struct state_files {
    uint32_t count;
    char (*path)[STATE_PATH_ROOM];
};

/* Finds them, in the order of their names; false: there is no folder. Forget
 * them either way. */
bool state_find(struct state_files *files, const char *tag, const char *ending);
void state_forget(struct state_files *files);

/* Keeps in mind which devices are attached. Returns an exit code. */
int state_remember(const struct attached *attached);

/* The list that was kept, a new reference; NULL for none. */
json_t *state_remembered(void);

/* Takes a device off the list once; false when it is not on it. Two devices
 * that cannot be told apart stand on it twice. */
bool state_forget_one(json_t *list, const struct target *target);

#endif
