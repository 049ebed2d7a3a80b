/* SPDX-License-Identifier: MIT */
/* NTFS's file of bad clusters: as long as the volume, with a hole wherever a
 * cluster is good. Where its mapping outgrows its record, it goes on in further
 * records, and a list tells which. */
#include "volume/ntfs/ntfs.h"

/* What else stands in a record, at most; and a mapping's hole and run. */
#define ALONE_BYTES 400u
#define EACH_BYTES 160u
#define PAIR_BYTES 17u

uint32_t slate_ntfs_runs_alone(const struct slate_ntfs *ntfs)
{
    return (ntfs->record_bytes - ALONE_BYTES) / PAIR_BYTES;
}

uint32_t slate_ntfs_runs_each(const struct slate_ntfs *ntfs)
{
    return (ntfs->record_bytes - EACH_BYTES) / PAIR_BYTES;
}

uint32_t slate_ntfs_count_runs(const struct slate_ntfs *ntfs)
{
    struct slate_clusters grid;
    uint32_t runs = 0, at = 0;

    slate_ntfs_grid(ntfs, &grid);
    for (;;) {
        at = slate_bad_cluster(ntfs->bad, &grid, at);
        if (at == ntfs->clusters)
            return runs;
        at = slate_good_cluster(ntfs->bad, &grid, at);
        runs++;
    }
}

/* Behind so many runs from a cluster on. */
static uint32_t behind(const struct slate_ntfs *ntfs, uint32_t at,
                       uint32_t runs)
{
    struct slate_clusters grid;

    slate_ntfs_grid(ntfs, &grid);
    for (; runs > 0; runs--)
        at = slate_good_cluster(ntfs->bad, &grid,
                                slate_bad_cluster(ntfs->bad, &grid, at));
    return at;
}

void slate_ntfs_find_span(const struct slate_ntfs *ntfs, uint32_t part,
                          struct slate_ntfs_span *span)
{
    uint32_t each = slate_ntfs_runs_each(ntfs);
    uint32_t ahead = part * each, left = ntfs->bad_runs - ahead;
    bool last = part + 1 >= ntfs->bad_parts;

    span->first = behind(ntfs, 0, ahead);
    span->runs = last ? left : each;
    span->end = last ? ntfs->clusters : behind(ntfs, span->first, each);
}

static uint32_t bytes_for(uint64_t value)
{
    uint32_t bytes = 1;

    while (value > 0x7F) { /* the highest bit is a sign */
        value >>= 8;
        bytes++;
    }
    return bytes;
}

/* Of a difference: with its sign. */
static uint32_t bytes_between(uint32_t from, uint32_t to)
{
    return to >= from ? bytes_for(to - from) : bytes_for(from - to - 1);
}

void slate_ntfs_write_run(uint32_t clusters, uint32_t at, uint32_t previous,
                          struct slate_pen *pen)
{
    uint32_t length = bytes_for(clusters), moved = bytes_between(previous, at);

    slate_pen_le(pen, length | moved << 4, 1);
    slate_pen_le(pen, clusters, length);
    slate_pen_le(pen, (uint64_t)at - previous, moved);
}

static void write_hole(uint32_t clusters, struct slate_pen *pen)
{
    uint32_t length = bytes_for(clusters);

    if (clusters == 0)
        return;
    slate_pen_le(pen, length, 1);
    slate_pen_le(pen, clusters, length);
}

void slate_ntfs_write_map(const struct slate_ntfs *ntfs,
                          const struct slate_ntfs_span *span,
                          struct slate_pen *pen)
{
    struct slate_clusters grid;
    uint32_t at = span->first, previous = 0;

    slate_ntfs_grid(ntfs, &grid);
    for (uint32_t i = 0; i < span->runs; i++) {
        uint32_t bad = slate_bad_cluster(ntfs->bad, &grid, at);
        uint32_t good = slate_good_cluster(ntfs->bad, &grid, bad);

        write_hole(bad - at, pen);
        slate_ntfs_write_run(good - bad, bad, previous, pen);
        previous = bad;
        at = good;
    }
    write_hole(span->end - at, pen);
    slate_pen_skip(pen, 1);
}

/* An entry: an attribute's type and name, the first cluster of the file that it
 * maps, and the record that has it. */
static void write_entry(uint32_t type, const char *name, uint64_t first,
                        uint32_t record, uint32_t id, struct slate_pen *pen)
{
    uint32_t units = 0, start = pen->at;

    while (name[units] != '\0')
        units++;
    slate_pen_le(pen, type, 4);
    slate_pen_le(pen, units == 0 ? 32 : SLATE_NTFS_LIST_EACH, 2);
    slate_pen_le(pen, units, 1);
    slate_pen_le(pen, 26, 1);
    slate_pen_le(pen, first, 8);
    slate_pen_le(pen, slate_ntfs_reference(record), 8);
    slate_pen_le(pen, id, 2);
    slate_pen_text(pen, name);
    slate_pen_skip(pen,
                   start + (units == 0 ? 32 : SLATE_NTFS_LIST_EACH) - pen->at);
}

/* Parts are found one after the other: each begins where the one before it
 * ends. */
void slate_ntfs_write_list(const struct slate_ntfs *ntfs, struct slate_pen *pen)
{
    uint32_t each = slate_ntfs_runs_each(ntfs), first = 0;

    write_entry(SLATE_NTFS_STANDARD, "", 0, SLATE_NTFS_BAD_RECORD, 0, pen);
    write_entry(SLATE_NTFS_NAME, "", 0, SLATE_NTFS_BAD_RECORD, 2, pen);
    write_entry(SLATE_NTFS_DATA, "", 0, SLATE_NTFS_BAD_RECORD, 3, pen);
    for (uint32_t part = 0; part < ntfs->bad_parts; part++) {
        write_entry(SLATE_NTFS_DATA, "$Bad", first,
                    SLATE_NTFS_PARTS_RECORD + part, 0, pen);
        if (part + 1 < ntfs->bad_parts)
            first = behind(ntfs, first, each);
    }
}
