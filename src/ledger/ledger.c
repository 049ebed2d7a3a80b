/* SPDX-License-Identifier: MIT */
/* What stands in the blocks that a draft writes. */
#include "ledger/ledger.h"

#include "assess/look/look.h"
#include "base/base.h"
#include "media/wire/wire.h"
#include "volume/common/common.h"

struct looking {
    struct slate_ledger *ledger;
    const struct slate_draft *draft;
    const struct slate_facts *facts;
    struct slate_media *media;
    uint8_t *work;
    uint64_t reads; /* of the device, when it began */
};

void slate_ledger_add(struct slate_ledger *ledger,
                      const struct slate_loss *loss)
{
    if (ledger->count == SLATE_LOSSES_MAX)
        ledger->cut = true;
    else
        ledger->loss[ledger->count++] = *loss;
}

static void add(const struct looking *looking, const struct slate_loss *loss)
{
    slate_ledger_add(looking->ledger, loss);
}

static uint64_t blocks_of(const struct looking *looking, uint64_t bytes)
{
    uint32_t block = looking->facts->geometry.block_bytes;
    uint64_t all = looking->facts->geometry.block_count;
    uint64_t blocks = bytes / block + (bytes % block != 0);

    return bytes == 0 || blocks > all ? all : blocks;
}

/* Does an entry name a volume that is there, elsewhere than at block 0? */
static bool any_is_named(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].first > 0 &&
            slate_volume_is_known(facts->volume[i].kind))
            return true;
    }
    return false;
}

/* A volume without a table is changed by what changes it in place. */
static bool is_of_the_volume(const struct slate_draft *draft)
{
    return draft->change.renamed.wanted || draft->change.clears > 0 ||
           (draft->change.mends > 0 &&
            draft->change.mend[0].kind == SLATE_MEND_START);
}

/* Under a table, and under a volume of another kind: records that a look does
 * not go by. */
static enum slate_status look_for_member(const struct looking *looking,
                                         struct slate_volume *volume)
{
    struct slate_fault before = looking->media->fault;
    struct slate_reader reader = {
        .media = looking->media,
        .range = {0, looking->facts->geometry.block_count},
        .work = looking->work};

    (void)slate_volume_find_member(&reader, volume);
    if (reader.status == SLATE_ERR_NO_DEVICE)
        return reader.status;
    looking->media->fault = before;
    return SLATE_OK;
}

static enum slate_status look_at_whole(const struct looking *looking)
{
    const struct slate_facts *facts = looking->facts;
    bool none = facts->layout.kind == SLATE_TABLE_NONE, told;
    struct slate_loss loss = {.kind = SLATE_LOSS_WHOLE,
                              .range = {0, facts->geometry.block_count}};

    if (none)
        loss.volume = facts->whole;
    else
        SLATE_TRY(slate_volume_read(looking->media, &loss.range,
                                    SLATE_DEPTH_FULL, looking->work,
                                    &loss.volume));
    told =
        none && (loss.volume.mirror || slate_volume_needs_more(&loss.volume));
    if (!loss.volume.mirror && !slate_volume_needs_more(&loss.volume))
        SLATE_TRY(look_for_member(looking, &loss.volume));
    if (loss.volume.mirror || slate_volume_needs_more(&loss.volume))
        loss.kind = SLATE_LOSS_MEMBER;
    else if (!slate_volume_is_known(loss.volume.kind) || any_is_named(facts) ||
             slate_kind_of(loss.volume.kind)->never_fills ||
             (none &&
              (!looking->draft->switched || is_of_the_volume(looking->draft))))
        return SLATE_OK;
    if (loss.kind == SLATE_LOSS_WHOLE)
        loss.range.count = blocks_of(looking, loss.volume.bytes);
    if (!looking->draft->switched &&
        (told || (none && loss.kind == SLATE_LOSS_WHOLE)))
        return SLATE_OK; /* the facts tell it */
    if (slate_draft_touches(looking->draft, 0, loss.range.count))
        add(looking, &loss);
    return SLATE_OK;
}

/* Behind a dock that counts otherwise, a table tells nothing of where things
 * are. */
static void look_at_blocks(const struct looking *looking)
{
    const struct slate_facts *facts = looking->facts;
    const struct slate_loss loss = {.kind = SLATE_LOSS_BLOCKS,
                                    .range = {0, facts->geometry.block_count},
                                    .count = facts->made_for};

    if (facts->made_for != 0 && looking->draft->switched)
        add(looking, &loss);
}

/* The first 32 KiB of an optical disc are not its own (ECMA-119, 6.2.1). */
static void look_at_disc(const struct looking *looking)
{
    uint32_t ahead = 32768 / looking->facts->geometry.block_bytes;
    struct slate_loss loss = {.kind = SLATE_LOSS_DISC,
                              .volume = looking->facts->optical};

    if (!slate_volume_is_known(loss.volume.kind))
        return;
    loss.range.count = blocks_of(looking, loss.volume.bytes);
    if (loss.range.count > ahead &&
        slate_draft_touches(looking->draft, ahead, loss.range.count - ahead))
        add(looking, &loss);
}

static bool is_listed(const struct slate_facts *facts, uint64_t first)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].first == first)
            return true;
    }
    return false;
}

/* A GPT that does not count, but alone knows where volumes are. */
static void look_at_shadow(const struct looking *looking)
{
    const struct slate_facts *facts = looking->facts;
    const struct slate_gpt_copy *copy = slate_facts_shadow(facts);
    struct slate_loss loss = {.kind = SLATE_LOSS_TABLE};

    for (uint32_t i = 0; copy != NULL && i < facts->shadow.count; i++) {
        if (slate_volume_is_known(facts->shadow_volume[i].kind) &&
            !is_listed(facts, facts->shadow_partition[i].first) &&
            loss.count++ == 0)
            loss.volume = facts->shadow_volume[i];
    }
    if (loss.count == 0)
        return;
    loss.range = (struct slate_range){copy->lba, 1};
    if (slate_draft_touches(looking->draft, copy->lba, 1) ||
        slate_draft_touches(looking->draft, copy->array_lba, 1))
        add(looking, &loss);
}

/* Volumes in what no partition holds. */

static bool may_read(const struct looking *looking)
{
    if (looking->media->traffic.commands - looking->reads < SLATE_LEDGER_READS)
        return true;
    looking->ledger->cut = true;
    return false;
}

/* What was found at a sampled place, and no table names. */
static void look_at_sample(const struct looking *looking)
{
    const struct slate_sample *sample = &looking->facts->sample;
    struct slate_loss loss = {.kind = SLATE_LOSS_VOLUME,
                              .volume = sample->volume};

    if (!looking->draft->switched || !slate_volume_is_known(loss.volume.kind))
        return;
    loss.range = (struct slate_range){sample->volume_lba,
                                      blocks_of(looking, loss.volume.bytes)};
    if (slate_draft_touches(looking->draft, loss.range.first, loss.range.count))
        add(looking, &loss);
}

static bool is_known_already(const struct looking *looking,
                             const struct slate_lost *lost)
{
    const struct slate_ledger *ledger = looking->ledger;

    for (uint32_t i = 0; i < ledger->count; i++) {
        if (ledger->loss[i].range.first == lost->first &&
            ledger->loss[i].kind != SLATE_LOSS_MEMBER)
            return true;
    }
    return false;
}

/* Is one there, and would blocks of it be written, or be taken? */
static enum slate_status look_at(const struct looking *looking, uint64_t lba,
                                 const struct slate_range *taken)
{
    struct slate_fault before = looking->media->fault;
    struct slate_loss loss = {.kind = SLATE_LOSS_VOLUME};
    struct slate_lost lost;
    enum slate_status status;

    if (!may_read(looking))
        return SLATE_OK;
    status = slate_lost_read(looking->media, looking->facts, lba, looking->work,
                             &lost);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    looking->media->fault = before;
    if (status != SLATE_OK || is_known_already(looking, &lost))
        return SLATE_OK;
    loss.range = (struct slate_range){lost.first, lost.count};
    loss.volume = lost.volume;
    if (slate_draft_touches(looking->draft, lost.first, lost.count) ||
        (lost.first < taken->first + taken->count &&
         lost.first + lost.count > taken->first))
        add(looking, &loss);
    return SLATE_OK;
}

/* Behind the last partition ahead of a block; 0: there is none. */
static uint64_t gap_begins(const struct slate_facts *facts, uint64_t lba)
{
    uint64_t begin = 0;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role != SLATE_ROLE_EXTENDED && one->first <= lba &&
            one->first + one->count > begin)
            begin = one->first + one->count;
    }
    return begin;
}

static uint64_t up_to(uint64_t block, uint64_t unit)
{
    return (block + unit - 1) / unit * unit;
}

#define DENSE 64u /* blocks that are looked at one by one */
#define UNITS 8u  /* and units, behind these */
/* Bytes between two places that are looked at ahead of the first unit: smaller
 * cards begin there. */
#define STEP 16384u

/* Where volumes use to begin: at every block of a few from the start of the
 * gap, at whole steps up to the first unit of 1 MiB, and at whole units. */
static enum slate_status look_in(const struct looking *looking,
                                 const struct slate_range *range)
{
    uint64_t unit = 1048576 / looking->facts->geometry.block_bytes;
    uint64_t step = STEP / looking->facts->geometry.block_bytes;
    uint64_t end = range->first + range->count;
    uint64_t begin = gap_begins(looking->facts, range->first);
    enum slate_status status = SLATE_OK;

    for (uint64_t at = begin;
         status == SLATE_OK && at < end && at < begin + DENSE; at++)
        status = look_at(looking, at, range);
    for (uint64_t at = range->first;
         status == SLATE_OK && at < end && at < range->first + DENSE; at++) {
        if (at >= begin + DENSE)
            status = look_at(looking, at, range);
    }
    for (uint64_t at = up_to(begin + DENSE, step);
         status == SLATE_OK && at < end && at < up_to(begin + 1, unit);
         at += step)
        status = look_at(looking, at, range);
    for (uint64_t at = up_to(begin + 1, unit), i = 0;
         status == SLATE_OK && at < end && i < UNITS; at += unit, i++)
        status = look_at(looking, at, range);
    return status;
}

static bool is_new(const struct slate_part *part)
{
    return part->ask.keep == 0 && !part->ask.emptied;
}

/* The room behind a partition that grows into it. */
static enum slate_status look_behind(const struct looking *looking,
                                     uint32_t number)
{
    const struct slate_facts *facts = looking->facts;
    struct slate_range room = {0, facts->geometry.block_count};

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->number == number)
            room.first = one->first + one->count;
    }
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role != SLATE_ROLE_EXTENDED && one->first >= room.first &&
            one->first < room.count)
            room.count = one->first;
    }
    room.count -= room.first;
    return look_in(looking, &room);
}

/* A mirror's half, whose file system hosts show as well. */
static void look_at_owner(const struct looking *looking, uint64_t lba)
{
    const struct slate_facts *facts = looking->facts;
    const struct slate_ledger *ledger = looking->ledger;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];
        struct slate_loss loss = {.kind = SLATE_LOSS_MEMBER,
                                  .range = {one->first, one->count},
                                  .volume = facts->volume[i]};

        if (loss.volume.mirror && lba >= one->first &&
            lba - one->first < one->count &&
            (ledger->count == 0 ||
             ledger->loss[ledger->count - 1].range.first != one->first))
            add(looking, &loss);
    }
}

/* Where all goes: at the start of the device, and behind each partition. */
static enum slate_status look_over_all(const struct looking *looking)
{
    const struct slate_facts *facts = looking->facts;
    const struct slate_range all = {0, facts->geometry.block_count};
    uint64_t unit = 1048576 / facts->geometry.block_bytes;
    enum slate_status status = look_in(looking, &all);

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];
        uint64_t end = one->first + one->count;

        if (status == SLATE_OK && end < all.count)
            status = look_at(looking, end, &all);
        if (status == SLATE_OK && up_to(end, unit) < all.count)
            status = look_at(looking, up_to(end, unit), &all);
    }
    return status;
}

static enum slate_status look_in_gaps(const struct looking *looking)
{
    const struct slate_draft *draft = looking->draft;
    const struct slate_change *change = &draft->change;
    enum slate_status status = SLATE_OK;

    if (looking->facts->layout.kind == SLATE_TABLE_NONE &&
        is_of_the_volume(draft))
        return SLATE_OK;
    if (!draft->switched && !draft->table_stays)
        return look_over_all(looking);
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++) {
        if (is_new(&draft->part[i]))
            status = look_in(looking, &draft->part[i].range);
    }
    for (uint32_t i = 0; i < change->mends && status == SLATE_OK; i++) {
        if (change->mend[i].kind == SLATE_MEND_GROW)
            status = look_behind(looking, change->mend[i].number);
    }
    for (uint32_t i = 0; i < change->patches && status == SLATE_OK; i++) {
        const struct slate_range one = {change->patch[i].lba, 1};

        look_at_owner(looking, one.first);
        if (i == 0 || change->patch[i - 1].lba + 1 != one.first)
            status = look_in(looking, &one);
    }
    return status;
}

enum slate_status slate_ledger_make(struct slate_ledger *ledger,
                                    const struct slate_draft *draft,
                                    const struct slate_facts *facts,
                                    struct slate_media *media, void *work)
{
    struct slate_unread unread = {0};
    const struct slate_policy noting = {.unread = &unread};
    struct slate_policy before = slate_media_read_by(media, &noting);
    const struct looking looking = {ledger, draft, facts,
                                    media,  work,  media->traffic.commands};
    enum slate_status status;

    memset(ledger, 0, sizeof *ledger);
    status = look_at_whole(&looking);
    if (status == SLATE_OK) {
        look_at_blocks(&looking);
        look_at_disc(&looking);
        look_at_shadow(&looking);
        look_at_sample(&looking);
        status = look_in_gaps(&looking);
    }
    if (status == SLATE_OK)
        slate_ledger_patches(ledger, draft, facts);
    (void)slate_media_read_by(media, &before);
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}
