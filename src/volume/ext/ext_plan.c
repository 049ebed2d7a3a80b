/* SPDX-License-Identifier: MIT */
/* The geometry of an ext4 volume: units, groups, inodes, journal, limits. */

#include "base/base.h"
#include "volume/common/common.h"
#include "volume/ext/ext.h"

#define VOLUME_BYTES_MIN UINT64_C(8388608)
#define UNIT_MOST 4096u
/* Smaller volumes have units of 1 KiB. */
#define SMALL_BYTES UINT64_C(67108864)
/* Usual bytes for each inode; large volumes hold large files. */
#define INODE_EVERY_SMALL 8192u
#define INODE_EVERY 16384u
#define INODE_EVERY_LARGE 65536u
#define LARGE_BYTES UINT64_C(2199023255552)
/* Bitmaps at the start of flexible groups are written, with a gap between
 * them. */
#define FLEX_GROUPS_MOST 512u
#define FLEX_BITS_LEAST 4u
/* Descriptors take no more than half a group. */
#define DESCRIPTOR_SHARE 2u
#define LOST_BYTES 16384u
/* Kernels want a journal of 1024 units; one extent maps 32768, and an inode
 * four of them. */
#define JOURNAL_LEAST 1024u
#define JOURNAL_MOST 131072u
#define JOURNAL_SHARE 64u
#define RESERVED_SHARE 100u
#define RESERVED_BYTES_MOST UINT64_C(1073741824)

static uint64_t bytes_of(const struct slate_ext *ext)
{
    return ext->units * ext->unit_bytes;
}

static uint32_t groups_for(const struct slate_ext *ext, uint64_t units)
{
    uint64_t group = slate_ext_group_units(ext);

    return (uint32_t)((units - slate_ext_first_unit(ext) + group - 1) / group);
}

static void take_groups(struct slate_ext *ext)
{
    ext->groups = groups_for(ext, ext->units);
    ext->descriptor_units =
        (uint32_t)(((uint64_t)ext->groups * SLATE_EXT_DESCRIPTOR +
                    ext->unit_bytes - 1) /
                   ext->unit_bytes);
    ext->flex_bits = FLEX_BITS_LEAST;
    while (ext->groups >> ext->flex_bits > FLEX_GROUPS_MOST)
        ext->flex_bits++;
}

static void take_inodes(struct slate_ext *ext)
{
    uint32_t every = bytes_of(ext) < 8 * SMALL_BYTES ? INODE_EVERY_SMALL
                     : bytes_of(ext) < LARGE_BYTES   ? INODE_EVERY
                                                     : INODE_EVERY_LARGE;
    uint32_t in_unit = ext->unit_bytes / SLATE_EXT_INODE;

    ext->group_inodes = (uint32_t)((uint64_t)slate_ext_group_units(ext) *
                                   ext->unit_bytes / every);
    ext->table_units = ext->group_inodes / in_unit;
}

/* What the last group has to hold: its own copies, and, where it is the first
 * of its flexible group, bitmaps and inodes. */
static uint64_t last_needs(const struct slate_ext *ext)
{
    uint32_t last = ext->groups - 1;
    bool leads = (last & (((uint32_t)1 << ext->flex_bits) - 1)) == 0;

    return slate_ext_head_units(ext, last) +
           (leads ? 2 + (uint64_t)ext->table_units : 0) + 8;
}

/* A last group that is too short for that is left out. */
static void drop_short_group(struct slate_ext *ext)
{
    uint32_t last;

    take_groups(ext);
    take_inodes(ext);
    last = ext->groups - 1;
    if (ext->groups < 2 ||
        slate_ext_group_end(ext, last) - slate_ext_group_first(ext, last) >=
            last_needs(ext))
        return;
    ext->units = slate_ext_group_first(ext, last);
    take_groups(ext);
}

/* The first run of so many units from one on, in the groups of the first
 * flexible group. False: there is none. */
static bool take_run(const struct slate_ext *ext, uint64_t from, uint64_t count,
                     uint64_t *at)
{
    uint64_t group_units = slate_ext_group_units(ext);
    uint32_t all = (uint32_t)1 << ext->flex_bits;
    uint64_t last = ext->groups < all ? ext->groups : all, end;
    uint32_t group =
        (uint32_t)((from - slate_ext_first_unit(ext)) / group_units);

    while (group < last) {
        uint64_t first = slate_ext_group_first(ext, group) +
                         slate_ext_head_units(ext, group);

        *at = from > first ? from : first;
        do
            end = slate_ext_group_end(ext, group++);
        while (group < last && !slate_ext_has_copy(group));
        while (end > *at && end - *at >= count) {
            uint64_t stop;

            *at = slate_ext_good_from(ext, *at, end);
            stop = slate_ext_bad_from(ext, *at, end);
            if (stop - *at >= count)
                return true;
            *at = stop;
        }
    }
    return false;
}

static uint32_t usual_journal(const struct slate_ext *ext)
{
    uint32_t units = JOURNAL_LEAST;

    while (units < JOURNAL_MOST && units < ext->units / JOURNAL_SHARE)
        units *= 2;
    return units;
}

/* The largest one that fits, of the usual size at most. */
static void take_journal(struct slate_ext *ext)
{
    uint64_t behind = ext->map_units > 0 ? ext->map_at + ext->map_units
                                         : ext->lost_at + ext->lost_units;
    uint32_t units = usual_journal(ext);

    while (units > JOURNAL_LEAST &&
           !take_run(ext, behind, units, &ext->journal_at))
        units /= 2;
    if (take_run(ext, behind, units, &ext->journal_at))
        ext->journal_units = units;
}

static enum slate_status place(struct slate_ext *ext, bool journal)
{
    struct slate_ext_places places;

    ext->lost_units = (LOST_BYTES + ext->unit_bytes - 1) / ext->unit_bytes;
    slate_ext_find(ext, 0, &places);
    if (!take_run(ext, places.end, 1, &ext->root_at) ||
        !take_run(ext, ext->root_at + 1, ext->lost_units, &ext->lost_at))
        return SLATE_ERR_TOO_SMALL;
    if (ext->map_units > 0 && !take_run(ext, ext->lost_at + ext->lost_units,
                                        ext->map_units, &ext->map_at))
        return SLATE_ERR_TOO_SMALL;
    if (journal)
        take_journal(ext);
    return SLATE_OK;
}

static enum slate_status take_unit(struct slate_ext *ext,
                                   const struct slate_wish *wish)
{
    uint32_t unit = wish->cluster_bytes;
    uint64_t kibibytes = wish->range.count / 2 * (wish->block_bytes / 512);

    if (unit == 0)
        unit = kibibytes < SMALL_BYTES / 1024 ? 1024 : UNIT_MOST;
    if (wish->cluster_bytes == 0 && unit < wish->block_bytes)
        unit = wish->block_bytes;
    if (!slate_is_power_of_two(unit) || unit < 1024 || unit > UNIT_MOST ||
        unit < wish->block_bytes)
        return SLATE_ERR_CLUSTER;
    ext->unit_bytes = unit;
    ext->units = wish->range.count / (unit / wish->block_bytes);
    return SLATE_OK;
}

/* 16 bytes at most, whole characters. */
static enum slate_status take_label(struct slate_ext *ext, const char *wanted)
{
    size_t used = 0;
    uint32_t point;

    while (wanted != NULL && (point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        if (!slate_utf8_put(ext->label, sizeof ext->label, &used, point))
            break;
    }
    return SLATE_OK;
}

static void take_identifiers(struct slate_ext *ext,
                             const struct slate_wish *wish)
{
    struct slate_guid id;
    struct slate_sha256 sha;
    uint8_t digest[SLATE_DIGEST_BYTES];

    slate_guid_random(wish->id, &id);
    memcpy(ext->id, id.bytes, sizeof ext->id);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, wish->id, sizeof wish->id);
    slate_sha256_end(&sha, digest);
    memcpy(ext->hash_seed, digest, sizeof ext->hash_seed);
    ext->seconds = slate_stamp_seconds(&wish->stamp);
    ext->shared = wish->shared;
}

enum slate_status slate_ext_plan(const struct slate_wish *wish,
                                 union slate_volume_plan *plan)
{
    struct slate_ext *ext = (void *)plan;
    enum slate_status status;

    if (!slate_is_block_size(wish->block_bytes))
        return SLATE_ERR_BLOCK_SIZE;
    if (wish->start != NULL)
        return SLATE_ERR_START;
    if (wish->files != NULL)
        return SLATE_ERR_FORMAT; /* none are placed on this format */
    if (wish->range.count < VOLUME_BYTES_MIN / wish->block_bytes)
        return SLATE_ERR_TOO_SMALL;
    memset(ext, 0, sizeof *ext);
    ext->first = wish->range.first;
    ext->block_bytes = wish->block_bytes;
    SLATE_TRY(take_unit(ext, wish));
    if (groups_for(ext, ext->units) >
        slate_ext_group_units(ext) / DESCRIPTOR_SHARE *
            (ext->unit_bytes / SLATE_EXT_DESCRIPTOR))
        return SLATE_ERR_TOO_LARGE;
    drop_short_group(ext);
    ext->reserved = ext->units / RESERVED_SHARE;
    if (ext->reserved > RESERVED_BYTES_MOST / ext->unit_bytes)
        ext->reserved = RESERVED_BYTES_MOST / ext->unit_bytes;
    take_identifiers(ext, wish);
    ext->bad = wish->bad;
    status = slate_ext_count_bad(ext);
    if (status == SLATE_OK && !slate_ext_goes_around(ext))
        status = SLATE_ERR_BAD_BLOCK;
    SLATE_THEN(status, place(ext, !wish->no_journal));
    if (status == SLATE_ERR_TOO_SMALL && ext->bad_units > 0)
        status = SLATE_ERR_BAD_BLOCK;
    return status == SLATE_OK ? take_label(ext, wish->label) : status;
}

void slate_ext_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)
{
    const struct slate_ext ext = {.unit_bytes = UNIT_MOST};
    uint64_t groups = (uint64_t)slate_ext_group_units(&ext) / DESCRIPTOR_SHARE *
                      (UNIT_MOST / SLATE_EXT_DESCRIPTOR);

    (void)block_bytes;
    *least = VOLUME_BYTES_MIN;
    *most = groups * slate_ext_group_units(&ext) * UNIT_MOST;
}

void slate_ext_figures(const union slate_volume_plan *plan,
                       struct slate_figures *figures)
{
    const struct slate_ext *ext = (const void *)plan;

    memset(figures, 0, sizeof *figures);
    memcpy(figures->label, ext->label, sizeof ext->label);
    figures->cluster_bytes = ext->unit_bytes;
    figures->clusters = ext->units;
    figures->bad_clusters = ext->bad_units;
    figures->room_bytes = slate_ext_free(ext) * ext->unit_bytes;
    figures->file_most = figures->room_bytes;
    figures->no_journal = ext->journal_units == 0;
    figures->whole.first = ext->first;
    figures->whole.count = ext->units * (ext->unit_bytes / ext->block_bytes);
}
