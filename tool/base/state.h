/* SPDX-License-Identifier: MIT */
/* What the tool keeps between runs. */
#ifndef TOOL_STATE_H
#define TOOL_STATE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

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

#endif
