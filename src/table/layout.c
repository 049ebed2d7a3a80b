/* SPDX-License-Identifier: MIT */
/* A layout: checked, walked over in the order of its blocks, named, and read
 * from a table of any kind. */
#include <string.h>

#include "table/table.h"
#include "base/base.h"
#include "trueslate/layout.h"

static uint64_t end_of(const struct slate_partition *partition)
{
    return partition->count > UINT64_MAX - partition->first
               ? UINT64_MAX
               : partition->first + partition->count;
}

static bool contains(const struct slate_partition *container,
                     const struct slate_partition *logical)
{
    return container->role == SLATE_ROLE_EXTENDED &&
           logical->role == SLATE_ROLE_LOGICAL &&
           logical->first >= container->first &&
           end_of(logical) <= end_of(container);
}

bool slate_partitions_overlap(const struct slate_partition *a,
                              const struct slate_partition *b)
{
    bool container =
        a->role == SLATE_ROLE_EXTENDED || b->role == SLATE_ROLE_EXTENDED;
    bool logical =
        a->role == SLATE_ROLE_LOGICAL || b->role == SLATE_ROLE_LOGICAL;

    /* a logical one that lies outside its container is told as such */
    return a->first < end_of(b) && b->first < end_of(a) &&
           !(container && logical);
}

/* EBD0A0A2-B9E5-4433-87C0-68B6B72699C7 */
const struct slate_guid slate_basic_data = {{0xA2, 0xA0, 0xD0, 0xEB, 0xE5, 0xB9,
                                             0x33, 0x44, 0x87, 0xC0, 0x68, 0xB6,
                                             0xB7, 0x26, 0x99, 0xC7}};

bool slate_partition_is_basic(const struct slate_partition *partition)
{
    return memcmp(partition->type.bytes, slate_basic_data.bytes, 16) == 0;
}

bool slate_mbr_is_hidden(uint8_t type)
{
    static const uint8_t hidden[] = {0x11, 0x14, 0x16, 0x17, 0x1B, 0x1C, 0x1E};

    for (size_t i = 0; i < sizeof hidden; i++) {
        if (type == hidden[i])
            return true;
    }
    return false;
}

bool slate_partition_is_beyond(const struct slate_partition *partition,
                               uint64_t block_count)
{
    /* a protective entry may say more than there is (UEFI 2.10, 5.2.3) */
    return partition->mbr_type != SLATE_MBR_PROTECTIVE &&
           end_of(partition) > block_count;
}

static bool is_contained(const struct slate_layout *layout,
                         const struct slate_partition *logical)
{
    for (uint32_t i = 0; i < layout->count; i++) {
        if (contains(&layout->partition[i], logical))
            return true;
    }
    return false;
}

bool slate_layout_is_outside(const struct slate_layout *layout, uint32_t i)
{
    return layout->partition[i].role == SLATE_ROLE_LOGICAL &&
           !is_contained(layout, &layout->partition[i]);
}

bool slate_layout_chain_is_plain(const struct slate_layout *layout)
{
    const struct slate_partition *container = NULL;
    uint64_t reached = 0;
    bool any = false;

    for (uint32_t i = 0; i < layout->count; i++) {
        const struct slate_partition *one = &layout->partition[i];

        if (one->role == SLATE_ROLE_EXTENDED && container != NULL)
            return false;
        if (one->role == SLATE_ROLE_EXTENDED)
            container = one;
        if (one->role != SLATE_ROLE_LOGICAL)
            continue;
        if (container == NULL || !contains(container, one) ||
            one->link < reached || one->first <= one->link)
            return false;
        reached = end_of(one);
        any = true;
    }
    return any && layout->chain == SLATE_CHAIN_WHOLE &&
           layout->found == layout->count;
}

const struct slate_gpt_copy *slate_layout_gpt(const struct slate_layout *layout)
{
    return layout->primary.state == SLATE_GPT_SOUND ? &layout->primary
                                                    : &layout->backup;
}

static unsigned check_one(const struct slate_layout *layout,
                          const struct slate_partition *one,
                          uint64_t block_count)
{
    const struct slate_gpt_copy *copy = slate_layout_gpt(layout);
    unsigned odd = 0;

    if (slate_partition_is_beyond(one, block_count))
        odd |= SLATE_LAYOUT_BEYOND_END;
    if (layout->kind == SLATE_TABLE_GPT &&
        (one->first < copy->first_usable ||
         end_of(one) - 1 > copy->last_usable))
        odd |= SLATE_LAYOUT_OUTSIDE;
    if (slate_layout_is_outside(layout, (uint32_t)(one - layout->partition)))
        odd |= SLATE_LAYOUT_OUTSIDE;
    return odd;
}

static unsigned check_pair(const struct slate_layout *layout,
                           const struct slate_partition *earlier,
                           const struct slate_partition *later)
{
    unsigned odd = 0;

    if (slate_partitions_overlap(earlier, later))
        odd |= SLATE_LAYOUT_OVERLAP;
    if (later->first < earlier->first && earlier->role == later->role)
        odd |= SLATE_LAYOUT_UNORDERED;
    if (layout->kind == SLATE_TABLE_GPT &&
        memcmp(&earlier->id, &later->id, sizeof later->id) == 0)
        odd |= SLATE_LAYOUT_DUPLICATE;
    return odd;
}

/* What the headers of a GPT say of themselves. */
static unsigned check_gpt(const struct slate_layout *layout,
                          uint64_t block_count)
{
    const struct slate_gpt_copy *copy = slate_layout_gpt(layout);
    unsigned odd = 0;

    if (copy->last_usable >= block_count ||
        (copy == &layout->primary && copy->other_lba >= block_count))
        odd |= SLATE_LAYOUT_BEYOND_END;
    if (copy->revision != 0x00010000 ||
        copy->header_bytes != SLATE_GPT_HEADER_BYTES ||
        copy->entry_bytes != SLATE_GPT_ENTRY_BYTES ||
        copy->entry_count < SLATE_GPT_ENTRIES)
        odd |= SLATE_LAYOUT_UNUSUAL_GPT;
    return odd;
}

static unsigned check_mbr(const struct slate_layout *layout)
{
    unsigned odd = 0, active = 0;

    for (int i = 0; i < 4; i++) {
        uint32_t heads, sectors;

        active += layout->mbr[i].boot == 0x80 ? 1u : 0u;
        if (layout->mbr[i].type != 0 &&
            layout->mbr[i].type != SLATE_MBR_PROTECTIVE &&
            !slate_mbr_chs_agrees(&layout->mbr[i], &heads, &sectors))
            odd |= SLATE_LAYOUT_CHS;
    }
    return active > 1 ? odd | SLATE_LAYOUT_TWO_ACTIVE : odd;
}

unsigned slate_layout_check(const struct slate_layout *layout,
                            uint64_t block_count)
{
    unsigned odd = 0;

    for (uint32_t i = 0; i < layout->count; i++) {
        const struct slate_partition *one = &layout->partition[i];

        odd |= check_one(layout, one, block_count);
        for (uint32_t j = 0; j < i; j++)
            odd |= check_pair(layout, &layout->partition[j], one);
    }
    if (layout->kind == SLATE_TABLE_GPT)
        odd |= check_gpt(layout, block_count);
    if (layout->kind == SLATE_TABLE_MBR)
        odd |= check_mbr(layout);
    if (layout->chain == SLATE_CHAIN_LOOP)
        odd |= SLATE_LAYOUT_CHAIN_LOOP;
    if (layout->chain == SLATE_CHAIN_BROKEN)
        odd |= SLATE_LAYOUT_CHAIN_BROKEN;
    return odd;
}

uint64_t slate_layout_end(const struct slate_layout *layout,
                          uint64_t block_count)
{
    return layout->end < block_count ? layout->end : block_count;
}

/* Comes b behind a? Overlapping ones keep the order of their entries. */
static bool is_behind(const struct slate_partition *a,
                      const struct slate_partition *b)
{
    return a == NULL || b->first > a->first || (b->first == a->first && b > a);
}

static const struct slate_partition *
partition_behind(const struct slate_layout *layout, uint64_t block_count,
                 const struct slate_partition *last)
{
    const struct slate_partition *best = NULL;

    for (uint32_t i = 0; i < layout->count; i++) {
        const struct slate_partition *one = &layout->partition[i];

        if (one->role == SLATE_ROLE_EXTENDED || one->first >= block_count ||
            one->count == 0 || !is_behind(last, one))
            continue;
        if (best == NULL || one->first < best->first)
            best = one;
    }
    return best;
}

bool slate_layout_next(const struct slate_layout *layout, uint64_t block_count,
                       struct slate_tour *tour, struct slate_stretch *stretch)
{
    const struct slate_partition *next =
        partition_behind(layout, block_count, tour->last);
    uint64_t until = next == NULL ? block_count : next->first, end;

    stretch->partition = NULL;
    if (tour->reached < until) {
        stretch->first = tour->reached;
        stretch->count = until - tour->reached;
        tour->reached = until;
        return true;
    }
    if (next == NULL)
        return false;
    end = end_of(next) < block_count ? end_of(next) : block_count;
    stretch->partition = next;
    stretch->first = next->first;
    stretch->count = end - next->first;
    tour->last = next;
    if (end > tour->reached)
        tour->reached = end;
    return true;
}

/* What tables and their parts are called: by people, and by programs. */

const char *slate_table_words(enum slate_table_kind kind)
{
    /* in the order of enum slate_table_kind */
    static const char *const words[] = {"no table",
                                        "MBR",
                                        "GPT",
                                        "Apple partition map",
                                        "BSD disk label",
                                        "Sun disk label",
                                        "SGI volume header"};

    return SLATE_NAME_OF(words, kind);
}

SLATE_NAMES(slate_table_name, enum slate_table_kind, "none", "mbr", "gpt",
            "apple", "bsd", "sun", "sgi")

SLATE_NAMES(slate_role_name, enum slate_role, "primary", "extended", "logical")

SLATE_NAMES(slate_gpt_state_name, enum slate_gpt_state, "absent", "unreadable",
            "header-damaged", "array-damaged", "sound")

const char *slate_layout_oddity_name(uint32_t bit)
{
    static const char *const names[] = {
        "beyond-end", "overlap",    "two-active",   "unordered", "outside",
        "duplicate",  "chain-loop", "chain-broken", "chs",       "unusual-gpt"};

    _Static_assert(1u << (sizeof names / sizeof names[0] - 1) ==
                       SLATE_LAYOUT_UNUSUAL_GPT,
                   "a name for each bit");
    return SLATE_NAME_OF(names, bit);
}

/* Reading a table of any kind into the layout model. */

void slate_layout_empty(struct slate_layout *layout)
{
    layout->count = 0;
    layout->found = 0;
    layout->end = 0;
}

struct slate_partition *slate_layout_take(struct slate_layout *layout,
                                          uint64_t first, uint64_t count,
                                          uint32_t number)
{
    uint64_t end = count > UINT64_MAX - first ? UINT64_MAX : first + count;
    struct slate_partition *partition;

    layout->found++;
    if (end > layout->end)
        layout->end = end;
    if (layout->count == layout->room)
        return NULL;
    partition = &layout->partition[layout->count++];
    memset(partition, 0, sizeof *partition);
    partition->first = first;
    partition->count = count;
    partition->number = number;
    return partition;
}

/* No protective entry, and nothing else that block 0 would stand for: then a
 * sound GPT behind it has merely lost its protection. */
static bool is_bare(const struct slate_layout *layout, const uint8_t *block)
{
    for (int i = 0; i < 4; i++) {
        if (layout->mbr[i].type != 0)
            return false;
    }
    return layout->kind <= SLATE_TABLE_MBR && !slate_block_begins_volume(block);
}

enum slate_status slate_layout_read(struct slate_media *media, void *work,
                                    struct slate_layout *layout)
{
    struct slate_partition *partition = layout->partition;
    uint32_t room = layout->room;
    bool wanted, glance = layout->glance, second = layout->second;

    memset(layout, 0, sizeof *layout);
    layout->partition = partition;
    layout->room = room;
    layout->glance = glance;
    layout->second = second;
    SLATE_TRY(slate_media_read(media, 0, 1, work));
    slate_mbr_read(work, layout);
    wanted = layout->protective || is_bare(layout, work);
    if (!layout->mbr_signed)
        SLATE_TRY(slate_other_read(media, work, layout));
    SLATE_TRY(slate_gpt_read(
        media, work, wanted && layout->kind <= SLATE_TABLE_MBR, layout));
    return layout->kind == SLATE_TABLE_MBR ? slate_mbr_take(media, work, layout)
                                           : SLATE_OK;
}
