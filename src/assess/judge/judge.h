/* SPDX-License-Identifier: MIT */
/* The judges that rules.c puts into rows, and the words that go with them. */
#ifndef SLATE_ASSESS_JUDGE_H
#define SLATE_ASSESS_JUDGE_H

#include "assess/look/facts.h"

/* On the device itself. */
bool slate_is_no_medium(const struct slate_facts *facts);
bool slate_is_unknown_capacity(const struct slate_facts *facts);
bool slate_is_array_blocks(const struct slate_facts *facts);
bool slate_is_no_answer(const struct slate_facts *facts);
bool slate_is_locked(const struct slate_facts *facts);
bool slate_is_false_capacity(const struct slate_facts *facts);
bool slate_is_erasing(const struct slate_facts *facts);
bool slate_is_unerased(const struct slate_facts *facts);
bool slate_is_no_sectors(const struct slate_facts *facts);
bool slate_is_other_controller(const struct slate_facts *facts);
bool slate_is_read_errors(const struct slate_facts *facts);
bool slate_is_write_protected(const struct slate_facts *facts);
bool slate_is_block_size_mismatch(const struct slate_facts *facts);
bool slate_is_hidden_capacity(const struct slate_facts *facts);
bool slate_is_zoned(const struct slate_facts *facts);
bool slate_is_two_units(const struct slate_facts *facts);
bool slate_is_protection_information(const struct slate_facts *facts);
bool slate_is_odd_size(const struct slate_facts *facts);

/* On its table. */
bool slate_is_mbr_limit(const struct slate_facts *facts);
bool slate_is_gpt_lost(const struct slate_facts *facts);
bool slate_is_gpt_primary_damaged(const struct slate_facts *facts);
bool slate_is_gpt_backup_damaged(const struct slate_facts *facts);
bool slate_is_gpt_backup_misplaced(const struct slate_facts *facts);
bool slate_is_beyond_end(const struct slate_facts *facts);
bool slate_is_protective_missing(const struct slate_facts *facts);
bool slate_is_protective_wrong(const struct slate_facts *facts);
bool slate_is_hybrid_disagrees(const struct slate_facts *facts);
bool slate_is_mbr_remains(const struct slate_facts *facts);
bool slate_is_gpt_remains(const struct slate_facts *facts);
bool slate_is_gpt_second_alone(const struct slate_facts *facts);
bool slate_is_gpt_copies_disagree(const struct slate_facts *facts);
bool slate_is_listed_twice(const struct slate_facts *facts);
bool slate_is_chain_broken(const struct slate_facts *facts);
bool slate_is_overlap(const struct slate_facts *facts);
bool slate_is_out_of_range(const struct slate_facts *facts);
bool slate_is_small_table(const struct slate_facts *facts);
bool slate_is_unallocated(const struct slate_facts *facts);
bool slate_is_other_table(const struct slate_facts *facts);
bool slate_is_chs_disagrees(const struct slate_facts *facts);
bool slate_is_unusual_gpt(const struct slate_facts *facts);
bool slate_is_several_volumes(const struct slate_facts *facts);

/* On what it holds. */
bool slate_is_unfinished(const struct slate_facts *facts);
bool slate_is_boot_image(const struct slate_facts *facts);
bool slate_is_optical_image(const struct slate_facts *facts);
bool slate_is_empty_table(const struct slate_facts *facts);
bool slate_is_blank(const struct slate_facts *facts);
bool slate_is_start_erased(const struct slate_facts *facts);
bool slate_is_unknown_content(const struct slate_facts *facts);
bool slate_is_no_table(const struct slate_facts *facts);
bool slate_is_cut_short(const struct slate_facts *facts);

/* On one volume and its partition: i counts as slate_facts_volume does. */
bool slate_is_member(const struct slate_facts *facts, uint32_t i);
bool slate_is_random(const struct slate_facts *facts, uint32_t i);
bool slate_is_half_overwritten(const struct slate_facts *facts, uint32_t i);
bool slate_type_disagrees(const struct slate_facts *facts, uint32_t i);
bool slate_is_no_volume(const struct slate_facts *facts, uint32_t i);
bool slate_is_foreign(const struct slate_facts *facts, uint32_t i);
bool slate_is_larger(const struct slate_facts *facts, uint32_t i);
bool slate_is_smaller(const struct slate_facts *facts, uint32_t i);
bool slate_has_attributes(const struct slate_facts *facts, uint32_t i);
bool slate_is_misaligned(const struct slate_facts *facts, uint32_t i);
bool slate_copy_differs(const struct slate_facts *facts, uint32_t i);
bool slate_is_dirty(const struct slate_facts *facts, uint32_t i);

/* The type that a partition would have in the other table. */
const struct slate_guid *slate_type_as_gpt(const struct slate_facts *facts,
                                           uint32_t i);
uint8_t slate_type_as_mbr(const struct slate_facts *facts, uint32_t i);

/* Is it a gap that is more than alignment? */
bool slate_is_gap(const struct slate_facts *facts,
                  const struct slate_stretch *stretch);

/* Is this entry of a hybrid MBR a partition of the GPT as well? */
bool slate_is_mirrored(const struct slate_facts *facts,
                       const struct slate_mbr_entry *entry);

/* The blocks of such gaps, all taken together. */
uint64_t slate_facts_unallocated(const struct slate_facts *facts);

/* Does the partition hide from hosts, or do they take it as read-only? */
bool slate_partition_hides(const struct slate_partition *partition);

/* Is the type one for parts of a dynamic disk; for what is never a volume; one
 * that stands for any data? */
bool slate_type_is_dynamic(const struct slate_facts *facts, uint32_t i);
bool slate_type_needs_no_volume(const struct slate_facts *facts, uint32_t i);
bool slate_type_is_general(const struct slate_facts *facts, uint32_t i);

/* Is the type in the table one for this kind of volume? */
bool slate_type_fits(const struct slate_facts *facts, uint32_t i);

/* The first volume that a finding concerns, of those that concern volumes. */
uint32_t slate_first_concerned(const struct slate_facts *facts,
                               enum slate_finding_id id);

/* Is it a note that explains no trouble: hosts show what they should? */
bool slate_is_at_ease(const struct slate_finding *finding);

enum slate_remedy_kind slate_rule_remedy(enum slate_finding_id id);

/* Replaces {name} in a template by what the facts say; fill.c lists the names.
 */
void slate_words_fill(const struct slate_facts *facts, enum slate_finding_id id,
                      const char *template_text, struct slate_text *text);

#endif
