/* SPDX-License-Identifier: MIT */
/* Where the tool keeps things between runs. */
#include <dirent.h>
#include <errno.h>
#include <sys/stat.h>

#include "base/base.h"

#include <trueslate/base.h>

/* ~/.local/state/trueslate, or below XDG_STATE_HOME; made when not there. */
bool state_folder(char *path, size_t room)
{
    const char *state = getenv("XDG_STATE_HOME");
    const char *home = getenv("HOME");
    int length;

    if (state != NULL && state[0] == '/')
        length = snprintf(path, room, "%s/trueslate", state);
    else if (home != NULL && home[0] == '/')
        length = snprintf(path, room, "%s/.local/state/trueslate", home);
    else
        return false;
    if (length < 0 || (size_t)length >= room)
        return false;
    for (char *slash = strchr(path + 1, '/');; slash = strchr(slash + 1, '/')) {
        if (slash != NULL)
            *slash = '\0';
        if (mkdir(path, S_IRWXU) != 0 && errno != EEXIST)
            return false;
        if (slash == NULL)
            return true;
        *slash = '/';
    }
}

bool state_path(const char *tag, const uint8_t digest[8], const char *ending,
                char *path, size_t room)
{
    char folder[4000], name[17];
    struct slate_text text;

    if (!state_folder(folder, sizeof folder))
        return false;
    slate_text_start(&text, name, sizeof name);
    slate_text_bytes(&text, digest, 8);
    return snprintf(path, room, "%s/%s-%s%s", folder, tag, name, ending) <
           (int)room;
}

static bool is_of(const char *name, const char *tag, const char *ending)
{
    size_t length = strlen(name), tail = strlen(ending);

    return strncmp(name, tag, strlen(tag)) == 0 && length > tail &&
           strcmp(name + length - tail, ending) == 0;
}

bool state_find(struct state_files *files, const char *tag, const char *ending)
{
    char folder[4000];
    struct dirent **entries = NULL;
    int count;

    memset(files, 0, sizeof *files);
    if (!state_folder(folder, sizeof folder))
        return false;
    count = scandir(folder, &entries, NULL, alphasort);
    if (count > 0)
        files->path = calloc((size_t)count, sizeof *files->path);
    for (int i = 0; i < count; i++) {
        if (files->path != NULL && is_of(entries[i]->d_name, tag, ending))
            snprintf(files->path[files->count++], STATE_PATH_ROOM, "%s/%.190s",
                     folder, entries[i]->d_name);
        free(entries[i]);
    }
    free(entries);
    return true;
}

void state_forget(struct state_files *files)
{
    free(files->path);
    memset(files, 0, sizeof *files);
}
