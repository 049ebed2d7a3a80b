/* SPDX-License-Identifier: MIT */
/* Collecting the facts: every block read here is evidence, which later tells
 * whether the device has changed. */
#include <string.h>

#include "assess/judge/judge.h"
#include "assess/look/look.h"
#include "media/wire/wire.h"
#include "volume/known/known.h"
#include "table/table.h"
#include "trueslate/assess.h"

/* Volumes that are looked at; what may have been spent on a device before one
 * more of them is, so that there is something left for the rest; and what a
 * look takes in all, whoever reads: a read may be up to four commands. */
struct budget {
    uint32_t volumes;
    uint64_t commands, bytes;
    uint64_t most_commands, most_bytes;
};

static const struct budget budgets[] = {
    {8, 36, 45056, 60, 65536},
    {SLATE_FACTS_PARTITIONS, 180, 3145728, 252, 4194304}};

void slate_facts_place(struct slate_facts *facts,
                       const struct slate_facts_room *room)
{
    memset(facts, 0, sizeof *facts);
    facts->room = *room;
    facts->partition = room->partition;
    facts->volume = room->volume;
    facts->layout.partition = room->partition;
    facts->layout.room =
        room->partition == NULL || room->volume == NULL ? 0 : room->partitions;
    facts->evidence.seen = room->seen;
    facts->evidence.room = room->seen == NULL ? 0 : room->seen_ranges;
}

static void copy_identity(const struct slate_media *media,
                          enum slate_depth depth, struct slate_facts *facts)
{
    const struct slate_facts_room room = facts->room;
    const bool second = facts->layout.second;

    slate_facts_place(facts, &room);
    facts->depth = depth;
    facts->identity = media->identity;
    facts->geometry = media->geometry;
    facts->abilities = media->abilities;
    facts->units = media->units;
    facts->unit = media->unit;
    facts->read_only = media->read_only;
    facts->in_use = media->in_use;
    facts->removable = media->removable;
    memcpy(facts->tag, media->tag, SLATE_TAG_ROOM);
    memcpy(facts->identity_digest, media->digest, SLATE_DIGEST_BYTES);
    if (room.volume != NULL)
        memset(room.volume, 0, room.partitions * sizeof *room.volume);
    facts->layout.glance = depth == SLATE_DEPTH_GLANCE;
    facts->layout.second = second;
}

/* Is enough left of what a look may take to read one volume more? */
static bool may_look(const struct look *look)
{
    const struct slate_media *media = look->media;
    const struct budget *budget = &budgets[look->facts->depth];

    return media->traffic.commands - look->before.commands <=
               budget->commands &&
           (media->traffic.blocks_read - look->before.blocks_read) *
                   media->geometry.block_bytes <=
               budget->bytes;
}

static void leave_unread(const struct look *look, struct slate_volume *volume)
{
    volume->kind = SLATE_VOLUME_UNREAD;
    look->facts->cut_short = true;
}

enum slate_status slate_look_at(const struct look *look,
                                const struct slate_partition *partition,
                                enum slate_depth depth,
                                struct slate_volume *volume)
{
    struct slate_range range = {partition->first, partition->count};

    if (partition->role == SLATE_ROLE_EXTENDED)
        return SLATE_OK;
    if (may_look(look))
        return slate_volume_read(look->media, &range, depth, look->work,
                                 volume);
    leave_unread(look, volume);
    return SLATE_OK;
}

/* An optical-disc image may lie under a table of its own. */
static enum slate_status look_for_optical(const struct look *look)
{
    struct slate_reader reader = {
        .media = look->media,
        .range = {0, look->media->geometry.block_count},
        .work = look->work};

    (void)slate_optical_read(&reader, &look->facts->optical);
    return reader.status;
}

static enum slate_status look_at_volumes(const struct look *look)
{
    struct slate_partition whole = {.count = look->media->geometry.block_count};
    struct slate_facts *facts = look->facts;
    enum slate_status status;

    if (facts->layout.kind == SLATE_TABLE_NONE)
        return slate_look_at(look, &whole, facts->depth, &facts->whole);
    status = look_for_optical(look);
    for (uint32_t i = 0; i < facts->layout.count && status == SLATE_OK; i++) {
        if (i < budgets[facts->depth].volumes)
            status = slate_look_at(look, &facts->partition[i], facts->depth,
                                   &facts->volume[i]);
        else if (facts->partition[i].role != SLATE_ROLE_EXTENDED)
            leave_unread(look, &facts->volume[i]);
    }
    return status;
}

/* What a GPT that does not count would say: whose volumes are there tells
 * which of two tables is the stale one. Facts are not to point into themselves:
 * they may be copied. */
static enum slate_status look_at_shadow(const struct look *look)
{
    struct slate_facts *facts = look->facts;
    const struct slate_gpt_copy *copy = slate_facts_shadow(facts);
    enum slate_status status;

    if (copy == NULL || facts->depth == SLATE_DEPTH_GLANCE)
        return SLATE_OK;
    facts->shadow.partition = facts->shadow_partition;
    facts->shadow.room = SLATE_SHADOW_PARTITIONS;
    status =
        slate_layout_read_gpt(look->media, look->work, copy, &facts->shadow);
    facts->shadow.partition = NULL;
    for (uint32_t i = 0; i < facts->shadow.count && status == SLATE_OK; i++)
        status = slate_look_at(look, &facts->shadow_partition[i],
                               SLATE_DEPTH_GLANCE, &facts->shadow_volume[i]);
    return status;
}

/* Does it say for which blocks of the device it was made? */
static bool tells_blocks(const struct slate_volume *volume)
{
    return slate_kind_of(volume->kind)->tells_block && volume->block_bytes != 0;
}

/* A volume of other blocks whose size is far from its room: its numbers are
 * right, but something on the way counts in blocks of another size. */
static bool tells_other_blocks(const struct slate_facts *facts,
                               const struct slate_volume *volume, uint64_t room)
{
    return tells_blocks(volume) &&
           volume->block_bytes != facts->geometry.block_bytes &&
           (volume->bytes / 2 > room || volume->bytes < room / 2);
}

/* Is the header of a GPT where blocks of the other size would put it? */
static enum slate_status look_for_gpt(const struct look *look, uint32_t other)
{
    uint32_t own = look->media->geometry.block_bytes;
    const uint8_t *header = look->work + other % own;
    enum slate_status status;

    if (other / own >= look->media->geometry.block_count)
        return SLATE_OK;
    status = slate_media_read(look->media, other / own, 1, look->work);
    if (status == SLATE_OK && memcmp(header, "EFI PART", 8) == 0 &&
        header[24] == 1)
        look->facts->made_for = other;
    return status;
}

/* Are there volumes where blocks of the other size would put them? */
static enum slate_status look_for_volumes(const struct look *look,
                                          uint32_t other)
{
    uint32_t own = look->media->geometry.block_bytes;
    struct slate_facts *facts = look->facts;

    for (uint32_t i = 0; i < facts->layout.count && i < 4; i++) {
        struct slate_partition there = facts->partition[i];
        struct slate_volume volume = {.kind = SLATE_VOLUME_NONE};

        if (there.first > UINT64_MAX / other || there.first * other % own != 0)
            continue;
        there.first = there.first * other / own;
        SLATE_TRY(slate_look_at(look, &there, SLATE_DEPTH_GLANCE, &volume));
        if (slate_volume_is_known(volume.kind) &&
            (volume.block_bytes == other || volume.block_bytes == 0))
            facts->made_for = other; /* not every volume tells */
    }
    return SLATE_OK;
}

static enum slate_status look_at_block_size(const struct look *look)
{
    struct slate_facts *facts = look->facts;
    uint32_t other = facts->geometry.block_bytes == 4096 ? 512 : 4096;
    const struct slate_volume *volume;
    uint64_t room;

    if (facts->depth == SLATE_DEPTH_GLANCE)
        return SLATE_OK;
    for (uint32_t i = 0; (volume = slate_facts_volume(facts, i, &room)) != NULL;
         i++) {
        if (tells_other_blocks(facts, volume, room))
            facts->made_for = volume->block_bytes;
    }
    volume = &facts->whole;
    if (facts->made_for == 0 && tells_blocks(volume) &&
        volume->block_bytes != facts->geometry.block_bytes)
        facts->made_for = volume->block_bytes; /* no table: nothing else can */
    if (facts->made_for != 0 || slate_facts_volumes(facts) > 0 ||
        slate_volume_is_known(facts->whole.kind) ||
        facts->layout.kind == SLATE_TABLE_GPT)
        return SLATE_OK;
    SLATE_TRY(look_for_gpt(look, other));
    return facts->made_for == 0 ? look_for_volumes(look, other) : SLATE_OK;
}

/* Ahead of everything else: what stands on an unfinished device is neither the
 * old content nor the new one. */
static enum slate_status look_for_mark(const struct look *look)
{
    struct slate_facts *facts = look->facts;
    enum slate_status status = slate_media_read(look->media, 0, 1, look->work);

    if (status == SLATE_OK)
        facts->marked = slate_mark_read(look->work, facts->geometry.block_bytes,
                                        &facts->mark);
    return status;
}

/* Only where no table and no volume was found: is it blank? */
static enum slate_status look_for_blank(const struct look *look)
{
    struct slate_facts *facts = look->facts;
    enum slate_status status = SLATE_OK;

    if (facts->layout.found > 0 || slate_volume_is_known(facts->whole.kind))
        return SLATE_OK;
    status = slate_look_at_sample(look);
    /* zeros stand for what was not read */
    facts->blank = facts->sample.places > 0 && facts->sample.held == 0 &&
                   facts->unread.count == 0;
    return status;
}

/* What a disk behind a dock hides, or an overlay, is told by its guard alone.
 */
static void take_native(struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->guards; i++) {
        const struct slate_guard *guard = &facts->guard[i];
        bool hides = guard->kind == SLATE_GUARD_HIDDEN_AREA ||
                     guard->kind == SLATE_GUARD_OVERLAY;

        if (hides && guard->value > facts->abilities.native_blocks)
            facts->abilities.native_blocks = guard->value;
    }
}

static enum slate_status read_all(const struct look *look)
{
    enum slate_status status = look_for_mark(look);

    if (status != SLATE_OK || look->facts->marked)
        return status;
    status = slate_layout_read(look->media, look->work, &look->facts->layout);
    SLATE_THEN(status, look_at_volumes(look));
    SLATE_THEN(status, look_at_shadow(look));
    SLATE_THEN(status, look_at_block_size(look));
    SLATE_THEN(status, look_for_blank(look));
    return status;
}

static enum slate_status look(struct slate_media *media, uint8_t *work,
                              struct slate_facts *facts)
{
    struct look look = {media, work, facts, media->traffic};
    uint64_t read = media->traffic.blocks_read * media->geometry.block_bytes;
    struct slate_limit limit = {media->traffic.commands +
                                    budgets[facts->depth].most_commands,
                                read + budgets[facts->depth].most_bytes, 0};
    struct slate_witness witness;
    enum slate_status status;
    const struct slate_policy policy = {
        .unread = &facts->unread, .limit = &limit, .witness = &witness};
    struct slate_policy before = slate_media_read_by(media, &policy);

    slate_witness_start(&witness, &facts->evidence);
    status = slate_guard_find(media, facts->guard, &facts->guards);
    take_native(facts);
    if (status == SLATE_OK && slate_is_locked(facts))
        facts->whole.kind = SLATE_VOLUME_UNREAD; /* each read would fail */
    else if (status == SLATE_OK)
        status = read_all(&look);
    (void)slate_media_read_by(media, &before);
    facts->cut_short = facts->cut_short || limit.skipped > 0;
    slate_witness_end(&witness);
    return status;
}

enum slate_status slate_assess_look(struct slate_media *media,
                                    enum slate_depth depth, void *work,
                                    size_t work_bytes,
                                    struct slate_facts *facts)
{
    if (work == NULL || work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    copy_identity(media, depth, facts);
    return look(media, work, facts);
}

void slate_assess_unopened(const struct slate_media *media,
                           enum slate_status status, struct slate_facts *facts)
{
    copy_identity(media, SLATE_DEPTH_GLANCE, facts);
    facts->opened = status;
    facts->fault = media->fault;
}

/* A renewal that was cut in a write of block 0, which cannot be read since: who
 * has the draft knows more than what is on the device. */

/* Layouts keep the room that they refer to. */
static void forget_layout(struct slate_layout *layout)
{
    struct slate_layout none = {.partition = layout->partition,
                                .room = layout->room,
                                .glance = layout->glance,
                                .second = layout->second};

    *layout = none;
}

/* Block 0 is no longer one of those that nobody can explain. */
static void explain_first(struct slate_unread *unread)
{
    if (unread->count > SLATE_UNREAD_MOST || unread->lba[0] != 0)
        return; /* too many for that to matter, or another one came first */
    unread->count--;
    memmove(&unread->lba[0], &unread->lba[1],
            unread->count * sizeof unread->lba[0]);
}

void slate_facts_take_draft(struct slate_facts *facts,
                            const uint8_t seal[SLATE_DIGEST_BYTES])
{
    facts->marked = true;
    facts->mark_cut = true;
    memcpy(facts->mark.seal, seal, SLATE_DIGEST_BYTES);
    memcpy(facts->mark.tag, facts->tag, SLATE_TAG_ROOM);
    forget_layout(&facts->layout);
    forget_layout(&facts->shadow);
    memset(&facts->whole, 0, sizeof facts->whole);
    memset(&facts->optical, 0, sizeof facts->optical);
    memset(&facts->sample, 0, sizeof facts->sample);
    facts->blank = false;
    facts->made_for = 0;
    if (facts->unread.count > 0)
        explain_first(&facts->unread);
}
