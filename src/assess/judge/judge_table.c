/* SPDX-License-Identifier: MIT */
/* What can be wrong with the table. */
#include "assess/judge/judge.h"

#define MBR_BLOCKS_MOST ((uint64_t)1 << 32)

static bool is_odd(const struct slate_facts *facts, unsigned oddities)
{
    return (slate_layout_check(&facts->layout, facts->geometry.block_count) &
            oddities) != 0;
}

static bool is_mbr_limit(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_MBR && !facts->layout.protective &&
           slate_facts_is_worth(
               slate_facts_bytes(facts, facts->geometry.block_count) -
                   slate_facts_bytes(facts, facts->geometry.block_count <
                                                    MBR_BLOCKS_MOST
                                                ? facts->geometry.block_count
                                                : MBR_BLOCKS_MOST),
               slate_geometry_bytes(&facts->geometry));
}

static bool is_beyond_end(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_BEYOND_END);
}

static bool is_listed_twice(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        for (uint32_t j = 0; j < i; j++) {
            if (facts->partition[i].first == facts->partition[j].first &&
                facts->partition[i].count == facts->partition[j].count)
                return true;
        }
    }
    return false;
}

static bool is_chain_broken(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_CHAIN_LOOP | SLATE_LAYOUT_CHAIN_BROKEN);
}

static bool is_overlap(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_OVERLAP);
}

static bool is_out_of_range(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_OUTSIDE) && !is_beyond_end(facts);
}

/* The space behind the table's end: its greater part, or what is left when the
 * end is that of a smaller device, is no intention. */
static bool is_small_table(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t hidden = slate_facts_hidden_bytes(facts);
    uint64_t nominal = slate_size_nominal(all - hidden);

    return (facts->layout.found > 0 ||
            slate_volume_is_known(facts->whole.kind)) &&
           slate_facts_is_worth(hidden, all) &&
           (hidden > all / 2 ||
            (nominal != 0 && nominal < slate_size_nominal(all)));
}

bool slate_is_gap(const struct slate_facts *facts,
                  const struct slate_stretch *stretch)
{
    return stretch->partition == NULL &&
           slate_facts_bytes(facts, stretch->count) >= SLATE_GAP_BYTES_MIN;
}

uint64_t slate_facts_unallocated(const struct slate_facts *facts)
{
    struct slate_tour tour = {0};
    struct slate_stretch stretch;
    uint64_t blocks = 0;

    while (slate_layout_next(&facts->layout, facts->geometry.block_count, &tour,
                             &stretch))
        blocks += slate_is_gap(facts, &stretch) ? stretch.count : 0;
    return blocks;
}

static bool is_unallocated(const struct slate_facts *facts)
{
    uint64_t blocks = slate_facts_unallocated(facts);

    if (is_small_table(facts) || facts->layout.found > facts->layout.count)
        return false;
    if (facts->layout.kind == SLATE_TABLE_NONE)
        return slate_facts_is_worth(slate_facts_hidden_bytes(facts),
                                    slate_geometry_bytes(&facts->geometry));
    return facts->layout.found > 0 &&
           slate_facts_is_worth(slate_facts_bytes(facts, blocks),
                                slate_geometry_bytes(&facts->geometry));
}

static bool is_other_table(const struct slate_facts *facts)
{
    return facts->layout.kind > SLATE_TABLE_GPT;
}

/* Hosts of today go by block numbers alone; vintage ones do not. */
static bool is_chs_disagrees(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_CHS);
}

static bool is_unusual_gpt(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_UNUSUAL_GPT | SLATE_LAYOUT_DUPLICATE);
}

static bool is_several_volumes(const struct slate_facts *facts)
{
    enum slate_transport transport = facts->identity.transport;

    /* an image stands for the card that it was taken from */
    return (facts->removable || transport == SLATE_TRANSPORT_IMAGE ||
            transport == SLATE_TRANSPORT_LOOP) &&
           slate_facts_volumes(facts) > 1;
}

const struct slate_rule slate_rules_table[] = {
    DEVICE(MBR_LIMIT, "mbr-limit", TROUBLE, is_mbr_limit, RENEW, 0,
           BECAUSE(BY(BLOCK_SIZE_MISMATCH)),
           "An MBR cannot address more than 2^32 blocks: {beyond-mbr} of "
           "{capacity} are out of reach.",
           "The device has {blocks} blocks of {block-bytes} bytes; its table "
           "is an MBR.",
           "The disk was set up for an old host, or cloned from a smaller one.",
           "Copy off what is needed, then renew the device with a GPT."),
    DEVICE(BEYOND_END, "beyond-end", TROUBLE, is_beyond_end, RENEW, 0,
           BECAUSE(MISCOUNT),
           "The table was made for a larger device: it reaches beyond the end "
           "of this one.",
           "{beyond}", "{beyond-cause}", SAVE_FIRST),
    DEVICE(CHAIN_BROKEN, "chain-broken", TROUBLE, is_chain_broken, RENEW, 0,
           BECAUSE(BY(READ_ERRORS), BY(BEYOND_END), BY(BLOCK_SIZE_MISMATCH)),
           "The chain of logical partitions is broken: some of them are lost "
           "to hosts.",
           "{chain}.",
           "A partition was deleted or resized by a tool that did not know the "
           "others.",
           SAVE_FIRST),
    DEVICE(LISTED_TWICE, "listed-twice", TROUBLE, is_listed_twice, RENEW, 0,
           BECAUSE(IMAGE),
           "The table lists one and the same partition twice: hosts show it as "
           "two drives, and may mount it twice.",
           "{twice}",
           "The table was edited by hand, or by a tool that did not see the "
           "other entry.",
           SAVE_FIRST),
    DEVICE(OVERLAP, "overlap", TROUBLE, is_overlap, RENEW, 0,
           BECAUSE(IMAGE, BY(LISTED_TWICE)),
           "Partitions share blocks: writing to one damages the other.",
           "{overlaps}",
           "The table was edited by hand, or by two systems that did not know "
           "of each other.",
           SAVE_FIRST),
    DEVICE(OUT_OF_RANGE, "out-of-range", NOTE, is_out_of_range, RENEW, 0,
           BECAUSE(IMAGE, BY(CHAIN_BROKEN)),
           "A partition lies outside the range that its table leaves to "
           "partitions.",
           "{outside}",
           "The table was edited by hand, or by a tool that did not know the "
           "others.",
           SAVE_FIRST),
    DEVICE(OTHER_TABLE, "other-table", TROUBLE, is_other_table, RENEW, 0,
           BECAUSE(IMAGE),
           "The device has a table of another kind, {table}: most hosts ask to "
           "format it.",
           "It names {partition-count}.",
           "It was used in another kind of system.", RENEW),
    DEVICE(SMALL_TABLE, "small-table", TROUBLE, is_small_table, RENEW,
           SLATE_FOLLOW_REST | SLATE_FOLLOW_SEARCH,
           BECAUSE(IMAGE, MISCOUNT, BY(MBR_LIMIT), BY(GPT_BACKUP_MISPLACED),
                   BY(MBR_REMAINS), BY(OTHER_TABLE), BY(VOLUME_LARGER),
                   BY(MEMBER)),
           "Hosts reach {covered} of {capacity} at most; {rest}.",
           "{end}; the device has {blocks} blocks of {block-bytes} bytes.",
           "The table or the volume was made for a smaller device, or by a "
           "tool that stops at a size of its own.",
           RENEW),
    DEVICE(UNALLOCATED, "unallocated", TROUBLE, is_unallocated, RENEW,
           SLATE_FOLLOW_REST | SLATE_FOLLOW_SEARCH,
           BECAUSE(IMAGE, MISCOUNT, BY(MBR_LIMIT), BY(GPT_BACKUP_MISPLACED),
                   BY(MBR_REMAINS), BY(OTHER_TABLE), BY(CHAIN_BROKEN),
                   BY(BEYOND_END), BY(VOLUME_LARGER), BY(MEMBER)),
           "{unallocated} of {capacity} belong to no partition.", "{gaps}",
           "Partitions were deleted or made smaller, or a tool stopped at a "
           "size of its own.",
           RENEW),
    DEVICE(SEVERAL_VOLUMES, "several-volumes", NOTE, is_several_volumes, RENEW,
           SLATE_FOLLOW_SEARCH, BECAUSE(IMAGE),
           "The device carries {volume-count}: hosts show it as several "
           "drives, or only the first of them.",
           "{partition-list}.",
           "It was divided on purpose, or came out of a camera, console or "
           "computer.",
           RENEW),
    DEVICE(CHS_DISAGREES, "chs-disagrees", NOTE, is_chs_disagrees, RENEW, 0,
           BECAUSE(IMAGE, MISCOUNT, BY(BEYOND_END)),
           "Cylinders, heads and sectors in the table do not agree with its "
           "block numbers; very old hosts go by them.",
           "{chs}.", "The table was made for another drive geometry.",
           "Nothing has to be done for hosts of this century; renewing "
           "corrects it."),
    DEVICE(UNUSUAL_GPT, "unusual-gpt", NOTE, is_unusual_gpt, RENEW, 0,
           BECAUSE(IMAGE),
           "The GPT is sound but unusual; some hosts reject it.", "{unusual}.",
           "Made by a tool of its own kind, or entries were copied.",
           "Nothing has to be done as long as hosts show it; renewing makes it "
           "an ordinary one."),
    RULES_END};
