/* SPDX-License-Identifier: MIT */
/* The list of block formats that a command set fills. */
#include "lowlevel/lowlevel.h"

void slate_lowlevel_note(struct slate_lowlevel_facts *facts,
                         const struct slate_block_format *format)
{
    if (facts->formats < SLATE_BLOCK_FORMATS_MAX)
        facts->format[facts->formats++] = *format;
}

const struct slate_block_format *
slate_lowlevel_format_of(const struct slate_lowlevel_facts *facts,
                         uint32_t block_bytes)
{
    const struct slate_block_format *best = NULL;

    for (uint32_t i = 0; i < facts->formats; i++) {
        const struct slate_block_format *one = &facts->format[i];

        if (one->block_bytes == block_bytes && one->extra_bytes == 0 &&
            (best == NULL || one->speed < best->speed))
            best = one;
    }
    return best;
}
