/* SPDX-License-Identifier: MIT */
/* What mends a finding, and what is in its way. */
#ifndef SLATE_ASSESS_JUDGE_MENDABLE_H
#define SLATE_ASSESS_JUDGE_MENDABLE_H

#include "trueslate/mendable.h"

/* Tells why something cannot be mended without loss. Returns true when
 * something is in the way; else a draft takes it, unless a block cannot be
 * read. */
bool slate_mend_obstacle(const struct slate_facts *facts,
                         const struct slate_mend *mend,
                         struct slate_obstacle *obstacle);

/* What mends a finding, where something does. Returns false when nothing does,
 * or something is in the way. */
bool slate_finding_mend(const struct slate_facts *facts,
                        enum slate_finding_id id, struct slate_mend *mend);

/* The room that a partition can get: blocks behind it, up to the next one or
 * the end of what the table reaches, in whole MiB. */
uint64_t slate_mend_room(const struct slate_facts *facts, uint32_t i);

/* Places the copies of the GPT that is there, as UEFI 2.10, 5.3.2 has them.
 * Returns why it cannot be, without a stop; NULL: it can. */
const char *slate_gpt_places(const struct slate_facts *facts,
                             struct slate_gpt_places *places);

#endif
