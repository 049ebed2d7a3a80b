/* SPDX-License-Identifier: MIT */
/* From facts to the basis of a draft: which device, and where old structures
 * would still identify old content. */

#include "base/base.h"
#include "draft/make/make.h"

/* Tables, volume heads and optical descriptors live in the first MiB; backup
 * tables and the records of stacked volumes in the last one. */
#define ENDS_BYTES 1048576u
/* The head of an old partition: boot blocks and the identifying blocks of all
 * common file systems; its tail: backup boot blocks. */
#define HEAD_BYTES 131072u
#define TAIL_BYTES 65536u

static uint64_t least(uint64_t a, uint64_t b)
{
    return a < b ? a : b;
}

/* Cuts a range to the device; count becomes 0 when nothing is left. */
static struct slate_range cut(const struct slate_basis *basis, uint64_t first,
                              uint64_t count)
{
    uint64_t blocks = basis->geometry.block_count;
    struct slate_range range = {least(first, blocks), 0};

    range.count = least(count, blocks - range.first);
    return range;
}

static bool touch(const struct slate_range *a, const struct slate_range *b)
{
    return a->first <= b->first + b->count && b->first <= a->first + a->count;
}

static void remove_at(struct slate_ranges *old, uint32_t at)
{
    old->count--;
    memmove(&old->range[at], &old->range[at + 1],
            (old->count - at) * sizeof old->range[0]);
}

/* Adds a range, merged with those it touches; the list stays ascending. There
 * is room for two ranges, and two for each partition. */
static void add_old(struct slate_ranges *old, struct slate_range range)
{
    uint32_t at = 0;

    if (range.count == 0)
        return;
    while (at < old->count) {
        struct slate_range *other = &old->range[at];

        if (touch(other, &range)) {
            uint64_t end = range.first + range.count;
            uint64_t other_end = other->first + other->count;

            range.first = least(range.first, other->first);
            range.count = (end > other_end ? end : other_end) - range.first;
            remove_at(old, at);
        } else if (other->first < range.first) {
            at++;
        } else {
            break;
        }
    }
    memmove(&old->range[at + 1], &old->range[at],
            (old->count - at) * sizeof old->range[0]);
    old->range[at] = range;
    old->count++;
}

/* What conceals content is lifted before there can be a draft. */
static void take_guards(const struct slate_facts *facts,
                        struct slate_basis *basis)
{
    for (uint32_t i = 0; i < facts->guards; i++) {
        const struct slate_guard *guard = &facts->guard[i];

        if (!slate_guard_stops_writing(guard->kind))
            continue;
        basis->guards |= SLATE_GUARD_BIT(guard->kind);
        if (guard->lift != SLATE_LIFT_NOW || slate_guard_conceals(guard->kind))
            basis->firm |= SLATE_GUARD_BIT(guard->kind);
    }
}

/* Both ends of an old partition. */
static void add_partition(struct slate_basis *basis,
                          const struct slate_partition *old)
{
    uint32_t block_bytes = basis->geometry.block_bytes;
    uint64_t blocks = basis->geometry.block_count;
    uint64_t head = least(HEAD_BYTES / block_bytes, old->count);
    uint64_t tail = least(TAIL_BYTES / block_bytes, old->count);

    if (old->first >= blocks)
        return;
    add_old(&basis->old, cut(basis, old->first, head));
    if (old->count <= blocks - old->first)
        add_old(&basis->old, cut(basis, old->first + old->count - tail, tail));
}

/* What lies beyond the blocks that are used decides nothing, and need not stay
 * as it was seen. */
static enum slate_status take_evidence(struct slate_draft *draft,
                                       const struct slate_evidence *found,
                                       uint64_t blocks)
{
    struct slate_evidence *evidence = &draft->basis.evidence;

    SLATE_TRY(slate_draft_grow_seen(draft, found->count));
    if (found->cut) /* their room was too small already */
        return slate_draft_lacks(draft, "ranges that were looked at",
                                 ((uint64_t)found->count + 1) *
                                     sizeof found->seen[0]);
    evidence->count = 0;
    for (uint32_t i = 0; i < found->count; i++) {
        const struct slate_seen *seen = &found->seen[i];

        if (seen->first < blocks && seen->count <= blocks - seen->first)
            evidence->seen[evidence->count++] = *seen;
    }
    return SLATE_OK;
}

enum slate_device_kind slate_device_kind_of(const struct slate_facts *facts)
{
    switch (facts->identity.transport) {
    case SLATE_TRANSPORT_SD:
        return SLATE_DEVICE_CARD;
    case SLATE_TRANSPORT_USB: /* a dock does not call its disk removable */
        return facts->removable && !facts->abilities.rotating
                   ? SLATE_DEVICE_STICK
                   : SLATE_DEVICE_DISK;
    case SLATE_TRANSPORT_SATA:
    case SLATE_TRANSPORT_NVME:
    case SLATE_TRANSPORT_SCSI:
        return SLATE_DEVICE_DISK;
    default:
        return SLATE_DEVICE_OTHER;
    }
}

enum slate_status slate_draft_base(struct slate_draft *draft,
                                   const struct slate_facts *facts)
{
    struct slate_basis *basis = &draft->basis;
    uint64_t within = draft->goal.within;
    uint64_t blocks = within == 0 ? facts->geometry.block_count
                                  : least(within, facts->geometry.block_count);
    uint64_t ends = ENDS_BYTES / facts->geometry.block_bytes;
    enum slate_status status = take_evidence(draft, &facts->evidence, blocks);

    SLATE_THEN(status,
               slate_draft_grow_ranges(draft, "old structures", &basis->old,
                                       2 + (uint64_t)2 * facts->layout.count));
    SLATE_TRY(status);
    memcpy(basis->tag, facts->tag, SLATE_TAG_ROOM);
    memcpy(basis->identity, facts->identity_digest, SLATE_DIGEST_BYTES);
    basis->disk_signature = facts->layout.kind == SLATE_TABLE_MBR
                                ? facts->layout.disk_signature
                                : 0;
    memset(&basis->disk_id, 0, sizeof basis->disk_id);
    if (facts->layout.kind == SLATE_TABLE_GPT)
        basis->disk_id = facts->layout.disk_id;
    basis->device = slate_device_kind_of(facts);
    basis->geometry = facts->geometry;
    basis->geometry.block_count = blocks;
    basis->claimed = facts->geometry.block_count;
    basis->proved = facts->proved_blocks;
    basis->guards = 0;
    basis->firm = 0;
    basis->old.count = 0;
    take_guards(facts, basis);
    add_old(&basis->old, cut(basis, 0, ends));
    add_old(&basis->old, cut(basis, blocks - least(ends, blocks), ends));
    for (uint32_t i = 0; i < facts->layout.count; i++)
        add_partition(basis, &facts->partition[i]);
    return SLATE_OK;
}
