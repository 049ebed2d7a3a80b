/* SPDX-License-Identifier: MIT */
/* The host's own files, below /sys, /proc and /dev: everything that the port
 * reads there goes through here, so that tests can put a host of their own in
 * its place. */
#include <stdarg.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include "linux.h"

bool linux_path(char *path, size_t room, const char *format, ...)
{
    va_list arguments;
    int length;

    va_start(arguments, format);
    length = vsnprintf(path, room, format, arguments);
    va_end(arguments);
    return length >= 0 && (size_t)length < room;
}

bool linux_block_numbers(const char *place, char numbers[LINUX_NUMBERS_ROOM])
{
    struct stat about;

    if (place[0] != '/' || stat(place, &about) != 0 || !S_ISBLK(about.st_mode))
        return false;
    snprintf(numbers, LINUX_NUMBERS_ROOM, "%u:%u", major(about.st_rdev),
             minor(about.st_rdev));
    return true;
}

bool linux_same_file(const char *a, const char *b)
{
    struct stat one, two;

    return stat(a, &one) == 0 && stat(b, &two) == 0 &&
           one.st_dev == two.st_dev && one.st_ino == two.st_ino;
}
