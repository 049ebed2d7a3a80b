/* SPDX-License-Identifier: MIT */
/* Bad units of an ext4 volume: they are in use, by a file of their own, inode 1
 * (Linux kernel documentation, filesystems/ext4). */
#include "volume/common/common.h"
#include "volume/ext/ext.h"

#include "base/base.h"

/* A unit of the file's map: its head, entries, and a checksum behind the last
 * one. */
#define HEAD_BYTES 12u
#define ENTRY_BYTES 12u
#define SUM_BYTES 4u

static struct slate_clusters grid_of(const struct slate_ext *ext, uint64_t from,
                                     uint64_t end)
{
    return (struct slate_clusters){
        ext->first + from * slate_ext_unit_blocks(ext),
        slate_ext_unit_blocks(ext), (uint32_t)(end - from)};
}

uint64_t slate_ext_bad_from(const struct slate_ext *ext, uint64_t from,
                            uint64_t end)
{
    struct slate_clusters grid = grid_of(ext, from, end);

    return ext->bad == NULL || from >= end
               ? end
               : from + slate_bad_cluster(ext->bad, &grid, 0);
}

uint64_t slate_ext_good_from(const struct slate_ext *ext, uint64_t from,
                             uint64_t end)
{
    struct slate_clusters grid = grid_of(ext, from, end);

    return ext->bad == NULL || from >= end
               ? from
               : from + slate_good_cluster(ext->bad, &grid, 0);
}

bool slate_ext_next_bad(const struct slate_ext *ext, uint64_t from,
                        struct slate_ext_run *run)
{
    uint64_t block, end;
    struct slate_range rest;

    if (from < slate_ext_first_unit(ext))
        from = slate_ext_first_unit(ext);
    if (ext->bad == NULL || from >= ext->units)
        return false;
    rest.first = ext->first + from * slate_ext_unit_blocks(ext);
    rest.count = (ext->units - from) * slate_ext_unit_blocks(ext);
    if (!slate_bad_first(ext->bad, &rest, &block))
        return false;
    run->first = (block - ext->first) / slate_ext_unit_blocks(ext);
    end = slate_ext_group_end(ext, slate_ext_group_of(ext, run->first));
    run->count = slate_ext_good_from(ext, run->first, end) - run->first;
    return true;
}

/* Behind the last one of a flexible group; 0: it has none. */
static uint64_t bad_end(const struct slate_ext *ext, uint32_t flex)
{
    uint32_t last = ((flex + 1) << ext->flex_bits) - 1;
    struct slate_range range;
    uint64_t block;

    if (ext->bad == NULL)
        return 0;
    if (last >= ext->groups)
        last = ext->groups - 1;
    range.first = slate_ext_group_first(ext, flex << ext->flex_bits);
    range.count = slate_ext_group_end(ext, last) - range.first;
    range.first = ext->first + range.first * slate_ext_unit_blocks(ext);
    range.count *= slate_ext_unit_blocks(ext);
    return slate_bad_last(ext->bad, &range, &block)
               ? (block - ext->first) / slate_ext_unit_blocks(ext) + 1
               : 0;
}

/* Entries of a unit of the map. */
static uint32_t entries_in(const struct slate_ext *ext)
{
    return (ext->unit_bytes - HEAD_BYTES - SUM_BYTES) / ENTRY_BYTES;
}

static bool is_bad_in(const struct slate_ext *ext, uint64_t first,
                      uint64_t count)
{
    return slate_ext_bad_from(ext, first, first + count) < first + count;
}

enum slate_status slate_ext_count_bad(struct slate_ext *ext)
{
    struct slate_ext_run run;

    ext->bad_units = ext->bad_runs = ext->map_units = 0;
    for (uint64_t at = 0; slate_ext_next_bad(ext, at, &run);
         at = run.first + run.count) {
        ext->bad_units += run.count;
        ext->bad_runs++;
    }
    if (ext->bad_runs > SLATE_EXT_MAP_EXTENTS)
        ext->map_units =
            (ext->bad_runs + entries_in(ext) - 1) / entries_in(ext);
    if (ext->bad_units == 0 && !is_bad_in(ext, 0, slate_ext_first_unit(ext)))
        ext->bad = NULL;
    return ext->map_units > SLATE_EXT_MAP_EXTENTS ? SLATE_ERR_BAD_LIST
                                                  : SLATE_OK;
}

/* Each flexible group with bad units finds places for all that it keeps. */
static bool finds_places(const struct slate_ext *ext, uint32_t flex)
{
    struct slate_ext_tour tour;
    struct slate_ext_area area;

    slate_ext_begin(ext, flex, &tour);
    while (slate_ext_next_area(ext, &tour, &area))
        ;
    return tour.stage == 3;
}

bool slate_ext_goes_around(const struct slate_ext *ext)
{
    struct slate_ext_run run;
    uint64_t at = 0;

    if (ext->bad == NULL)
        return true;
    if (is_bad_in(ext, 0, slate_ext_first_unit(ext)))
        return false;
    for (uint32_t group = 0; group != UINT32_MAX;
         group = slate_ext_next_copy(ext, group)) {
        if (is_bad_in(ext, slate_ext_group_first(ext, group),
                      slate_ext_head_units(ext, group)))
            return false;
    }
    while (slate_ext_next_bad(ext, at, &run)) {
        uint32_t flex = slate_ext_group_of(ext, run.first) >> ext->flex_bits;

        if (!finds_places(ext, flex))
            return false;
        at = bad_end(ext, flex);
    }
    return true;
}

static void write_head(uint32_t entries, uint32_t most, uint32_t depth,
                       struct slate_pen *pen)
{
    slate_pen_le(pen, SLATE_EXT_MAP_MAGIC, 2);
    slate_pen_le(pen, entries, 2);
    slate_pen_le(pen, most, 2);
    slate_pen_le(pen, depth, 2);
    slate_pen_skip(pen, 4);
}

static void write_extent(uint64_t logical, const struct slate_ext_run *run,
                         struct slate_pen *pen)
{
    slate_pen_le(pen, logical, 4);
    slate_pen_le(pen, run->count, 2);
    slate_pen_le(pen, run->first >> 32, 2);
    slate_pen_le(pen, run->first & UINT32_MAX, 4);
}

/* Where a part of the list begins: the run, and the unit of the file. */
struct place {
    struct slate_ext_run run;
    uint64_t logical;
    bool found;
};

static void begin(const struct slate_ext *ext, uint32_t skip,
                  struct place *place)
{
    place->logical = 0;
    place->found = slate_ext_next_bad(ext, 0, &place->run);
    while (skip-- > 0 && place->found) {
        place->logical += place->run.count;
        place->found = slate_ext_next_bad(
            ext, place->run.first + place->run.count, &place->run);
    }
}

static void write_extents(const struct slate_ext *ext, struct place place,
                          uint32_t count, struct slate_pen *pen)
{
    for (; count > 0 && place.found; count--) {
        write_extent(place.logical, &place.run, pen);
        place.logical += place.run.count;
        place.found = slate_ext_next_bad(ext, place.run.first + place.run.count,
                                         &place.run);
    }
}

/* In the inode itself: the extents, or where units of them are. */
void slate_ext_put_bad_map(const struct slate_ext *ext, uint8_t *map)
{
    struct slate_pen pen = {map, 0, SLATE_EXT_MAP_BYTES, 0};
    uint32_t units = ext->map_units;
    struct place place;

    write_head(units > 0 ? units : ext->bad_runs, SLATE_EXT_MAP_EXTENTS,
               units > 0, &pen);
    if (units == 0) {
        begin(ext, 0, &place);
        write_extents(ext, place, ext->bad_runs, &pen);
    }
    for (uint32_t i = 0; i < units; i++) {
        begin(ext, i * entries_in(ext), &place);
        slate_pen_le(&pen, place.logical, 4);
        slate_pen_le(&pen, (ext->map_at + i) & UINT32_MAX, 4);
        slate_pen_le(&pen, (ext->map_at + i) >> 32, 4);
    }
}

static void write_unit(const struct slate_ext *ext, uint32_t unit,
                       const struct place *place, struct slate_pen *pen)
{
    uint32_t most = entries_in(ext), left = ext->bad_runs - unit * most;

    write_head(left < most ? left : most, most, 0, pen);
    write_extents(ext, *place, most, pen);
}

/* The checksum is over all ahead of it. */
static uint32_t unit_sum(const struct slate_ext *ext, uint32_t unit,
                         const struct place *place, uint32_t bytes)
{
    uint32_t sum = slate_ext_inode_seed(ext, SLATE_EXT_BAD_INODE);

    for (uint32_t at = 0; at < bytes; at += SLATE_EXT_PIECE) {
        uint8_t piece[SLATE_EXT_PIECE] = {0};
        struct slate_pen pen = {piece, at, sizeof piece, 0};

        write_unit(ext, unit, place, &pen);
        sum = slate_crc32c(sum, piece,
                           bytes - at < SLATE_EXT_PIECE ? bytes - at
                                                        : SLATE_EXT_PIECE);
    }
    return sum;
}

void slate_ext_put_map_unit(const struct slate_ext *ext, uint32_t unit,
                            uint32_t at, uint8_t *piece)
{
    uint32_t end = HEAD_BYTES + entries_in(ext) * ENTRY_BYTES;
    struct slate_pen pen = {piece, at, SLATE_EXT_PIECE, 0};
    struct place place;

    begin(ext, unit * entries_in(ext), &place);
    write_unit(ext, unit, &place, &pen);
    if (at / SLATE_EXT_PIECE == end / SLATE_EXT_PIECE)
        slate_put_le32(piece + end % SLATE_EXT_PIECE,
                       unit_sum(ext, unit, &place, end));
}
