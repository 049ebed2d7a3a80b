/* SPDX-License-Identifier: MIT */
/* What goes wrong with tables and with the first blocks of volumes, so that it
 * can be mended: each on a device that is sound otherwise. */
#ifndef TESTS_DAMAGE_H
#define TESTS_DAMAGE_H

#include <trueslate/trueslate.h>

#include "ram.h"

struct damage {
    const char *name;
    void (*build)(struct ram *ram); /* the sound one, on an empty device */
    void (*hurt)(struct ram *ram);  /* it goes wrong; then it is "sound" again
                                       when mended */
    enum slate_mend_kind kind;
    uint32_t block_bytes;
    uint64_t blocks;
    bool whole;     /* of the device or its table, not of partition 0 */
    bool wish;      /* nothing is wrong with it: it is not listed */
    bool code_lost; /* what stood ahead of the entries in block 0 is gone */
};

/* What mends it. */
struct slate_mend damage_mend(const struct damage *damage);

/* NULL behind the last one. */
const struct damage *damage_at(size_t index);

/* The disk of most of them: 160 MiB, three volumes, under a GPT. */
#define DAMAGE_BYTES 167772160u
void damage_disk(struct ram *ram);

/* The same table on a device of another size. */
void damage_table(struct ram *ram, uint64_t blocks);

#endif
