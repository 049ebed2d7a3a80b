/* SPDX-License-Identifier: MIT */
/* Who uses a device: mounts, swap, and what is stacked on it, at any depth. */
#include <dirent.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "linux.h"

/* Stacks are seldom deeper than three; a loop must not be followed for ever. */
#define DEPTH_MOST 8

static void add(struct slate_linux_about *about, const char *what,
                const char *how, const char *where)
{
    size_t used = strlen(about->users);

    snprintf(about->users + used, sizeof about->users - used,
             "%s%.40s %s%.120s", used == 0 ? "" : "\n", what, how, where);
}

static bool is_system_place(const char *place)
{
    return strcmp(place, "/") == 0 || strcmp(place, "/usr") == 0 ||
           strncmp(place, "/boot", 5) == 0;
}

/* /proc/self/mountinfo: the third field is major:minor, the fifth the place. */
static void find_mounts(struct slate_linux_about *about, const char *what,
                        const char *numbers)
{
    FILE *file = fopen("/proc/self/mountinfo", "r");
    char line[4096], have[32], place[2048];

    while (file != NULL && fgets(line, sizeof line, file) != NULL) {
        if (sscanf(line, "%*s %*s %31s %*s %2047s", have, place) != 2 ||
            strcmp(have, numbers) != 0)
            continue;
        add(about, what, "is mounted at ", place);
        about->system = about->system || is_system_place(place);
    }
    if (file != NULL)
        fclose(file);
}

static void find_swap(struct slate_linux_about *about, const char *what)
{
    FILE *file = fopen("/proc/swaps", "r");
    char line[1024], node[64];

    snprintf(node, sizeof node, "/dev/%.40s ", what);
    while (file != NULL && fgets(line, sizeof line, file) != NULL) {
        if (strncmp(line, node, strlen(node)) == 0) {
            add(about, what, "is swap of the running system", "");
            about->system = true;
        }
    }
    if (file != NULL)
        fclose(file);
}

struct step {
    char folder[256]; /* below /sys */
    char what[64];    /* sdb1, dm-0 */
};

static size_t push(struct step *stack, size_t depth, const char *folder,
                   const char *what)
{
    if (depth == DEPTH_MOST)
        return depth;
    snprintf(stack[depth].folder, sizeof stack[depth].folder, "%.250s", folder);
    snprintf(stack[depth].what, sizeof stack[depth].what, "%.60s", what);
    return depth + 1;
}

/* What stands on a device or partition: its holders, with their names. */
static size_t push_holders(struct slate_linux_about *about,
                           const struct step *at, struct step *stack,
                           size_t depth)
{
    char path[320], label[128];
    struct dirent *entry;
    DIR *folder;

    snprintf(path, sizeof path, "%s/holders", at->folder);
    folder = opendir(path);
    while (folder != NULL && (entry = readdir(folder)) != NULL) {
        if (entry->d_name[0] == '.')
            continue;
        snprintf(path, sizeof path, "/sys/block/%.60s/dm/name", entry->d_name);
        linux_read_line(path, label, sizeof label);
        add(about, at->what, "carries ",
            label[0] == '\0' ? entry->d_name : label);
        snprintf(path, sizeof path, "/sys/block/%.60s", entry->d_name);
        depth = push(stack, depth, path, entry->d_name);
    }
    if (folder != NULL)
        closedir(folder);
    return depth;
}

static size_t look(struct slate_linux_about *about, struct step *stack,
                   size_t depth)
{
    struct step at = stack[depth - 1];
    char path[320], numbers[32];

    depth--;
    snprintf(path, sizeof path, "%s/dev", at.folder);
    linux_read_line(path, numbers, sizeof numbers);
    if (numbers[0] != '\0')
        find_mounts(about, at.what, numbers);
    find_swap(about, at.what);
    return push_holders(about, &at, stack, depth);
}

static void look_from(struct slate_linux_about *about, const char *folder,
                      const char *what)
{
    struct step stack[DEPTH_MOST];
    size_t depth = push(stack, 0, folder, what);

    for (int i = 0; depth > 0 && i < 64; i++)
        depth = look(about, stack, depth);
}

/* The device itself, then each of its partitions. */
void linux_find_users(struct slate_linux_about *about)
{
    char path[128], part[256], line[16];
    struct dirent **entries;
    int count;

    snprintf(path, sizeof path, "/sys/block/%.31s", about->name);
    look_from(about, path, about->name);
    count = scandir(path, &entries, NULL, alphasort);
    for (int i = 0; i < count; i++) {
        snprintf(part, sizeof part, "%s/%.40s/partition", path,
                 entries[i]->d_name);
        linux_read_line(part, line, sizeof line);
        if (line[0] != '\0') {
            snprintf(part, sizeof part, "%s/%.40s", path, entries[i]->d_name);
            look_from(about, part, entries[i]->d_name);
        }
        free(entries[i]);
    }
    if (count >= 0)
        free(entries);
}
