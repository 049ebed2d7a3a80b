/* SPDX-License-Identifier: MIT */
/* Releasing a device: what uses it is taken away in the right order, from the
 * top of each stack down. */
#include <dirent.h>
#include <linux/dm-ioctl.h>
#include <linux/loop.h>
#include <linux/major.h>
#include <linux/raid/md_u.h>
#include <sys/ioctl.h>
#include <sys/mount.h>
#include <sys/swap.h>

#include "linux.h"

static bool stands_below(const char *link, const char *place)
{
    char path[4096];
    ssize_t length = readlink(link, path, sizeof path - 1);

    if (length < 0)
        return false;
    path[length] = '\0';
    return linux_lies_below(path, place);
}

/* Does this program work in the place, or hold a file of it open? */
static bool program_holds(const char *pid, const char *place)
{
    char path[300];
    struct dirent *entry;
    bool holds;
    DIR *folder;

    snprintf(path, sizeof path, "/proc/%.20s/cwd", pid);
    holds = stands_below(path, place);
    snprintf(path, sizeof path, "/proc/%.20s/fd", pid);
    folder = opendir(path);
    while (folder != NULL && !holds && (entry = readdir(folder)) != NULL) {
        snprintf(path, sizeof path, "/proc/%.20s/fd/%.20s", pid, entry->d_name);
        holds = stands_below(path, place);
    }
    if (folder != NULL)
        closedir(folder);
    return holds;
}

/* The first program that keeps a place busy, by name and number. */
static bool find_holder(const char *place, char *who, size_t room)
{
    DIR *folder = opendir("/proc");
    struct dirent *entry;
    bool found = false;

    while (folder != NULL && !found && (entry = readdir(folder)) != NULL) {
        char path[300], name[64];

        if (entry->d_name[0] < '0' || entry->d_name[0] > '9' ||
            !program_holds(entry->d_name, place))
            continue;
        snprintf(path, sizeof path, "/proc/%.20s/comm", entry->d_name);
        linux_read_line(path, name, sizeof name);
        snprintf(who, room, "%.40s (process %.20s) uses it", name,
                 entry->d_name);
        found = true;
    }
    if (folder != NULL)
        closedir(folder);
    return found;
}

/* Something that is mounted below a place keeps it busy, too. */
static bool find_mount_below(const struct linux_mounts *mounts,
                             const char *place, char *who, size_t room)
{
    for (uint32_t i = 0; i < mounts->count; i++) {
        const char *other = mounts->mount[i].place;

        if (strcmp(other, place) != 0 && linux_lies_below(other, place)) {
            snprintf(who, room, "something is mounted below it, at %.100s",
                     other);
            return true;
        }
    }
    return false;
}

static enum slate_status refuse(char why[SLATE_LINUX_WHY_ROOM],
                                const char *what, const char *reason)
{
    snprintf(why, SLATE_LINUX_WHY_ROOM, "%.80s cannot be released: %.150s",
             what, reason);
    return errno == EPERM || errno == EACCES ? SLATE_ERR_ACCESS
                                             : SLATE_ERR_BUSY;
}

static enum slate_status unmount(const struct linux_mounts *mounts,
                                 const char *place,
                                 char why[SLATE_LINUX_WHY_ROOM])
{
    char reason[256] = "a program uses it";

    if (umount2(place, UMOUNT_NOFOLLOW) == 0)
        return SLATE_OK;
    if (errno != EBUSY)
        return refuse(why, place, strerror(errno));
    if (!find_mount_below(mounts, place, reason, sizeof reason))
        (void)find_holder(place, reason, sizeof reason);
    errno = EBUSY;
    return refuse(why, place, reason);
}

/* What was mounted last goes first: it may lie over the others. */
static enum slate_status unmount_all(const struct linux_nodes *nodes,
                                     const struct linux_node *node,
                                     char why[SLATE_LINUX_WHY_ROOM])
{
    const struct linux_mounts *mounts = &nodes->mounts;
    enum slate_status status = SLATE_OK;

    for (uint32_t i = mounts->count; i > 0 && status == SLATE_OK; i--) {
        const struct linux_mount *mount = &mounts->mount[i - 1];

        if (linux_mount_stands_on(mounts, mount, node))
            status = unmount(mounts, mount->place, why);
    }
    return status;
}

/* Swap on the device, or in a file of a volume of it. */
static enum slate_status stop_swap(const struct linux_nodes *nodes,
                                   const struct linux_node *node,
                                   char why[SLATE_LINUX_WHY_ROOM])
{
    const struct linux_mounts *mounts = &nodes->mounts;

    for (uint32_t i = 0; i < mounts->swaps; i++) {
        if (linux_path_stands_on(mounts, mounts->swap[i], node) &&
            swapoff(mounts->swap[i]) != 0)
            return refuse(why, mounts->swap[i], strerror(errno));
    }
    return SLATE_OK;
}

static bool remove_mapping(const struct linux_node *node)
{
    struct dm_ioctl request;
    int control = open("/dev/mapper/control", O_RDWR | O_CLOEXEC);
    bool done;

    memset(&request, 0, sizeof request);
    request.version[0] = DM_VERSION_MAJOR;
    request.data_size = sizeof request;
    request.data_start = sizeof request;
    snprintf(request.name, sizeof request.name, "%.120s", node->mapping);
    done = control >= 0 && ioctl(control, DM_DEV_REMOVE, &request) == 0;
    if (control >= 0)
        close(control);
    return done;
}

static bool command(const struct linux_node *node, unsigned long request)
{
    char path[80];
    int descriptor;
    bool done;

    snprintf(path, sizeof path, "/dev/%.60s", node->what);
    descriptor = open(path, O_RDWR | O_CLOEXEC);
    done = descriptor >= 0 && ioctl(descriptor, request, 0) == 0;
    if (descriptor >= 0)
        close(descriptor);
    return done;
}

/* What we know how to dissolve. */
static bool is_known_stack(const struct linux_node *node)
{
    return node->mapping[0] != '\0' || strncmp(node->what, "loop", 4) == 0 ||
           strncmp(node->what, "md", 2) == 0;
}

static enum slate_status refuse_stack(const struct linux_node *node,
                                      char why[SLATE_LINUX_WHY_ROOM])
{
    errno = EBUSY;
    return refuse(why, node->what,
                  "it is stacked on the device by something that has to be "
                  "stopped by its own means");
}

static enum slate_status dissolve(const struct linux_nodes *nodes,
                                  const struct linux_node *node,
                                  char why[SLATE_LINUX_WHY_ROOM])
{
    bool done;

    if (!linux_is_stack(nodes, node))
        return SLATE_OK; /* the device itself, or a partition */
    if (!is_known_stack(node))
        return refuse_stack(node, why);
    if (node->mapping[0] != '\0')
        done = remove_mapping(node);
    else if (strncmp(node->what, "loop", 4) == 0)
        done = command(node, LOOP_CLR_FD);
    else
        done = command(node, STOP_ARRAY);
    return done ? SLATE_OK : refuse(why, linux_name_of(node), strerror(errno));
}

struct freeing {
    void (*done)(void *context, const char *what);
    void *context;
    char *why;
    enum slate_status status; /* the first failure of a pass */
    bool progress;
};

static uint32_t first_mount(const struct linux_nodes *nodes,
                            const struct linux_node *node)
{
    const struct linux_mounts *mounts = &nodes->mounts;
    uint32_t i = 0;

    while (i < mounts->count &&
           !linux_mount_stands_on(mounts, &mounts->mount[i], node))
        i++;
    return i;
}

static bool has_swap(const struct linux_nodes *nodes,
                     const struct linux_node *node)
{
    const struct linux_mounts *mounts = &nodes->mounts;

    for (uint32_t i = 0; i < mounts->swaps; i++) {
        if (linux_path_stands_on(mounts, mounts->swap[i], node))
            return true;
    }
    return false;
}

/* What there is to release on a node; "" for nothing. */
static void describe(const struct linux_nodes *nodes,
                     const struct linux_node *node, char *what, size_t room)
{
    uint32_t mount = first_mount(nodes, node);
    const char *name = linux_name_of(node);
    bool stack = linux_is_stack(nodes, node);
    char then[160] = "";

    if (stack)
        snprintf(then, sizeof then, ", then %.120s", name);
    what[0] = '\0';
    if (mount < nodes->mounts.count)
        snprintf(what, room, "%.120s at %.1700s%s", name,
                 nodes->mounts.mount[mount].place, then);
    else if (has_swap(nodes, node))
        snprintf(what, room, "swap on %.120s%s", name, then);
    else if (stack)
        snprintf(what, room, "%.120s on %.60s", name, node->under);
}

static void free_node(const struct linux_nodes *nodes,
                      const struct linux_node *node, struct freeing *freeing)
{
    char what[LINUX_PLACE_ROOM], why[SLATE_LINUX_WHY_ROOM] = "";
    enum slate_status status;

    describe(nodes, node, what, sizeof what);
    if (what[0] == '\0')
        return;
    status = stop_swap(nodes, node, why);
    if (status == SLATE_OK)
        status = unmount_all(nodes, node, why);
    if (status == SLATE_OK)
        status = dissolve(nodes, node, why);
    if (status == SLATE_OK) {
        freeing->progress = true;
        if (freeing->done != NULL)
            freeing->done(freeing->context, what);
    } else if (freeing->status == SLATE_OK) {
        freeing->status = status;
        memcpy(freeing->why, why, SLATE_LINUX_WHY_ROOM);
    }
}

static void find_nodes(const char *name, struct linux_nodes *nodes)
{
    if (strchr(name, '/') == NULL)
        linux_find_nodes(name, nodes);
    else
        linux_find_file_nodes(name, nodes);
}

/* Is a place busy that will have to be unmounted? */
static enum slate_status check_place(const struct linux_mount *mount,
                                     char why[SLATE_LINUX_WHY_ROOM])
{
    char reason[256];

    if (linux_is_system_place(mount->place))
        return linux_say(why, SLATE_ERR_BUSY,
                         "the running system stands on this device: "
                         "start this machine from another medium");
    if (!find_holder(mount->place, reason, sizeof reason))
        return SLATE_OK;
    errno = EBUSY;
    return refuse(why, mount->place, reason);
}

static enum slate_status may_free(const struct linux_nodes *nodes,
                                  char why[SLATE_LINUX_WHY_ROOM])
{
    const struct linux_mounts *mounts = &nodes->mounts;
    enum slate_status status = SLATE_OK;

    if (nodes->count == 0 ||
        (nodes->node[0].folder[0] != '\0' && nodes->node[0].numbers[0] == '\0'))
        return linux_say(why, SLATE_ERR_NO_DEVICE, "there is no such device");
    for (uint32_t i = 0; i < nodes->count && status == SLATE_OK; i++) {
        const struct linux_node *node = &nodes->node[i];

        if (linux_is_stack(nodes, node) && !is_known_stack(node))
            status = refuse_stack(node, why);
        for (uint32_t j = 0; j < mounts->count && status == SLATE_OK; j++) {
            if (linux_mount_stands_on(mounts, &mounts->mount[j], node))
                status = check_place(&mounts->mount[j], why);
        }
    }
    return status;
}

enum slate_status slate_linux_may_free(const char *name,
                                       char why[SLATE_LINUX_WHY_ROOM])
{
    struct linux_nodes nodes;
    enum slate_status status;

    find_nodes(name, &nodes);
    status = may_free(&nodes, why);
    linux_forget_nodes(&nodes);
    return status;
}

enum slate_status
slate_linux_free(const char *name,
                 void (*done)(void *context, const char *what), void *context,
                 char why[SLATE_LINUX_WHY_ROOM])
{
    struct freeing freeing = {done, context, why, SLATE_OK, true};
    struct linux_nodes nodes;
    enum slate_status status;

    find_nodes(name, &nodes);
    status = may_free(&nodes, why);
    if (status != SLATE_OK)
        freeing.progress = false;
    /* Something that stands on two stacks may hold the one that comes first:
     * another pass takes it. */
    while (freeing.progress) {
        freeing.progress = false;
        freeing.status = SLATE_OK;
        for (uint32_t i = nodes.count; i > 0; i--)
            free_node(&nodes, &nodes.node[i - 1], &freeing);
        linux_forget_nodes(&nodes);
        find_nodes(name, &nodes);
    }
    linux_forget_nodes(&nodes);
    return status == SLATE_OK ? freeing.status : status;
}
