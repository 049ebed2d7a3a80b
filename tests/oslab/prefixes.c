/* SPDX-License-Identifier: MIT */
/* For the OS lab: makes the writes that were recorded of one disk on another
 * one, each after the other, and has the kernel read its table anew after each.
 * Usage: prefixes LOG NODE COMMAND [PLACES]; "COMMAND N" says what is seen
 * after N writes. With PLACES the power goes at so many of them instead: of
 * what was not flushed by then, a part is there, in any order, and one write is
 * torn; the disk is as it was afterwards. The log is that of the kernel's
 * dm-log-writes: a header of a block, then for each entry a block with its
 * place, length and kind, and its data. */
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

#define WRITES_MOST 4096u

/* One write of the log; where its data is there, what it wrote over, and how
 * many flushes had been before it. */
struct written {
    struct entry entry;
    off_t at;
    unsigned char *old;
    unsigned flushes;
};
static struct written written[WRITES_MOST];
static unsigned writes_all;

static int read_log(int log, uint64_t size, int disk)
{
    struct entry entry;
    unsigned flushes = 0;
    off_t at = (off_t)size;

    for (; take(log, at, &entry);) {
        int data = (entry.kind & (DISCARD | MARK)) == 0 && entry.count > 0;
        struct written *one = &written[writes_all];

        at += (off_t)size;
        flushes += (entry.kind & FLUSH) != 0 ? 1 : 0;
        if (entry.count > 0 && (entry.kind & MARK) == 0) {
            size_t length = (size_t)(entry.count * size);

            if (writes_all == WRITES_MOST)
                return 0;
            *one = (struct written){entry, at, malloc(length), flushes};
            if (one->old == NULL ||
                pread(disk, one->old, length, (off_t)(entry.sector * size)) !=
                    (ssize_t)length)
                return 0;
            writes_all++;
        }
        at += data ? (off_t)(entry.count * size) : 0;
    }
    return writes_all > 0;
}

static int put_back(uint64_t size, int disk)
{
    for (unsigned i = 0; i < writes_all; i++) {
        const struct entry *entry = &written[i].entry;
        size_t length = (size_t)(entry->count * size);

        if (pwrite(disk, written[i].old, length,
                   (off_t)(entry->sector * size)) != (ssize_t)length)
            return 0;
    }
    return fsync(disk) == 0;
}

/* All that was flushed before the n-th write, and of the rest what chance has
 * left, the last of it torn. */
static int lose_power(int log, uint64_t size, int disk, unsigned n)
{
    unsigned order[WRITES_MOST], some = 0;

    for (unsigned i = 0; i <= n; i++) {
        if (written[i].flushes < written[n].flushes) {
            if (!apply(log, written[i].at, &written[i].entry, size, disk))
                return 0;
        } else if (rand() % 2 != 0) {
            order[some++] = i;
        }
    }
    for (unsigned i = some; i-- > 0;) {
        unsigned other = (unsigned)rand() % (i + 1), one = order[other];
        struct entry entry = written[one].entry;

        order[other] = order[i];
        if (i == 0 && entry.count > 1)
            entry.count = 1 + (uint64_t)rand() % (entry.count - 1);
        if (!apply(log, written[one].at, &entry, size, disk))
            return 0;
    }
    return 1;
}

static int cut_at_places(int log, uint64_t size, int disk, const char *command,
                         unsigned places)
{
    if (!read_log(log, size, disk))
        return 1;
    srand(places);
    for (unsigned i = 0; i < places; i++) {
        unsigned n = i * writes_all / places;

        if (!lose_power(log, size, disk, n) || !show(command, disk, n) ||
            !put_back(size, disk))
            return 1;
    }
    printf("%u power cuts in %u writes\n", places, writes_all);
    return show(command, disk, 0) ? 0 : 1;
}

int main(int count, char **words)
{
    unsigned char head[32];
    struct entry entry;
    unsigned writes = 0;
    uint64_t size;
    int log, disk;
    off_t at;

    if (count != 4 && count != 5)
        return 2;
    log = open(words[1], O_RDONLY);
    disk = open(words[2], O_RDWR);
    if (log < 0 || disk < 0 ||
        pread(log, head, sizeof head, 0) != (ssize_t)sizeof head ||
        le(head, 8) != MAGIC)
        return 2;
    size = le(head + 24, 4);
    if (count == 5)
        return cut_at_places(log, size, disk, words[3],
                             (unsigned)atoi(words[4]));
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
