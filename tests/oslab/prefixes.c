/* SPDX-License-Identifier: MIT */
/* For the OS lab: makes the writes that were recorded of one disk on another
 * one, each after the other, and has the kernel read its table anew after each.
 * Usage: prefixes LOG NODE COMMAND; "COMMAND N" says what is seen after N
 * writes. The log is that of the kernel's dm-log-writes: a header of a block,
 * then for each entry a block with its place, length and kind, and its data. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <linux/fs.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#define MAGIC 0x6A736677736872u
#define FLUSH 1u
#define DISCARD 4u
#define MARK 8u

struct entry {
    uint64_t sector, count, kind, bytes;
};

static uint64_t le(const unsigned char *bytes, int length)
{
    uint64_t value = 0;

    while (length-- > 0)
        value = value << 8 | bytes[length];
    return value;
}

static int take(int log, off_t at, struct entry *entry)
{
    unsigned char head[32];

    if (pread(log, head, sizeof head, at) != (ssize_t)sizeof head)
        return 0;
    entry->sector = le(head, 8);
    entry->count = le(head + 8, 8);
    entry->kind = le(head + 16, 8);
    entry->bytes = le(head + 24, 8);
    return entry->count != 0 || entry->kind != 0;
}

/* What is discarded reads as zeros. */
static int apply(int log, off_t at, const struct entry *entry, uint64_t size,
                 int disk)
{
    size_t length = (size_t)(entry->count * size);
    unsigned char *data = calloc(1, length);
    int ok = data != NULL;

    if (ok && (entry->kind & DISCARD) == 0)
        ok = pread(log, data, length, at) == (ssize_t)length;
    ok = ok && pwrite(disk, data, length, (off_t)(entry->sector * size)) ==
                   (ssize_t)length;
    free(data);
    return ok && fsync(disk) == 0;
}

static int show(const char *command, int disk, unsigned writes)
{
    char line[256];

    if (ioctl(disk, BLKRRPART) != 0)
        return 0;
    usleep(20000);
    snprintf(line, sizeof line, "%s %u", command, writes);
    return system(line) == 0;
}

int main(int count, char **words)
{
    unsigned char head[32];
    struct entry entry;
    unsigned writes = 0;
    uint64_t size;
    int log, disk;
    off_t at;

    if (count != 4)
        return 2;
    log = open(words[1], O_RDONLY);
    disk = open(words[2], O_RDWR);
    if (log < 0 || disk < 0 ||
        pread(log, head, sizeof head, 0) != (ssize_t)sizeof head ||
        le(head, 8) != MAGIC)
        return 2;
    size = le(head + 24, 4);
    if (!show(words[3], disk, 0))
        return 1;
    for (at = (off_t)size; take(log, at, &entry);) {
        int data = (entry.kind & (DISCARD | MARK)) == 0 && entry.count > 0;

        at += (off_t)size;
        if (entry.count > 0 && (entry.kind & MARK) == 0 &&
            (!apply(log, at, &entry, size, disk) ||
             !show(words[3], disk, ++writes)))
            return 1;
        at += data ? (off_t)(entry.count * size) : 0;
    }
    printf("%u writes\n", writes);
    return 0;
}
