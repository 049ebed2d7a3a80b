/* SPDX-License-Identifier: MIT */
/* Composing ext4: any block from the plan alone (Linux kernel documentation,
 * filesystems/ext4). */
#include <string.h>

#include "volume/ext/ext.h"

enum role {
    ROLE_COPIES,
    ROLE_DESCRIPTORS,
    ROLE_BITMAPS,
    ROLE_INODES,
    ROLE_FOLDERS,
    ROLE_MAP,
    ROLE_JOURNAL,
    ROLE_START,
    ROLE_SUPER
};

const char *const slate_ext_steps[] = {"write copies of the superblock",
                                       "write the group descriptors",
                                       "write bitmaps",
                                       "write the first inodes",
                                       "write the folders",
                                       "write the list of bad blocks",
                                       "write an empty journal",
                                       "clear the room around the superblock",
                                       "write the superblock"};

static bool give(const struct slate_ext *ext, uint64_t unit, uint64_t count,
                 enum role role, struct slate_extent *extent)
{
    extent->first = ext->first + unit * slate_ext_unit_blocks(ext);
    extent->count = count * slate_ext_unit_blocks(ext);
    extent->role = (uint8_t)role;
    extent->zero = false;
    return count > 0;
}

/* One copy after the other, behind the group at *at. */
static bool next_copy(const struct slate_ext *ext, uint64_t *at,
                      struct slate_extent *extent)
{
    uint32_t group = *at == UINT32_MAX
                         ? UINT32_MAX
                         : slate_ext_next_copy(ext, (uint32_t)*at);

    *at = group;
    return group != UINT32_MAX &&
           give(ext, slate_ext_group_first(ext, group),
                1 + (uint64_t)ext->descriptor_units, ROLE_COPIES, extent);
}

/* Blocks of the device that hold the superblock; and those of its unit ahead of
 * it and behind it. */
static void super_blocks(const struct slate_ext *ext, uint64_t *first,
                         uint64_t *count, uint64_t *end)
{
    uint32_t block = ext->block_bytes;

    *first = SLATE_EXT_SUPER_AT / block;
    *count = (SLATE_EXT_SUPER_AT + SLATE_EXT_SUPER_BYTES + block - 1) / block -
             *first;
    *end =
        (uint64_t)(slate_ext_first_unit(ext) + 1) * slate_ext_unit_blocks(ext);
}

/* What has one extent each, but for bitmaps. */
static bool next_single(const struct slate_ext *ext, uint64_t index,
                        struct slate_extent *extent)
{
    uint64_t first, count, end;
    struct slate_ext_places places;
    struct slate_ext_area area;

    slate_ext_find(ext, 0, &places);
    switch (index) {
    case 0:
    case 1:
        super_blocks(ext, &first, &count, &end);
        extent->first = ext->first + (index == 0 ? 0 : first + count);
        extent->count = index == 0 ? first : end - first - count;
        extent->role = ROLE_START;
        extent->zero = true;
        return extent->count > 0;
    case 2:
        return give(ext, slate_ext_first_unit(ext) + 1, ext->descriptor_units,
                    ROLE_DESCRIPTORS, extent);
    case 3:
        slate_ext_what(ext, places.inode_bitmap, &area);
        return give(ext, area.first, area.count, ROLE_BITMAPS, extent);
    case 4:
        slate_ext_what(ext, places.table, &area);
        return give(ext, area.first, area.count, ROLE_INODES, extent);
    case 5:
        return give(ext, ext->root_at, 1, ROLE_FOLDERS, extent);
    case 6:
        return give(ext, ext->lost_at, ext->lost_units, ROLE_FOLDERS, extent);
    case 7:
        return give(ext, ext->map_at, ext->map_units, ROLE_MAP, extent);
    default:
        return give(ext, ext->journal_at, ext->journal_units > 0, ROLE_JOURNAL,
                    extent);
    }
}

#define SINGLES 9u

/* Bitmaps of a flexible group that are written, in a row: the index-th. */
static bool find_bitmaps(const struct slate_ext *ext, uint32_t flex,
                         uint32_t index, struct slate_ext_area *run)
{
    struct slate_ext_places places;
    struct slate_ext_tour tour;
    struct slate_ext_area area;

    slate_ext_find(ext, flex << ext->flex_bits, &places);
    slate_ext_begin(ext, flex, &tour);
    while (slate_ext_next_area(ext, &tour, &area) &&
           area.kind == SLATE_EXT_BITMAP) {
        uint64_t at = 0;

        while (slate_ext_next_written(ext, places.end, &area, &at, run)) {
            if (index-- == 0)
                return true;
        }
    }
    return false;
}

/* The bitmaps at the start of each flexible group, in one row, or in several
 * where groups need none or bad units stand between them; *at counts groups and
 * rows. */
#define AREAS_MOST 65536u
static bool next_bitmaps(const struct slate_ext *ext, uint64_t *at,
                         struct slate_extent *extent)
{
    struct slate_ext_area area;

    for (;;) {
        uint64_t flex = *at / AREAS_MOST;

        if (flex << ext->flex_bits >= ext->groups)
            return false;
        if (find_bitmaps(ext, (uint32_t)flex, (uint32_t)(*at % AREAS_MOST),
                         &area)) {
            ++*at;
            return give(ext, area.first, area.count, ROLE_BITMAPS, extent);
        }
        *at = (flex + 1) * AREAS_MOST;
    }
}

static bool next_body(const struct slate_ext *ext, uint64_t *at,
                      struct slate_extent *extent)
{
    uint64_t flex;

    while (*at < SINGLES) {
        if (next_single(ext, (*at)++, extent))
            return true;
    }
    flex = *at - SINGLES;
    if (!next_bitmaps(ext, &flex, extent))
        return false;
    *at = SINGLES + flex;
    return true;
}

bool slate_ext_next(const void *plan, enum slate_moment moment, uint64_t *at,
                    struct slate_extent *extent)
{
    const struct slate_ext *ext = plan;
    uint64_t end;

    if (moment == SLATE_MOMENT_COPIES)
        return next_copy(ext, at, extent);
    if (moment == SLATE_MOMENT_BODY)
        return next_body(ext, at, extent);
    if (moment != SLATE_MOMENT_BIRTH || (*at)++ > 0)
        return false;
    super_blocks(ext, &extent->first, &extent->count, &end);
    extent->first += ext->first;
    extent->role = ROLE_SUPER;
    extent->zero = false;
    return true;
}

bool slate_ext_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    const struct slate_ext *ext = plan;
    struct slate_ext_area area;
    uint64_t end;

    *until = ext->first;
    if (lba < ext->first)
        return false;
    slate_ext_what(ext, (lba - ext->first) / slate_ext_unit_blocks(ext), &area);
    end = area.first + area.count;
    *until = end > UINT64_MAX / 16
                 ? UINT64_MAX
                 : ext->first + end * slate_ext_unit_blocks(ext);
    return area.kind != SLATE_EXT_NOTHING;
}

/* at: byte of the area; piece: zeroed */
static void put_piece(const struct slate_ext *ext,
                      const struct slate_ext_area *area, uint64_t at,
                      uint8_t *piece)
{
    uint32_t within = (uint32_t)(at % ext->unit_bytes);
    uint32_t unit = (uint32_t)(at / ext->unit_bytes);

    switch (area->kind) {
    case SLATE_EXT_DESCRIPTORS:
        slate_ext_put_descriptors(ext, (uint32_t)(at / SLATE_EXT_DESCRIPTOR),
                                  piece);
        return;
    case SLATE_EXT_BITMAP:
        slate_ext_put_bitmap(ext, area->index + unit, within, piece);
        return;
    case SLATE_EXT_INODE_BITMAP:
        slate_ext_put_inode_bitmap(ext, area->index + unit, within, piece);
        return;
    case SLATE_EXT_TABLE:
        slate_ext_put_table(ext, 1 + (uint32_t)(at / SLATE_EXT_INODE), piece);
        return;
    case SLATE_EXT_ROOT:
        slate_ext_put_folder(ext, SLATE_EXT_ROOT_INODE, unit, within, piece);
        return;
    case SLATE_EXT_LOST:
        slate_ext_put_folder(ext, SLATE_EXT_LOST_INODE, unit, within, piece);
        return;
    case SLATE_EXT_MAP:
        slate_ext_put_map_unit(ext, unit, within, piece);
        return;
    case SLATE_EXT_JOURNAL:
        slate_ext_put_journal(ext, within, piece);
        return;
    default:
        return;
    }
}

/* The first superblock stands behind 1024 bytes that are nobody's; the copies
 * at the start of their units. */
static void put_super_piece(const struct slate_ext *ext, uint32_t group,
                            uint64_t byte, uint8_t *piece)
{
    uint64_t from = group == 0
                        ? SLATE_EXT_SUPER_AT
                        : slate_ext_group_first(ext, group) * ext->unit_bytes;

    if (byte >= from && byte - from < SLATE_EXT_SUPER_BYTES)
        slate_ext_put_super(ext, group, (uint32_t)(byte - from), piece);
}

enum slate_status slate_ext_fill(const void *plan, uint64_t first,
                                 uint32_t count, void *data)
{
    const struct slate_ext *ext = plan;
    uint64_t byte = (first - ext->first) * ext->block_bytes;
    uint64_t end = byte + (uint64_t)count * ext->block_bytes;
    struct slate_ext_area area = {0};
    uint8_t *piece = data;

    memset(data, 0, (size_t)count * ext->block_bytes);
    for (; byte < end; byte += SLATE_EXT_PIECE, piece += SLATE_EXT_PIECE) {
        uint64_t unit = byte / ext->unit_bytes;

        if (unit >= area.first + area.count)
            slate_ext_what(ext, unit, &area);
        if (area.kind == SLATE_EXT_SUPER)
            put_super_piece(ext, area.index, byte, piece);
        else if (area.kind != SLATE_EXT_NOTHING)
            put_piece(ext, &area, byte - area.first * ext->unit_bytes, piece);
        else
            return SLATE_ERR_INTERNAL;
    }
    return SLATE_OK;
}
