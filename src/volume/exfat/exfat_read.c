/* SPDX-License-Identifier: MIT */
/* A closer look at exFAT (file system specification 1.00, 3.1, 7). */

#include "base/base.h"
#include "volume/exfat/exfat.h"
#include "volume/common/common.h"

/* Bitmaps up to here are counted; of larger ones the share in use tells. */
#define BITMAP_BYTES_MOST 131072u

static uint64_t cluster_at(const struct slate_volume *volume, uint32_t cluster)
{
    return volume->clusters_at +
           (uint64_t)(cluster - SLATE_EXFAT_FIRST_CLUSTER) *
               volume->cluster_bytes;
}

static const uint8_t *find_entry(const uint8_t *root, uint8_t type)
{
    for (uint32_t at = 0; at < SLATE_PIECE_BYTES && root[at] != 0;
         at += SLATE_EXFAT_ENTRY_BYTES) {
        if (root[at] == type)
            return root + at;
    }
    return NULL;
}

static void take_label(const uint8_t *root, struct slate_volume *volume)
{
    const uint8_t *entry = find_entry(root, SLATE_EXFAT_ENTRY_LABEL);

    if (entry != NULL &&
        entry[SLATE_EXFAT_LABEL_LENGTH] <= SLATE_EXFAT_LABEL_UNITS)
        slate_label_utf16(volume, entry + SLATE_EXFAT_LABEL_TEXT,
                          entry[SLATE_EXFAT_LABEL_LENGTH]);
}

/* A bitmap that is longer than a cluster may be scattered. */
static bool is_one_run(struct slate_reader *reader, uint64_t table,
                       uint32_t cluster, uint32_t count)
{
    const uint8_t *entry;

    if (count < 2)
        return true;
    if (count > SLATE_WORK_MIN / 8)
        return false;
    entry = slate_reader_at(reader, table + (uint64_t)cluster * 4, count * 4);
    for (uint32_t i = 0; entry != NULL && i + 1 < count; i++)
        if (slate_le32(entry + (size_t)4 * i) != cluster + i + 1)
            entry = NULL;
    return entry != NULL;
}

static void count_free(struct slate_reader *reader, const uint8_t *boot,
                       uint32_t cluster, uint64_t bytes,
                       struct slate_volume *volume)
{
    uint64_t table =
        (uint64_t)slate_le32(boot + SLATE_EXFAT_TABLE_AT) * volume->block_bytes;
    uint32_t clusters = (uint32_t)volume->clusters;
    uint64_t used = 0;

    if (cluster < SLATE_EXFAT_FIRST_CLUSTER || bytes > BITMAP_BYTES_MOST ||
        bytes != ((uint64_t)clusters + 7) / 8 ||
        !is_one_run(reader, table, cluster,
                    (uint32_t)((bytes + volume->cluster_bytes - 1) /
                               volume->cluster_bytes)) ||
        !slate_reader_count(reader, cluster_at(volume, cluster), clusters,
                            &used))
        return;
    volume->free_known = true;
    volume->free_clusters = clusters - used;
}

/* Bitmap, up-case table, and the root's first cluster. */
static void take_own(const uint8_t *bitmap, const uint8_t *upcase,
                     struct slate_volume *volume)
{
    const uint8_t *const own[] = {bitmap, upcase};

    volume->own_known = bitmap != NULL && upcase != NULL;
    volume->own_clusters = 1;
    for (int i = 0; volume->own_known && i < 2; i++) {
        uint64_t bytes = slate_le64(own[i] + SLATE_EXFAT_ENTRY_LENGTH);

        volume->own_clusters += bytes / volume->cluster_bytes +
                                (bytes % volume->cluster_bytes != 0);
    }
}

static void read_root(struct slate_reader *reader, const uint8_t *boot,
                      struct slate_volume *volume)
{
    uint32_t root = slate_le32(boot + SLATE_EXFAT_ROOT_CLUSTER);
    const uint8_t *entries =
        root < SLATE_EXFAT_FIRST_CLUSTER
            ? NULL
            : slate_reader_at(reader, cluster_at(volume, root),
                              SLATE_PIECE_BYTES);
    const uint8_t *bitmap;

    if (entries == NULL)
        return;
    take_label(entries, volume);
    bitmap = find_entry(entries, SLATE_EXFAT_ENTRY_BITMAP);
    take_own(bitmap, find_entry(entries, SLATE_EXFAT_ENTRY_UPCASE), volume);
    if (bitmap != NULL)
        count_free(reader, boot, slate_le32(bitmap + SLATE_EXFAT_ENTRY_CLUSTER),
                   slate_le64(bitmap + SLATE_EXFAT_ENTRY_LENGTH), volume);
}

void slate_exfat_read(struct slate_reader *reader, const uint8_t *boot,
                      struct slate_volume *volume)
{
    if (volume->cluster_bytes == 0)
        return; /* its sizes make no sense */
    if (volume->dirty)
        slate_reader_flag(reader, SLATE_FLAG_DIRTY, SLATE_EXFAT_FLAGS,
                          SLATE_EXFAT_DIRTY, false);
    read_root(reader, boot, volume);
    slate_reader_copy(reader,
                      (uint64_t)SLATE_EXFAT_REGION_BLOCKS * volume->block_bytes,
                      boot, slate_exfat_is_changing, volume);
}
