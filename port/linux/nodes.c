/* SPDX-License-Identifier: MIT */
/* A device or an image file, the partitions, and everything that is stacked on
 * them, from the ground up: holders that the host tells of, and loop devices,
 * whether over a device or over a file on a volume of it. */
#include <dirent.h>
#include <limits.h>
#include <linux/loop.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include "linux.h"

static struct linux_node *new_node(struct linux_nodes *nodes)
{
    struct linux_node *more =
        realloc(nodes->node, (nodes->count + 1) * sizeof *nodes->node);

    if (more == NULL)
        return NULL;
    nodes->node = more;
    memset(&more[nodes->count], 0, sizeof *more);
    return &more[nodes->count++];
}

static void add_node(struct linux_nodes *nodes, const char *folder,
                     const char *what, const char *under)
{
    struct linux_node *node;
    char path[LINUX_FOLDER_ROOM + 16];

    for (uint32_t i = 0; i < nodes->count; i++) {
        if (strcmp(nodes->node[i].what, what) == 0)
            return; /* stacked on two partitions of the same device */
    }
    node = new_node(nodes);
    if (node == NULL)
        return;
    snprintf(node->folder, sizeof node->folder, "%s", folder);
    snprintf(node->what, sizeof node->what, "%.60s", what);
    snprintf(node->under, sizeof node->under, "%.60s", under);
    snprintf(path, sizeof path, "%s/dev", folder);
    linux_read_line(path, node->numbers, sizeof node->numbers);
    snprintf(path, sizeof path, "%s/dm/name", folder);
    linux_read_line(path, node->mapping, sizeof node->mapping);
}

static void add_partitions(struct linux_nodes *nodes, const char *folder,
                           const char *under)
{
    char part[LINUX_FOLDER_ROOM], file[LINUX_FOLDER_ROOM + 16], line[16];
    struct dirent **entries;
    int count = scandir(folder, &entries, NULL, versionsort);

    for (int i = 0; i < count; i++) {
        snprintf(part, sizeof part, "%.200s/%.50s", folder, entries[i]->d_name);
        snprintf(file, sizeof file, "%s/partition", part);
        linux_read_line(file, line, sizeof line);
        if (line[0] != '\0')
            add_node(nodes, part, entries[i]->d_name, under);
        free(entries[i]);
    }
    if (count >= 0)
        free(entries);
}

/* A device that is stacked on something, and its own partitions. */
static void add_stacked(struct linux_nodes *nodes, const char *what,
                        const char *under)
{
    char path[LINUX_FOLDER_ROOM];

    if (!linux_path(path, sizeof path, "/sys/block/%.60s", what))
        return;
    add_node(nodes, path, what, under);
    add_partitions(nodes, path, what);
}

/* What the host says is stacked on a device or partition: its holders. */
static void add_holders(struct linux_nodes *nodes, uint32_t at)
{
    char path[LINUX_FOLDER_ROOM + 16], what[64];
    struct dirent *entry;
    DIR *folder;

    snprintf(what, sizeof what, "%s", nodes->node[at].what);
    snprintf(path, sizeof path, "%s/holders", nodes->node[at].folder);
    folder = opendir(path);
    while (folder != NULL && (entry = readdir(folder)) != NULL) {
        if (entry->d_name[0] != '.')
            add_stacked(nodes, entry->d_name, what);
    }
    if (folder != NULL)
        closedir(folder);
}

/* The device, or the volume, on which what a loop device shows lies, by its
 * numbers: that is known even when its path is none of ours. */
static bool loop_tells(const char *loop, const char *numbers)
{
    char path[64], found[LINUX_NUMBERS_ROOM];
    struct loop_info64 about;
    int descriptor;
    bool known;

    snprintf(path, sizeof path, "/dev/%.40s", loop);
    descriptor = open(path, O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (descriptor < 0)
        return false;
    memset(&about, 0, sizeof about);
    known = ioctl(descriptor, LOOP_GET_STATUS64, &about) == 0;
    close(descriptor);
    if (!known)
        return false;
    snprintf(found, sizeof found, "%u:%u", major(about.lo_rdevice),
             minor(about.lo_rdevice));
    if (about.lo_rdevice == 0)
        snprintf(found, sizeof found, "%u:%u", major(about.lo_device),
                 minor(about.lo_device));
    return strcmp(found, numbers) == 0;
}

/* Loop devices are nobody's holders. */
static void each_loop(void (*found)(void *context, const char *loop,
                                    const char *backing),
                      void *context)
{
    char path[LINUX_FOLDER_ROOM];
    struct dirent **entries;
    int count = linux_path(path, sizeof path, "/sys/block")
                    ? scandir(path, &entries, NULL, versionsort)
                    : -1;

    for (int i = 0; i < count; i++) {
        char backing[PATH_MAX] = "";

        if (strncmp(entries[i]->d_name, "loop", 4) == 0 &&
            linux_path(path, sizeof path, "/sys/block/%.60s/loop/backing_file",
                       entries[i]->d_name))
            linux_read_line(path, backing, sizeof backing);
        if (backing[0] != '\0')
            found(context, entries[i]->d_name, backing);
        free(entries[i]);
    }
    if (count >= 0)
        free(entries);
}

struct stacking {
    struct linux_nodes *nodes;
    uint32_t at;
    const struct linux_mounts *mounts;
    const char *image; /* the path of an image file, or NULL */
};

static void add_loop(void *context, const char *loop, const char *backing)
{
    struct stacking *stacking = context;
    const struct linux_node *node = &stacking->nodes->node[stacking->at];
    char what[64];

    if (stacking->image != NULL
            ? !linux_same_file(backing, stacking->image)
            : node->numbers[0] == '\0' ||
                  (!linux_path_stands_on(stacking->mounts, backing, node) &&
                   !loop_tells(loop, node->numbers)))
        return;
    snprintf(what, sizeof what, "%s", node->what);
    add_stacked(stacking->nodes, loop, what);
}

/* The list grows while it is walked. */
static void stack_up(struct linux_nodes *nodes)
{
    struct stacking stacking = {.nodes = nodes, .mounts = &nodes->mounts};

    for (uint32_t i = 0; i < nodes->count; i++) {
        stacking.at = i;
        if (nodes->node[i].folder[0] == '\0')
            continue;
        add_holders(nodes, i);
        each_loop(add_loop, &stacking);
    }
}

/* The folder of a partition lies in that of its device. */
bool linux_is_part(const struct linux_nodes *nodes,
                   const struct linux_node *node)
{
    for (uint32_t i = 0; i < nodes->count; i++) {
        const struct linux_node *other = &nodes->node[i];

        if (other->folder[0] != '\0' && other != node &&
            linux_lies_below(node->folder, other->folder))
            return true;
    }
    return false;
}

void linux_find_nodes(const char *name, struct linux_nodes *nodes)
{
    char path[LINUX_FOLDER_ROOM];

    memset(nodes, 0, sizeof *nodes);
    linux_read_mounts(&nodes->mounts);
    if (!linux_path(path, sizeof path, "/sys/block/%.31s", name))
        return;
    add_node(nodes, path, name, "");
    add_partitions(nodes, path, "");
    stack_up(nodes);
}

void linux_find_file_nodes(const char *path, struct linux_nodes *nodes)
{
    struct stacking stacking = {
        .nodes = nodes, .mounts = &nodes->mounts, .image = path};
    struct linux_node *image;

    memset(nodes, 0, sizeof *nodes);
    linux_read_mounts(&nodes->mounts);
    image = new_node(nodes);
    if (image == NULL)
        return;
    snprintf(image->what, sizeof image->what, "the image");
    each_loop(add_loop, &stacking);
    stack_up(nodes);
}

void linux_forget_nodes(struct linux_nodes *nodes)
{
    linux_forget_mounts(&nodes->mounts);
    free(nodes->node);
    memset(nodes, 0, sizeof *nodes);
}
