/* SPDX-License-Identifier: MIT */
/* Where one partition over a whole device goes, and under which table. */
#include <stddef.h>

#include "table/table.h"

#define ALIGN_BYTES 1048576u
/* An erase unit beyond this is not believed. */
#define ERASE_BYTES_MAX 67108864u
/* As firmware sees disks that 1024 cylinders of them reach. */
#define SMALL_HEADS 16u

enum slate_table_kind slate_table_choose(const struct slate_geometry *geometry)
{
    return geometry->block_count <= UINT32_MAX ? SLATE_TABLE_MBR
                                               : SLATE_TABLE_GPT;
}

uint32_t slate_table_align(const struct slate_geometry *geometry)
{
    return geometry->erase_bytes > ALIGN_BYTES &&
                   geometry->erase_bytes <= ERASE_BYTES_MAX
               ? geometry->erase_bytes
               : ALIGN_BYTES;
}

const struct slate_composer *
slate_table_composer(const struct slate_table_plan *plan)
{
    bool changed = plan->image != NULL;

    if (plan->kind == SLATE_TABLE_MBR)
        return changed ? &slate_mbr_edit_composer : &slate_mbr_composer;
    if (plan->kind == SLATE_TABLE_GPT)
        return changed ? &slate_gpt_edit_composer : &slate_gpt_composer;
    return NULL;
}

void slate_table_usable(enum slate_table_kind kind, uint32_t entries,
                        const struct slate_geometry *geometry,
                        struct slate_range *usable)
{
    uint64_t head = 0, tail = 0, blocks = geometry->block_count;

    if (kind == SLATE_TABLE_MBR && blocks > UINT32_MAX)
        blocks = UINT32_MAX; /* ends, too, are counted in 32 bits by hosts */
    if (kind == SLATE_TABLE_MBR)
        head = 1;
    if (kind == SLATE_TABLE_GPT) {
        tail = 1 + slate_gpt_array_blocks(entries, geometry->block_bytes);
        head = 1 + tail;
    }
    usable->first = head;
    usable->count = blocks > head + tail ? blocks - head - tail : 0;
}

void slate_table_grid(const struct slate_geometry *geometry,
                      struct slate_grid *grid)
{
    uint64_t unit = slate_table_align(geometry) / geometry->block_bytes;

    *grid = (struct slate_grid){unit, 0, unit, 0, 0, 0};
}

void slate_table_cylinders(const struct slate_geometry *geometry,
                           uint16_t heads, uint16_t sectors,
                           struct slate_grid *grid)
{
    bool small = geometry->block_count <= (uint64_t)SLATE_CHS_CYLINDERS *
                                              SMALL_HEADS * SLATE_CHS_SECTORS;

    if (heads == 0) {
        heads = small ? SMALL_HEADS : SLATE_CHS_HEADS;
        sectors = SLATE_CHS_SECTORS;
    }
    *grid = (struct slate_grid){
        (uint64_t)heads * sectors, sectors, sectors, heads, sectors, 0};
}

enum slate_status slate_table_place(enum slate_table_kind kind,
                                    const struct slate_geometry *geometry,
                                    const struct slate_grid *grid,
                                    struct slate_range *range)
{
    bool cylinders = grid->heads != 0;
    uint64_t whole = geometry->physical_bytes / geometry->block_bytes;
    uint64_t end;

    slate_table_usable(kind, grid->entries, geometry, range);
    if (kind == SLATE_TABLE_NONE)
        return SLATE_OK;
    end = range->first + range->count;
    end -= end % (cylinders ? grid->unit : whole);
    range->first =
        cylinders ? 0
                  : (range->first + grid->unit - 1) / grid->unit * grid->unit;
    if (range->count == 0 || end <= range->first + grid->lead)
        return SLATE_ERR_TOO_SMALL;
    range->count = end - range->first;
    return SLATE_OK;
}
