/* SPDX-License-Identifier: MIT */
/* Inside assess: what a look finds out. */
#ifndef SLATE_ASSESS_LOOK_H
#define SLATE_ASSESS_LOOK_H

#include "trueslate/assess.h"

/* Questions about facts that judges and words both ask. */

/* Less than this between partitions is alignment. */
#define SLATE_GAP_BYTES_MIN 8388608u

/* So much is missed on the largest device, too. */
#define SLATE_LARGE_BYTES_MIN 10000000000u

/* Space that is worth a finding: 8 MiB at least, so that the usual rounding at
 * the end is not, and a hundredth of the whole or 10 GB. */
bool slate_facts_is_worth(uint64_t part_bytes, uint64_t whole_bytes);

/* What partitions, or a volume without a table, take of the device. */
uint64_t slate_facts_covered_bytes(const struct slate_facts *facts);

uint64_t slate_facts_bytes(const struct slate_facts *facts, uint64_t blocks);

/* An optical-disc image is the volume at block 0 of a device without a table;
 * else it may lie under the table. */
const struct slate_volume *slate_facts_optical(const struct slate_facts *facts);

/* How many partitions hold a volume that is known? */
uint32_t slate_facts_volumes(const struct slate_facts *facts);

/* Partitions and the device hold one volume after the other: the i-th of them,
 * with its room in bytes; NULL at the end. */
const struct slate_volume *slate_facts_volume(const struct slate_facts *facts,
                                              uint32_t i, uint64_t *room);

/* A sound copy of a GPT that does not count; NULL for none. */
const struct slate_gpt_copy *
slate_facts_shadow(const struct slate_facts *facts);

/* Inside a look: the device, the one buffer, and what goes in. */

struct look {
    struct slate_media *media;
    uint8_t *work;
    struct slate_facts *facts;
    struct slate_traffic before;
};

/* The volume in a partition; UNREAD when not enough is left for it. */
enum slate_status slate_look_at(const struct look *look,
                                const struct slate_partition *partition,
                                enum slate_depth depth,
                                struct slate_volume *volume);

/* Places all over the device, where no table tells what is on it. */
enum slate_status slate_look_at_sample(const struct look *look);

#endif
