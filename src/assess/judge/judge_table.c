/* SPDX-License-Identifier: MIT */
/* What can be wrong with the table. */
#include <string.h>

#include "assess/judge/judge.h"

#define MBR_BLOCKS_MOST ((uint64_t)1 << 32)

static bool is_odd(const struct slate_facts *facts, unsigned oddities)
{
    return (slate_layout_check(&facts->layout, facts->geometry.block_count) &
            oddities) != 0;
}

static bool is_gpt(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_GPT;
}

static bool is_sound(const struct slate_gpt_copy *copy)
{
    return copy->state == SLATE_GPT_SOUND;
}

bool slate_is_mbr_limit(const struct slate_facts *facts)
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

bool slate_is_gpt_lost(const struct slate_facts *facts)
{
    return facts->layout.protective && !is_sound(&facts->layout.primary) &&
           !is_sound(&facts->layout.backup);
}

bool slate_is_gpt_primary_damaged(const struct slate_facts *facts)
{
    return is_gpt(facts) && !is_sound(&facts->layout.primary);
}

bool slate_is_gpt_backup_damaged(const struct slate_facts *facts)
{
    return is_gpt(facts) && !is_sound(&facts->layout.backup);
}

/* The device has grown since: the table ends where it ended then. */
bool slate_is_gpt_backup_misplaced(const struct slate_facts *facts)
{
    uint64_t last = facts->geometry.block_count - 1;

    return is_gpt(facts) && is_sound(&facts->layout.primary) &&
           facts->layout.primary.other_lba < last;
}

bool slate_is_beyond_end(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_BEYOND_END);
}

bool slate_is_protective_missing(const struct slate_facts *facts)
{
    return is_gpt(facts) && !facts->layout.protective;
}

/* One entry from block 1 to the end; hosts also write the largest number, and
 * what the device had before it grew or shrank is told elsewhere. */
bool slate_is_protective_wrong(const struct slate_facts *facts)
{
    uint64_t rest = facts->geometry.block_count - 1;

    if (!is_gpt(facts))
        return false;
    for (int i = 0; i < 4; i++) {
        const struct slate_mbr_entry *entry = &facts->layout.mbr[i];

        if (entry->type == SLATE_MBR_PROTECTIVE &&
            (entry->first != 1 ||
             (facts->layout.hybrid == 0 && entry->count != UINT32_MAX &&
              entry->count != rest)))
            return true;
    }
    return false;
}

bool slate_is_mirrored(const struct slate_facts *facts,
                       const struct slate_mbr_entry *entry)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].first == entry->first &&
            facts->partition[i].count == entry->count)
            return true;
    }
    return false;
}

bool slate_is_hybrid_disagrees(const struct slate_facts *facts)
{
    if (!is_gpt(facts))
        return false;
    for (int i = 0; i < 4; i++) {
        const struct slate_mbr_entry *entry = &facts->layout.mbr[i];

        if (entry->type != 0 && entry->type != SLATE_MBR_PROTECTIVE &&
            !slate_is_mirrored(facts, entry))
            return true;
    }
    return false;
}

static bool shadow_has_volume(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->shadow.count; i++) {
        if (slate_volume_is_known(facts->shadow_volume[i].kind))
            return true;
    }
    return false;
}

/* The GPT's volumes are there, the MBR's are not. */
bool slate_is_mbr_remains(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_MBR && facts->layout.found > 0 &&
           slate_facts_shadow(facts) != NULL &&
           slate_facts_volumes(facts) == 0 && shadow_has_volume(facts);
}

/* The start is gone, and with it the first copy and what announces it. */
bool slate_is_gpt_second_alone(const struct slate_facts *facts)
{
    return slate_facts_shadow(facts) == &facts->layout.backup &&
           facts->layout.found == 0 && !facts->marked &&
           !slate_volume_is_known(facts->whole.kind);
}

bool slate_is_gpt_remains(const struct slate_facts *facts)
{
    return slate_facts_shadow(facts) != NULL && !slate_is_mbr_remains(facts) &&
           !slate_is_gpt_second_alone(facts);
}

/* Both are sound, and not the same. */
bool slate_is_gpt_copies_disagree(const struct slate_facts *facts)
{
    const struct slate_gpt_copy *one = &facts->layout.primary;
    const struct slate_gpt_copy *two = &facts->layout.backup;

    return is_gpt(facts) && is_sound(one) && is_sound(two) &&
           (one->array_crc != two->array_crc ||
            memcmp(one->disk_id.bytes, two->disk_id.bytes, 16) != 0);
}

bool slate_is_listed_twice(const struct slate_facts *facts)
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

bool slate_is_chain_broken(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_CHAIN_LOOP | SLATE_LAYOUT_CHAIN_BROKEN);
}

bool slate_is_overlap(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_OVERLAP);
}

bool slate_is_out_of_range(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_OUTSIDE) && !slate_is_beyond_end(facts);
}

/* The space behind the table's end: its greater part, or what is left when the
 * end is that of a smaller device, is no intention. */
bool slate_is_small_table(const struct slate_facts *facts)
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

bool slate_is_unallocated(const struct slate_facts *facts)
{
    uint64_t blocks = slate_facts_unallocated(facts);

    if (slate_is_small_table(facts) ||
        facts->layout.found > facts->layout.count)
        return false;
    if (facts->layout.kind == SLATE_TABLE_NONE)
        return slate_facts_is_worth(slate_facts_hidden_bytes(facts),
                                    slate_geometry_bytes(&facts->geometry));
    return facts->layout.found > 0 &&
           slate_facts_is_worth(slate_facts_bytes(facts, blocks),
                                slate_geometry_bytes(&facts->geometry));
}

bool slate_is_other_table(const struct slate_facts *facts)
{
    return facts->layout.kind > SLATE_TABLE_GPT;
}

/* Hosts of today go by block numbers alone; vintage ones do not. */
bool slate_is_chs_disagrees(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_CHS);
}

bool slate_is_unusual_gpt(const struct slate_facts *facts)
{
    return is_odd(facts, SLATE_LAYOUT_UNUSUAL_GPT | SLATE_LAYOUT_DUPLICATE);
}

bool slate_is_several_volumes(const struct slate_facts *facts)
{
    enum slate_transport transport = facts->identity.transport;

    /* an image stands for the card that it was taken from */
    return (facts->removable || transport == SLATE_TRANSPORT_IMAGE ||
            transport == SLATE_TRANSPORT_LOOP) &&
           slate_facts_volumes(facts) > 1;
}
