/* SPDX-License-Identifier: MIT */
/* Cards: ERASE over all blocks, a run at a time (Physical Layer 6.00, 4.3.5).
 */
#include "erase/erase.h"

/* A card may take a quarter of a second for each allocation unit (4.14), and a
 * host does not wait for ever. */
#define RUN_BLOCKS 131072u

enum slate_status slate_erase_run_sd(struct slate_erase *erase)
{
    uint64_t left = erase->media->geometry.block_count - erase->next;
    uint64_t run = left < RUN_BLOCKS ? left : RUN_BLOCKS;
    enum slate_status status =
        slate_media_clear(erase->media, erase->next, run, SLATE_CLEAR_DISCARD);

    if (status == SLATE_OK)
        erase->next += run;
    return status;
}
