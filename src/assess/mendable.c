/* SPDX-License-Identifier: MIT */
/* What is there to be mended, and what stands in the way: one row for each
 * kind. How it is done is told by src/draft/mend.c. */
#include "assess/judge.h"
#include "base/names.h"
#include "table/gpt.h"
#include "table/mbr.h"
#include "trueslate/format.h"
#include "trueslate/mendable.h"

#define MBR_BLOCKS ((uint64_t)1 << 32)

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

    return volume->kept && volume->lost != SLATE_VOLUME_HFS_PLUS;
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

/* The first block behind all partitions of the GPT, also of one that does not
 * count. */
static uint64_t end_of_gpt(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_GPT ? facts->layout.end
                                                 : facts->shadow.end;
}

const char *slate_gpt_places(const struct slate_facts *facts,
                             struct slate_gpt_places *places)
{
    const struct slate_layout *layout = &facts->layout;
    uint32_t block = facts->geometry.block_bytes;
    uint64_t last = facts->geometry.block_count - 1;
    struct slate_gpt_place *primary = &places->primary;
    bool first = layout->primary.state == SLATE_GPT_SOUND;

    places->from = first ? &layout->primary : &layout->backup;
    if (places->from->state != SLATE_GPT_SOUND)
        return "no copy of the table is sound";
    places->array_blocks =
        ((uint64_t)places->from->entry_count * places->from->entry_bytes +
         block - 1) /
        block;
    if (last < 2 * places->array_blocks + 4)
        return "the device is too small for this table";
    primary->header = 1;
    primary->other = last;
    primary->array = first ? places->from->array_lba : 2;
    primary->first_usable = places->from->first_usable;
    primary->last_usable = last - places->array_blocks - 1;
    places->backup = *primary;
    places->backup.header = last;
    places->backup.other = 1;
    places->backup.array = last - places->array_blocks;
    if (primary->array < 2 ||
        primary->array + places->array_blocks > primary->first_usable)
        return "there is no room for the table's entries ahead of its first "
               "usable block";
    return end_of_gpt(facts) > primary->last_usable + 1
               ? "a partition lies where the second copy of the table has to be"
               : NULL;
}

/* The partition that holds the block ahead of this one. */
static uint32_t number_ahead_of(const struct slate_facts *facts, uint64_t end)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].first + facts->partition[i].count == end)
            return facts->partition[i].number;
    }
    return 0;
}

static void find_gpt_obstacle(const struct slate_facts *facts,
                              struct slate_obstacle *obstacle)
{
    struct slate_gpt_places places = {.from = NULL};
    uint64_t end = end_of_gpt(facts), usable;

    obstacle->why = slate_gpt_places(facts, &places);
    usable = places.primary.last_usable + 1;
    if (obstacle->why == NULL || usable == 1 || end <= usable)
        return;
    obstacle->number = number_ahead_of(facts, end);
    obstacle->blocks = end - usable;
}

static bool holds_block(const struct slate_partition *partition, uint64_t lba)
{
    return lba >= partition->first && lba - partition->first < partition->count;
}

static void find_remains_obstacle(const struct slate_facts *facts,
                                  struct slate_obstacle *obstacle)
{
    const struct slate_layout *layout = &facts->layout;

    if (layout->kind == SLATE_TABLE_NONE &&
        slate_volume_is_known(facts->whole.kind))
        obstacle->why =
            "a volume takes the whole device: what is there may be its own";
    for (uint32_t i = 0; i < layout->count && obstacle->why == NULL; i++) {
        if ((layout->primary.state == SLATE_GPT_ABSENT ||
             !holds_block(&facts->partition[i], layout->primary.lba)) &&
            (layout->backup.state == SLATE_GPT_ABSENT ||
             !holds_block(&facts->partition[i], layout->backup.lba)))
            continue;
        obstacle->number = facts->partition[i].number;
        obstacle->why = "it lies in a partition: what is there may be a file";
    }
}

static bool is_sound(const struct slate_facts *facts)
{
    return facts->layout.found == facts->layout.count &&
           facts->layout.chain == SLATE_CHAIN_WHOLE &&
           (oddities(facts) &
            (SLATE_LAYOUT_OVERLAP | SLATE_LAYOUT_BEYOND_END)) == 0;
}

/* A GPT needs its blocks at both ends. */
static void find_end_obstacle(const struct slate_facts *facts, uint64_t first,
                              uint64_t end, struct slate_obstacle *obstacle)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];
        uint64_t behind = one->first + one->count;

        if (one->role == SLATE_ROLE_EXTENDED ||
            (one->first >= first && behind <= end))
            continue;
        obstacle->number = one->number;
        obstacle->blocks =
            one->first < first ? first - one->first : behind - end;
        obstacle->why =
            one->first < first
                ? "a partition begins where the GPT has to stand"
                : "a partition ends where the second copy of the GPT has to "
                  "stand";
        return;
    }
}

static void find_to_gpt_obstacle(const struct slate_facts *facts,
                                 struct slate_obstacle *obstacle)
{
    uint64_t array = slate_gpt_array_blocks(0, facts->geometry.block_bytes);
    uint64_t blocks = facts->geometry.block_count;

    if (!is_sound(facts))
        obstacle->why = "the table that is there is not sound";
    else if (blocks < 2 * array + 8)
        obstacle->why = "the device is too small for a GPT";
    else
        find_end_obstacle(facts, 2 + array, blocks - 1 - array, obstacle);
}

static void find_to_mbr_obstacle(const struct slate_facts *facts,
                                 struct slate_obstacle *obstacle)
{
    if (!is_sound(facts) || facts->layout.primary.state != SLATE_GPT_SOUND ||
        facts->layout.backup.state != SLATE_GPT_SOUND)
        obstacle->why = "the table that is there is not sound";
    else if (facts->layout.count > SLATE_MBR_PRIMARIES)
        obstacle->why = "there are more partitions than an MBR has entries";
    for (uint32_t i = 0; i < facts->layout.count && obstacle->why == NULL;
         i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->first + one->count <= MBR_BLOCKS)
            continue;
        obstacle->number = one->number;
        obstacle->blocks = one->first + one->count - MBR_BLOCKS;
        obstacle->why = "a partition lies beyond what an MBR reaches";
    }
}

#define ROOM_BYTES_LEAST 8388608u
#define ALIGN_BYTES 1048576u

/* Hosts of these extend them in place. */
static bool is_extendable(enum slate_volume_kind kind)
{
    return kind == SLATE_VOLUME_NTFS || kind == SLATE_VOLUME_EXT2 ||
           kind == SLATE_VOLUME_EXT3 || kind == SLATE_VOLUME_EXT4 ||
           kind == SLATE_VOLUME_XFS || kind == SLATE_VOLUME_BTRFS;
}

/* What the table reaches. */
static uint64_t reach_of(const struct slate_facts *facts)
{
    uint64_t blocks = facts->geometry.block_count;

    if (facts->layout.kind == SLATE_TABLE_GPT)
        return facts->layout.primary.last_usable + 1;
    return blocks < MBR_BLOCKS ? blocks : MBR_BLOCKS - 1;
}

uint64_t slate_mend_room(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_partition *own = &facts->partition[i];
    uint64_t align = ALIGN_BYTES / facts->geometry.block_bytes;
    uint64_t from = own->first + own->count, end = reach_of(facts);

    for (uint32_t n = 0; n < facts->layout.count; n++) {
        const struct slate_partition *one = &facts->partition[n];

        if (n != i && one->first + one->count > own->first && one->first < end)
            end = one->first;
    }
    end = end / align * align;
    return end > from ? end - from : 0;
}

/* A sound table, of which both copies say the same. */
static bool can_grow(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_layout *layout = &facts->layout;
    bool gpt = layout->kind == SLATE_TABLE_GPT;

    return i < layout->count && layout->found == layout->count &&
           facts->partition[i].role == SLATE_ROLE_PRIMARY &&
           is_extendable(facts->volume[i].kind) &&
           (gpt ? layout->hybrid == 0 && !gpt_is_amiss(facts, 0)
                : is_mbr(facts, 0)) &&
           (oddities(facts) & (SLATE_LAYOUT_OVERLAP | SLATE_LAYOUT_BEYOND_END |
                               SLATE_LAYOUT_OUTSIDE)) == 0 &&
           slate_mend_room(facts, i) * facts->geometry.block_bytes >=
               ROOM_BYTES_LEAST;
}

struct row {
    const char *name, *words;
    bool (*holds)(const struct slate_facts *facts, uint32_t i);
    void (*obstacle)(const struct slate_facts *facts,
                     struct slate_obstacle *obstacle);
    bool each; /* of each partition, or of the whole */
    bool wish; /* nothing is wrong without it */
};

static const struct row rows[SLATE_MEND_KINDS] = {
    [SLATE_MEND_GPT] = {"gpt",
                        "both copies of the table are made right, each in its "
                        "place, and the entry that protects them",
                        gpt_is_amiss, find_gpt_obstacle, false, false},
    [SLATE_MEND_HYBRID] = {"hybrid",
                           "the MBR's own entries go; the GPT is the only "
                           "table then",
                           is_hybrid, NULL, false, false},
    [SLATE_MEND_REMAINS] = {"remains", "what is left of an old GPT is cleared",
                            has_remains, find_remains_obstacle, false, false},
    [SLATE_MEND_START] = {"start",
                          "the first blocks of the volume come back from its "
                          "own copy of them",
                          start_is_lost, NULL, true, false},
    [SLATE_MEND_TYPE] = {"type", "the type becomes that of the volume in it",
                         has_wrong_type, NULL, true, false},
    [SLATE_MEND_ORDER] = {"order",
                          "the partitions get their numbers in the order of "
                          "their blocks",
                          is_unordered, NULL, false, false},
    [SLATE_MEND_TO_GPT] = {"to-gpt",
                           "the MBR becomes a GPT over the same partitions",
                           is_mbr, find_to_gpt_obstacle, false, true},
    [SLATE_MEND_TO_MBR] = {"to-mbr",
                           "the GPT becomes an MBR over the same partitions",
                           is_gpt, find_to_mbr_obstacle, false, true},
    [SLATE_MEND_GROW] = {"grow",
                         "the partition gets the free room behind it; the "
                         "system that its volume belongs to extends the volume "
                         "into it",
                         can_grow, NULL, true, true}};

const char *slate_mend_name(enum slate_mend_kind kind)
{
    return SLATE_ROW_OF(rows, kind)->name;
}

const char *slate_mend_words(enum slate_mend_kind kind)
{
    return SLATE_ROW_OF(rows, kind)->words;
}

bool slate_mend_next(const struct slate_facts *facts, uint32_t index,
                     struct slate_mend *mend)
{
    uint32_t volumes = facts->layout.count;

    for (uint32_t k = 0; k < SLATE_MEND_KINDS; k++) {
        bool each = rows[k].each && volumes > 0;

        for (uint32_t i = 0; !rows[k].wish && i < (each ? volumes : 1); i++) {
            mend->kind = (enum slate_mend_kind)k;
            mend->partition = each ? i : SLATE_ATTRIBUTE_WHOLE;
            if (slate_mend_holds(facts, mend) && index-- == 0)
                return true;
        }
    }
    return false;
}

bool slate_mend_holds(const struct slate_facts *facts,
                      const struct slate_mend *mend)
{
    bool whole = mend->partition == SLATE_ATTRIBUTE_WHOLE;

    return facts->opened == SLATE_OK && !facts->marked && !facts->mark_cut &&
           (unsigned)mend->kind < SLATE_MEND_KINDS &&
           (whole || mend->partition < facts->layout.count) &&
           rows[mend->kind].holds(facts, mend->partition);
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
    switch (id) {
    case SLATE_FINDING_GPT_PRIMARY_DAMAGED:
    case SLATE_FINDING_GPT_SECOND_ALONE:
    case SLATE_FINDING_GPT_BACKUP_MISPLACED:
    case SLATE_FINDING_GPT_BACKUP_DAMAGED:
    case SLATE_FINDING_PROTECTIVE_MISSING:
    case SLATE_FINDING_PROTECTIVE_WRONG:
    case SLATE_FINDING_MBR_REMAINS:
    case SLATE_FINDING_BEYOND_END:
        return SLATE_MEND_GPT;
    case SLATE_FINDING_HYBRID_DISAGREES:
        return SLATE_MEND_HYBRID;
    case SLATE_FINDING_GPT_REMAINS:
        return SLATE_MEND_REMAINS;
    case SLATE_FINDING_NO_VOLUME:
    case SLATE_FINDING_START_ERASED:
        return SLATE_MEND_START;
    case SLATE_FINDING_TYPE_DISAGREES:
        return SLATE_MEND_TYPE;
    case SLATE_FINDING_MBR_LIMIT:
        return SLATE_MEND_TO_GPT;
    case SLATE_FINDING_SMALL_TABLE:
    case SLATE_FINDING_UNALLOCATED:
        return SLATE_MEND_GROW;
    default:
        return SLATE_MEND_KINDS;
    }
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
    if (!rows[kind].wish) {
        while (slate_mend_next(facts, i, mend) && mend->kind != kind)
            i++;
        if (!slate_mend_next(facts, i, mend))
            return false;
    }
    return slate_mend_holds(facts, mend) &&
           !slate_mend_obstacle(facts, mend, &obstacle);
}
