/* SPDX-License-Identifier: MIT */
/* The rounds of overwriting: written whatever was there, checked where that is
 * asked for, gone on with where they were cut. A block that fails is noted, and
 * the work goes on. */
#include "base/base.h"
#include "enact/enact.h"

#include <string.h>

#include "pass/pass.h"

/* What a cut may take: what was written within a second or, where flushing
 * takes longer than a fiftieth of that, within fifty times as long; and never
 * more than an eighth of the device, or so many bytes. */
#define SPELL_MS 1000u
#define FLUSH_SHARE 50u
#define AT_RISK_PART 8u
#define AT_RISK_BYTES 1073741824u
/* The same where time stands still. */
#define TIMELESS_PART 64u
#define TIMELESS_BYTES 134217728u

static uint64_t at_most(const struct slate_enact *enact, uint32_t of_device,
                        uint32_t bytes)
{
    const struct slate_geometry *geometry = &enact->pass.media->geometry;
    uint64_t part = geometry->block_count / of_device;
    uint64_t most = bytes / geometry->block_bytes;

    return part < most ? part : most;
}

static uint64_t at_risk(const struct slate_enact *enact)
{
    return at_most(enact, AT_RISK_PART, AT_RISK_BYTES);
}

static bool is_flush_due(const struct slate_enact *enact)
{
    uint64_t blocks = enact->pass.done - enact->safe;
    uint64_t spell = SPELL_MS;

    if (enact->pass.media->ops.milliseconds == NULL)
        return blocks >= at_most(enact, TIMELESS_PART, TIMELESS_BYTES);
    if (spell < (uint64_t)FLUSH_SHARE * enact->flush_ms)
        spell = (uint64_t)FLUSH_SHARE * enact->flush_ms;
    return blocks >= at_risk(enact) ||
           slate_media_milliseconds(enact->pass.media) - enact->flushed_ms >=
               spell;
}

/* A round that is not the last one is read back as a sweep of its own. */
static enum slate_status check(struct slate_enact *enact, uint32_t count)
{
    struct slate_pass *pass = &enact->pass;
    struct slate_difference found = {0};
    enum slate_status status = slate_ahead_fetch(&enact->reading, pass, count);

    SLATE_THEN(status, slate_pass_compare(pass, count, &found));
    if (status != SLATE_ERR_READ && (status != SLATE_OK || found.blocks == 0))
        return status;
    if (enact->failed == NULL)
        return status == SLATE_OK ? SLATE_ERR_UNPROVED : status;
    return slate_round_judge_each(pass, &enact->reading, count, enact->failed,
                                  &enact->unreadable, &enact->altered);
}

/* What goes on is compared, until something is not in place yet. */
static enum slate_status write_round(struct slate_enact *enact, uint32_t count)
{
    enum slate_status status = SLATE_OK;
    bool equal = false;

    if (enact->resumed && !enact->ahead)
        status =
            slate_enact_equal(&enact->pass, &enact->pass.extent, count, &equal);
    SLATE_TRY(status);
    if (equal) {
        enact->equal += count;
        return SLATE_OK;
    }
    enact->ahead = true;
    return slate_enact_write_next(enact, count, false);
}

static bool is_another_sweep(const struct slate_enact *enact)
{
    const struct slate_extent *extent = &enact->pass.extent;

    return enact->moment != SLATE_MOMENT_OVERWRITE ||
           enact->deed != extent->deed || enact->round != extent->role;
}

/* A sweep that only reads leaves nothing to flush. */
static enum slate_status come_to_rest(struct slate_enact *enact)
{
    if (is_another_sweep(enact) ||
        (enact->deed != SLATE_DEED_CHECK && is_flush_due(enact)))
        return slate_enact_flush(enact);
    if (enact->deed == SLATE_DEED_CHECK)
        enact->safe = enact->pass.done;
    return SLATE_OK;
}

enum slate_status slate_enact_over(struct slate_enact *enact, uint32_t *count)
{
    const struct slate_extent *extent = &enact->pass.extent;
    enum slate_status status = come_to_rest(enact);

    if (status == SLATE_OK && is_another_sweep(enact))
        enact->ahead = false;
    enact->deed = extent->deed;
    enact->round = extent->role;
    if (status == SLATE_OK && extent->deed != SLATE_DEED_WRITE)
        status = slate_enact_drain(enact); /* its buffer is needed */
    SLATE_TRY(status);
    if (extent->deed == SLATE_DEED_DISCARD)
        return slate_enact_discard(enact, count);
    return extent->deed == SLATE_DEED_CHECK ? check(enact, *count)
                                            : write_round(enact, *count);
}

/* Only random data is sure not to have been there before. */
static bool is_of_random(const struct slate_enact *enact, uint32_t round)
{
    return enact->pass.draft->goal.overwrite.round[round].kind ==
           SLATE_ROUND_RANDOM;
}

enum slate_status slate_enact_judge_alias(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    const struct slate_extent round = {.part = SLATE_PART_OVERWRITTEN,
                                       .role = (uint8_t)enact->round};
    enum slate_status status = slate_enact_drain(enact);
    const struct slate_sending *newest = &enact->sending[enact->newest];
    uint64_t end = newest->first + newest->blocks;
    uint64_t both = 2 * (uint64_t)newest->blocks; /* one was under way */

    for (enact->alias = end > both ? end - both : 1;
         enact->alias < end && status == SLATE_OK; enact->alias++) {
        status = slate_draft_compose(pass->draft, &round, enact->alias, 1,
                                     pass->scratch);
        if (status != SLATE_OK ||
            memcmp(pass->work, pass->scratch,
                   pass->media->geometry.block_bytes) != 0)
            continue;
        if (!is_of_random(enact, enact->round))
            enact->alias = end - 1; /* it may have been any of them */
        return SLATE_ERR_ALIAS;
    }
    return status == SLATE_OK ? SLATE_ERR_SWAPPED : status;
}

enum slate_status slate_enact_over_end(struct slate_enact *enact)
{
    const struct slate_draft *draft = enact->pass.draft;
    enum slate_status status = slate_enact_flush(enact);

    enact->ahead = false;
    if (enact->failed == NULL || enact->failed->count == 0)
        return status;
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++) {
        if (draft->part[i].format != NULL)
            status = SLATE_ERR_BAD_BLOCK;
    }
    return status;
}

/* Goes by extents that lie behind, up to a number of blocks; last: receives the
 * block ahead of that, as an extent. False: the rounds do not reach so far. */
static bool skip(struct slate_pass *pass, uint64_t done,
                 struct slate_extent *last)
{
    while (pass->done < done) {
        uint64_t left = done - pass->done;

        if (slate_pass_chunk(pass) == 0 ||
            (pass->extent.moment != SLATE_MOMENT_MARK &&
             pass->extent.moment != SLATE_MOMENT_OVERWRITE))
            return false;
        *last = pass->extent;
        left = left < last->count ? left : last->count;
        last->first += left - 1;
        last->count = 1;
        slate_pass_advance(pass, left);
    }
    return true;
}

/* A draft that puts a mark on the device has begun when that is there. */
static bool has_begun(const struct slate_enact *enact)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;

    return enact->resumed ||
           (slate_draft_next(enact->pass.draft, &walk, &extent) &&
            extent.moment != SLATE_MOMENT_MARK);
}

enum slate_status slate_enact_go_on(struct slate_enact *enact, uint64_t done)
{
    struct slate_pass before = enact->pass;
    struct slate_extent last = {0};
    enum slate_status status = SLATE_OK;
    bool equal;

    if (before.draft->goal.overwrite.rounds == 0 || done <= before.done ||
        !has_begun(enact))
        return SLATE_OK;
    equal = skip(&enact->pass, done, &last);
    if (equal && last.moment == SLATE_MOMENT_OVERWRITE &&
        last.deed != SLATE_DEED_DISCARD)
        status = slate_enact_equal(&enact->pass, &last, 1, &equal);
    if (!equal || status != SLATE_OK)
        enact->pass = before;
    enact->safe = enact->pass.done;
    return status;
}

/* The search for the round that was cut. */
struct cut {
    struct slate_extent last; /* of a round of random data; count 0: of none */
    uint64_t at;              /* blocks ahead of the current extent */
    uint64_t begins;          /* the same of the round */
    uint64_t done;            /* blocks that were written for sure */
};

/* Is a block of a round there, the first or the last one of an extent? */
static enum slate_status is_there(struct slate_enact *enact,
                                  const struct slate_extent *extent,
                                  bool at_end, bool *there)
{
    struct slate_extent one = *extent;

    if (at_end)
        one.first += one.count - 1;
    one.count = 1;
    return slate_enact_equal(&enact->pass, &one, 1, there);
}

/* What was written last may not have come to rest. */
static enum slate_status leave_round(struct slate_enact *enact, struct cut *cut)
{
    uint64_t behind = at_risk(enact);
    bool there = false;
    enum slate_status status = cut->last.count == 0
                                   ? SLATE_OK
                                   : is_there(enact, &cut->last, true, &there);

    if (there)
        cut->done =
            cut->at - cut->begins > behind ? cut->at - behind : cut->begins;
    cut->last.count = 0;
    return status;
}

static enum slate_status enter_round(struct slate_enact *enact, struct cut *cut,
                                     const struct slate_extent *extent)
{
    bool there;
    enum slate_status status = is_there(enact, extent, false, &there);

    cut->begins = cut->at;
    if (status == SLATE_OK && there)
        cut->done = cut->at;
    return status;
}

static bool is_random(const struct slate_enact *enact,
                      const struct slate_extent *extent)
{
    return extent->moment == SLATE_MOMENT_OVERWRITE &&
           extent->deed == SLATE_DEED_WRITE &&
           is_of_random(enact, extent->role);
}

enum slate_status slate_enact_find_round(struct slate_enact *enact)
{
    struct cut cut = {{0}, 0, 0, 0};
    struct slate_walk walk = {0};
    struct slate_extent extent;
    enum slate_status status = SLATE_OK;

    while (status == SLATE_OK &&
           slate_draft_next(enact->pass.draft, &walk, &extent) &&
           extent.moment <= SLATE_MOMENT_OVERWRITE) {
        bool random = is_random(enact, &extent);

        if (!random || extent.role != cut.last.role)
            status = leave_round(enact, &cut);
        if (status == SLATE_OK && random && cut.last.count == 0)
            status = enter_round(enact, &cut, &extent);
        if (random)
            cut.last = extent;
        cut.at += extent.count;
    }
    SLATE_THEN(status, leave_round(enact, &cut));
    return status == SLATE_OK ? slate_enact_go_on(enact, cut.done) : status;
}
