/* SPDX-License-Identifier: MIT */
/* What is in a folder of the host, as items of a draft. */
#include "draft/draft.h"

#include <dirent.h>
#include <errno.h>
#include <sys/stat.h>

#include "device/device.h"

#define ITEMS_MOST 1000000u

bool folder_path(const char *folder, const struct slate_files *files,
                 uint32_t item, char path[PATH_MAX])
{
    size_t at = PATH_MAX - 1, length = strlen(folder);

    path[at] = '\0';
    for (; item != 0; item = files->item[item].parent) {
        const char *name = slate_item_name(files, item);
        size_t more = strlen(name);

        if (more + 1 > at)
            return false;
        at -= more;
        memcpy(path + at, name, more);
        path[--at] = '/';
    }
    if (length > at)
        return false;
    memmove(path + length, path + at, PATH_MAX - at);
    memcpy(path, folder, length);
    return true;
}

static int fail_at(enum slate_status status, const char *path, const char *why)
{
    char shown[4 * PATH_MAX];

    return fail(status, "%s: %s", plain_shown(path, shown, sizeof shown), why);
}

/* The path itself would fill the screen. */
static int fail_deep(const char *name)
{
    return fail_at(
        SLATE_ERR_ARGUMENT, name,
        "lies too deep: its path is longer than the host's paths can be");
}

/* Is it the image that is to be written? */
static bool is_target(const struct target *target, const struct stat *found)
{
    struct stat image;

    return target->is_file &&
           stat(target->address + strlen("file:"), &image) == 0 &&
           image.st_dev == found->st_dev && image.st_ino == found->st_ino;
}

static int describe(const struct target *target, const char *path,
                    const char *name, struct slate_item *item)
{
    struct stat found;
    struct tm parts;

    if (lstat(path, &found) != 0)
        return fail_at(SLATE_ERR_ACCESS, path, strerror(errno));
    if (S_ISLNK(found.st_mode))
        return fail_at(SLATE_ERR_FORMAT, path,
                       "is a link, and such a volume has none; put what it "
                       "points to in its place");
    if (!S_ISREG(found.st_mode) && !S_ISDIR(found.st_mode))
        return fail_at(SLATE_ERR_FORMAT, path,
                       "is neither a file nor a folder");
    if (is_target(target, &found))
        return fail_at(SLATE_ERR_ARGUMENT, path,
                       "is the image itself that is to be written");
    item->folder = S_ISDIR(found.st_mode);
    item->bytes = item->folder ? 0 : (uint64_t)found.st_size;
    item->attributes =
        (uint8_t)(((found.st_mode & 0222) == 0 ? SLATE_ITEM_READ_ONLY : 0) |
                  (name[0] == '.' ? SLATE_ITEM_HIDDEN : 0));
    stamp_take(localtime_r(&found.st_mtime, &parts), &item->changed);
    return 0;
}

struct names {
    char **name;
    size_t count, room;
};

static int compare_names(const void *a, const void *b)
{
    return strcmp(*(char *const *)a, *(char *const *)b);
}

static void forget(struct names *names)
{
    for (size_t i = 0; i < names->count; i++)
        free(names->name[i]);
    free(names->name);
}

static void note(struct names *names, const char *name)
{
    char *copy = strdup(name);

    if (names->count == names->room) {
        names->room = 2 * names->room + 64;
        names->name = realloc(names->name, names->room * sizeof names->name[0]);
    }
    if (names->name == NULL || copy == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    names->name[names->count++] = copy;
}

/* In the order of their bytes, which does not depend on the host. */
static int read_names(const char *path, struct names *names)
{
    DIR *folder = opendir(path);
    const struct dirent *entry;

    if (folder == NULL)
        return fail_at(SLATE_ERR_ACCESS, path, strerror(errno));
    for (errno = 0; (entry = readdir(folder)) != NULL; errno = 0) {
        if (strcmp(entry->d_name, ".") != 0 && strcmp(entry->d_name, "..") != 0)
            note(names, entry->d_name);
    }
    if (errno != 0) {
        int code = fail_at(SLATE_ERR_ACCESS, path, strerror(errno));

        closedir(folder);
        return code;
    }
    closedir(folder);
    if (names->count > 0)
        qsort(names->name, names->count, sizeof names->name[0], compare_names);
    return 0;
}

/* Moves the names of a list to the front, in its order. */
static int put_first(struct names *names, const char *list, uint32_t *ahead)
{
    for (*ahead = 0; *list != '\0'; ++*ahead) {
        size_t length = strcspn(list, ","), i = *ahead;
        char *found;

        while (i < names->count && (strlen(names->name[i]) != length ||
                                    memcmp(names->name[i], list, length) != 0))
            i++;
        if (i == names->count)
            return fail(SLATE_ERR_ARGUMENT,
                        "--files-first: there is no '%.*s' in that folder",
                        (int)length, list);
        found = names->name[i];
        memmove(&names->name[*ahead + 1], &names->name[*ahead],
                (i - *ahead) * sizeof names->name[0]);
        names->name[*ahead] = found;
        list += length;
        list += *list == ',' ? 1 : 0;
    }
    return 0;
}

/* Adds what is in one folder of the list. */
static int list_one(const struct target *target, const char *root,
                    uint32_t folder, const char *first,
                    struct slate_draft *draft)
{
    struct slate_files *files = &draft->files;
    struct names names = {0};
    char path[PATH_MAX], child[PATH_MAX];
    int code;

    if (!folder_path(root, files, folder, path))
        return fail_deep(slate_item_name(files, folder));
    code = read_names(path, &names);
    if (code == 0 && folder == 0 && first != NULL)
        code = put_first(&names, first, &files->ahead);
    for (size_t i = 0; i < names.count && code == 0; i++) {
        struct slate_item item = {.parent = folder};

        if (files->count == ITEMS_MOST)
            code = fail(SLATE_ERR_ARGUMENT, "--files: more than %u files",
                        ITEMS_MOST);
        else if (snprintf(child, sizeof child, "%s/%s", path, names.name[i]) >=
                 PATH_MAX)
            code = fail_deep(names.name[i]);
        else
            code = describe(target, child, names.name[i], &item);
        if (code == 0)
            drafted_add_file(draft, &item, names.name[i]);
    }
    forget(&names);
    return code;
}

int folder_list(const struct target *target, const char *folder,
                const char *first, struct slate_draft *draft)
{
    const struct slate_item root = {.folder = true};
    struct slate_files *files = &draft->files;
    int code = 0;

    files->count = files->names.count = files->ahead = 0;
    drafted_add_file(draft, &root, "");
    for (uint32_t i = 0; i < files->count && code == 0; i++) {
        if (files->item[i].folder)
            code = list_one(target, folder, i, i == 0 ? first : NULL, draft);
    }
    return code;
}
