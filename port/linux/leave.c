/* SPDX-License-Identifier: MIT */
/* Taking a device away from the host, by what sysfs has for each kind: SCSI and
 * SATA disks are deleted, NVMe drives removed, cards unbound; the port of a USB
 * device can be switched off. And having one looked at anew. */
#include <libgen.h>
#include <limits.h>

#include "linux.h"

/* The host may take its time to let go of a device. */
static bool write_word(const char *path, const char *word)
{
    int file = open(path, O_WRONLY | O_CLOEXEC);
    bool ok =
        file >= 0 && write(file, word, strlen(word)) == (ssize_t)strlen(word);

    if (file >= 0)
        close(file);
    return ok;
}

void linux_look_anew(const char *name)
{
    char path[LINUX_PLACE_ROOM];

    if (linux_path(path, sizeof path, "/sys/block/%.31s/device/rescan", name))
        (void)write_word(path, "1");
}

static bool delete_it(const char *name)
{
    char path[LINUX_PLACE_ROOM];

    return (linux_path(path, sizeof path, "/sys/block/%.31s/device/delete",
                       name) &&
            write_word(path, "1")) ||
           (linux_path(path, sizeof path,
                       "/sys/block/%.31s/device/device/remove", name) &&
            write_word(path, "1"));
}

/* mmc0:0001 */
static bool unbind_card(const char *name)
{
    char path[LINUX_PLACE_ROOM], place[PATH_MAX];

    return linux_path(path, sizeof path, "/sys/block/%.31s/device", name) &&
           realpath(path, place) != NULL &&
           linux_path(path, sizeof path,
                      "/sys/block/%.31s/device/driver/unbind", name) &&
           write_word(path, basename(place));
}

/* The USB device that a disk is part of has an attribute by which its port is
 * switched off. */
static bool switch_off(const char *name)
{
    char path[LINUX_PLACE_ROOM], place[PATH_MAX];
    char *slash;

    if (!linux_path(path, sizeof path, "/sys/block/%.31s/device", name) ||
        realpath(path, place) == NULL)
        return false;
    while ((slash = strrchr(place, '/')) != NULL && slash != place) {
        if (linux_path(path, sizeof path, "%.3900s/idVendor", place) &&
            access(path, F_OK) == 0)
            return linux_path(path, sizeof path, "%.3900s/remove", place) &&
                   write_word(path, "1");
        *slash = '\0';
    }
    return false;
}

enum slate_status linux_leave(void *context, enum slate_leave how)
{
    struct slate_linux *device = context;
    const char *name = device->about.name;
    bool gone = how == SLATE_LEAVE_POWER_OFF
                    ? switch_off(name)
                    : delete_it(name) || unbind_card(name);

    return gone ? SLATE_OK : SLATE_ERR_COMMAND;
}
