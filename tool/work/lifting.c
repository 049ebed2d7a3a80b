/* SPDX-License-Identifier: MIT */
/* Lifting what has to go before a draft. */

#include "device/device.h"
#include "draft/draft.h"
#include "term/term.h"
#include "work/work.h"
#include "look/look.h"

/* An erase is one command: nothing tells how far it is. */
static void tell_patience(const struct slate_guard *guard)
{
    if (guard->kind == SLATE_GUARD_CARD_PASSWORD)
        print_line("Erasing", PAINT_PLAIN, "a card takes up to 3 minutes");
    else if (guard->value > 0)
        print_line("Erasing", PAINT_PLAIN, "the disk tells of %llu minutes",
                   (unsigned long long)guard->value);
    else
        print_line("Erasing", PAINT_PLAIN,
                   "the disk does not tell how long: hours, where it is large");
    fflush(stdout);
}

enum slate_status lifts_do(struct target *target,
                           const struct slate_guard *guard,
                           const struct options *options)
{
    if (!options->erase || !slate_guard_stops_reading(guard->kind))
        return slate_guard_lift(&target->media, guard, options->password,
                                options->goal.lasting);
    if (!options->json)
        tell_patience(guard);
    return slate_guard_erase(&target->media, guard, options->password);
}

static bool is_concealed(const struct target *target, uint32_t i,
                         const struct options *options)
{
    const struct slate_guard *guard = &target->facts.guard[i];

    return slate_guard_conceals(guard->kind) &&
           lifts_want(options->lift, guard);
}

bool lifts_has_concealed(const struct target *target,
                         const struct options *options)
{
    for (uint32_t i = 0; i < target->facts.guards; i++) {
        if (is_concealed(target, i, options))
            return true;
    }
    return false;
}

/* Lifting one may bring out another one. */
int lifts_reveal(struct target *target, const struct options *options)
{
    char address[sizeof target->address];
    int code = door_enter(target);

    TRY(code);
    snprintf(address, sizeof address, "%s", target->address);
    for (uint32_t i = 0; i < target->facts.guards && code == 0; i++) {
        const struct slate_guard *guard = &target->facts.guard[i];
        const char *name = slate_guard_name(guard->kind);
        enum slate_status status;

        if (!is_concealed(target, i, options))
            continue;
        status = lifts_do(target, guard, options);
        if (status != SLATE_OK)
            code = fail(status, "%s: %s is not lifted: %s", target->address,
                        name, slate_status_sentence(status));
        else if (!options->json)
            print_line("Lifted", PAINT_GOOD, "%s", name);
    }
    TRY(door_leave(target, code));
    target_close(target);
    code = target_open(target, address, options->bench, options->block_bytes);
    THEN(code, target_look(target));
    if (code == 0) /* it was for this very device */
        memcpy(target->agreed, target->media.tag, sizeof target->agreed);
    return code;
}
