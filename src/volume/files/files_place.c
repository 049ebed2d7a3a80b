/* SPDX-License-Identifier: MIT */
/* Where files and folders go: entries in folders, clusters in a row. */

#include "base/base.h"
#include "volume/files/files.h"

#define FOLDER_ITEMS_MOST 8388608u

/* The items of a folder follow one another. */
static void take_children(struct slate_files *files)
{
    for (uint32_t i = 1; i < files->count; i++) {
        struct slate_spot *folder = &files->spot[files->item[i].parent];

        if (folder->children++ == 0)
            folder->child = i;
    }
}

static bool root_head_follows(const struct slate_files *files,
                              const struct slate_folders *folders)
{
    return folders->head_behind && files->ahead >= files->spot[0].children;
}

uint32_t slate_files_entries(const struct slate_files *files,
                             const struct slate_folders *folders,
                             uint32_t folder)
{
    const struct slate_spot *spot = &files->spot[folder];
    uint32_t head = folder == 0 ? folders->root_head : folders->head, last;

    if (spot->children == 0)
        return head;
    last = spot->child + spot->children - 1;
    return files->spot[last].entry + files->spot[last].entries +
           (folder == 0 && root_head_follows(files, folders) ? head : 0);
}

/* Entries ahead of those of the first item. */
static uint32_t first_entry(const struct slate_folders *folders,
                            uint32_t folder)
{
    if (folder != 0)
        return folders->head;
    return folders->head_behind ? 0 : folders->root_head;
}

static void count_folder(struct slate_files *files,
                         const struct slate_folders *folders, uint32_t folder)
{
    const struct slate_spot *spot = &files->spot[folder];
    uint32_t next = first_entry(folders, folder);

    for (uint32_t i = 0; i < spot->children; i++) {
        uint32_t item = spot->child + i;

        if (folder == 0 && folders->head_behind && i == files->ahead)
            next += folders->root_head;
        files->spot[item].entry = next;
        files->spot[item].entries = folders->entries(files, item);
        next += files->spot[item].entries;
    }
}

/* Each item has at most 20 entries, and there are no more than 2^23 of them:
 * the sum is a number. */
static enum slate_status check_folder(struct slate_files *files,
                                      const struct slate_folders *folders,
                                      uint32_t folder)
{
    if (files->spot[folder].children < FOLDER_ITEMS_MOST) {
        count_folder(files, folders, folder);
        if (slate_files_entries(files, folders, folder) <=
            folders->entries_most)
            return SLATE_OK;
    }
    files->refused = folder;
    files->why = "has more entries than a folder holds";
    return SLATE_ERR_FILES;
}

enum slate_status slate_files_count(struct slate_files *files,
                                    const struct slate_folders *folders)
{
    enum slate_status status = SLATE_OK;

    files->why = NULL;
    for (uint32_t i = 0; i < files->count; i++) {
        struct slate_spot *spot = &files->spot[i];

        spot->cluster = spot->clusters = spot->child = spot->children = 0;
        if (files->item[i].bytes > folders->file_most) {
            files->refused = i;
            return SLATE_ERR_FILE_SIZE;
        }
    }
    take_children(files);
    for (uint32_t i = 0; i < files->count && status == SLATE_OK; i++) {
        if (files->item[i].folder)
            status = check_folder(files, folders, i);
    }
    return status;
}

/* An empty folder takes a cluster all the same. */
static uint64_t bytes_of(const struct slate_files *files,
                         const struct slate_folders *folders, uint32_t item)
{
    uint64_t entries;

    if (!files->item[item].folder)
        return files->item[item].bytes;
    entries = slate_files_entries(files, folders, item);
    return entries == 0 ? 1 : entries * SLATE_FOLDER_ENTRY_BYTES;
}

static uint64_t clusters_for(uint64_t bytes, uint32_t cluster_bytes)
{
    return bytes / cluster_bytes + (bytes % cluster_bytes != 0);
}

uint32_t slate_files_root_clusters(const struct slate_files *files,
                                   const struct slate_folders *folders,
                                   uint32_t cluster_bytes)
{
    return (uint32_t)clusters_for(bytes_of(files, folders, 0), cluster_bytes);
}

enum slate_status slate_files_place(struct slate_files *files,
                                    const struct slate_placed *placed,
                                    const struct slate_ranges *bad,
                                    uint32_t from, uint32_t *reach,
                                    uint32_t *used)
{
    const struct slate_clusters *clusters = &placed->clusters;
    uint32_t cluster_bytes = clusters->blocks * placed->block_bytes;

    *reach = from;
    *used = 0;
    for (uint32_t i = 1; i < files->count; i++) {
        struct slate_spot *spot = &files->spot[i];
        uint64_t count =
            clusters_for(bytes_of(files, &placed->folders, i), cluster_bytes);

        files->refused = i;
        if (count > clusters->count ||
            (count > 0 &&
             !slate_bad_run(bad, clusters, (uint32_t)count, reach)))
            return SLATE_ERR_FILES;
        spot->cluster = *reach;
        spot->clusters = (uint32_t)count;
        *reach += spot->clusters;
        *used += spot->clusters;
    }
    return SLATE_OK;
}

uint32_t slate_files_find(const struct slate_files *files, uint32_t cluster)
{
    uint32_t low = 0, high = files->count;

    SLATE_BISECT(low, high, i,
                 (uint64_t)files->spot[i].cluster + files->spot[i].clusters <=
                     cluster);
    return low;
}

bool slate_files_holds(const struct slate_files *files, uint32_t cluster,
                       bool *goes_on)
{
    uint32_t item = slate_files_find(files, cluster);
    const struct slate_spot *spot = &files->spot[item];

    if (item == files->count || spot->cluster > cluster)
        return false;
    *goes_on = cluster + 1 - spot->cluster < spot->clusters;
    return true;
}
