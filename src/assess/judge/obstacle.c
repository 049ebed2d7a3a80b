/* SPDX-License-Identifier: MIT */
/* Where the copies of a table go on the device as it is now, which room its
 * partitions have, and what is in the way. */
#include "assess/judge/judge.h"

#include "table/table.h"

/* Of a device that was proved to have fewer blocks than it claims. */
#define NO_END                                                                 \
    "the second copy of the table would stand where the device claims to "     \
    "end, "                                                                    \
    "and it was proved to have no blocks there"

/* How far the entries of an MBR count. */
#define MBR_BLOCKS ((uint64_t)1 << 32)

/* The first block behind all partitions of the GPT, also of one that does not
 * count. */
static uint64_t end_of_gpt(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_GPT ? facts->layout.end
                                                 : facts->shadow.end;
}

/* The only sound copy is not at the end, by less than its own length; and the
 * other header does not go with its entries. */
static bool moves_over_itself(const struct slate_layout *layout,
                              const struct slate_gpt_places *places)
{
    const struct slate_gpt_copy *from = places->from;

    return from == &layout->backup && from->lba != places->backup.header &&
           from->lba >= places->backup.array &&
           (layout->primary.array_crc != from->array_crc ||
            layout->primary.entry_count != from->entry_count ||
            layout->primary.entry_bytes != from->entry_bytes);
}

const char *slate_gpt_places(const struct slate_facts *facts,
                             struct slate_gpt_places *places)
{
    const struct slate_layout *layout = &facts->layout;
    uint32_t block = facts->geometry.block_bytes;
    uint64_t last = facts->geometry.block_count - 1;
    struct slate_gpt_place *primary = &places->primary;
    bool first = layout->primary.state == SLATE_GPT_SOUND &&
                 !(layout->second && slate_layout_copies_differ(layout));
    bool leads = layout->primary.state >= SLATE_GPT_ARRAY_DAMAGED;

    if (slate_is_false_capacity(facts))
        return NO_END;
    places->end = end_of_gpt(facts);
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
    primary->array = leads ? layout->primary.array_lba : 2;
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
    if (moves_over_itself(layout, places))
        return "the second copy would have to move over itself, and the first "
               "one cannot stand in for it meanwhile";
    return places->end > primary->last_usable + 1
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

void slate_obstacle_gpt(const struct slate_facts *facts,
                        struct slate_obstacle *obstacle)
{
    struct slate_gpt_places places = {.from = NULL};
    uint64_t usable;

    obstacle->why = slate_gpt_places(facts, &places);
    usable = places.primary.last_usable + 1;
    if (obstacle->why == NULL || usable == 1 || places.end <= usable)
        return;
    obstacle->number = number_ahead_of(facts, places.end);
    obstacle->blocks = places.end - usable;
}

static bool holds_block(const struct slate_partition *partition, uint64_t lba)
{
    return lba >= partition->first && lba - partition->first < partition->count;
}

void slate_obstacle_remains(const struct slate_facts *facts,
                            struct slate_obstacle *obstacle)
{
    const struct slate_layout *layout = &facts->layout;

    if (layout->kind == SLATE_TABLE_NONE &&
        slate_volume_is_known(facts->whole.kind))
        obstacle->why =
            "a volume takes the whole device: what is there may be its own";
    else if (layout->found > layout->count)
        obstacle->why = "there are more partitions than were looked at";
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
    const struct slate_layout *layout = &facts->layout;

    return layout->found == layout->count &&
           layout->chain == SLATE_CHAIN_WHOLE &&
           (slate_layout_check(layout, facts->geometry.block_count) &
            (SLATE_LAYOUT_OVERLAP | SLATE_LAYOUT_BEYOND_END)) == 0;
}

/* A GPT needs its blocks at both ends; the links to logical partitions count
 * until it does. */
static void find_end_obstacle(const struct slate_facts *facts, uint64_t first,
                              uint64_t end, struct slate_obstacle *obstacle)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];
        uint64_t behind = one->first + one->count, from = one->first;

        if (one->role == SLATE_ROLE_LOGICAL && one->link < from)
            from = one->link;
        if (one->role == SLATE_ROLE_LOGICAL && one->link >= behind)
            behind = one->link + 1;
        if (one->role == SLATE_ROLE_EXTENDED ||
            (from >= first && behind <= end))
            continue;
        obstacle->number = one->number;
        obstacle->blocks = from < first ? first - from : behind - end;
        obstacle->why = from < first
                            ? "a partition begins where the GPT has to stand"
                            : "a partition ends where the second copy of the "
                              "GPT has to stand";
        return;
    }
}

void slate_obstacle_to_gpt(const struct slate_facts *facts,
                           struct slate_obstacle *obstacle)
{
    uint64_t array = slate_gpt_array_blocks(0, facts->geometry.block_bytes);
    uint64_t blocks = facts->geometry.block_count;

    if (slate_is_false_capacity(facts))
        obstacle->why = NO_END;
    else if (!is_sound(facts))
        obstacle->why = "the table that is there is not sound";
    else if (blocks < 2 * array + 8)
        obstacle->why = "the device is too small for a GPT";
    else
        find_end_obstacle(facts, 2 + array, blocks - 1 - array, obstacle);
}

void slate_obstacle_to_mbr(const struct slate_facts *facts,
                           struct slate_obstacle *obstacle)
{
    unsigned oddities =
        slate_layout_check(&facts->layout, facts->geometry.block_count);

    if (!is_sound(facts) || (oddities & SLATE_LAYOUT_OUTSIDE) != 0 ||
        facts->layout.primary.state != SLATE_GPT_SOUND ||
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

#define ALIGN_BYTES 1048576u

/* What the table reaches. */
static uint64_t reach_of(const struct slate_facts *facts)
{
    uint64_t blocks = slate_is_false_capacity(facts)
                          ? facts->proved_blocks
                          : facts->geometry.block_count;

    if (facts->layout.kind == SLATE_TABLE_GPT &&
        facts->layout.primary.last_usable < blocks)
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
