/* SPDX-License-Identifier: MIT */
/* From facts to the basis of a draft: which device, and where old structures
 * would still identify old content. */
#include <string.h>

#include "trueslate/draft.h"

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

static void remove_at(struct slate_basis *basis, uint32_t at)
{
    basis->old_count--;
    memmove(&basis->old[at], &basis->old[at + 1],
            (basis->old_count - at) * sizeof basis->old[0]);
}

/* Adds a range, merged with those it touches; the list stays ascending. */
static void add_old(struct slate_basis *basis, struct slate_range range)
{
    uint32_t at = 0;

    if (range.count == 0)
        return;
    while (at < basis->old_count) {
        struct slate_range *other = &basis->old[at];

        if (touch(other, &range)) {
            uint64_t end = range.first + range.count;
            uint64_t other_end = other->first + other->count;

            range.first = least(range.first, other->first);
            range.count = (end > other_end ? end : other_end) - range.first;
            remove_at(basis, at);
        } else if (other->first < range.first) {
            at++;
        } else {
            break;
        }
    }
    memmove(&basis->old[at + 1], &basis->old[at],
            (basis->old_count - at) * sizeof basis->old[0]);
    basis->old[at] = range;
    basis->old_count++;
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

void slate_basis_from(const struct slate_facts *facts,
                      struct slate_basis *basis)
{
    uint32_t block_bytes = facts->geometry.block_bytes;
    uint64_t blocks = facts->geometry.block_count;
    uint64_t ends = ENDS_BYTES / block_bytes;

    memset(basis, 0, sizeof *basis);
    memcpy(basis->tag, facts->tag, SLATE_TAG_ROOM);
    memcpy(basis->identity, facts->identity_digest, SLATE_DIGEST_BYTES);
    basis->evidence = facts->evidence;
    basis->geometry = facts->geometry;
    take_guards(facts, basis);
    add_old(basis, cut(basis, 0, ends));
    add_old(basis, cut(basis, blocks - least(ends, blocks), ends));
    for (uint32_t i = 0; i < facts->layout.count && i < SLATE_FACTS_PARTITIONS;
         i++) {
        const struct slate_partition *old = &facts->layout.partition[i];
        uint64_t head = least(HEAD_BYTES / block_bytes, old->count);
        uint64_t tail = least(TAIL_BYTES / block_bytes, old->count);

        if (old->first >= blocks)
            continue;
        add_old(basis, cut(basis, old->first, head));
        if (old->count <= blocks - old->first)
            add_old(basis, cut(basis, old->first + old->count - tail, tail));
    }
}
