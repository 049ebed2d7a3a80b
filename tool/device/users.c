/* SPDX-License-Identifier: MIT */
/* Who uses a device at its host, be that the real one or a simulated one. */
#include <assert.h>

#include "device/device.h"

static_assert(TARGET_WHY_ROOM >= SLATE_SIM_WHY_ROOM,
              "what the bench says has room as well");

/* As the port takes it: the name of a device, or the path of an image. */
static const char *name_at_host(const struct target *target, char path[4200])
{
    const char *given = target->address + strlen("file:");

    if (!target->is_file)
        return slate_linux_about(target->host)->name;
    snprintf(path, 4200, "%s%s", strchr(given, '/') == NULL ? "./" : "", given);
    return path;
}

void target_ask_users(const struct target *target,
                      char users[SLATE_LINUX_USERS_ROOM])
{
    struct slate_linux_about about;
    bool system;

    users[0] = '\0';
    if (target->sim != NULL)
        slate_sim_users(target->sim, users);
    else if (target->is_file)
        (void)slate_linux_file_users(target->address + strlen("file:"), users,
                                     &system);
    else if (target->host != NULL &&
             slate_linux_describe(slate_linux_about(target->host)->name,
                                  &about))
        memcpy(users, about.users, SLATE_LINUX_USERS_ROOM);
}

enum slate_status target_may_free(const struct target *target,
                                  char why[TARGET_WHY_ROOM])
{
    char path[4200];

    return target->sim != NULL
               ? slate_sim_may_free(target->sim, why)
               : slate_linux_may_free(name_at_host(target, path), why);
}

enum slate_status target_free(struct target *target,
                              void (*done)(void *context, const char *what),
                              char why[TARGET_WHY_ROOM])
{
    char path[4200];
    enum slate_status status =
        target->sim != NULL
            ? slate_sim_free(target->sim, done, NULL, why)
            : slate_linux_free(name_at_host(target, path), done, NULL, why);

    if (status == SLATE_OK)
        target->users[0] = '\0';
    return status;
}
