/* SPDX-License-Identifier: MIT */
/* Refusing early, in one sentence, to write where something forbids it. */
#include "say.h"
#include "verbs.h"

static const char *way_out(const struct slate_guard *guard)
{
    return guard->lift <= SLATE_LIFT_PASSWORD
               ? "'trueslate guards' lifts it"
               : slate_guard_words(guard->kind, SLATE_GUARD_COMMAND);
}

int refuse_guarded(struct target *target)
{
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count;
    enum slate_status status;

    if (target->is_file) /* its permissions are all that it has */
        return 0;
    status = slate_guard_find(&target->media, guard, &count);
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    for (uint32_t i = 0; i < count; i++) {
        if (slate_guard_stops_writing(guard[i].kind))
            return fail(SLATE_ERR_PROTECTED, "%s is write-protected by %s: %s",
                        target->media.tag, slate_guard_name(guard[i].kind),
                        way_out(&guard[i]));
    }
    return 0;
}
