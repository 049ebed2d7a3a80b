/* SPDX-License-Identifier: MIT */
/* Does removable flash have what it claims? Tried ahead of all else that a
 * renewal writes: what it says of its size is what brought most of those. */
#include "work/work.h"

#include "device/device.h"

bool trying_is_due(const struct target *target, const struct options *options,
                   const struct slate_draft *draft)
{
    enum slate_device_kind kind = slate_device_kind_of(&target->facts);
    bool flash = target->facts.removable &&
                 (kind == SLATE_DEVICE_STICK || kind == SLATE_DEVICE_CARD);

    /* what stays is not touched, what is known is not asked again, and rounds
     * of overwriting try every block */
    return !options->no_probe && (flash || options->probe) &&
           !draft->switched && draft->goal.within == 0 &&
           draft->goal.overwrite.rounds == 0 && options->way == NULL &&
           draft->basis.guards == 0 &&
           target->media.geometry.block_count >= SLATE_PROBE_LEAST;
}

static int fail_false(const struct target *target,
                      const struct slate_probe *probe)
{
    uint64_t most, least = slate_probe_true_blocks(probe, &most);
    uint32_t bytes = target->media.geometry.block_bytes;
    bool kept = capacity_keep(target, least);
    char command[TARGET_NAME_ROOM + 100];
    int code =
        fail(SLATE_ERR_CAPACITY_FALSE,
             "%s claims %s and has %s: its capacity is false, and nothing was "
             "written. Take it out of service",
             target->media.tag,
             in_decimal(slate_geometry_bytes(&target->media.geometry)).words,
             in_decimal(least * bytes).words);

    if (kept) {
        snprintf(command, sizeof command,
                 "trueslate renew %s --within proved%s", target->name,
                 target->also);
        say_how("to use what is there, at your own risk", command);
    }
    return code;
}

static int judge(const struct target *target, const struct slate_probe *probe)
{
    enum slate_verdict verdict = slate_probe_verdict(probe);

    if (verdict == SLATE_VERDICT_UNKNOWN)
        return fail(SLATE_ERR_STOPPED, "%s: interrupted; nothing was written",
                    target->address);
    if (verdict == SLATE_VERDICT_FALSE_CAPACITY)
        return fail_false(target, probe);
    if (slate_verdict_is_bad(verdict))
        return fail(SLATE_ERR_UNPROVED, "%s is not to be trusted: %s",
                    target->media.tag, slate_verdict_words(verdict));
    if (verdict == SLATE_VERDICT_HOLDS)
        capacity_drop(target);
    return 0;
}

int trying_do(const struct options *options, struct target *target,
              bool *changed)
{
    struct probing *probing = calloc(1, sizeof *probing);
    int code;

    if (probing == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    probing->options = options;
    probing->target = target;
    probing->gives_up = true; /* all of it will be lost */
    code = probing_do(probing);
    if (code == 0 && probing->probe.lost > 0)
        code = probing_fail_lost(probing);
    THEN(code, judge(target, &probing->probe));
    *changed = probing->put_back;
    free(probing->work);
    free(probing);
    return code;
}
