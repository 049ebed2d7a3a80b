/* SPDX-License-Identifier: MIT */
/* A volume whose first blocks are erased or damaged may still have a sound copy
 * of them further in: then it is not lost. Each format says where. */
#include <string.h>

#include "base/bytes.h"
#include "base/zero.h"
#include "volume/common/begins.h"
#include "volume/ext/ext.h"
#include "volume/fat/fat.h"
#include "volume/exfat/exfat.h"
#include "volume/ntfs/ntfs.h"
#include "volume/common/read.h"

/* Of an ext descriptor; and of the mode of an inode. */
#define INODE_TABLE_AT 8u
#define IS_FOLDER 0x4000u

#define FAT32_COPY 6u /* blocks; FAT32 specification 1.03, 3.3 */

static void take(struct slate_reader *reader, enum slate_volume_kind kind,
                 uint64_t byte, struct slate_volume *volume)
{
    volume->lost = kind;
    volume->copy_lba = slate_reader_lba(reader, byte);
}

/* A copy may have outlived its volume: it counts as long as what it leads to is
 * there still. The first entry of a table repeats the medium. */
static bool fat32_leads_on(struct slate_reader *reader, const uint8_t *boot)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *entry = slate_reader_at(
        reader, (uint64_t)slate_le16(boot + SLATE_FAT_RESERVED_BLOCKS) * block,
        4);

    return slate_le16(boot + SLATE_FAT_BYTES_PER_BLOCK) == block &&
           entry != NULL &&
           (slate_le32(entry) & 0x0FFFFFFFu) ==
               (0x0FFFFF00u | boot[SLATE_FAT_MEDIUM]);
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
    volume->kept = fat32_leads_on(reader, boot);
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

/* The whole second region has to be there: its checksum fills its last block
 * (exFAT 1.00, 3.4). */
static bool region_is_sound(struct slate_reader *reader, uint32_t block)
{
    const uint8_t *last;
    uint32_t sum = 0;

    for (uint32_t i = 0; i + 1 < SLATE_EXFAT_REGION_BLOCKS; i++) {
        const uint8_t *bytes = slate_reader_at(
            reader, (uint64_t)(SLATE_EXFAT_REGION_BLOCKS + i) * block, block);

        for (uint32_t at = 0; bytes != NULL && at < block; at++) {
            if (i > 0 || !slate_exfat_is_changing(at))
                sum = slate_exfat_sum(sum, bytes + at, 1);
        }
        if (bytes == NULL)
            return false;
    }
    last = slate_reader_at(
        reader, (2 * (uint64_t)SLATE_EXFAT_REGION_BLOCKS - 1) * block, block);
    for (uint32_t at = 0; last != NULL && at < block; at += 4) {
        if (slate_le32(last + at) != sum)
            return false;
    }
    return last != NULL;
}

/* The first entry of its table (exFAT 1.00, 4.1.1). */
bool slate_exfat_leads_on(struct slate_reader *reader, uint64_t byte)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *boot = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);
    uint64_t table = boot == NULL ? 0 : slate_le32(boot + SLATE_EXFAT_TABLE_AT);
    const uint8_t *entry =
        table == 0 ? NULL : slate_reader_at(reader, table * block, 4);

    return entry != NULL && slate_le32(entry) == 0xFFFFFFF8u;
}

static bool find_exfat(struct slate_reader *reader, uint32_t block,
                       struct slate_volume *volume)
{
    if (!find_name(reader, (uint64_t)SLATE_EXFAT_REGION_BLOCKS * block,
                   "EXFAT   ", SLATE_VOLUME_EXFAT, volume))
        return false;
    volume->kept = region_is_sound(reader, block) &&
                   slate_exfat_leads_on(
                       reader, (uint64_t)SLATE_EXFAT_REGION_BLOCKS * block);
    return true;
}

/* The first record of the file table. */
bool slate_ntfs_leads_on(struct slate_reader *reader, uint64_t byte)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *boot = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);
    uint64_t cluster, table;
    const uint8_t *record;

    if (boot == NULL || slate_le16(boot + SLATE_NTFS_BLOCK_BYTES) != block ||
        slate_le64(boot + SLATE_NTFS_BLOCKS) >= reader->range.count)
        return false;
    cluster = boot[SLATE_NTFS_CLUSTER_BLOCKS];
    if (cluster > 0x80)
        cluster = cluster < 0xE1 ? 0 : (uint64_t)1 << (256 - cluster);
    cluster *= block;
    table = slate_le64(boot + SLATE_NTFS_TABLE_AT);
    if (cluster == 0 || table > reader->range.count)
        return false;
    record = slate_reader_at(reader, table * cluster, SLATE_PIECE_BYTES);
    return record != NULL && memcmp(record, "FILE", 4) == 0;
}

static bool find_ntfs(struct slate_reader *reader, uint64_t byte,
                      struct slate_volume *volume)
{
    if (!find_name(reader, byte, "NTFS    ", SLATE_VOLUME_NTFS, volume))
        return false;
    volume->kept = slate_ntfs_leads_on(reader, byte);
    return true;
}

/* The copy of the first group: groups are as long as a block has bits. */
static uint32_t find_unit(struct slate_reader *reader, uint64_t *byte)
{
    static const uint64_t at[] = {8193 * 1024ull, 16384 * 2048ull,
                                  32768 * 4096ull};

    for (uint32_t i = 0; i < 3; i++) {
        const uint8_t *super =
            slate_reader_at(reader, at[i], SLATE_PIECE_BYTES);

        if (super == NULL ||
            slate_le16(super + SLATE_EXT_MAGIC_AT) != SLATE_EXT_MAGIC ||
            slate_le16(super + SLATE_EXT_GROUP_NUMBER) != 1 ||
            slate_le32(super + SLATE_EXT_UNIT_SHIFT) != i)
            continue;
        *byte = at[i];
        return 1024u << i;
    }
    return 0;
}

/* Descriptors follow the superblock; the first one leads to the root. */
bool slate_ext_leads_on(struct slate_reader *reader, uint64_t super_at,
                        uint32_t unit)
{
    const uint8_t *bytes = slate_reader_at(reader, super_at, SLATE_PIECE_BYTES);
    uint32_t inode_bytes =
        bytes == NULL ? 0 : slate_le16(bytes + SLATE_EXT_INODE_BYTES);
    uint64_t table;

    bytes =
        slate_reader_at(reader, unit == 1024 ? 2048 : unit, SLATE_PIECE_BYTES);
    table = bytes == NULL ? 0 : slate_le32(bytes + INODE_TABLE_AT);
    if (inode_bytes == 0 || table == 0)
        return false;
    bytes = slate_reader_at(reader, table * unit + inode_bytes, 2);
    return bytes != NULL && (slate_le16(bytes) & 0xF000u) == IS_FOLDER;
}

static bool find_ext(struct slate_reader *reader, struct slate_volume *volume)
{
    uint64_t byte;
    uint32_t unit = find_unit(reader, &byte);

    if (unit == 0)
        return false;
    take(reader, SLATE_VOLUME_EXT4, byte, volume);
    volume->kept = slate_ext_leads_on(reader, byte, unit);
    return true;
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

static void add_run(struct slate_start_copy *copy, uint64_t from, uint64_t to,
                    uint32_t bytes)
{
    copy->run[copy->runs].from = from;
    copy->run[copy->runs].to = to;
    copy->run[copy->runs++].bytes = bytes;
}

/* The block of figures changes in use: it comes back where it is not there. */
static void add_fat32(struct slate_reader *reader, uint64_t from,
                      struct slate_start_copy *copy)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *figures = slate_reader_at(reader, block, SLATE_PIECE_BYTES);
    bool there =
        figures != NULL && slate_le32(figures) == SLATE_FAT_INFO_LEAD_VALUE;

    add_run(copy, from, 0, block);
    figures = slate_reader_at(reader, from + block, SLATE_PIECE_BYTES);
    if (!there && figures != NULL &&
        slate_le32(figures) == SLATE_FAT_INFO_LEAD_VALUE)
        add_run(copy, from + block, block, block);
}

static enum slate_status find_start(struct slate_reader *reader,
                                    struct slate_start_copy *copy)
{
    uint32_t block = reader->media->geometry.block_bytes;
    struct slate_volume volume = {.kind = SLATE_VOLUME_NONE};
    uint64_t byte;

    slate_copies_read(reader, &volume);
    copy->kind = volume.kept ? volume.lost : SLATE_VOLUME_NONE;
    byte = (volume.copy_lba - reader->range.first) * block;
    if (copy->kind == SLATE_VOLUME_FAT32) {
        add_fat32(reader, byte, copy);
    } else if (copy->kind == SLATE_VOLUME_EXFAT) {
        add_run(copy, byte, 0, SLATE_EXFAT_REGION_BLOCKS * block);
    } else if (copy->kind == SLATE_VOLUME_NTFS) {
        add_run(copy, byte, 0, block);
    } else if (copy->kind == SLATE_VOLUME_EXT4) {
        if (find_unit(reader, &byte) != 0)
            add_run(copy, byte, SLATE_EXT_SUPER_AT, SLATE_EXT_SUPER_BYTES);
    }
    if (reader->status != SLATE_OK)
        return reader->status;
    return copy->runs > 0 ? SLATE_OK : SLATE_ERR_FORMAT;
}

enum slate_status slate_volume_start_find(struct slate_media *media,
                                          const struct slate_range *range,
                                          void *work,
                                          struct slate_start_copy *copy)
{
    struct slate_reader reader = {
        .media = media, .range = *range, .work = work};

    memset(copy, 0, sizeof *copy);
    return slate_reader_cut(&reader) ? find_start(&reader, copy)
                                     : SLATE_ERR_FORMAT;
}

void slate_copies_read(struct slate_reader *reader, struct slate_volume *volume)
{
    uint32_t block = reader->media->geometry.block_bytes;
    uint64_t bytes = reader->range.count * block;

    if (find_fat32(reader, volume) || find_exfat(reader, block, volume) ||
        find_ntfs(reader, bytes - block, volume))
        return;
    if (!find_ext(reader, volume))
        (void)find_hfs_plus(reader, bytes, volume);
}
