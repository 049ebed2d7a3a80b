/* SPDX-License-Identifier: MIT */
/* Which clusters of NTFS are free: its seventh record tells where the bitmap
 * stands. A long one is counted step by step, apart from a look. */
#include <string.h>

#include "volume/ntfs/ntfs.h"

/* A longer one would take what a look at a device may read. */
#define BITMAP_BYTES_MOST 131072u

/* Finds the bitmap's mapping, in a count that has its media and range. */
static bool find(const struct slate_ntfs_reading *reading,
                 const struct slate_volume *volume,
                 struct slate_volume_count *count)
{
    uint64_t bytes = 0, byte;
    const uint8_t *record = slate_ntfs_read_record(
        reading, reading->table, SLATE_NTFS_BITMAP_RECORD, &byte);

    count->clusters = volume->clusters;
    count->cluster_bytes = volume->cluster_bytes;
    count->total = (volume->clusters + 7) / 8;
    return record != NULL &&
           slate_ntfs_find_map(record, reading->length, count->map, &bytes) &&
           bytes >= count->total;
}

/* The next stretch of the bitmap, all of it inside the volume. */
static bool next_stretch(struct slate_volume_count *count)
{
    struct slate_ntfs_stretch stretch = {count->stretch, 0, count->next};

    if (!slate_ntfs_next_stretch(count->map, &stretch) ||
        stretch.first >= count->clusters ||
        stretch.clusters > count->clusters - stretch.first)
        return false;
    count->stretch = stretch.first;
    count->next = stretch.next;
    count->at = stretch.first * count->cluster_bytes;
    count->left = stretch.clusters * count->cluster_bytes;
    return true;
}

/* Counts so many bytes at most. */
static bool count_piece(struct slate_reader *reader, uint64_t most,
                        struct slate_volume_count *count)
{
    uint64_t bytes = count->total - count->done, bits;

    if (count->left == 0 && !next_stretch(count))
        return false;
    bytes = bytes < count->left ? bytes : count->left;
    bytes = bytes < most ? bytes : most;
    bits = count->clusters - count->done * 8;
    if (!slate_reader_count(reader, count->at,
                            bits < bytes * 8 ? bits : bytes * 8, &count->used))
        return false;
    count->at += bytes;
    count->left -= bytes;
    count->done += bytes;
    return true;
}

static void take(const struct slate_volume_count *count,
                 struct slate_volume *volume)
{
    volume->free_known = true;
    volume->free_clusters = count->clusters - count->used;
}

void slate_ntfs_count(const struct slate_ntfs_reading *reading,
                      struct slate_volume *volume)
{
    struct slate_volume_count count = {0};

    if (!find(reading, volume, &count) || count.total > BITMAP_BYTES_MOST)
        return;
    while (count.done < count.total) {
        if (!count_piece(reading->reader, count.total, &count))
            return;
    }
    take(&count, volume);
}

static struct slate_reader reader_of(const struct slate_volume_count *count)
{
    return (struct slate_reader){.media = count->media,
                                 .range = count->range,
                                 .work = count->work,
                                 .room = count->work_bytes};
}

enum slate_status slate_volume_count_start(struct slate_volume_count *count,
                                           struct slate_media *media,
                                           const struct slate_range *range,
                                           struct slate_volume *volume,
                                           void *work, size_t work_bytes)
{
    struct slate_ntfs_reading reading;
    struct slate_reader reader;
    uint8_t boot[SLATE_PIECE_BYTES];
    const uint8_t *start;

    if (count == NULL || media == NULL || range == NULL || volume == NULL ||
        volume->kind != SLATE_VOLUME_NTFS || volume->free_known)
        return SLATE_ERR_ARGUMENT;
    if (work == NULL || work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    memset(count, 0, sizeof *count);
    count->media = media;
    count->range = *range;
    count->volume = volume;
    count->work = work;
    count->work_bytes =
        work_bytes < UINT32_MAX / 8 ? (uint32_t)work_bytes : UINT32_MAX / 8;
    count->work_bytes -= count->work_bytes % SLATE_WORK_MIN;
    reader = reader_of(count);
    start = slate_reader_cut(&reader)
                ? slate_reader_at(&reader, 0, SLATE_PIECE_BYTES)
                : NULL;
    count->range = reader.range;
    if (start == NULL)
        return reader.status == SLATE_OK ? SLATE_ERR_READ : reader.status;
    memcpy(boot, start, sizeof boot);
    count->status = slate_ntfs_begin(&reader, boot, volume, &reading) &&
                            find(&reading, volume, count)
                        ? SLATE_OK
                        : SLATE_ERR_READ;
    return reader.status == SLATE_OK ? count->status : reader.status;
}

enum slate_status slate_volume_count_step(struct slate_volume_count *count)
{
    struct slate_reader reader = reader_of(count);

    if (count->status != SLATE_OK || count->done == count->total)
        return count->status;
    if (!count_piece(&reader, count->work_bytes, count))
        count->status =
            reader.status == SLATE_OK ? SLATE_ERR_READ : reader.status;
    else if (count->done == count->total)
        take(count, count->volume);
    return count->status;
}
