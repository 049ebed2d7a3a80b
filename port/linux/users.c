/* SPDX-License-Identifier: MIT */
/* Who uses a device: mounts, swap, and what is stacked on it, at any depth. */
#include <stdio.h>
#include <string.h>

#include "linux.h"

static void add(struct slate_linux_about *about, const char *what,
                const char *how, const char *where)
{
    size_t used = strlen(about->users);

    snprintf(about->users + used, sizeof about->users - used,
             "%s%.40s %s%.120s", used == 0 ? "" : "\n", what, how, where);
}

bool linux_is_system_place(const char *place)
{
    return strcmp(place, "/") == 0 || strcmp(place, "/usr") == 0 ||
           strncmp(place, "/boot", 5) == 0;
}

static bool is_octal(char c)
{
    return c >= '0' && c <= '7';
}

/* The host writes a space in a path as \040, and so on. */
static void plain_place(char *place)
{
    char *to = place;

    for (const char *from = place; *from != '\0'; to++) {
        if (from[0] == '\\' && is_octal(from[1]) && is_octal(from[2]) &&
            is_octal(from[3])) {
            *to = (char)((from[1] - '0') * 64 + (from[2] - '0') * 8 + from[3] -
                         '0');
            from += 4;
        } else {
            *to = *from++;
        }
    }
    *to = '\0';
}

static bool has_option(const char *options, const char *name)
{
    size_t length = strlen(name);

    return strncmp(options, name, length) == 0 &&
           (options[length] == ',' || options[length] == '\0');
}

/* Mounted for writing, and yet the file system is read-only: that is what
 * hosts do to one in which they have met an error. The options of the mount
 * are the sixth field, those of the file system the last one. */
static bool has_given_up(const char *line)
{
    char mount[256] = "", all[512] = "";
    const char *behind = strstr(line, " - ");

    if (behind == NULL ||
        sscanf(line, "%*s %*s %*s %*s %*s %255s", mount) != 1 ||
        sscanf(behind, " - %*s %*s %511s", all) != 1)
        return false;
    return has_option(mount, "rw") && has_option(all, "ro");
}

/* /proc/self/mountinfo: the third field is major:minor, the fifth the place. */
bool linux_find_mount(const struct linux_node *node, uint32_t index,
                      char place[LINUX_PLACE_ROOM], bool *given_up)
{
    FILE *file = fopen("/proc/self/mountinfo", "r");
    char line[4096], have[32];
    bool found = false;

    while (file != NULL && !found && fgets(line, sizeof line, file) != NULL)
        found = sscanf(line, "%*s %*s %31s %*s %2047s", have, place) == 2 &&
                strcmp(have, node->numbers) == 0 && index-- == 0;
    if (file != NULL)
        fclose(file);
    if (found)
        plain_place(place);
    if (given_up != NULL)
        *given_up = found && has_given_up(line);
    return found && node->numbers[0] != '\0';
}

bool linux_is_swap(const struct linux_node *node)
{
    FILE *file = fopen("/proc/swaps", "r");
    char line[1024], name[80];
    bool found = false;

    snprintf(name, sizeof name, "/dev/%.60s ", node->what);
    while (file != NULL && !found && fgets(line, sizeof line, file) != NULL)
        found = strncmp(line, name, strlen(name)) == 0;
    if (file != NULL)
        fclose(file);
    return found;
}

static void look(struct slate_linux_about *about, const struct linux_node *node)
{
    char place[LINUX_PLACE_ROOM];
    bool given_up;

    if (node->under[0] != '\0')
        add(about, node->under, "carries ",
            node->mapping[0] == '\0' ? node->what : node->mapping);
    for (uint32_t i = 0; linux_find_mount(node, i, place, &given_up); i++) {
        add(about, node->what,
            given_up ? "is read-only since an error, and mounted at "
                     : "is mounted at ",
            place);
        about->system = about->system || linux_is_system_place(place);
    }
    if (linux_is_swap(node)) {
        add(about, node->what, "is swap of the running system", "");
        about->system = true;
    }
}

void linux_find_users(struct slate_linux_about *about)
{
    struct linux_nodes nodes;

    linux_find_nodes(about->name, &nodes);
    for (uint32_t i = 0; i < nodes.count; i++)
        look(about, &nodes.node[i]);
}
