/* SPDX-License-Identifier: MIT */
/* Volumes for the corpus, from their specifications; docs/volumes.md names
 * them. */
#include <assert.h>
#include <string.h>

#include "craft.h"

static uint64_t byte_of(const struct ram *ram, uint64_t first)
{
    return first * ram->facts.block_bytes;
}

static void put_units(struct ram *ram, uint64_t byte, const char *text)
{
    for (; *text != '\0'; text++, byte += 2)
        craft_le(ram, byte, (uint8_t)*text, 2);
}

static void copy_block(struct ram *ram, uint64_t from, uint64_t to)
{
    uint8_t block[512];

    ram_get(ram, from, block, sizeof block);
    ram_put(ram, to, block, sizeof block);
}

void craft_format(struct ram *ram, enum slate_volume_kind kind, uint64_t first,
                  uint64_t count, const char *label)
{
    struct slate_wish wish = {.range = {first, count},
                              .block_bytes = ram->facts.block_bytes,
                              .align_bytes = 4096,
                              .id = {1, 0, 0x7E, 0x5A},
                              .label = label};
    const struct slate_format *format = slate_format_of(kind);
    union slate_volume_plan plan;
    enum slate_status status = format->plan(&wish, &plan);

    assert(status == SLATE_OK);
    for (int moment = 0; moment < SLATE_MOMENTS; moment++) {
        struct slate_extent extent;
        uint64_t at = 0;

        while (status == SLATE_OK &&
               format->composer.next(&plan, (enum slate_moment)moment, &at,
                                     &extent)) {
            for (uint64_t i = 0; i < extent.count && !extent.zero; i++) {
                uint8_t block[4096];

                status =
                    format->composer.fill(&plan, extent.first + i, 1, block);
                ram_put(ram, byte_of(ram, extent.first + i), block,
                        wish.block_bytes);
            }
        }
    }
    assert(status == SLATE_OK);
}

void craft_fat32(struct ram *ram, uint64_t first, uint64_t count,
                 const char *label)
{
    craft_format(ram, SLATE_VOLUME_FAT32, first, count, label);
}

void craft_fat(struct ram *ram, uint64_t first, uint32_t count, int bits)
{
    uint64_t at = byte_of(ram, first);
    uint32_t cluster = bits == 12 ? 16 : 4;
    uint32_t table = (count / cluster * (uint32_t)bits / 8 + 511) / 512 + 1;

    ram_put(ram, at, "\xEB\x3C\x90SHORE   ", 11);
    craft_le(ram, at + 11, 512, 2);
    craft_le(ram, at + 13, cluster, 1);
    craft_le(ram, at + 14, 1, 2);
    craft_le(ram, at + 16, 2, 1);
    craft_le(ram, at + 17, 512, 2);
    craft_le(ram, at + 21, 0xF8, 1);
    craft_le(ram, at + 22, table, 2);
    craft_le(ram, at + 32, count, 4);
    craft_le(ram, at + 38, 0x29, 1);
    craft_le(ram, at + 39, 0x5A7E0002, 4);
    craft_text(ram, at + 43, "GAUGE      ");
    craft_text(ram, at + 54, bits == 12 ? "FAT12   " : "FAT16   ");
    craft_le(ram, at + 510, 0xAA55, 2);
    craft_le(ram, at + 512, bits == 12 ? 0x0FFFFFF8 : 0xFFFFFFF8, 4);
    craft_le(ram, at + 512 * (1 + (uint64_t)table), 0xFFFFFFF8,
             bits == 12 ? 3 : 4);
}

void craft_exfat(struct ram *ram, uint64_t first, uint64_t count,
                 const char *label)
{
    uint64_t at = byte_of(ram, first);
    uint64_t root = at + (4096 + (uint64_t)(5 - 2) * 64) * 512;

    ram_put(ram, at,
            "\xEB\x76\x90"
            "EXFAT   ",
            11);
    craft_le(ram, at + 64, first, 8);
    craft_le(ram, at + 72, count, 8);
    craft_le(ram, at + 80, 128, 4);
    craft_le(ram, at + 84, 2048, 4);
    craft_le(ram, at + 88, 4096, 4);
    craft_le(ram, at + 92, (count - 4096) / 64, 4);
    craft_le(ram, at + 96, 5, 4);
    craft_le(ram, at + 100, 0x5A7E0003, 4);
    craft_le(ram, at + 104, 0x0100, 2);
    craft_le(ram, at + 108, 0x0609, 2); /* 512 and 32768 bytes */
    craft_le(ram, at + 110, 0x8001, 2);
    craft_le(ram, at + 112, 25, 1); /* a quarter in use */
    craft_le(ram, at + 510, 0xAA55, 2);
    copy_block(ram, at, at + 12 * 512);
    craft_le(ram, root, 0x83, 1);
    craft_le(ram, root + 1, strlen(label), 1);
    put_units(ram, root + 2, label);
}

/* The fourth record of the master file table: name and state of the volume. */
static void put_ntfs_record(struct ram *ram, uint64_t at, const char *label)
{
    uint32_t bytes = (uint32_t)strlen(label) * 2, room = (bytes + 7) & ~7u;

    craft_text(ram, at, "FILE");
    craft_le(ram, at + 4, 48, 2);
    craft_le(ram, at + 6, 3, 2);
    craft_le(ram, at + 20, 56, 2);
    craft_le(ram, at + 48, 0x0007, 2); /* what stands at the ends of strides */
    craft_le(ram, at + 510, 0x0007, 2);
    craft_le(ram, at + 1022, 0x0007, 2);
    craft_le(ram, at + 56, 0x60, 4);
    craft_le(ram, at + 60, 24 + room, 4);
    craft_le(ram, at + 72, bytes, 4);
    craft_le(ram, at + 76, 24, 2);
    put_units(ram, at + 80, label);
    at += 80 + room;
    craft_le(ram, at, 0x70, 4);
    craft_le(ram, at + 4, 40, 4);
    craft_le(ram, at + 16, 12, 4);
    craft_le(ram, at + 20, 24, 2);
    craft_le(ram, at + 32, 0x0103, 2); /* version 3.1 */
    craft_le(ram, at + 40, UINT32_MAX, 4);
}

void craft_ntfs(struct ram *ram, uint64_t first, uint64_t count,
                const char *label)
{
    uint64_t at = byte_of(ram, first);

    ram_put(ram, at, "\xEB\x52\x90NTFS    ", 11);
    craft_le(ram, at + 11, 512, 2);
    craft_le(ram, at + 13, 8, 1);
    craft_le(ram, at + 21, 0xF8, 1);
    craft_le(ram, at + 40, count - 1, 8);
    craft_le(ram, at + 48, 4, 8);
    craft_le(ram, at + 56, 2, 8);
    craft_le(ram, at + 64, 0xF6, 1); /* records of 1024 bytes */
    craft_le(ram, at + 68, 1, 1);
    craft_le(ram, at + 72, 0x5A7E0004, 8);
    craft_le(ram, at + 510, 0xAA55, 2);
    copy_block(ram, at, at + (count - 1) * 512);
    put_ntfs_record(ram, at + 4 * 4096 + 3 * 1024, label);
}

static void put_ext_super(struct ram *ram, uint64_t at, uint64_t count,
                          const char *label)
{
    uint32_t blocks = (uint32_t)(count / 8);

    craft_le(ram, at + 0, 65536, 4);
    craft_le(ram, at + 4, blocks, 4);
    craft_le(ram, at + 12, blocks / 2, 4);
    craft_le(ram, at + 24, 2, 4);
    craft_le(ram, at + 32, 32768, 4);
    craft_le(ram, at + 36, 32768, 4);
    craft_le(ram, at + 40, 8192, 4);
    craft_le(ram, at + 56, 0xEF53, 2);
    craft_le(ram, at + 58, 1, 2);
    craft_le(ram, at + 76, 1, 4);
    craft_le(ram, at + 92, 0x3C, 4);
    craft_le(ram, at + 96, 0x2C2, 4);
    craft_text(ram, at + 104, "0123456789abcdef");
    craft_text(ram, at + 120, label);
}

void craft_ext4(struct ram *ram, uint64_t first, uint64_t count,
                const char *label)
{
    uint64_t at = byte_of(ram, first);

    put_ext_super(ram, at + 1024, count, label);
    if (count / 8 <= 32768) /* one group has no copies */
        return;
    put_ext_super(ram, at + (uint64_t)32768 * 4096, count, label);
    craft_le(ram, at + (uint64_t)32768 * 4096 + 90, 1, 2); /* of which group */
}

/* A container with two volumes: its map at block 2, the map's tree at 3. */
void craft_apfs(struct ram *ram, uint64_t first, uint64_t count,
                const char *label)
{
    uint64_t at = byte_of(ram, first), tree = at + 3 * 4096;

    craft_text(ram, at + 32, "NXSB");
    craft_le(ram, at + 36, 4096, 4);
    craft_le(ram, at + 40, count / 8, 8);
    craft_text(ram, at + 72, "fedcba9876543210");
    craft_le(ram, at + 160, 2, 8);
    craft_le(ram, at + 184, 1026, 8);
    craft_le(ram, at + 192, 1028, 8);
    craft_le(ram, at + 2 * 4096 + 48, 3, 8);
    craft_le(ram, tree + 32, 0x0007, 2); /* root, leaf, fixed sizes */
    craft_le(ram, tree + 36, 2, 4);
    craft_le(ram, tree + 42, 64, 2);
    for (uint32_t i = 0; i < 2; i++) {
        uint64_t back = (i + 1) * 16, volume = at + (8 + (uint64_t)i) * 4096;

        craft_le(ram, tree + 56 + i * 4, i * 16, 2);
        craft_le(ram, tree + 58 + i * 4, back, 2);
        craft_le(ram, tree + 120 + i * 16, 1026 + i * 2, 8);
        craft_le(ram, tree + 128 + i * 16, 9, 8);
        craft_le(ram, tree + 4096 - 40 - back + 8, 8 + i, 8);
        craft_text(ram, volume + 32, "APSB");
        craft_text(ram, volume + 704, i == 0 ? label : "Preboot");
    }
}

void craft_optical(struct ram *ram, uint64_t first, bool bootable, bool udf)
{
    uint64_t at = byte_of(ram, first) + 32768;
    char primary[33] = "BUOY_INSTALL                    ";

    ram_put(ram, at, "\1CD001\1", 7);
    craft_text(ram, at + 40, primary);
    craft_le(ram, at + 80, 24000, 4);
    ram_put(ram, at + 2048, bootable ? "\0CD001\1" : "\2CD001\1", 7);
    ram_put(ram, at + 4096,
            "\xFF"
            "CD001\1",
            7);
    if (!udf)
        return;
    craft_erase(ram, at, 6144);
    ram_put(ram, at, "\0BEA01\1", 7);
    ram_put(ram, at + 2048, "\0NSR03\1", 7);
    ram_put(ram, at + 4096, "\0TEA01\1", 7);
    at += (uint64_t)(256 - 16) * 2048; /* the anchor, and two descriptors */
    craft_le(ram, at, 2, 2);
    craft_le(ram, at + 20, 257, 4);
    craft_le(ram, at + 2048, 6, 2);
    ram_put(ram, at + 2048 + 84,
            "\x08"
            "TIDES",
            6);
    craft_le(ram, at + 2048 + 84 + 127, 6, 1);
    craft_le(ram, at + 4096, 5, 2);
    craft_le(ram, at + 4096 + 188, 300, 4);
    craft_le(ram, at + 4096 + 192, 700, 4);
}
