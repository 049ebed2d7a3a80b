/* SPDX-License-Identifier: MIT */
/* Fuzz target: the readers of tables, with room for one partition and for
 * many. */
#include "sparse.h"
#include "target.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static struct sparse sparse;
    static struct slate_media media;
    static struct slate_partition partition[200];
    static uint8_t work[SLATE_WORK_MIN];

    if (!sparse_open(&sparse, bytes, length) ||
        slate_media_open(&media, &sparse.port) != SLATE_OK)
        return 0;
    for (uint32_t room = 1; room <= 200; room += 199) {
        struct slate_layout layout = {.partition = partition, .room = room};
        uint64_t blocks = media.geometry.block_count;

        demand(slate_layout_read(&media, work, &layout) == SLATE_OK);
        demand(layout.count <= room && layout.count <= layout.found);
        demand(slate_layout_end(&layout, blocks) <= blocks);
        (void)slate_layout_check(&layout, blocks);
    }
    return 0;
}
