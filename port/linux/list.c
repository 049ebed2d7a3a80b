/* SPDX-License-Identifier: MIT */
/* Listing the host's block devices, and waiting for them to come and go. The
 * kernel's own messages are used where no udev daemon runs. */
#include <libudev.h>
#include <poll.h>
#include <sys/stat.h>
#include <time.h>

#include "linux.h"

enum slate_status slate_linux_list(
    void (*found)(void *context, const struct slate_linux_about *about),
    void *context)
{
    struct udev *udev = udev_new();
    struct udev_enumerate *all = udev == NULL ? NULL : udev_enumerate_new(udev);
    struct udev_list_entry *entry;

    if (all == NULL || udev_enumerate_add_match_subsystem(all, "block") < 0 ||
        udev_enumerate_scan_devices(all) < 0) {
        udev_enumerate_unref(all);
        udev_unref(udev);
        return SLATE_ERR_ACCESS;
    }
    udev_list_entry_foreach(entry, udev_enumerate_get_list_entry(all))
    {
        const char *path = udev_list_entry_get_name(entry);
        struct udev_device *device = udev_device_new_from_syspath(udev, path);
        const char *type =
            device == NULL ? NULL : udev_device_get_devtype(device);
        struct slate_linux_about about;

        if (type != NULL && strcmp(type, "disk") == 0 &&
            slate_linux_describe(udev_device_get_sysname(device), &about))
            found(context, &about);
        udev_device_unref(device);
    }
    udev_enumerate_unref(all);
    udev_unref(udev);
    return SLATE_OK;
}

struct slate_linux_watch {
    struct udev *udev;
    struct udev_monitor *monitor;
};

/* The daemon's messages come when its work on a device is done; without a
 * daemon there are only the kernel's. */
static const char *message_source(void)
{
    struct stat about;

    return stat("/run/udev/control", &about) == 0 ? "udev" : "kernel";
}

struct slate_linux_watch *slate_linux_watch_open(void)
{
    struct slate_linux_watch *watch = calloc(1, sizeof *watch);

    if (watch == NULL)
        return NULL;
    watch->udev = udev_new();
    if (watch->udev != NULL)
        watch->monitor =
            udev_monitor_new_from_netlink(watch->udev, message_source());
    if (watch->monitor != NULL &&
        udev_monitor_filter_add_match_subsystem_devtype(watch->monitor, "block",
                                                        NULL) >= 0 &&
        udev_monitor_enable_receiving(watch->monitor) >= 0)
        return watch;
    slate_linux_watch_close(watch);
    return NULL;
}

bool slate_linux_watch_wait(struct slate_linux_watch *watch,
                            uint32_t milliseconds)
{
    struct timespec pause = {(time_t)(milliseconds / 1000),
                             (long)(milliseconds % 1000) * 1000000};
    struct pollfd ready = {.fd = -1, .events = POLLIN};
    struct udev_device *device;

    if (watch == NULL) {
        nanosleep(&pause, NULL);
        return false;
    }
    ready.fd = udev_monitor_get_fd(watch->monitor);
    if (poll(&ready, 1, (int)milliseconds) != 1)
        return false;
    device = udev_monitor_receive_device(watch->monitor);
    udev_device_unref(device);
    return device != NULL;
}

void slate_linux_watch_close(struct slate_linux_watch *watch)
{
    if (watch == NULL)
        return;
    udev_monitor_unref(watch->monitor);
    udev_unref(watch->udev);
    free(watch);
}
