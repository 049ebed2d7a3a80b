/* SPDX-License-Identifier: MIT */
/* Releasing a device: what uses it is taken away in the right order, from the
 * top of each stack down. */
#include <dirent.h>
#include <errno.h>
#include <fcntl.h>
#include <linux/dm-ioctl.h>
#include <linux/loop.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/mount.h>
#include <sys/swap.h>
#include <unistd.h>

#include "linux.h"

/* Mounts of one node that are taken away; more are not believed. */
#define MOUNTS_MOST 64

static bool stands_below(const char *link, const char *place)
{
    char path[4096];
    ssize_t length = readlink(link, path, sizeof path - 1);
    size_t wanted = strlen(place);

    if (length < 0)
        return false;
    path[length] = '\0';
    return strncmp(path, place, wanted) == 0 &&
           (path[wanted] == '\0' || path[wanted] == '/');
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
static void name_holder(const char *place, char *who, size_t room)
{
    DIR *folder = opendir("/proc");
    struct dirent *entry;

    snprintf(who, room, "a program");
    while (folder != NULL && (entry = readdir(folder)) != NULL) {
        char path[300], name[64];

        if (entry->d_name[0] < '0' || entry->d_name[0] > '9' ||
            !program_holds(entry->d_name, place))
            continue;
        snprintf(path, sizeof path, "/proc/%.20s/comm", entry->d_name);
        linux_read_line(path, name, sizeof name);
        snprintf(who, room, "%.40s (process %.20s)", name, entry->d_name);
        break;
    }
    if (folder != NULL)
        closedir(folder);
}

static enum slate_status refuse(char why[SLATE_LINUX_WHY_ROOM],
                                const char *what, const char *reason)
{
    snprintf(why, SLATE_LINUX_WHY_ROOM, "%.80s cannot be released: %.150s",
             what, reason);
    return errno == EPERM || errno == EACCES ? SLATE_ERR_ACCESS
                                             : SLATE_ERR_BUSY;
}

static enum slate_status unmount_all(const struct linux_node *node,
                                     char why[SLATE_LINUX_WHY_ROOM])
{
    char place[LINUX_PLACE_ROOM], who[128], reason[256];

    for (int i = 0; i < MOUNTS_MOST && linux_find_mount(node, 0, place, NULL);
         i++) {
        if (umount2(place, UMOUNT_NOFOLLOW) == 0)
            continue;
        if (errno != EBUSY)
            return refuse(why, place, strerror(errno));
        name_holder(place, who, sizeof who);
        snprintf(reason, sizeof reason, "%s uses it", who);
        errno = EBUSY;
        return refuse(why, place, reason);
    }
    return SLATE_OK;
}

static enum slate_status stop_swap(const struct linux_node *node,
                                   char why[SLATE_LINUX_WHY_ROOM])
{
    char path[80];

    if (!linux_is_swap(node))
        return SLATE_OK;
    snprintf(path, sizeof path, "/dev/%.60s", node->what);
    return swapoff(path) == 0 ? SLATE_OK : refuse(why, path, strerror(errno));
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

static bool remove_loop(const struct linux_node *node)
{
    char path[80];
    int loop;
    bool done;

    snprintf(path, sizeof path, "/dev/%.60s", node->what);
    loop = open(path, O_RDWR | O_CLOEXEC);
    done = loop >= 0 && ioctl(loop, LOOP_CLR_FD, 0) == 0;
    if (loop >= 0)
        close(loop);
    return done;
}

/* Mappings and loop devices we know how to dissolve; others we do not. */
static enum slate_status dissolve(const struct linux_node *node,
                                  char why[SLATE_LINUX_WHY_ROOM])
{
    bool done;

    if (node->under[0] == '\0')
        return SLATE_OK; /* the device itself, or a partition */
    errno = EBUSY;
    if (node->mapping[0] != '\0')
        done = remove_mapping(node);
    else if (strncmp(node->what, "loop", 4) == 0)
        done = remove_loop(node);
    else
        return refuse(why, node->what,
                      "it is stacked on the device by something that has to "
                      "be stopped by its own means");
    return done ? SLATE_OK
                : refuse(why,
                         node->mapping[0] == '\0' ? node->what : node->mapping,
                         strerror(errno));
}

struct freeing {
    void (*done)(void *context, const char *what);
    void *context;
    char *why;
    enum slate_status status; /* the first failure of a pass */
    bool progress;
};

/* What there is to release on a node; "" for nothing. */
static void describe(const struct linux_node *node, char *what, size_t room)
{
    char place[LINUX_PLACE_ROOM];

    what[0] = '\0';
    if (linux_find_mount(node, 0, place, NULL))
        snprintf(what, room, "%.60s at %.1900s", node->what, place);
    else if (linux_is_swap(node))
        snprintf(what, room, "swap on %.60s", node->what);
    else if (node->under[0] != '\0')
        snprintf(what, room, "%.120s on %.60s",
                 node->mapping[0] == '\0' ? node->what : node->mapping,
                 node->under);
}

static void free_node(const struct linux_node *node, struct freeing *freeing)
{
    char what[LINUX_PLACE_ROOM], why[SLATE_LINUX_WHY_ROOM] = "";
    enum slate_status status;

    describe(node, what, sizeof what);
    if (what[0] == '\0')
        return;
    status = unmount_all(node, why);
    if (status == SLATE_OK)
        status = stop_swap(node, why);
    if (status == SLATE_OK)
        status = dissolve(node, why);
    if (status == SLATE_OK) {
        freeing->progress = true;
        if (freeing->done != NULL)
            freeing->done(freeing->context, what);
    } else if (freeing->status == SLATE_OK) {
        freeing->status = status;
        memcpy(freeing->why, why, SLATE_LINUX_WHY_ROOM);
    }
}

static bool carries_the_system(const struct linux_nodes *nodes)
{
    char place[LINUX_PLACE_ROOM];

    for (uint32_t i = 0; i < nodes->count; i++) {
        for (uint32_t j = 0; linux_find_mount(&nodes->node[i], j, place, NULL);
             j++) {
            if (linux_is_system_place(place))
                return true;
        }
    }
    return false;
}

enum slate_status
slate_linux_free(const char *name,
                 void (*done)(void *context, const char *what), void *context,
                 char why[SLATE_LINUX_WHY_ROOM])
{
    struct freeing freeing = {done, context, why, SLATE_OK, true};
    struct linux_nodes nodes;

    linux_find_nodes(name, &nodes);
    if (nodes.node[0].numbers[0] == '\0') {
        snprintf(why, SLATE_LINUX_WHY_ROOM, "there is no such device");
        return SLATE_ERR_NO_DEVICE;
    }
    if (carries_the_system(&nodes)) {
        snprintf(why, SLATE_LINUX_WHY_ROOM,
                 "the running system stands on this device");
        return SLATE_ERR_BUSY;
    }
    /* Something that stands on two stacks may hold the one that comes first:
     * another pass takes it. */
    while (freeing.progress) {
        freeing.progress = false;
        freeing.status = SLATE_OK;
        for (uint32_t i = nodes.count; i > 0; i--)
            free_node(&nodes.node[i - 1], &freeing);
        linux_find_nodes(name, &nodes);
    }
    return freeing.status;
}
