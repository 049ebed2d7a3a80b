/* SPDX-License-Identifier: MIT */
/* What a draft overwrites: the sweeps over it, one after the other, their
 * extents, and what each round writes. */
#include "draft/place/place.h"

#include <string.h>

#include "table/table.h"

/* What is done in one go over all that is overwritten. */
struct sweep {
    enum slate_deed deed;
    uint32_t round; /* from 0 */
    bool left;      /* what new content covers is left out */
};

/* Is the last round read back while the rounds go on, and not by proving? */
static bool checks_last(const struct slate_overwrite *over)
{
    return over->discard == SLATE_DISCARD_LAST &&
           over->read_back != SLATE_READ_BACK_NONE;
}

/* The index-th sweep; false behind the last one. */
static bool sweep_of(const struct slate_overwrite *over, uint32_t index,
                     struct sweep *sweep)
{
    uint32_t first = over->discard == SLATE_DISCARD_FIRST ? 1 : 0;
    uint32_t each = over->read_back == SLATE_READ_BACK_ALL ? 2 : 1;
    uint32_t last = over->rounds - 1, at = index - first;

    *sweep = (struct sweep){SLATE_DEED_DISCARD, 0, false};
    if (index < first)
        return true;
    sweep->round = at / each < last ? at / each : last;
    at -= sweep->round * each;
    if (at == 0) {
        sweep->deed = SLATE_DEED_WRITE;
        return true;
    }
    if (at == 1 && (sweep->round < last || checks_last(over))) {
        sweep->deed = SLATE_DEED_CHECK;
        return true;
    }
    return over->discard == SLATE_DISCARD_LAST &&
           at == (checks_last(over) ? 2u : 1u);
}

static bool is_emptied_from(const struct slate_draft *draft, uint64_t lba,
                            uint64_t *until)
{
    uint32_t i = slate_draft_part_from(draft, lba);

    *until = UINT64_MAX;
    for (; i < draft->parts; i++) {
        const struct slate_range *range = &draft->part[i].range;

        if (!draft->part[i].ask.emptied)
            continue;
        /* its first block bears the mark until the end */
        *until = lba <= range->first ? range->first + (lba == range->first)
                                     : range->first + range->count;
        return lba > range->first;
    }
    return false;
}

/* Blocks that a table stands on, whether they are written or stay as they are:
 * block 0 and links to logical partitions as well. */
static bool is_of_table(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until)
{
    const void *plan;
    const struct slate_composer *table =
        slate_draft_composer(draft, SLATE_PART_TABLE, &plan);
    bool held = table->covers(plan, lba, until);

    if (lba == 0)
        *until = 1;
    for (uint32_t i = 0; i < draft->table.count && lba > 0 && !held; i++) {
        const struct slate_partition *one = &draft->table.partition[i];
        uint64_t link = one->role == SLATE_ROLE_LOGICAL    ? one->link
                        : one->role == SLATE_ROLE_EXTENDED ? one->first
                                                           : 0;

        held = link == lba;
        if (held)
            *until = lba + 1;
        else if (link > lba && link < *until)
            *until = link;
    }
    return held || lba == 0;
}

/* Where partitions stay, and none is emptied: what neither holds. */
static bool is_left_over(const struct slate_draft *draft, uint64_t lba,
                         uint64_t *until)
{
    uint32_t i = slate_draft_part_from(draft, lba);

    if (is_of_table(draft, lba, until))
        return false;
    while (i < draft->parts && draft->part[i].ask.keep == 0)
        i++;
    if (i == draft->parts)
        return true;
    if (lba >= draft->part[i].range.first) {
        *until = draft->part[i].range.first + draft->part[i].range.count;
        return false;
    }
    if (draft->part[i].range.first < *until)
        *until = draft->part[i].range.first;
    return true;
}

/* Is there a partition of which the entry alone stays? */
static bool empties_parts(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.emptied)
            return true;
    }
    return false;
}

bool slate_draft_overwrites(const struct slate_draft *draft, uint64_t lba,
                            uint64_t *until)
{
    *until = UINT64_MAX;
    if (draft->goal.overwrite.rounds == 0)
        return false;
    if (draft->switched)
        return empties_parts(draft) ? is_emptied_from(draft, lba, until)
                                    : is_left_over(draft, lba, until);
    if (lba == 0) /* there the mark is */
        *until = 1;
    return lba > 0;
}

enum slate_status slate_draft_check_overwrite(struct slate_draft *draft)
{
    bool empties = empties_parts(draft);
    struct slate_range range;
    uint32_t container =
        empties ? slate_table_image_container(&draft->table, &range) : 0;

    for (uint32_t i = 0; i < draft->parts && empties; i++) {
        const struct slate_ask *ask = &draft->part[i].ask;

        if (ask->keep == 0)
            return slate_draft_refuse(
                draft, i, "a partition is emptied without new ones beside it");
        if (ask->emptied && draft->goal.overwrite.rounds == 0)
            return slate_draft_refuse(
                draft, i, "a partition is emptied by rounds of overwriting");
        if (ask->emptied && ask->keep == container)
            return slate_draft_refuse(
                draft, i,
                "it is the container of logical partitions: those are emptied "
                "one by one");
    }
    return SLATE_OK;
}

/* Bad blocks are nobody's to write. */
static bool is_swept(const struct slate_draft *draft, const struct sweep *sweep,
                     uint64_t lba, uint64_t *until)
{
    uint64_t of_bad, of_new = UINT64_MAX;
    bool overwritten = slate_draft_overwrites(draft, lba, until);
    bool bad = slate_draft_is_bad(draft, lba, &of_bad);
    bool covered = sweep->left && slate_draft_covers(draft, lba, &of_new);

    *until = of_bad < *until ? of_bad : *until;
    *until = of_new < *until ? of_new : *until;
    return overwritten && !bad && !covered;
}

/* What is left of a sweep from a block on: its next run. */
static bool next_run(const struct slate_draft *draft, const struct sweep *sweep,
                     uint64_t at, struct slate_extent *extent)
{
    uint64_t end = draft->basis.geometry.block_count, until;

    while (at < end && !is_swept(draft, sweep, at, &until))
        at = until;
    if (at >= end)
        return false;
    extent->first = at;
    while (at < end && is_swept(draft, sweep, at, &until))
        at = until < end ? until : end;
    extent->count = at - extent->first;
    return true;
}

static bool take_run(const struct slate_draft *draft, const struct sweep *sweep,
                     struct slate_walk *walk, struct slate_extent *extent)
{
    if (!next_run(draft, sweep, walk->at, extent))
        return false;
    extent->part = SLATE_PART_OVERWRITTEN;
    extent->deed = sweep->deed;
    extent->role = (uint8_t)sweep->round;
    extent->zero = false; /* it is sent, and not left to the device */
    walk->at = extent->first + extent->count;
    return true;
}

bool slate_draft_next_overwrite(const struct slate_draft *draft,
                                struct slate_walk *walk,
                                struct slate_extent *extent)
{
    const struct slate_overwrite *over = &draft->goal.overwrite;
    struct sweep sweep;

    if (over->rounds == 0)
        return false;
    for (; sweep_of(over, walk->index, &sweep); walk->index++, walk->at = 0) {
        if (take_run(draft, &sweep, walk, extent))
            return true;
    }
    return false;
}

bool slate_draft_next_left(const struct slate_draft *draft,
                           struct slate_walk *walk, struct slate_extent *extent)
{
    const struct slate_overwrite *over = &draft->goal.overwrite;
    const struct sweep left = {SLATE_DEED_WRITE, over->rounds - 1, true};

    return over->rounds > 0 && over->discard != SLATE_DISCARD_LAST &&
           over->read_back != SLATE_READ_BACK_NONE &&
           take_run(draft, &left, walk, extent);
}

/* No host shall take the random data of a first block for a boot block. */
static void spoil_signature(uint8_t *block)
{
    if (block[510] == 0x55 && block[511] == 0xAA)
        block[511] = 0x55;
}

enum slate_status slate_draft_fill_round(const struct slate_draft *draft,
                                         uint32_t round, uint64_t first,
                                         uint32_t count, void *data)
{
    const struct slate_round *wanted = &draft->goal.overwrite.round[round];
    struct slate_random random = {
        {first, count}, draft->basis.geometry.block_bytes, {0}};
    enum slate_status status;

    if (wanted->kind != SLATE_ROUND_RANDOM) {
        memset(data, wanted->kind == SLATE_ROUND_ZERO ? 0 : wanted->byte,
               (size_t)count * random.block_bytes);
        return SLATE_OK;
    }
    slate_draft_derive(draft, "round of overwriting", round, random.key);
    status = slate_random_composer.fill(&random, first, count, data);
    if (first == 0)
        spoil_signature(data);
    return status;
}

const char *slate_draft_round_step(const struct slate_draft *draft,
                                   const struct slate_extent *extent)
{
    static const char *const words[SLATE_ROUND_KINDS] = {
        "overwrite with zeros", "overwrite with one byte",
        "overwrite with random data"};

    if (extent->deed == SLATE_DEED_CHECK)
        return "read back a round";
    if (extent->deed == SLATE_DEED_DISCARD)
        return "tell the device that it may forget";
    return words[draft->goal.overwrite.round[extent->role].kind];
}
