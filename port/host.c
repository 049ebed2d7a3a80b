/* SPDX-License-Identifier: MIT */
/* What the ports of a POSIX host have in common: time, chance, whole reads. */
#include <errno.h>
#include <fcntl.h>
#include <string.h>
#include <sys/random.h>
#include <time.h>
#include <unistd.h>

#include "host.h"
#include "trueslate/base.h"

uint64_t port_milliseconds(void *context)
{
    struct timespec now;

    (void)context;
    if (clock_gettime(CLOCK_MONOTONIC, &now) != 0)
        return 0;
    return (uint64_t)now.tv_sec * 1000 + (uint64_t)now.tv_nsec / 1000000;
}

enum slate_status port_random(void *context, void *bytes, size_t length)
{
    (void)context;
    return getrandom(bytes, length, 0) == (ssize_t)length ? SLATE_OK
                                                          : SLATE_ERR_INTERNAL;
}

/* Printable ASCII of a name into a field. */
static void take_name(char *field, size_t room, const char *name)
{
    size_t n = 0;

    for (; n < room - 1 && name[n] != '\0'; n++)
        field[n] = (char)(name[n] >= 0x20 && name[n] < 0x7F ? name[n] : '?');
    field[n] = '\0';
}

void port_name_file(const char *path, struct slate_identity *identity)
{
    const char *slash = strrchr(path, '/');
    struct slate_sha256 sha;
    struct slate_text serial;
    uint8_t digest[SLATE_DIGEST_BYTES];

    take_name(identity->model, sizeof identity->model,
              slash == NULL ? path : slash + 1);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, path, strlen(path));
    slate_sha256_end(&sha, digest);
    slate_text_start(&serial, identity->serial, sizeof identity->serial);
    slate_text_bytes(&serial, digest, 12);
}

bool port_read_all(int descriptor, void *data, size_t length, off_t at)
{
    uint8_t *to = data;

    while (length > 0) {
        ssize_t n = pread(descriptor, to, length, at);

        if (n < 0 && errno == EINTR)
            continue;
        if (n < 0)
            return false;
        if (n == 0) {
            memset(to, 0, length);
            return true;
        }
        to += n;
        at += n;
        length -= (size_t)n;
    }
    return true;
}

bool port_write_all(int descriptor, const void *data, size_t length, off_t at)
{
    const uint8_t *from = data;

    while (length > 0) {
        ssize_t n = pwrite(descriptor, from, length, at);

        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        from += n;
        at += n;
        length -= (size_t)n;
    }
    return true;
}

/* Pages of the host's file systems; a hole is at least one of them. */
#define PAGE 4096u

bool port_is_zero(const uint8_t *bytes, size_t length)
{
    return bytes[0] == 0 && memcmp(bytes, bytes + 1, length - 1) == 0;
}

/* Bytes from the start on that are alike: pages of zeros, or pages that are
 * not. */
static size_t run_of(const uint8_t *bytes, size_t length, bool *zeros)
{
    size_t run = 0;

    while (run < length) {
        size_t n = length - run < PAGE ? length - run : PAGE;
        bool zero = port_is_zero(bytes + run, n);

        if (run == 0)
            *zeros = zero;
        else if (zero != *zeros)
            break;
        run += n;
    }
    return run;
}

bool port_write_sparse(int descriptor, const void *data, size_t length,
                       off_t at)
{
    const int hole = FALLOC_FL_PUNCH_HOLE | FALLOC_FL_KEEP_SIZE;
    const uint8_t *from = data;

    while (length > 0) {
        bool zeros = false;
        size_t n = run_of(from, length, &zeros);

        /* Not every file system can punch holes; zeros are as good there. */
        if ((!zeros || fallocate(descriptor, hole, at, (off_t)n) != 0) &&
            !port_write_all(descriptor, from, n, at))
            return false;
        from += n;
        at += (off_t)n;
        length -= n;
    }
    return true;
}
