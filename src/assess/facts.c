/* SPDX-License-Identifier: MIT */
/* What facts say of the whole device: what hosts show of it, and what not. */
#include "assess/facts.h"

bool slate_facts_is_worth(uint64_t part_bytes, uint64_t whole_bytes)
{
    return part_bytes >= SLATE_GAP_BYTES_MIN && part_bytes >= whole_bytes / 100;
}

uint64_t slate_facts_bytes(const struct slate_facts *facts, uint64_t blocks)
{
    return blocks * facts->geometry.block_bytes;
}

const struct slate_volume *slate_facts_optical(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_NONE ? &facts->whole
                                                  : &facts->optical;
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
    if (facts->layout.kind == SLATE_TABLE_GPT)
        return NULL;
    if (facts->layout.primary.state == SLATE_GPT_SOUND)
        return &facts->layout.primary;
    return facts->layout.backup.state == SLATE_GPT_SOUND ? &facts->layout.backup
                                                         : NULL;
}

/* Not every volume tells its size: then it is taken to fill its room. */
static uint64_t size_of(const struct slate_volume *volume, uint64_t room)
{
    return volume->bytes != 0 && volume->bytes < room ? volume->bytes : room;
}

/* What of a partition lies on the device. */
static uint64_t room_on_device(const struct slate_facts *facts,
                               const struct slate_partition *partition)
{
    uint64_t blocks = facts->geometry.block_count;

    if (partition->first >= blocks)
        return 0;
    blocks -= partition->first;
    return slate_facts_bytes(facts, partition->count < blocks ? partition->count
                                                              : blocks);
}

uint64_t slate_facts_shown_bytes(const struct slate_facts *facts)
{
    uint64_t shown = 0;

    if (facts->layout.kind == SLATE_TABLE_NONE)
        return slate_volume_is_known(facts->whole.kind)
                   ? size_of(&facts->whole,
                             slate_geometry_bytes(&facts->geometry))
                   : 0;
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].role != SLATE_ROLE_EXTENDED)
            shown += size_of(&facts->volume[i],
                             room_on_device(facts, &facts->partition[i]));
    }
    return shown;
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
    return facts->layout.found > 0 || facts->whole.kind != SLATE_VOLUME_NONE ||
           facts->unread.count > 0 || !facts->edges_blank;
}
