/* SPDX-License-Identifier: MIT */
/* The rules: which facts make which finding. One row for each cause, the one
 * that explains most first; their sentences are in words_*.c. To add one: an
 * id in assess.h, a judge in judge_*.c, a row here, a row of words, a case in
 * the tests' corpus. */
#include <string.h>

#include "assess/judge/judge.h"
#include "base/names.h"

#define TROUBLE SLATE_SEVERITY_TROUBLE
#define NOTE SLATE_SEVERITY_NOTE
/* Findings of which one is a consequence: a list that ends with the one that
 * explains nothing. */
#define BECAUSE(...) ((const uint8_t[]){__VA_ARGS__, SLATE_FINDING_HEALTHY})
#define BY(name) SLATE_FINDING_##name
#define NONE BECAUSE(SLATE_FINDING_HEALTHY)

/* An image brings all its oddities along; renewing ends them together. */
#define IMAGE BY(BOOT_IMAGE), BY(OPTICAL_IMAGE)
/* Something counts in other blocks, or shows less than there was: then sizes
 * and ends cannot be right. */
#define MISCOUNT                                                               \
    BY(BLOCK_SIZE_MISMATCH), BY(HIDDEN_CAPACITY), BY(FALSE_CAPACITY)

struct rule {
    const char *name;
    bool (*holds)(const struct slate_facts *facts);
    /* instead: asked for every volume and its partition */
    bool (*concerns)(const struct slate_facts *facts, uint32_t i);
    const uint8_t *explained_by;
    enum slate_severity severity;
    enum slate_remedy_kind remedy;
};

/* On the device as a whole, and on one of its volumes. */
#define DEVICE(id, name, severity, holds, remedy, explained_by)                \
    [SLATE_FINDING_##                                                          \
        id] = {name,         slate_##holds, NULL,                              \
               explained_by, severity,      SLATE_REMEDY_##remedy}
#define VOLUME(id, name, severity, concerns, remedy, explained_by)             \
    [SLATE_FINDING_##id] = {name,         NULL,     slate_##concerns,          \
                            explained_by, severity, SLATE_REMEDY_##remedy}

static const struct rule rules[] = {
    DEVICE(NO_MEDIUM, "no-medium", TROUBLE, is_no_medium, BY_HAND, NONE),
    DEVICE(UNKNOWN_CAPACITY, "unknown-capacity", TROUBLE, is_unknown_capacity,
           REPLACE, NONE),
    DEVICE(ARRAY_BLOCKS, "array-blocks", TROUBLE, is_array_blocks, LOWLEVEL,
           NONE),
    DEVICE(NO_ANSWER, "no-answer", TROUBLE, is_no_answer, ELSEWHERE, NONE),
    DEVICE(LOCKED, "locked", TROUBLE, is_locked, BY_HAND, NONE),
    DEVICE(ERASING, "erasing", TROUBLE, is_erasing, BY_HAND, NONE),
    DEVICE(UNERASED, "unerased", TROUBLE, is_unerased, BY_HAND, NONE),
    DEVICE(NO_SECTORS, "no-sectors", TROUBLE, is_no_sectors, LOWLEVEL,
           BECAUSE(BY(ERASING), BY(UNERASED))),
    DEVICE(OTHER_CONTROLLER, "other-controller", TROUBLE, is_other_controller,
           LOWLEVEL, BECAUSE(BY(ERASING), BY(UNERASED))),
    DEVICE(FALSE_CAPACITY, "false-capacity", TROUBLE, is_false_capacity,
           REPLACE, NONE),
    DEVICE(READ_ERRORS, "read-errors", TROUBLE, is_read_errors, REPLACE,
           BECAUSE(BY(LOCKED), BY(ERASING), BY(UNERASED), BY(NO_SECTORS),
                   BY(OTHER_CONTROLLER))),
    DEVICE(UNFINISHED, "unfinished", TROUBLE, is_unfinished, RESUME, NONE),
    DEVICE(WRITE_PROTECTED, "write-protected", TROUBLE, is_write_protected,
           BY_HAND, NONE),
    DEVICE(BLOCK_SIZE_MISMATCH, "block-size-mismatch", TROUBLE,
           is_block_size_mismatch, ELSEWHERE, NONE),
    DEVICE(HIDDEN_CAPACITY, "hidden-capacity", TROUBLE, is_hidden_capacity,
           ELSEWHERE, NONE),
    DEVICE(BOOT_IMAGE, "boot-image", TROUBLE, is_boot_image, RENEW, NONE),
    DEVICE(OPTICAL_IMAGE, "optical-image", TROUBLE, is_optical_image, RENEW,
           NONE),
    VOLUME(MEMBER, "member", TROUBLE, is_member, RENEW, NONE),
    DEVICE(MBR_LIMIT, "mbr-limit", TROUBLE, is_mbr_limit, RENEW,
           BECAUSE(BY(BLOCK_SIZE_MISMATCH))),
    DEVICE(GPT_LOST, "gpt-lost", TROUBLE, is_gpt_lost, RENEW,
           BECAUSE(BY(READ_ERRORS), BY(BLOCK_SIZE_MISMATCH))),
    DEVICE(GPT_PRIMARY_DAMAGED, "gpt-primary-damaged", TROUBLE,
           is_gpt_primary_damaged, RENEW, BECAUSE(BY(READ_ERRORS))),
    DEVICE(GPT_SECOND_ALONE, "gpt-second-alone", TROUBLE, is_gpt_second_alone,
           RENEW, BECAUSE(BY(READ_ERRORS), BY(BLOCK_SIZE_MISMATCH))),
    DEVICE(START_ERASED, "start-erased", TROUBLE, is_start_erased, RENEW,
           BECAUSE(BY(READ_ERRORS), BY(GPT_SECOND_ALONE))),
    DEVICE(BEYOND_END, "beyond-end", TROUBLE, is_beyond_end, RENEW,
           BECAUSE(MISCOUNT)),
    DEVICE(GPT_BACKUP_MISPLACED, "gpt-backup-misplaced", TROUBLE,
           is_gpt_backup_misplaced, RENEW, BECAUSE(IMAGE, MISCOUNT)),
    DEVICE(GPT_BACKUP_DAMAGED, "gpt-backup-damaged", NOTE,
           is_gpt_backup_damaged, RENEW,
           BECAUSE(BY(READ_ERRORS), BY(BEYOND_END), BY(GPT_BACKUP_MISPLACED),
                   IMAGE, MISCOUNT)),
    DEVICE(GPT_COPIES_DISAGREE, "gpt-copies-disagree", TROUBLE,
           is_gpt_copies_disagree, RENEW,
           BECAUSE(IMAGE, BY(GPT_BACKUP_MISPLACED))),
    DEVICE(PROTECTIVE_MISSING, "protective-missing", TROUBLE,
           is_protective_missing, RENEW, BECAUSE(BY(READ_ERRORS))),
    DEVICE(PROTECTIVE_WRONG, "protective-wrong", NOTE, is_protective_wrong,
           RENEW,
           BECAUSE(BY(BEYOND_END), BY(GPT_BACKUP_MISPLACED), IMAGE, MISCOUNT)),
    DEVICE(HYBRID_DISAGREES, "hybrid-disagrees", TROUBLE, is_hybrid_disagrees,
           RENEW, BECAUSE(IMAGE)),
    DEVICE(MBR_REMAINS, "mbr-remains", TROUBLE, is_mbr_remains, RENEW,
           BECAUSE(IMAGE)),
    DEVICE(GPT_REMAINS, "gpt-remains", NOTE, is_gpt_remains, RENEW,
           BECAUSE(IMAGE, BY(READ_ERRORS))),
    DEVICE(CHAIN_BROKEN, "chain-broken", TROUBLE, is_chain_broken, RENEW,
           BECAUSE(BY(READ_ERRORS), BY(BEYOND_END), BY(BLOCK_SIZE_MISMATCH))),
    DEVICE(LISTED_TWICE, "listed-twice", TROUBLE, is_listed_twice, RENEW,
           BECAUSE(IMAGE)),
    DEVICE(OVERLAP, "overlap", TROUBLE, is_overlap, RENEW,
           BECAUSE(IMAGE, BY(LISTED_TWICE))),
    DEVICE(OUT_OF_RANGE, "out-of-range", NOTE, is_out_of_range, RENEW,
           BECAUSE(IMAGE, BY(CHAIN_BROKEN))),
    DEVICE(OTHER_TABLE, "other-table", TROUBLE, is_other_table, RENEW,
           BECAUSE(IMAGE)),
    VOLUME(VOLUME_LARGER, "volume-larger", TROUBLE, is_larger, RENEW,
           BECAUSE(IMAGE, MISCOUNT, BY(BEYOND_END), BY(MEMBER))),
    DEVICE(SMALL_TABLE, "small-table", TROUBLE, is_small_table, RENEW,
           BECAUSE(IMAGE, MISCOUNT, BY(MBR_LIMIT), BY(GPT_BACKUP_MISPLACED),
                   BY(MBR_REMAINS), BY(OTHER_TABLE), BY(VOLUME_LARGER),
                   BY(MEMBER))),
    DEVICE(UNALLOCATED, "unallocated", TROUBLE, is_unallocated, RENEW,
           BECAUSE(IMAGE, MISCOUNT, BY(MBR_LIMIT), BY(GPT_BACKUP_MISPLACED),
                   BY(MBR_REMAINS), BY(OTHER_TABLE), BY(CHAIN_BROKEN),
                   BY(BEYOND_END), BY(VOLUME_LARGER), BY(MEMBER))),
    VOLUME(RANDOM_CONTENT, "random-content", TROUBLE, is_random, RENEW, NONE),
    VOLUME(HALF_OVERWRITTEN, "half-overwritten", TROUBLE, is_half_overwritten,
           RENEW, NONE),
    VOLUME(NO_VOLUME, "no-volume", TROUBLE, is_no_volume, RENEW,
           BECAUSE(IMAGE, MISCOUNT, BY(READ_ERRORS), BY(BEYOND_END),
                   BY(GPT_COPIES_DISAGREE), BY(MBR_REMAINS), BY(MEMBER),
                   BY(CHAIN_BROKEN))),
    VOLUME(TYPE_DISAGREES, "type-disagrees", TROUBLE, type_disagrees, RENEW,
           BECAUSE(IMAGE)),
    VOLUME(VOLUME_SMALLER, "volume-smaller", TROUBLE, is_smaller, RENEW,
           BECAUSE(IMAGE, MISCOUNT, BY(MEMBER))),
    VOLUME(ATTRIBUTES, "attributes", TROUBLE, has_attributes, RENEW,
           BECAUSE(IMAGE)),
    DEVICE(ZONED, "zoned", TROUBLE, is_zoned, ELSEWHERE, NONE),
    DEVICE(EMPTY_TABLE, "empty-table", TROUBLE, is_empty_table, RENEW,
           BECAUSE(BY(GPT_REMAINS), BY(READ_ERRORS), BY(GPT_SECOND_ALONE),
                   BY(START_ERASED))),
    DEVICE(BLANK, "blank", TROUBLE, is_blank, RENEW,
           BECAUSE(BY(GPT_SECOND_ALONE))),
    DEVICE(UNKNOWN_CONTENT, "unknown-content", TROUBLE, is_unknown_content,
           RENEW, BECAUSE(BY(GPT_REMAINS), BY(GPT_SECOND_ALONE))),
    DEVICE(SEVERAL_VOLUMES, "several-volumes", NOTE, is_several_volumes, RENEW,
           BECAUSE(IMAGE)),
    DEVICE(TWO_UNITS, "two-units", NOTE, is_two_units, NOTHING, NONE),
    DEVICE(NO_TABLE, "no-table", NOTE, is_no_table, RENEW,
           BECAUSE(BY(BLOCK_SIZE_MISMATCH))),
    VOLUME(FOREIGN, "foreign-volume", NOTE, is_foreign, NOTHING,
           BECAUSE(IMAGE, BY(OTHER_TABLE), BY(TYPE_DISAGREES))),
    DEVICE(PROTECTION_INFORMATION, "protection-information", NOTE,
           is_protection_information, LOWLEVEL, NONE),
    DEVICE(ODD_SIZE, "odd-size", NOTE, is_odd_size, ELSEWHERE,
           BECAUSE(MISCOUNT)),
    VOLUME(MISALIGNED, "misaligned", NOTE, is_misaligned, RENEW,
           BECAUSE(IMAGE, BY(BLOCK_SIZE_MISMATCH))),
    VOLUME(
        COPY_DIFFERS, "copy-differs", NOTE, copy_differs, RENEW,
        BECAUSE(IMAGE, MISCOUNT, BY(BEYOND_END), BY(READ_ERRORS), BY(MEMBER))),
    VOLUME(DIRTY, "dirty", NOTE, is_dirty, ELSEWHERE,
           BECAUSE(IMAGE, MISCOUNT, BY(READ_ERRORS), BY(BEYOND_END))),
    DEVICE(CHS_DISAGREES, "chs-disagrees", NOTE, is_chs_disagrees, RENEW,
           BECAUSE(IMAGE, MISCOUNT, BY(BEYOND_END))),
    DEVICE(UNUSUAL_GPT, "unusual-gpt", NOTE, is_unusual_gpt, RENEW,
           BECAUSE(IMAGE)),
    DEVICE(CUT_SHORT, "cut-short", NOTE, is_cut_short, ELSEWHERE,
           BECAUSE(BY(READ_ERRORS))),
    [SLATE_FINDING_HEALTHY] = {"healthy", NULL, NULL, NONE, SLATE_SEVERITY_FINE,
                               SLATE_REMEDY_NOTHING},
};

_Static_assert(sizeof rules / sizeof rules[0] == SLATE_FINDINGS_MAX,
               "a rule for each finding");

_Static_assert(SLATE_FINDINGS_MAX <= UINT8_MAX, "a byte for an id");

/* Which rules hold. */
struct standing {
    bool holds[SLATE_FINDINGS_MAX];
};
static bool concerns_any(const struct rule *rule,
                         const struct slate_facts *facts)
{
    uint64_t room;

    for (uint32_t i = 0; slate_facts_volume(facts, i, &room) != NULL; i++) {
        if (rule->concerns(facts, i))
            return true;
    }
    return false;
}

/* Of a device that could not be opened, no more is known than that. */
static bool may_hold(uint32_t id, const struct slate_facts *facts)
{
    return facts->opened == SLATE_OK || id <= SLATE_FINDING_NO_ANSWER ||
           id == SLATE_FINDING_TWO_UNITS;
}

static void judge(const struct slate_facts *facts, struct standing *found)
{
    memset(found, 0, sizeof *found);
    for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
        const struct rule *rule = &rules[i];

        found->holds[i] = may_hold(i, facts) &&
                          (rule->holds != NULL ? rule->holds(facts)
                                               : concerns_any(rule, facts));
    }
}

/* The first of those that hold and explain this one; itself for none. */
static enum slate_finding_id cause_of(enum slate_finding_id id,
                                      const struct standing *found)
{
    uint8_t first = (uint8_t)id;

    for (const uint8_t *by = rules[id].explained_by;
         *by != SLATE_FINDING_HEALTHY; by++) {
        if (found->holds[*by] && *by < first)
            first = *by;
    }
    return (enum slate_finding_id)first;
}

/* The finding that stands behind this one in the end; itself for none. Only
 * earlier ones are asked: the walk ends. */
static enum slate_finding_id root_of(enum slate_finding_id id,
                                     const struct standing *found)
{
    enum slate_finding_id cause = cause_of(id, found);

    while (cause != id) {
        id = cause;
        cause = cause_of(id, found);
    }
    return id;
}

static void add(struct slate_finding *findings, uint32_t *count,
                enum slate_finding_id id, enum slate_finding_id because)
{
    struct slate_finding *finding = &findings[(*count)++];

    finding->id = id;
    finding->severity = rules[id].severity;
    finding->consequence = id != because;
    finding->because = because;
}

/* Is a finding one of the group that this one leads? */
static bool is_led(enum slate_finding_id lead, uint32_t i,
                   const struct standing *found)
{
    return found->holds[i] && root_of((enum slate_finding_id)i, found) == lead;
}

/* A note that explains trouble is trouble. */
static enum slate_severity severity_of(enum slate_finding_id lead,
                                       const struct standing *found)
{
    enum slate_severity most = rules[lead].severity;

    for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
        if (is_led(lead, i, found) && rules[i].severity > most)
            most = rules[i].severity;
    }
    return most;
}

/* One finding that nothing explains, then its consequences. */
static void add_group(struct slate_finding *findings, uint32_t *count,
                      enum slate_finding_id lead, const struct standing *found)
{
    add(findings, count, lead, lead);
    findings[*count - 1].severity = severity_of(lead, found);
    for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
        if (i != (uint32_t)lead && is_led(lead, i, found))
            add(findings, count, (enum slate_finding_id)i, lead);
    }
}

uint32_t slate_assess_judge(const struct slate_facts *facts,
                            struct slate_finding findings[SLATE_FINDINGS_MAX])
{
    struct standing found;
    uint32_t count = 0;

    judge(facts, &found);
    for (int severity = TROUBLE; severity >= NOTE; severity--) {
        for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
            enum slate_finding_id id = (enum slate_finding_id)i;

            if (is_led(id, i, &found) &&
                (int)severity_of(id, &found) == severity)
                add_group(findings, &count, id, &found);
        }
    }
    if (count == 0)
        add(findings, &count, SLATE_FINDING_HEALTHY, SLATE_FINDING_HEALTHY);
    return count;
}

uint32_t slate_first_concerned(const struct slate_facts *facts,
                               enum slate_finding_id id)
{
    uint64_t room;

    for (uint32_t i = 0; rules[id].concerns != NULL &&
                         slate_facts_volume(facts, i, &room) != NULL;
         i++) {
        if (rules[id].concerns(facts, i))
            return i;
    }
    return 0;
}

bool slate_is_at_ease(const struct slate_finding *finding)
{
    const struct rule *rule = SLATE_ROW_OF(rules, finding->id);

    return rule->remedy == SLATE_REMEDY_RENEW && rule->severity == NOTE &&
           finding->severity == NOTE;
}

uint32_t slate_finding_follows(enum slate_finding_id id)
{
    static const uint16_t follows[SLATE_FINDING_HEALTHY + 1] = {
        [SLATE_FINDING_NO_MEDIUM] = SLATE_FOLLOW_UNREADABLE,
        [SLATE_FINDING_UNKNOWN_CAPACITY] = SLATE_FOLLOW_UNREADABLE,
        [SLATE_FINDING_ARRAY_BLOCKS] =
            SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_BLOCKS,
        [SLATE_FINDING_NO_ANSWER] = SLATE_FOLLOW_UNREADABLE,
        [SLATE_FINDING_LOCKED] = SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_GUARDS,
        [SLATE_FINDING_ERASING] = SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_WAIT,
        [SLATE_FINDING_UNERASED] =
            SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_ERASE | SLATE_FOLLOW_SAME,
        [SLATE_FINDING_NO_SECTORS] =
            SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_TRACKS,
        [SLATE_FINDING_OTHER_CONTROLLER] =
            SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_TRACKS,
        [SLATE_FINDING_PROTECTION_INFORMATION] = SLATE_FOLLOW_SAME,
        [SLATE_FINDING_WRITE_PROTECTED] = SLATE_FOLLOW_GUARDS,
        [SLATE_FINDING_HIDDEN_CAPACITY] = SLATE_FOLLOW_GUARDS,
        [SLATE_FINDING_SMALL_TABLE] = SLATE_FOLLOW_REST | SLATE_FOLLOW_SEARCH,
        [SLATE_FINDING_UNALLOCATED] = SLATE_FOLLOW_REST | SLATE_FOLLOW_SEARCH,
        [SLATE_FINDING_EMPTY_TABLE] = SLATE_FOLLOW_SEARCH,
        [SLATE_FINDING_UNKNOWN_CONTENT] = SLATE_FOLLOW_SEARCH,
        [SLATE_FINDING_SEVERAL_VOLUMES] = SLATE_FOLLOW_SEARCH};

    return (unsigned)id <= SLATE_FINDING_HEALTHY ? follows[id] : 0;
}

const char *slate_finding_name(enum slate_finding_id id)
{
    return SLATE_ROW_OF(rules, id)->name;
}

enum slate_remedy_kind slate_rule_remedy(enum slate_finding_id id)
{
    return SLATE_ROW_OF(rules, id)->remedy;
}
