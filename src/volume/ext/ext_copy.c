/* SPDX-License-Identifier: MIT */
/* The copy of ext's superblock in its second group, what both lead to, and what
 * a superblock says of its place. */
#include "base/base.h"
#include "volume/ext/ext.h"

/* Of a descriptor; and of the mode of an inode. */
#define INODE_TABLE_AT 8u
#define IS_FOLDER 0x4000u

/* Each group may keep a copy. */
enum slate_here slate_ext_place(struct slate_reader *reader)
{
    const uint8_t *super =
        slate_reader_at(reader, SLATE_EXT_SUPER_AT, SLATE_EXT_SUPER_BYTES);

    return super == NULL || slate_le16(super + SLATE_EXT_GROUP_NUMBER) == 0
               ? SLATE_HERE_UNTOLD
               : SLATE_HERE_COPY;
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
static bool leads_on(struct slate_reader *reader, uint64_t super_at,
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

bool slate_ext_leads_on(struct slate_reader *reader,
                        const struct slate_volume *volume)
{
    return leads_on(reader, SLATE_EXT_SUPER_AT, volume->cluster_bytes);
}

bool slate_ext_find_copy(struct slate_reader *reader,
                         struct slate_volume *volume)
{
    uint64_t byte;
    uint32_t unit = find_unit(reader, &byte);

    if (unit == 0)
        return false;
    slate_volume_take_copy(reader, SLATE_VOLUME_EXT4, byte, volume);
    volume->kept = leads_on(reader, byte, unit);
    return true;
}

/* The range of a copy counts in blocks, which may be larger than its unit. */
void slate_ext_add_runs(struct slate_reader *reader, uint64_t from,
                        struct slate_start_copy *copy)
{
    if (find_unit(reader, &from) != 0)
        slate_volume_add_run(copy, from, SLATE_EXT_SUPER_AT,
                             SLATE_EXT_SUPER_BYTES);
}

void slate_ext_make_first(uint8_t *super)
{
    slate_put_le16(super + SLATE_EXT_GROUP_NUMBER, 0);
    slate_ext_seal(super);
}
