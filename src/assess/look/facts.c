/* SPDX-License-Identifier: MIT */
/* What facts say of the whole device: what hosts show of it, and what not. */
#include "assess/judge/judge.h"
#include "volume/common/common.h"

/* The first descriptor of an optical-disc image (ECMA-119, 6.2.1). */
#define OPTICAL_AT 32768u

bool slate_facts_is_worth(uint64_t part_bytes, uint64_t whole_bytes)
{
    return part_bytes >= SLATE_GAP_BYTES_MIN &&
           (part_bytes >= whole_bytes / 100 ||
            part_bytes >= SLATE_LARGE_BYTES_MIN);
}

uint64_t slate_facts_bytes(const struct slate_facts *facts, uint64_t blocks)
{
    return blocks * facts->geometry.block_bytes;
}

/* Descriptors in the gap ahead of the first partition of a sound table are
 * remains of what was there before. */
static bool is_gap_remains(const struct slate_facts *facts)
{
    uint64_t first = OPTICAL_AT / facts->geometry.block_bytes;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].first <= first)
            return false;
    }
    return slate_facts_volumes(facts) > 0;
}

const struct slate_volume *slate_facts_optical(const struct slate_facts *facts)
{
    static const struct slate_volume none = {.kind = SLATE_VOLUME_NONE};

    if (facts->layout.kind == SLATE_TABLE_NONE)
        return &facts->whole;
    return is_gap_remains(facts) ? &none : &facts->optical;
}

uint32_t slate_facts_volumes(const struct slate_facts *facts)
{
    uint32_t count = 0;

    for (uint32_t i = 0; i < facts->layout.count; i++)
        count += slate_volume_is_known(facts->volume[i].kind) ? 1u : 0u;
    return count;
}

const struct slate_volume *slate_facts_volume(const struct slate_facts *facts,
                                              uint32_t i, uint64_t *room)
{
    if (facts->layout.kind == SLATE_TABLE_NONE) {
        *room = slate_geometry_bytes(&facts->geometry);
        return i == 0 ? &facts->whole : NULL;
    }
    if (i >= facts->layout.count)
        return NULL;
    *room = facts->partition[i].count > UINT64_MAX / facts->geometry.block_bytes
                ? UINT64_MAX
                : slate_facts_bytes(facts, facts->partition[i].count);
    return &facts->volume[i];
}

const struct slate_gpt_copy *slate_facts_shadow(const struct slate_facts *facts)
{
    const struct slate_layout *layout = &facts->layout;

    if (slate_layout_copies_differ(layout))
        return layout->second ? &layout->primary : &layout->backup;
    if (layout->kind == SLATE_TABLE_GPT)
        return NULL;
    if (layout->primary.state == SLATE_GPT_SOUND)
        return &layout->primary;
    return layout->backup.state == SLATE_GPT_SOUND ? &layout->backup : NULL;
}

void slate_facts_other_copy(const struct slate_facts *facts,
                            struct slate_facts *other)
{
    *other = *facts;
    other->layout.count = facts->shadow.count;
    other->layout.found = facts->shadow.found;
    other->layout.end = facts->shadow.end;
    other->layout.second = !facts->layout.second;
    other->partition = other->shadow_partition;
    other->volume = other->shadow_volume;
    other->layout.partition = other->shadow_partition;
    for (uint32_t i = 0; i < other->layout.count; i++) {
        for (uint32_t j = 0; j < facts->layout.count; j++) {
            if (other->partition[i].first == facts->partition[j].first)
                other->volume[i] = facts->volume[j]; /* it was read closely */
        }
    }
}

/* Not every volume tells its size: then it is taken to fill its room. */
static uint64_t size_of(const struct slate_volume *volume, uint64_t room)
{
    return volume->bytes != 0 && volume->bytes < room ? volume->bytes : room;
}

/* Do hosts show the files of this volume, as far as can be told? */
static bool is_shown(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_volume *volume = &facts->volume[i];

    if (volume->kind == SLATE_VOLUME_UNREAD)
        return true; /* nobody has looked */
    return slate_volume_is_known(volume->kind) &&
           !slate_volume_needs_more(volume) &&
           !slate_type_is_dynamic(facts, i) &&
           !slate_partition_hides(&facts->partition[i]);
}

/* Adds up partitions, blocks that several share only once. */
static uint64_t add_up(const struct slate_facts *facts, bool shown)
{
    struct slate_tour tour = {0};
    struct slate_stretch one;
    uint64_t reached = 0, sum = 0;

    while (slate_layout_next(&facts->layout, facts->geometry.block_count, &tour,
                             &one)) {
        uint64_t first = one.first > reached ? one.first : reached;
        uint64_t end = one.first + one.count, room;
        uint32_t i;

        if (one.partition == NULL || end <= first)
            continue;
        i = (uint32_t)(one.partition - facts->partition);
        room = slate_facts_bytes(facts, end - first);
        reached = end;
        if (!shown)
            sum += room;
        else if (is_shown(facts, i))
            sum += size_of(&facts->volume[i], room);
    }
    return sum;
}

uint64_t slate_facts_shown_bytes(const struct slate_facts *facts)
{
    if (facts->layout.kind != SLATE_TABLE_NONE)
        return add_up(facts, true);
    return slate_volume_is_known(facts->whole.kind) &&
                   !slate_volume_needs_more(&facts->whole)
               ? size_of(&facts->whole, slate_geometry_bytes(&facts->geometry))
               : 0;
}

uint64_t slate_facts_covered_bytes(const struct slate_facts *facts)
{
    if (facts->layout.kind != SLATE_TABLE_NONE)
        return add_up(facts, false);
    return slate_volume_is_known(facts->whole.kind)
               ? size_of(&facts->whole, slate_geometry_bytes(&facts->geometry))
               : 0;
}

/* What a volume leaves of its partition, where that is a finding. */
static uint64_t slack_of(const struct slate_facts *facts)
{
    uint64_t sum = 0, room;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_volume *volume = slate_facts_volume(facts, i, &room);

        if (slate_is_smaller(facts, i))
            sum += room - volume->bytes;
    }
    return sum;
}

uint64_t slate_facts_unreached_bytes(const struct slate_facts *facts)
{
    uint64_t native = facts->abilities.native_blocks;
    uint64_t sum = 0;

    if (native > facts->geometry.block_count)
        sum = slate_facts_bytes(facts, native - facts->geometry.block_count);
    if (facts->layout.kind == SLATE_TABLE_NONE)
        return sum + slate_facts_hidden_bytes(facts);
    return sum + slack_of(facts) +
           slate_facts_bytes(facts, slate_facts_unallocated(facts));
}

uint64_t slate_facts_hidden_bytes(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t end = slate_facts_bytes(
        facts, slate_layout_end(&facts->layout, facts->geometry.block_count));

    if (facts->layout.kind == SLATE_TABLE_NONE)
        end = slate_volume_is_known(facts->whole.kind)
                  ? size_of(&facts->whole, all)
                  : all;
    return end < all ? all - end : 0;
}

bool slate_facts_hold_content(const struct slate_facts *facts)
{
    return facts->layout.found > 0 || facts->shadow.found > 0 || !facts->blank;
}
