/* SPDX-License-Identifier: MIT */
/* Inside assess: the judges, obstacles, and what can be mended. */
#ifndef SLATE_ASSESS_JUDGE_H
#define SLATE_ASSESS_JUDGE_H

#include "assess/look/look.h"
#include "trueslate/mendable.h"

/* Findings: which facts make which. A row has all that is said of one; it
 * stands in the file of its judge. */

struct slate_rule {
    const char *name;
    bool (*holds)(const struct slate_facts *facts);
    /* instead: asked for every volume and its partition */
    bool (*concerns)(const struct slate_facts *facts, uint32_t i);
    const uint8_t *explained_by; /* ids, up to the one that explains nothing */
    const char *sentence[4]; /* by enum slate_finding_part; fill.c tells what
                                stands for each {name} */
    enum slate_finding_id id;
    enum slate_severity severity;
    enum slate_remedy_kind remedy;
    uint32_t follows; /* bits: what goes with it */
};

#define TROUBLE SLATE_SEVERITY_TROUBLE
#define NOTE SLATE_SEVERITY_NOTE
/* Findings of which one is a consequence. */
#define BECAUSE(...) ((const uint8_t[]){__VA_ARGS__, SLATE_FINDING_HEALTHY})
#define BY(name) SLATE_FINDING_##name
#define NONE BECAUSE(SLATE_FINDING_HEALTHY)

/* An image brings all its oddities along; renewing ends them together. */
#define IMAGE BY(BOOT_IMAGE), BY(OPTICAL_IMAGE)
/* Something counts in other blocks, or shows less than there was: then sizes
 * and ends cannot be right. */
#define MISCOUNT                                                               \
    BY(BLOCK_SIZE_MISMATCH), BY(HIDDEN_CAPACITY), BY(FALSE_CAPACITY)

/* With "copy off what is needed first" over every sound volume. */
#define RENEW "{renew}"
#define SAVE_FIRST                                                             \
    "Copy off what is needed, then renew the device: one volume over the "     \
    "full capacity."

/* On the device as a whole, and on one of its volumes; what is so, where it was
 * seen, how that comes about, what helps. */
#define DEVICE(id, name, severity, holds, remedy, follows, by, ...)            \
    {                                                                          \
        name, holds, NULL, by, {__VA_ARGS__}, SLATE_FINDING_##id, severity,    \
            SLATE_REMEDY_##remedy, follows                                     \
    }
#define VOLUME(id, name, severity, concerns, remedy, follows, by, ...)         \
    {                                                                          \
        name, NULL, concerns, by, {__VA_ARGS__}, SLATE_FINDING_##id, severity, \
            SLATE_REMEDY_##remedy, follows                                     \
    }
/* Behind the last row of a file. */
#define RULES_END                                                              \
    {                                                                          \
        .name = NULL                                                           \
    }

extern const struct slate_rule slate_rules_device[];
extern const struct slate_rule slate_rules_gpt[];
extern const struct slate_rule slate_rules_table[];
extern const struct slate_rule slate_rules_content[];
extern const struct slate_rule slate_rules_volume[];

/* The row of a finding; of one that there is not, that of none. */
const struct slate_rule *slate_rule_of(enum slate_finding_id id);

/* Judges that others ask as well; i counts as slate_facts_volume does. */
bool slate_is_locked(const struct slate_facts *facts);
bool slate_is_false_capacity(const struct slate_facts *facts);
bool slate_is_gpt_primary_damaged(const struct slate_facts *facts);
bool slate_is_gpt_backup_damaged(const struct slate_facts *facts);
bool slate_is_protective_missing(const struct slate_facts *facts);
bool slate_is_protective_wrong(const struct slate_facts *facts);
bool slate_is_hybrid_disagrees(const struct slate_facts *facts);
bool slate_is_mbr_remains(const struct slate_facts *facts);
bool slate_is_gpt_second_alone(const struct slate_facts *facts);
bool slate_is_gpt_remains(const struct slate_facts *facts);
bool slate_is_gpt_copies_disagree(const struct slate_facts *facts);
bool slate_type_disagrees(const struct slate_facts *facts, uint32_t i);
bool slate_is_smaller(const struct slate_facts *facts, uint32_t i);

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

/* Replaces {name} in a template by what the facts say; fill.c lists the names.
 */
void slate_words_fill(const struct slate_facts *facts, enum slate_finding_id id,
                      const char *template_text, struct slate_text *text);

/* What mends a finding, and what is in its way. */

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

/* What is in the way of mending a table without loss. */

/* Each fills in an obstacle that says of none. */
void slate_obstacle_gpt(const struct slate_facts *facts,
                        struct slate_obstacle *obstacle);
void slate_obstacle_remains(const struct slate_facts *facts,
                            struct slate_obstacle *obstacle);
void slate_obstacle_to_gpt(const struct slate_facts *facts,
                           struct slate_obstacle *obstacle);
void slate_obstacle_to_mbr(const struct slate_facts *facts,
                           struct slate_obstacle *obstacle);

#endif
