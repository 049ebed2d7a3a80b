/* SPDX-License-Identifier: MIT */
/* Stands in for the Linux port where there is none: no devices, no events. */
#include <stdio.h>
#include <time.h>

#include "trueslate/port_linux.h"

enum slate_status slate_linux_list(
    void (*found)(void *context, const struct slate_linux_about *about),
    void *context)
{
    (void)found, (void)context;
    return SLATE_ERR_ACCESS;
}

bool slate_linux_describe(const char *name, struct slate_linux_about *about)
{
    (void)name, (void)about;
    return false;
}

bool slate_linux_file_users(const char *path,
                            char users[SLATE_LINUX_USERS_ROOM], bool *system)
{
    (void)path;
    users[0] = '\0';
    *system = false;
    return false;
}

enum slate_status slate_linux_may_free(const char *name,
                                       char why[SLATE_LINUX_WHY_ROOM])
{
    (void)name;
    why[0] = '\0';
    return SLATE_ERR_NO_DEVICE;
}

enum slate_status slate_linux_open(const char *name,
                                   struct slate_linux **device,
                                   char why[SLATE_LINUX_WHY_ROOM])
{
    (void)name;
    *device = NULL;
    snprintf(why, SLATE_LINUX_WHY_ROOM,
             "this build has no port for real devices");
    return SLATE_ERR_NO_DEVICE;
}

const struct slate_port *slate_linux_port(const struct slate_linux *device)
{
    (void)device;
    return NULL;
}

const struct slate_linux_about *
slate_linux_about(const struct slate_linux *device)
{
    (void)device;
    return NULL;
}

void slate_linux_close(struct slate_linux *device)
{
    (void)device;
}

enum slate_status
slate_linux_free(const char *name,
                 void (*done)(void *context, const char *what), void *context,
                 char why[SLATE_LINUX_WHY_ROOM])
{
    (void)name, (void)done, (void)context;
    why[0] = '\0';
    return SLATE_ERR_NO_DEVICE;
}

struct slate_linux_watch *slate_linux_watch_open(void)
{
    return NULL;
}

bool slate_linux_watch_wait(struct slate_linux_watch *watch,
                            uint32_t milliseconds)
{
    struct timespec pause = {(time_t)(milliseconds / 1000),
                             (long)(milliseconds % 1000) * 1000000};

    (void)watch;
    nanosleep(&pause, NULL);
    return false;
}

void slate_linux_watch_close(struct slate_linux_watch *watch)
{
    (void)watch;
}
