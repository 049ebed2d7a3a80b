/* SPDX-License-Identifier: MIT */
/* May a file that is named be written? */
#include "device/device.h"

#include <sys/stat.h>

bool durable_is_precious(const char *path, const struct target *target)
{
    struct stat about, own;

    if (stat(path, &about) != 0)
        return false;
    return !S_ISREG(about.st_mode) ||
           (target->is_file &&
            stat(target->address + strlen("file:"), &own) == 0 &&
            own.st_dev == about.st_dev && own.st_ino == about.st_ino);
}

int durable_may_write(const char *path, const struct target *target, bool ours,
                      const char *kind, bool replace)
{
    if (durable_is_precious(path, target))
        return fail(SLATE_ERR_ARGUMENT,
                    "%s: is the image itself, or no regular file; expected the "
                    "name of a file for the %s",
                    path, kind);
    if (!durable_exists(path) || ours || replace)
        return 0;
    return fail(SLATE_ERR_ARGUMENT,
                "%s: is there already, and is no earlier %s of this device; "
                "name another file, or add --replace",
                path, kind);
}
