/* SPDX-License-Identifier: MIT */
/* What is mounted, and on which devices that stands: /proc/self/mountinfo, and
 * /proc/swaps. */
#include <dirent.h>

#include "linux.h"

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

/* "36 35 98:0 /root /place rw,noatime master:1 - ext4 /dev/sda1 rw,..." */
static bool parse_mount(char *line, struct linux_mount *mount)
{
    char *behind = strstr(line, " - "), *words[6], *save = NULL;
    int count = 0;

    memset(mount, 0, sizeof *mount);
    if (behind == NULL)
        return false;
    *behind = '\0';
    for (char *word = strtok_r(line, " ", &save); word != NULL && count < 6;
         word = strtok_r(NULL, " ", &save))
        words[count++] = word;
    if (count < 6)
        return false;
    snprintf(mount->numbers, sizeof mount->numbers, "%.31s", words[2]);
    mount->place = strdup(words[4]);
    mount->writable = has_option(words[5], "rw");
    words[0] = strtok_r(behind + 3, " ", &save);
    words[1] = strtok_r(NULL, " ", &save);
    words[2] = strtok_r(NULL, " \n", &save);
    if (words[2] == NULL || mount->place == NULL)
        return false;
    mount->kind = strdup(words[0]);
    mount->source = strdup(words[1]);
    mount->options = strdup(words[2]);
    if (mount->kind == NULL || mount->source == NULL || mount->options == NULL)
        return false;
    plain_place(mount->place);
    plain_place(mount->source);
    plain_place(mount->options);
    (void)linux_block_numbers(mount->source, mount->source_numbers);
    return true;
}

static void free_mount(struct linux_mount *mount)
{
    free(mount->place);
    free(mount->kind);
    free(mount->source);
    free(mount->options);
}

static void add_mount(struct linux_mounts *mounts, char *line)
{
    struct linux_mount one;
    struct linux_mount *more;

    if (!parse_mount(line, &one)) {
        free_mount(&one);
        return;
    }
    more = realloc(mounts->mount, (mounts->count + 1) * sizeof *more);
    if (more == NULL) {
        free_mount(&one);
        return;
    }
    mounts->mount = more;
    mounts->mount[mounts->count++] = one;
}

/* "/dev/sda2 partition 8388604 0 -2" */
static void add_swap(struct linux_mounts *mounts, char *line)
{
    char *save = NULL, *place = strtok_r(line, " \t", &save);
    char *kind = strtok_r(NULL, " \t", &save), **more;

    if (place == NULL || kind == NULL || place[0] != '/')
        return;
    more = realloc(mounts->swap, (mounts->swaps + 1) * sizeof *more);
    if (more == NULL)
        return;
    mounts->swap = more;
    mounts->swap[mounts->swaps] = strdup(place);
    if (mounts->swap[mounts->swaps] != NULL)
        plain_place(mounts->swap[mounts->swaps++]);
}

static void each_line(const char *name, struct linux_mounts *mounts,
                      void (*take)(struct linux_mounts *mounts, char *line))
{
    char path[256], *line = NULL;
    size_t room = 0;
    FILE *file =
        linux_path(path, sizeof path, "%s", name) ? fopen(path, "r") : NULL;

    while (file != NULL && getline(&line, &room, file) > 0)
        take(mounts, line);
    free(line);
    if (file != NULL)
        fclose(file);
}

void linux_read_mounts(struct linux_mounts *mounts)
{
    memset(mounts, 0, sizeof *mounts);
    each_line("/proc/self/mountinfo", mounts, add_mount);
    each_line("/proc/swaps", mounts, add_swap);
}

void linux_forget_mounts(struct linux_mounts *mounts)
{
    for (uint32_t i = 0; i < mounts->count; i++)
        free_mount(&mounts->mount[i]);
    for (uint32_t i = 0; i < mounts->swaps; i++)
        free(mounts->swap[i]);
    free(mounts->mount);
    free(mounts->swap);
    memset(mounts, 0, sizeof *mounts);
}

/* Does a path lie in a place, or is it that? */
bool linux_lies_below(const char *path, const char *place)
{
    size_t length = strlen(place);

    if (strcmp(place, "/") == 0)
        return path[0] == '/';
    return strncmp(path, place, length) == 0 &&
           (path[length] == '/' || path[length] == '\0');
}

/* The mount in which a path lies: the longest place, the last one of several.
 */
static const struct linux_mount *mount_of(const struct linux_mounts *mounts,
                                          const char *path)
{
    const struct linux_mount *found = NULL;

    for (uint32_t i = 0; i < mounts->count; i++) {
        const struct linux_mount *mount = &mounts->mount[i];

        if (linux_lies_below(path, mount->place) &&
            (found == NULL || strlen(mount->place) >= strlen(found->place)))
            found = mount;
    }
    return found;
}

static bool is_there(const char *format, const char *folder, const char *name)
{
    char path[512];
    DIR *there = NULL;

    if (linux_path(path, sizeof path, format, folder, name))
        there = opendir(path);
    if (there != NULL)
        closedir(there);
    return there != NULL;
}

/* A Btrfs of several devices is mounted by the name of one of them; the others
 * are told below /sys/fs. */
static bool is_fellow(const struct linux_mount *mount, const char *what)
{
    const char *source = strrchr(mount->source, '/');
    char path[64];
    struct dirent *entry;
    bool found = false;
    DIR *folder;

    if (strcmp(mount->kind, "btrfs") != 0 || source == NULL ||
        !linux_path(path, sizeof path, "/sys/fs/btrfs"))
        return false;
    folder = opendir(path);
    while (folder != NULL && !found && (entry = readdir(folder)) != NULL)
        found = entry->d_name[0] != '.' &&
                is_there("/sys/fs/btrfs/%s/devices/%s", entry->d_name,
                         source + 1) &&
                is_there("/sys/fs/btrfs/%s/devices/%s", entry->d_name, what);
    if (folder != NULL)
        closedir(folder);
    return found;
}

static bool stands_directly(const struct linux_mount *mount,
                            const struct linux_node *node)
{
    if (node->numbers[0] == '\0')
        return false;
    return strcmp(mount->numbers, node->numbers) == 0 ||
           strcmp(mount->source_numbers, node->numbers) == 0 ||
           is_fellow(mount, node->what);
}

/* Folders that an overlay is made of: "lowerdir=/a:/b,upperdir=/c". */
static bool overlay_stands(const struct linux_mounts *mounts,
                           const struct linux_mount *mount,
                           const struct linux_node *node)
{
    const char *at = strcmp(mount->kind, "overlay") == 0 ? mount->options : "";

    while (*at != '\0') {
        char place[LINUX_PLACE_ROOM];
        size_t length = strcspn(at, ",:=");
        const struct linux_mount *under;

        snprintf(place, sizeof place, "%.*s", (int)length, at);
        under = place[0] == '/' ? mount_of(mounts, place) : NULL;
        if (under != NULL && under != mount && stands_directly(under, node))
            return true;
        at += length;
        at += *at != '\0' ? 1 : 0;
    }
    return false;
}

bool linux_mount_stands_on(const struct linux_mounts *mounts,
                           const struct linux_mount *mount,
                           const struct linux_node *node)
{
    return stands_directly(mount, node) || overlay_stands(mounts, mount, node);
}

bool linux_path_stands_on(const struct linux_mounts *mounts, const char *path,
                          const struct linux_node *node)
{
    char numbers[LINUX_NUMBERS_ROOM];
    const struct linux_mount *mount;

    if (linux_block_numbers(path, numbers))
        return node->numbers[0] != '\0' && strcmp(numbers, node->numbers) == 0;
    mount = mount_of(mounts, path);
    return mount != NULL && linux_mount_stands_on(mounts, mount, node);
}

/* Mounted for writing, and yet the file system is read-only: that is what
 * hosts do to one in which they have met an error. */
bool linux_has_given_up(const struct linux_mount *mount)
{
    static const char *const never[] = {"squashfs", "iso9660", "udf", "erofs"};

    for (size_t i = 0; i < sizeof never / sizeof never[0]; i++) {
        if (strcmp(mount->kind, never[i]) == 0)
            return false; /* never written anyway */
    }
    return mount->writable && has_option(mount->options, "ro");
}
