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

int refuse_guarded(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;

    if (target->is_file) /* its permissions are all that it has */
        return 0;
    for (uint32_t i = 0; i < facts->guards; i++) {
        if (slate_guard_stops_writing(facts->guard[i].kind))
            return fail(SLATE_ERR_PROTECTED, "%s is write-protected by %s: %s",
                        facts->tag, slate_guard_name(facts->guard[i].kind),
                        way_out(&facts->guard[i]));
    }
    return 0;
}
