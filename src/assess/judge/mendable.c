/* SPDX-License-Identifier: MIT */
/* What is there to be mended: one row for each kind. How it is done is told by
 * src/draft/mend.c. */
#include "assess/judge/judge.h"

#include "base/base.h"
#include "volume/common/common.h"

static bool gpt_is_amiss(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_layout *layout = &facts->layout;
    uint64_t last = facts->geometry.block_count - 1;

    (void)i;
    if (slate_is_gpt_second_alone(facts) || slate_is_mbr_remains(facts))
        return true;
    return layout->kind == SLATE_TABLE_GPT &&
           (slate_is_gpt_primary_damaged(facts) ||
            slate_is_gpt_backup_damaged(facts) ||
            slate_is_gpt_copies_disagree(facts) ||
            slate_is_protective_missing(facts) ||
            (layout->hybrid == 0 && slate_is_protective_wrong(facts)) ||
            layout->backup.lba != last || layout->primary.other_lba != last);
}

static bool is_hybrid(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return facts->layout.kind == SLATE_TABLE_GPT && facts->layout.hybrid > 0;
}

static bool has_remains(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return slate_is_gpt_remains(facts);
}

/* Also of one without a table. */
static bool start_is_lost(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_volume *volume =
        i < facts->layout.count ? &facts->volume[i] : &facts->whole;

    return volume->kept;
}

static bool has_wrong_type(const struct slate_facts *facts, uint32_t i)
{
    return i < facts->layout.count && slate_type_disagrees(facts, i) &&
           slate_format_of(facts->volume[i].kind) != NULL;
}

static unsigned oddities(const struct slate_facts *facts)
{
    return slate_layout_check(&facts->layout, facts->geometry.block_count);
}

static bool is_unordered(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_layout *layout = &facts->layout;

    (void)i;
    for (uint32_t n = 0; n < layout->count; n++) {
        if (facts->partition[n].role != SLATE_ROLE_PRIMARY)
            return false;
    }
    return (layout->kind == SLATE_TABLE_MBR ||
            layout->kind == SLATE_TABLE_GPT) &&
           layout->found == layout->count &&
           (oddities(facts) & (SLATE_LAYOUT_UNORDERED |
                               SLATE_LAYOUT_OVERLAP)) == SLATE_LAYOUT_UNORDERED;
}

static bool is_mbr(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return facts->layout.kind == SLATE_TABLE_MBR && !facts->layout.protective;
}

static bool is_gpt(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return facts->layout.kind == SLATE_TABLE_GPT;
}

#define ROOM_BYTES_LEAST 8388608u

/* A sound table, of which both copies say the same. */
static bool can_grow(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_layout *layout = &facts->layout;
    bool gpt = layout->kind == SLATE_TABLE_GPT;

    return i < layout->count && layout->found == layout->count &&
           facts->partition[i].role == SLATE_ROLE_PRIMARY &&
           slate_kind_of(facts->volume[i].kind)->grows &&
           (gpt ? layout->hybrid == 0 && !gpt_is_amiss(facts, 0)
                : is_mbr(facts, 0)) &&
           (oddities(facts) & (SLATE_LAYOUT_OVERLAP | SLATE_LAYOUT_BEYOND_END |
                               SLATE_LAYOUT_OUTSIDE)) == 0 &&
           slate_mend_room(facts, i) * facts->geometry.block_bytes >=
               ROOM_BYTES_LEAST;
}

static bool hybrid_disagrees(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return slate_is_hybrid_disagrees(facts);
}

/* It has to be searched for. */
static bool is_never(const struct slate_facts *facts, uint32_t i)
{
    (void)facts;
    (void)i;
    return false;
}

struct row {
    const char *name, *words;
    bool each; /* of each partition, or of the whole */
    bool (*holds)(const struct slate_facts *facts, uint32_t i);
    /* is it wrong as it is? NULL: it is a wish */
    bool (*amiss)(const struct slate_facts *facts, uint32_t i);
    void (*obstacle)(const struct slate_facts *facts,
                     struct slate_obstacle *obstacle);
};

static const struct row rows[SLATE_MEND_KINDS] = {
    [SLATE_MEND_GPT] = {"gpt",
                        "both copies of the table are made right, each in its "
                        "place, and the entry that protects them",
                        false, gpt_is_amiss, gpt_is_amiss, slate_obstacle_gpt},
    [SLATE_MEND_HYBRID] =
        {"hybrid", "the MBR's own entries go; the GPT is the only table then",
         false, is_hybrid, hybrid_disagrees, NULL},
    [SLATE_MEND_REMAINS] = {"remains", "what is left of an old GPT is cleared",
                            false, has_remains, has_remains,
                            slate_obstacle_remains},
    [SLATE_MEND_START] =
        {"start",
         "the first blocks of the volume come back from its own copy of them",
         true, start_is_lost, start_is_lost, NULL},
    [SLATE_MEND_TYPE] = {"type", "the type becomes that of the volume in it",
                         true, has_wrong_type, has_wrong_type, NULL},
    [SLATE_MEND_ORDER] =
        {"order",
         "the partitions get their numbers in the order of their blocks: what "
         "names them by number has to follow",
         false, is_unordered, NULL, NULL},
    [SLATE_MEND_TO_GPT] = {"to-gpt",
                           "the MBR becomes a GPT over the same partitions",
                           false, is_mbr, NULL, slate_obstacle_to_gpt},
    [SLATE_MEND_TO_MBR] = {"to-mbr",
                           "the GPT becomes an MBR over the same partitions",
                           false, is_gpt, NULL, slate_obstacle_to_mbr},
    [SLATE_MEND_GROW] =
        {"grow",
         "the partition gets the free room behind it; the system that its "
         "volume belongs to extends the volume into it",
         true, can_grow, NULL, NULL},
    [SLATE_MEND_LOST] = {"lost",
                         "the table gets an entry for a volume that was found; "
                         "nothing of the volume is written",
                         false, is_never, NULL, NULL}};

SLATE_FROM_ROW(const char *, slate_mend_name, enum slate_mend_kind, rows, name)
SLATE_FROM_ROW(const char *, slate_mend_words, enum slate_mend_kind, rows,
               words)

/* Of the whole, or of a partition, where there are such. */
static bool is_place(const struct slate_facts *facts,
                     const struct slate_mend *mend)
{
    bool whole = mend->partition == SLATE_ATTRIBUTE_WHOLE;

    return rows[mend->kind].each && facts->layout.count > 0
               ? mend->partition < facts->layout.count
               : whole;
}

bool slate_mend_holds(const struct slate_facts *facts,
                      const struct slate_mend *mend)
{
    return facts->opened == SLATE_OK && !facts->marked && !facts->mark_cut &&
           (unsigned)mend->kind < SLATE_MEND_KINDS && is_place(facts, mend) &&
           rows[mend->kind].holds(facts, mend->partition);
}

bool slate_mend_next(const struct slate_facts *facts, uint32_t index,
                     struct slate_mend *mend)
{
    for (uint32_t k = 0; k < SLATE_MEND_KINDS; k++) {
        bool each = rows[k].each && facts->layout.count > 0;
        uint32_t count = each ? facts->layout.count : 1;

        for (uint32_t i = 0; rows[k].amiss != NULL && i < count; i++) {
            mend->kind = (enum slate_mend_kind)k;
            mend->partition = each ? i : SLATE_ATTRIBUTE_WHOLE;
            if (slate_mend_holds(facts, mend) &&
                rows[k].amiss(facts, mend->partition) && index-- == 0)
                return true;
        }
    }
    return false;
}

bool slate_mend_obstacle(const struct slate_facts *facts,
                         const struct slate_mend *mend,
                         struct slate_obstacle *obstacle)
{
    const struct row *row = SLATE_ROW_OF(rows, mend->kind);

    *obstacle = (struct slate_obstacle){NULL, 0, 0};
    if (row->obstacle != NULL)
        row->obstacle(facts, obstacle);
    return obstacle->why != NULL;
}

/* The kind that mends a finding; SLATE_MEND_KINDS: none does. */
static uint32_t kind_for(enum slate_finding_id id)
{
    static const uint8_t kinds[][2] = {
        {SLATE_FINDING_GPT_PRIMARY_DAMAGED, SLATE_MEND_GPT},
        {SLATE_FINDING_GPT_SECOND_ALONE, SLATE_MEND_GPT},
        {SLATE_FINDING_GPT_BACKUP_MISPLACED, SLATE_MEND_GPT},
        {SLATE_FINDING_GPT_BACKUP_DAMAGED, SLATE_MEND_GPT},
        {SLATE_FINDING_PROTECTIVE_MISSING, SLATE_MEND_GPT},
        {SLATE_FINDING_PROTECTIVE_WRONG, SLATE_MEND_GPT},
        {SLATE_FINDING_MBR_REMAINS, SLATE_MEND_GPT},
        {SLATE_FINDING_BEYOND_END, SLATE_MEND_GPT},
        {SLATE_FINDING_HYBRID_DISAGREES, SLATE_MEND_HYBRID},
        {SLATE_FINDING_GPT_REMAINS, SLATE_MEND_REMAINS},
        {SLATE_FINDING_NO_VOLUME, SLATE_MEND_START},
        {SLATE_FINDING_START_ERASED, SLATE_MEND_START},
        {SLATE_FINDING_TYPE_DISAGREES, SLATE_MEND_TYPE},
        {SLATE_FINDING_MBR_LIMIT, SLATE_MEND_TO_GPT},
        {SLATE_FINDING_SMALL_TABLE, SLATE_MEND_GROW},
        {SLATE_FINDING_UNALLOCATED, SLATE_MEND_GROW}};

    for (size_t i = 0; i < sizeof kinds / sizeof kinds[0]; i++) {
        if (kinds[i][0] == id)
            return kinds[i][1];
    }
    return SLATE_MEND_KINDS;
}

/* The one that gets the most; the whole: none does. */
static uint32_t find_growing(const struct slate_facts *facts)
{
    uint32_t found = SLATE_ATTRIBUTE_WHOLE;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (can_grow(facts, i) &&
            (found == SLATE_ATTRIBUTE_WHOLE ||
             slate_mend_room(facts, i) > slate_mend_room(facts, found)))
            found = i;
    }
    return found;
}

bool slate_finding_mend(const struct slate_facts *facts,
                        enum slate_finding_id id, struct slate_mend *mend)
{
    uint32_t kind = kind_for(id), i = 0;
    struct slate_obstacle obstacle;

    if (kind == SLATE_MEND_KINDS)
        return false;
    mend->kind = (enum slate_mend_kind)kind;
    mend->partition =
        kind == SLATE_MEND_GROW ? find_growing(facts) : SLATE_ATTRIBUTE_WHOLE;
    if (rows[kind].amiss != NULL) {
        while (slate_mend_next(facts, i, mend) && mend->kind != kind)
            i++;
        if (!slate_mend_next(facts, i, mend))
            return false;
    }
    return slate_mend_holds(facts, mend) &&
           !slate_mend_obstacle(facts, mend, &obstacle);
}
