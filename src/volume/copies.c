/* SPDX-License-Identifier: MIT */
/* A volume whose first blocks are erased or damaged may still have a sound copy
 * of them further in: then it is not lost. Each format says where. */
#include <string.h>

#include "base/bytes.h"
#include "volume/fat.h"
#include "volume/exfat.h"
#include "volume/read.h"

#define FAT32_COPY 6u /* blocks; FAT32 specification 1.03, 3.3 */

static void take(struct slate_reader *reader, enum slate_volume_kind kind,
                 uint64_t byte, struct slate_volume *volume)
{
    volume->lost = kind;
    volume->copy_lba = slate_reader_lba(reader, byte);
}

static bool find_fat32(struct slate_reader *reader, struct slate_volume *volume)
{
    uint64_t byte = (uint64_t)FAT32_COPY * reader->media->geometry.block_bytes;
    const uint8_t *found = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);
    uint8_t boot[SLATE_PIECE_BYTES];
    struct slate_volume copy = {.kind = SLATE_VOLUME_NONE};

    if (found == NULL)
        return false;
    memcpy(boot, found, sizeof boot);
    if (!slate_fat_read(reader, boot, SLATE_DEPTH_GLANCE, &copy) ||
        copy.kind != SLATE_VOLUME_FAT32)
        return false;
    take(reader, copy.kind, byte, volume);
    return true;
}

static bool find_name(struct slate_reader *reader, uint64_t byte,
                      const char *name, enum slate_volume_kind kind,
                      struct slate_volume *volume)
{
    const uint8_t *found = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);

    if (found == NULL || memcmp(found + 3, name, 8) != 0 ||
        slate_le16(found + SLATE_FAT_SIGNATURE) != 0xAA55)
        return false;
    take(reader, kind, byte, volume);
    return true;
}

/* The copy of the first group: groups are as long as a block has bits. */
static bool find_ext(struct slate_reader *reader, struct slate_volume *volume)
{
    static const uint64_t at[] = {8193 * 1024ull, 16384 * 2048ull,
                                  32768 * 4096ull};

    for (size_t i = 0; i < 3; i++) {
        const uint8_t *super =
            slate_reader_at(reader, at[i], SLATE_PIECE_BYTES);

        if (super == NULL || slate_le16(super + 56) != 0xEF53 ||
            slate_le16(super + 90) != 1 || slate_le32(super + 24) != i)
            continue;
        take(reader, SLATE_VOLUME_EXT4, at[i], volume);
        return true;
    }
    return false;
}

/* The alternate volume header stands 1024 bytes ahead of the end. */
static bool find_hfs_plus(struct slate_reader *reader, uint64_t bytes,
                          struct slate_volume *volume)
{
    const uint8_t *header =
        bytes < 4096 ? NULL
                     : slate_reader_at(reader, bytes - 1024, SLATE_PIECE_BYTES);

    if (header == NULL ||
        (memcmp(header, "H+\0\4", 4) != 0 && memcmp(header, "HX\0\5", 4) != 0))
        return false;
    take(reader, SLATE_VOLUME_HFS_PLUS, bytes - 1024, volume);
    return true;
}

void slate_copies_read(struct slate_reader *reader, struct slate_volume *volume)
{
    uint32_t block = reader->media->geometry.block_bytes;
    uint64_t bytes = reader->range.count * block;

    if (find_fat32(reader, volume) ||
        find_name(reader, (uint64_t)SLATE_EXFAT_REGION_BLOCKS * block,
                  "EXFAT   ", SLATE_VOLUME_EXFAT, volume) ||
        find_name(reader, bytes - block, "NTFS    ", SLATE_VOLUME_NTFS, volume))
        return;
    if (!find_ext(reader, volume))
        (void)find_hfs_plus(reader, bytes, volume);
}
