/* SPDX-License-Identifier: MIT */
/* Cylinder, head and sector against the block number in an MBR entry. */
#include <stddef.h>

#include "table/table.h"

struct shape {
    uint32_t heads, sectors;
};

static struct slate_chs get_field(const uint8_t *field)
{
    return (struct slate_chs){field[2] | (uint32_t)(field[1] & 0xC0) << 2,
                              field[0], field[1] & 0x3Fu};
}

void slate_chs_put(uint8_t *field, struct slate_chs chs)
{
    field[0] = (uint8_t)chs.head;
    field[1] = (uint8_t)(chs.sector | (chs.cylinder >> 2 & 0xC0));
    field[2] = (uint8_t)chs.cylinder;
}

struct slate_chs slate_chs_of(uint64_t lba, uint32_t heads, uint32_t sectors)
{
    uint64_t cylinder = lba / heads / sectors;
    struct slate_chs chs = {(uint32_t)cylinder,
                            (uint32_t)(lba / sectors % heads),
                            (uint32_t)(lba % sectors) + 1};
    struct slate_chs last = {SLATE_CHS_CYLINDERS - 1, heads - 1, sectors};

    return cylinder < SLATE_CHS_CYLINDERS ? chs : last;
}

/* All zeros or all ones: whoever wrote the table left the address out. */
static bool is_left_out(const uint8_t *bytes)
{
    return (bytes[0] == 0x00 && bytes[1] == 0x00 && bytes[2] == 0x00) ||
           (bytes[0] >= 0xFE && bytes[1] == 0xFF && bytes[2] == 0xFF);
}

static bool agrees(const uint8_t *bytes, uint64_t lba, struct shape shape)
{
    struct slate_chs chs = get_field(bytes);
    uint64_t most = (uint64_t)SLATE_CHS_CYLINDERS * shape.heads * shape.sectors;

    if (is_left_out(bytes))
        return true;
    if (lba >= most)
        return chs.cylinder == SLATE_CHS_CYLINDERS - 1; /* at its limit */
    return chs.sector >= 1 && chs.sector <= shape.sectors &&
           chs.head < shape.heads &&
           ((uint64_t)chs.cylinder * shape.heads + chs.head) * shape.sectors +
                   chs.sector - 1 ==
               lba;
}

bool slate_mbr_chs_agrees(const struct slate_mbr_entry *entry, uint32_t *heads,
                          uint32_t *sectors)
{
    struct slate_chs last = get_field(entry->chs_last);
    static const struct shape usual[] = {
        {255, 63}, {16, 63}, {240, 63}, {128, 63}, {64, 63}, {32, 63},
        {64, 32},  {4, 17},  {6, 17},   {4, 26},   {2, 18}};
    /* at first, as a partition that ends with a cylinder tells its geometry */
    struct shape shape = {last.head + 1, last.sector};
    uint64_t end = (uint64_t)entry->first + entry->count - 1;

    *heads = 0;
    *sectors = 0;
    if (is_left_out(entry->chs_first) && is_left_out(entry->chs_last))
        return true;
    for (size_t i = 0; i <= sizeof usual / sizeof usual[0]; i++) {
        if (i > 0)
            shape = usual[i - 1];
        if (shape.sectors == 0 ||
            !agrees(entry->chs_first, entry->first, shape) ||
            !agrees(entry->chs_last, end, shape))
            continue;
        *heads = shape.heads;
        *sectors = shape.sectors;
        return true;
    }
    return false;
}
