/* SPDX-License-Identifier: MIT */
/* The blocks of files and folders: which are written, and what they hold. */
#include <string.h>

#include "volume/files/files.h"
#include "compose/compose.h"

/* Behind the end of a file so much of its cluster is written, so that files
 * that follow one another are written in one go. */
#define WRITTEN_UNIT_BYTES 32768u

/* Blocks of an item that are written; a folder has to be zeros to its end. */
static uint64_t written(const struct slate_placed *placed, uint32_t item)
{
    const struct slate_files *files = placed->files;
    uint64_t all =
        (uint64_t)files->spot[item].clusters * placed->clusters.blocks;
    uint64_t units;

    if (files->item[item].folder)
        return all;
    units = files->item[item].bytes / WRITTEN_UNIT_BYTES +
            (files->item[item].bytes % WRITTEN_UNIT_BYTES != 0);
    units *= WRITTEN_UNIT_BYTES / placed->block_bytes;
    return units < all ? units : all;
}

static uint64_t first_block(const struct slate_placed *placed, uint32_t item)
{
    return placed->clusters.first +
           (uint64_t)placed->files->spot[item].cluster *
               placed->clusters.blocks;
}

/* The extents of all items but the root. at: of the next one */
static bool next_items(const struct slate_placed *placed, uint64_t *at,
                       struct slate_extent *extent)
{
    uint32_t count = placed->files->count;
    uint32_t i = *at == 0 ? 1 : (uint32_t)*at;

    while (i < count && written(placed, i) == 0)
        i++;
    if (i >= count)
        return false;
    extent->first = first_block(placed, i);
    extent->count = 0;
    extent->role = placed->role;
    extent->zero = false;
    for (; i < count; i++) {
        uint64_t more = written(placed, i);

        if (more > 0 && first_block(placed, i) != extent->first + extent->count)
            break;
        extent->count += more;
    }
    *at = i;
    return true;
}

static bool items_cover(const struct slate_placed *placed, uint64_t lba,
                        uint64_t *until)
{
    const struct slate_clusters *clusters = &placed->clusters;
    uint64_t end =
        clusters->first + (uint64_t)clusters->count * clusters->blocks;
    uint64_t first;
    uint32_t item;

    *until = clusters->first;
    if (lba < clusters->first)
        return false;
    *until = UINT64_MAX;
    if (lba >= end)
        return false;
    item = slate_files_find(
        placed->files, (uint32_t)((lba - clusters->first) / clusters->blocks));
    if (item == placed->files->count)
        return false;
    first = first_block(placed, item);
    *until = first;
    if (lba < first)
        return false;
    *until = first + written(placed, item);
    if (lba < *until)
        return true;
    *until =
        first + (uint64_t)placed->files->spot[item].clusters * clusters->blocks;
    return false;
}

bool slate_placed_next(const struct slate_placed *placed,
                       const struct slate_row *row, uint32_t rows,
                       enum slate_moment moment, uint64_t *at,
                       struct slate_extent *extent)
{
    uint64_t behind;

    if (*at < rows && slate_rows_next(row, rows, moment, at, extent))
        return true;
    if (moment != SLATE_MOMENT_BODY || placed->files == NULL)
        return false;
    behind = *at - rows;
    if (!next_items(placed, &behind, extent))
        return false;
    *at = rows + behind;
    return true;
}

bool slate_placed_cover(const struct slate_placed *placed,
                        const struct slate_row *row, uint32_t rows,
                        uint64_t lba, uint64_t *until)
{
    uint64_t of_items;

    if (slate_rows_cover(row, rows, lba, until))
        return true;
    if (placed->files == NULL)
        return false;
    if (items_cover(placed, lba, &of_items)) {
        *until = of_items;
        return true;
    }
    *until = of_items < *until ? of_items : *until;
    return false;
}

bool slate_files_own(const struct slate_placed *placed, uint64_t lba)
{
    uint64_t until;

    return placed->files != NULL && items_cover(placed, lba, &until) &&
           lba >= first_block(placed, 0) +
                      (uint64_t)placed->files->spot[0].clusters *
                          placed->clusters.blocks;
}

/* The last item of a folder that begins at an entry or ahead of it. */
static uint32_t item_at(const struct slate_files *files, uint32_t folder,
                        uint32_t entry)
{
    uint32_t low = files->spot[folder].child;
    uint32_t high = low + files->spot[folder].children;

    while (high - low > 1) {
        uint32_t middle = low + (high - low) / 2;

        if (files->spot[middle].entry <= entry)
            low = middle;
        else
            high = middle;
    }
    return low;
}

/* Where the head of a folder begins. */
static uint32_t head_entry(const struct slate_placed *placed, uint32_t folder)
{
    const struct slate_files *files = placed->files;
    const struct slate_spot *root = &files->spot[0];

    if (folder != 0 || !placed->folders.head_behind || files->ahead == 0)
        return 0;
    if (files->ahead < root->children)
        return files->spot[root->child + files->ahead].entry -
               placed->folders.root_head;
    return slate_files_entries(files, &placed->folders, 0) -
           placed->folders.root_head;
}

static void put_entry(const struct slate_placed *placed, uint32_t folder,
                      uint32_t at, uint8_t *entry)
{
    const struct slate_files *files = placed->files;
    const struct slate_folders *folders = &placed->folders;
    uint32_t head = head_entry(placed, folder);
    uint32_t heads = folder == 0 ? folders->root_head : folders->head, item;

    if (at >= head && at - head < heads) {
        folders->put_head(folders, files, folder, at - head, entry);
        return;
    }
    if (files->spot[folder].children == 0)
        return;
    item = item_at(files, folder, at);
    if (at - files->spot[item].entry < files->spot[item].entries)
        folders->put(folders, files, item, at - files->spot[item].entry, entry);
}

void slate_folder_put(const struct slate_placed *placed, uint32_t folder,
                      uint32_t first, uint32_t count, uint8_t *data)
{
    uint32_t end = slate_files_entries(placed->files, &placed->folders, folder);

    for (uint32_t i = 0; i < count && first + i < end; i++)
        put_entry(placed, folder, first + i,
                  data + (size_t)i * SLATE_FOLDER_ENTRY_BYTES);
}

/* bytes: of whole blocks; zeros behind the end of the file */
static enum slate_status put_file(const struct slate_files *files,
                                  uint32_t item, uint64_t at, uint32_t bytes,
                                  uint8_t *data)
{
    const struct slate_sourced file = {item, files->item[item].bytes,
                                       files->item[item].digest};
    uint32_t count = bytes;

    if (at >= file.bytes)
        count = 0;
    else if (file.bytes - at < count)
        count = (uint32_t)(file.bytes - at);
    memset(data + count, 0, bytes - count);
    return count == 0
               ? SLATE_OK
               : slate_source_take(files->source, &file, at, count, data);
}

/* Blocks of one item. */
static enum slate_status put_item(const struct slate_placed *placed,
                                  uint32_t item, uint64_t block, uint32_t bytes,
                                  uint8_t *data)
{
    uint64_t at = block * placed->block_bytes;

    if (!placed->files->item[item].folder)
        return put_file(placed->files, item, at, bytes, data);
    memset(data, 0, bytes);
    slate_folder_put(placed, item, (uint32_t)(at / SLATE_FOLDER_ENTRY_BYTES),
                     bytes / SLATE_FOLDER_ENTRY_BYTES, data);
    return SLATE_OK;
}

enum slate_status slate_files_fill(const struct slate_placed *placed,
                                   uint64_t first, uint32_t count, void *data)
{
    uint8_t *to = data;
    enum slate_status status = SLATE_OK;

    while (count > 0 && status == SLATE_OK) {
        uint64_t cluster =
            (first - placed->clusters.first) / placed->clusters.blocks;
        uint32_t item = slate_files_find(placed->files, (uint32_t)cluster);
        uint64_t from, left;
        uint32_t run;

        if (item == placed->files->count || first_block(placed, item) > first)
            return SLATE_ERR_INTERNAL;
        from = first - first_block(placed, item);
        left = (uint64_t)placed->files->spot[item].clusters *
                   placed->clusters.blocks -
               from;
        run = left < count ? (uint32_t)left : count;
        status = put_item(placed, item, from, run * placed->block_bytes, to);
        to += (size_t)run * placed->block_bytes;
        first += run;
        count -= run;
    }
    return status;
}
