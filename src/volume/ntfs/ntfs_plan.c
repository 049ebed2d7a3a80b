/* SPDX-License-Identifier: MIT */
/* The geometry of an NTFS volume: clusters, what it keeps in them, limits. */

#include "base/base.h"
#include "volume/ntfs/ntfs.h"
#include "volume/common/common.h"

#define VOLUME_BYTES_MIN UINT64_C(8388608)
#define CLUSTER_LEAST 4096u /* unless another one is asked for */
#define CLUSTER_MOST 2097152u
#define CLUSTERS_MOST UINT64_C(0xFFFFFFFF)
#define RECORD_LEAST 1024u
/* Hosts want 48 pages of a log; a short one is quickly written. */
#define LOG_LEAST 262144u
#define LOG_MOST 4194304u
#define LOG_SHARE 256u
#define DEFINITIONS_BYTES 2560u
#define LIST_MOST 262144u
#define SECONDS_TO_1970 UINT64_C(11644473600)
#define TICKS UINT64_C(10000000)

uint64_t slate_ntfs_bytes(const struct slate_ntfs *ntfs,
                          enum slate_ntfs_stream stream)
{
    switch (stream) {
    case SLATE_NTFS_BOOT:
        return SLATE_NTFS_BOOT_BYTES;
    case SLATE_NTFS_LOG:
        return ntfs->log_bytes;
    case SLATE_NTFS_DEFINITIONS:
        return DEFINITIONS_BYTES;
    case SLATE_NTFS_UPCASE:
        return SLATE_NTFS_UPCASE_BYTES;
    case SLATE_NTFS_SECURITY:
        return SLATE_NTFS_SECURITY_APART + slate_ntfs_rights_bytes(ntfs);
    case SLATE_NTFS_RECORD_BITS:
        return ((uint64_t)ntfs->records + 63) / 64 * 8;
    case SLATE_NTFS_ROOT:
        return SLATE_NTFS_INDEX_BYTES;
    case SLATE_NTFS_BITMAP:
        return ((uint64_t)ntfs->clusters + 63) / 64 * 8;
    case SLATE_NTFS_PARTS:
        return ntfs->bad_parts == 0
                   ? 0
                   : SLATE_NTFS_LIST_HEAD +
                         (uint64_t)ntfs->bad_parts * SLATE_NTFS_LIST_EACH;
    case SLATE_NTFS_RECORDS:
        return (uint64_t)ntfs->records * ntfs->record_bytes;
    case SLATE_NTFS_MIRROR:
        return (uint64_t)SLATE_NTFS_MIRRORED * ntfs->record_bytes;
    }
    return 0;
}

uint32_t slate_ntfs_clusters(const struct slate_ntfs *ntfs,
                             enum slate_ntfs_stream stream)
{
    return (
        uint32_t)((slate_ntfs_bytes(ntfs, stream) + ntfs->cluster_bytes - 1) /
                  ntfs->cluster_bytes);
}

void slate_ntfs_grid(const struct slate_ntfs *ntfs,
                     struct slate_clusters *clusters)
{
    clusters->first = ntfs->first;
    clusters->blocks = ntfs->cluster_bytes / ntfs->block_bytes;
    clusters->count = ntfs->clusters;
}

void slate_ntfs_range(const struct slate_ntfs *ntfs,
                      enum slate_ntfs_stream stream, struct slate_range *range)
{
    range->first = ntfs->first + (uint64_t)ntfs->at[stream] *
                                     (ntfs->cluster_bytes / ntfs->block_bytes);
    range->count = (slate_ntfs_bytes(ntfs, stream) + ntfs->block_bytes - 1) /
                   ntfs->block_bytes;
}

/* Clusters in use, the bad ones apart. */
static uint64_t used_clusters(const struct slate_ntfs *ntfs)
{
    uint64_t used = 0;

    for (int i = 0; i < SLATE_NTFS_STREAMS; i++)
        used += slate_ntfs_clusters(ntfs, (enum slate_ntfs_stream)i);
    return used;
}

enum slate_status slate_ntfs_label(const char *wanted, char *label)
{
    uint32_t units = 0;
    size_t used = 0;
    uint32_t point;

    memset(label, 0, SLATE_NTFS_LABEL_ROOM);
    while (wanted != NULL && (point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        units += point > 0xFFFF ? 2 : 1;
        if (units <= SLATE_NTFS_LABEL_UNITS)
            (void)slate_utf8_put(label, SLATE_NTFS_LABEL_ROOM, &used,
                                 point < 0x20 ? '_' : point);
        else
            units = SLATE_NTFS_LABEL_UNITS; /* the rest is looked at only */
    }
    return SLATE_OK;
}

uint32_t slate_ntfs_label_units(const char *label,
                                uint8_t text[2 * SLATE_NTFS_LABEL_UNITS])
{
    uint32_t units = 0;

    memset(text, 0, (size_t)2 * SLATE_NTFS_LABEL_UNITS);
    slate_utf8_to_utf16(label, text, SLATE_NTFS_LABEL_UNITS);
    while (units < SLATE_NTFS_LABEL_UNITS &&
           slate_le16(text + (size_t)2 * units) != 0)
        units++;
    return units;
}

/* The volume's last block stands outside of the clusters. */
static uint64_t clusters_for(const struct slate_ntfs *ntfs)
{
    return (ntfs->blocks - 1) / (ntfs->cluster_bytes / ntfs->block_bytes);
}

static enum slate_status take_cluster(struct slate_ntfs *ntfs, uint32_t wanted)
{
    ntfs->cluster_bytes = wanted;
    if (wanted == 0) {
        ntfs->cluster_bytes = CLUSTER_LEAST;
        while (clusters_for(ntfs) > CLUSTERS_MOST &&
               ntfs->cluster_bytes < CLUSTER_MOST)
            ntfs->cluster_bytes *= 2;
    } else if (!slate_is_power_of_two(wanted) || wanted < ntfs->block_bytes ||
               wanted > CLUSTER_MOST) {
        return SLATE_ERR_CLUSTER;
    }
    if (clusters_for(ntfs) > CLUSTERS_MOST)
        return SLATE_ERR_TOO_LARGE;
    ntfs->clusters = (uint32_t)clusters_for(ntfs);
    return SLATE_OK;
}

static void take_log(struct slate_ntfs *ntfs)
{
    uint64_t share = (uint64_t)ntfs->clusters * ntfs->cluster_bytes / LOG_SHARE;

    ntfs->log_bytes = LOG_LEAST;
    while (ntfs->log_bytes < LOG_MOST && ntfs->log_bytes < share)
        ntfs->log_bytes *= 2;
}

/* Bad clusters, the records that tell of them, and all other records. */
static enum slate_status take_records(struct slate_ntfs *ntfs)
{
    struct slate_clusters grid;
    uint32_t each = slate_ntfs_runs_each(ntfs), records;

    slate_ntfs_grid(ntfs, &grid);
    ntfs->bad_clusters = slate_bad_count(ntfs->bad, &grid);
    ntfs->bad_runs = slate_ntfs_count_runs(ntfs);
    if (ntfs->bad_runs > slate_ntfs_runs_alone(ntfs))
        ntfs->bad_parts = (ntfs->bad_runs + each - 1) / each;
    if (slate_ntfs_bytes(ntfs, SLATE_NTFS_PARTS) > LIST_MOST)
        return SLATE_ERR_BAD_LIST;
    records = SLATE_NTFS_PARTS_RECORD + ntfs->bad_parts;
    ntfs->records = SLATE_NTFS_RECORDS_LEAST;
    while (ntfs->records < records)
        ntfs->records += SLATE_NTFS_RECORDS_LEAST;
    return SLATE_OK;
}

/* The last clusters in a row that are not bad. */
static bool place_mirror(struct slate_ntfs *ntfs,
                         const struct slate_clusters *grid)
{
    uint32_t length = slate_ntfs_clusters(ntfs, SLATE_NTFS_MIRROR);
    uint32_t end = ntfs->clusters, bad;

    while (end >= length && end - length >= ntfs->reach) {
        bad = slate_bad_cluster(ntfs->bad, grid, end - length);
        if (bad >= end) {
            ntfs->at[SLATE_NTFS_MIRROR] = end - length;
            return true;
        }
        end = bad;
    }
    return false;
}

/* One behind the other, around bad clusters. */
static bool place(struct slate_ntfs *ntfs)
{
    struct slate_clusters grid;

    slate_ntfs_grid(ntfs, &grid);
    for (int i = 0; i < SLATE_NTFS_MIRROR; i++) {
        uint32_t length = slate_ntfs_clusters(ntfs, (enum slate_ntfs_stream)i);

        if (length > 0 &&
            !slate_bad_run(ntfs->bad, &grid, length, &ntfs->reach))
            return false;
        ntfs->at[i] = ntfs->reach;
        ntfs->reach += length;
    }
    return ntfs->at[SLATE_NTFS_BOOT] == 0 && place_mirror(ntfs, &grid);
}

static bool last_is_bad(const struct slate_ntfs *ntfs)
{
    const struct slate_range last = {ntfs->first + ntfs->blocks - 1, 1};
    uint64_t block;

    return slate_bad_first(ntfs->bad, &last, &block);
}

static void take_identifiers(struct slate_ntfs *ntfs,
                             const struct slate_wish *wish)
{
    ntfs->serial = slate_le64(wish->id);
    ntfs->time = (SECONDS_TO_1970 + slate_stamp_seconds(&wish->stamp)) * TICKS;
    ntfs->shared = wish->shared;
    ntfs->heads = wish->heads == 0 ? 255 : wish->heads;
    ntfs->track_sectors = wish->track_sectors == 0 ? 63 : wish->track_sectors;
}

enum slate_status slate_ntfs_plan(const struct slate_wish *wish,
                                  union slate_volume_plan *plan)
{
    struct slate_ntfs *ntfs = (void *)plan;
    uint32_t block = wish->block_bytes;
    enum slate_status status;

    if (!slate_is_block_size(block))
        return SLATE_ERR_BLOCK_SIZE;
    if (wish->start != NULL)
        return SLATE_ERR_START;
    if (wish->files != NULL)
        return SLATE_ERR_FORMAT; /* none are placed on this format */
    if (wish->range.count < VOLUME_BYTES_MIN / block)
        return SLATE_ERR_TOO_SMALL;
    memset(ntfs, 0, sizeof *ntfs);
    ntfs->first = wish->range.first;
    ntfs->blocks = wish->range.count;
    ntfs->block_bytes = block;
    ntfs->record_bytes = block > RECORD_LEAST ? block : RECORD_LEAST;
    ntfs->bad = wish->bad;
    take_identifiers(ntfs, wish);
    status = take_cluster(ntfs, wish->cluster_bytes);
    SLATE_THEN(status, take_records(ntfs));
    SLATE_TRY(status);
    take_log(ntfs);
    if (last_is_bad(ntfs) || !place(ntfs))
        return ntfs->bad_clusters > 0 || last_is_bad(ntfs)
                   ? SLATE_ERR_BAD_BLOCK
                   : SLATE_ERR_TOO_SMALL;
    return slate_ntfs_label(wish->label, ntfs->label);
}

void slate_ntfs_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)
{
    *least = VOLUME_BYTES_MIN;
    *most = CLUSTERS_MOST * CLUSTER_MOST + block_bytes;
}

void slate_ntfs_figures(const union slate_volume_plan *plan,
                        struct slate_figures *figures)
{
    const struct slate_ntfs *ntfs = (const void *)plan;

    memset(figures, 0, sizeof *figures);
    memcpy(figures->label, ntfs->label, sizeof ntfs->label);
    figures->serial = (uint32_t)ntfs->serial; /* as hosts show it */
    figures->cluster_bytes = ntfs->cluster_bytes;
    figures->clusters = ntfs->clusters;
    figures->bad_clusters = ntfs->bad_clusters;
    figures->room_bytes =
        (ntfs->clusters - used_clusters(ntfs) - ntfs->bad_clusters) *
        ntfs->cluster_bytes;
    figures->file_most = figures->room_bytes;
    figures->whole.first = ntfs->first;
    figures->whole.count = ntfs->blocks;
}
