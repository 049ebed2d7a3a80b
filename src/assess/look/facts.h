/* SPDX-License-Identifier: MIT */
/* Questions about facts that judges and words both ask. */
#ifndef SLATE_ASSESS_FACTS_H
#define SLATE_ASSESS_FACTS_H

#include "trueslate/assess.h"

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

#endif
