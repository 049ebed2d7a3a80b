/* SPDX-License-Identifier: MIT */
/* A planned volume, as blocks to be read: none of it is written anywhere. */
#ifndef TESTS_COMPOSED_H
#define TESTS_COMPOSED_H

#include <trueslate/trueslate.h>

/* Where blocks of a volume come from. */
struct volume_blocks {
    void *context;
    void (*read)(void *context, uint64_t block, uint8_t *data);
    uint32_t block_bytes;
    uint64_t blocks;
};

struct composed_volume {
    const struct slate_format *format;
    const union slate_volume_plan *plan;
    struct slate_range range; /* blocks of the device */
    uint32_t block_bytes;
};

/* Behind the first MiB of a device, with an identifier, a stamp and a label
 * "Shore 7"; without a length. */
void composed_wish(struct slate_wish *wish);

/* Plans what is wished for with these sizes. */
enum slate_status composed_try(const struct slate_format *format,
                               struct slate_wish *wish, uint32_t block_bytes,
                               uint64_t bytes, uint32_t cluster_bytes,
                               union slate_volume_plan *plan);

/* What no extent covers is noise: a volume must not depend on it. */
void composed_blocks(struct composed_volume *of, struct volume_blocks *blocks);

/* Extents do not overlap, lie within, and are what is covered: as many blocks.
 * Those that are said to be zeros are. */
void composed_extents(const struct composed_volume *of);

/* Sixty sizes, odd ones too, of every block size and at any place. */
void composed_sizes(struct slate_wish *wish,
                    void (*check)(uint32_t block_bytes, uint64_t bytes));

#endif
