/* SPDX-License-Identifier: MIT */
/* Bytes of other makers' formats, as published, put where nothing else is. */
#include "beside.h"

#include <string.h>

#include "craft.h"
#include "standing.h"

static uint64_t size_of(const struct ram *ram)
{
    return (uint64_t)ram->facts.block_count * ram->facts.block_bytes;
}

static bool put(struct ram *ram, uint64_t at, const void *bytes, size_t length)
{
    static const uint8_t zeros[512];
    uint8_t there[512];

    if (at + length > size_of(ram))
        return false;
    ram_get(ram, at, there, length);
    if (memcmp(there, zeros, length) != 0)
        return false;
    ram_put(ram, at, bytes, length);
    return true;
}

static bool raid_behind(struct ram *ram)
{
    return put(ram, 4096, "\xFC\x4E\x2B\xA9\1", 5);
}

static bool raid_at_end(struct ram *ram)
{
    return put(ram, (size_of(ram) - 8192) & ~4095ull, "\xFC\x4E\x2B\xA9\1", 5);
}

static bool raid_old(struct ram *ram)
{
    return put(ram, (size_of(ram) & ~65535ull) - 65536, "\xFC\x4E\x2B\xA9", 4);
}

static bool zfs_at_end(struct ram *ram)
{
    return put(ram, size_of(ram) / 262144 * 262144 - 262144 + 16384,
               "\1\1\0\0\0\0\0\0\0\0\0\1\0\0\0\44\0\0\0\40\0\0\0\7version\0",
               32);
}

static bool lvm(struct ram *ram)
{
    return put(ram, 512, "LABELONE\1\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0LVM2 001",
               32);
}

/* The superblock of an ext4 over the whole device, as kernels write it. */
static bool ext_over_all(struct ram *ram)
{
    uint8_t super[128] = {0};
    const struct {
        uint8_t at;
        uint64_t value;
    } fields[] = {{0, 4096},  {4, size_of(ram) / 4096},
                  {24, 2},    {32, 32768},
                  {40, 2048}, {56, 0xEF53},
                  {76, 1},    {88, 256},
                  {96, 0x40}};

    for (size_t i = 0; i < sizeof fields / sizeof fields[0]; i++) {
        for (int j = 0; j < (fields[i].at == 56 || fields[i].at == 88 ? 2 : 4);
             j++)
            super[fields[i].at + j] = (uint8_t)(fields[i].value >> 8 * j);
    }
    return put(ram, 1024, super, sizeof super);
}

/* In what partitions leave ahead of block 2048. */
static bool fat_in_gap(struct ram *ram)
{
    static const uint8_t zeros[4096];
    static uint8_t there[4096];
    uint64_t first = 131072 / ram->facts.block_bytes;

    if (ram->facts.block_bytes != 512 || size_of(ram) < 2097152 ||
        standing_is_named(ram, 131072))
        return false;
    for (uint64_t at = 131072; at < 1048576; at += sizeof there) {
        ram_get(ram, at, there, sizeof there);
        if (memcmp(there, zeros, sizeof there) != 0)
            return false;
    }
    craft_fat(ram, first, 1792, 12);
    return true;
}

static bool deleted_entry(struct ram *ram)
{
    uint8_t block[512];

    ram_get(ram, 0, block, sizeof block);
    for (size_t i = 0; i < 4; i++) {
        uint8_t *entry = block + 446 + 16 * i;

        if (block[511] != 0xAA || entry[4] == 0 || entry[4] == 0xEE)
            continue;
        memset(entry, 0, 16);
        ram_put(ram, 0, block, sizeof block);
        return true;
    }
    return false;
}

const struct beside beside[] = {
    {"RAID 1.2", raid_behind},
    {"RAID 1.0", raid_at_end},
    {"RAID 0.9", raid_old},
    {"ZFS", zfs_at_end},
    {"LVM", lvm},
    {"ext4 over all", ext_over_all},
    {"FAT in a gap", fat_in_gap},
    {"a deleted entry", deleted_entry},
    {NULL, NULL},
};
