/* SPDX-License-Identifier: MIT */
/* What a new volume's room goes to. */
#include <string.h>

#include "trueslate/draft.h"
#include "volume/common/common.h"

/* Start-up files stand first, and are marked as the system's. */
static bool is_system(const struct slate_files *files, uint32_t index)
{
    const struct slate_item *item = &files->item[index];

    return !item->folder && item->parent == 0 &&
           (index <= files->ahead ||
            (item->attributes & SLATE_ITEM_SYSTEM) != 0);
}

static void add_files(const struct slate_files *files,
                      struct slate_totals *totals)
{
    for (uint32_t i = 1; i < files->count; i++) {
        uint64_t bytes =
            (uint64_t)files->spot[i].clusters * totals->cluster_bytes;

        if (is_system(files, i)) {
            totals->system_files++;
            totals->system_bytes += bytes;
        } else {
            totals->files += files->item[i].folder ? 0 : 1;
            totals->folders += files->item[i].folder ? 1 : 0;
            totals->file_bytes += bytes;
        }
    }
}

bool slate_draft_totals(const struct slate_draft *draft, uint32_t part,
                        struct slate_totals *totals)
{
    const struct slate_part *of = &draft->part[part];
    struct slate_figures figures;

    memset(totals, 0, sizeof *totals);
    if (of->format == NULL ||
        !slate_kind_is_akin(of->format->kind, SLATE_VOLUME_FAT32))
        return false;
    of->format->figures(&of->volume, &figures);
    totals->cluster_bytes = figures.cluster_bytes;
    totals->bytes = figures.clusters * figures.cluster_bytes;
    totals->bad_bytes = figures.bad_clusters * figures.cluster_bytes;
    if (of->ask.files)
        add_files(&draft->files, totals);
    totals->free_bytes = totals->bytes - totals->bad_bytes -
                         figures.placed_clusters * figures.cluster_bytes;
    return true;
}
