/* SPDX-License-Identifier: MIT */
/* The copy of NTFS's first block in its last one, what both lead to, and what
 * the first says of its place. */

#include "base/base.h"
#include "volume/ntfs/ntfs.h"

#define HIDDEN_BLOCKS_AT 28u /* blocks ahead of the volume */

enum slate_here slate_ntfs_place(struct slate_reader *reader)
{
    const uint8_t *boot = slate_reader_at(reader, 0, SLATE_PIECE_BYTES);

    return slate_volume_told(
        reader, boot == NULL ? 0 : slate_le32(boot + HIDDEN_BLOCKS_AT));
}

/* The first record of the file table of a boot block at this byte. */
static bool leads_on(struct slate_reader *reader, uint64_t byte)
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

bool slate_ntfs_leads_on(struct slate_reader *reader,
                         const struct slate_volume *volume)
{
    (void)volume;
    return leads_on(reader, 0);
}

bool slate_ntfs_find_copy(struct slate_reader *reader,
                          struct slate_volume *volume)
{
    uint64_t byte =
        (reader->range.count - 1) * reader->media->geometry.block_bytes;

    if (slate_boot_named(reader, byte, "NTFS    ") == NULL)
        return false;
    slate_volume_take_copy(reader, SLATE_VOLUME_NTFS, byte, volume);
    volume->kept = leads_on(reader, byte);
    return true;
}

void slate_ntfs_add_runs(struct slate_reader *reader, uint64_t from,
                         struct slate_start_copy *copy)
{
    slate_volume_add_run(copy, from, 0, reader->media->geometry.block_bytes);
}
