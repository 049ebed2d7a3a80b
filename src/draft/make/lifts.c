/* SPDX-License-Identifier: MIT */
/* What protects a device, and what a draft does about it. */
#include "base/base.h"
#include "trueslate/draft.h"

static uint32_t deliberate_ones(uint32_t guards)
{
    uint32_t found = 0;

    for (uint32_t kind = 0; kind < SLATE_GUARD_KINDS; kind++) {
        if (slate_guard_is_deliberate((enum slate_guard_kind)kind))
            found |= guards & SLATE_GUARD_BIT(kind);
    }
    return found;
}

uint32_t slate_draft_obstacle(const struct slate_draft *draft)
{
    const struct slate_basis *basis = &draft->basis;
    uint32_t unnamed = deliberate_ones(basis->guards) & ~draft->goal.lift;
    uint32_t in_the_way = basis->firm != 0 ? basis->firm : unnamed;
    uint32_t kind = 0;

    while (kind < SLATE_GUARD_KINDS &&
           (in_the_way & SLATE_GUARD_BIT(kind)) == 0)
        kind++;
    return kind;
}

bool slate_draft_lift(const struct slate_draft *draft, uint32_t index,
                      enum slate_guard_kind *kind, struct slate_text *text)
{
    for (uint32_t i = 0; i < SLATE_GUARD_KINDS; i++) {
        enum slate_guard_kind one = (enum slate_guard_kind)i;

        if ((draft->basis.guards & SLATE_GUARD_BIT(i)) == 0 || index-- != 0)
            continue;
        if (kind != NULL)
            *kind = one;
        SLATE_SAY(text, "lift {}{}", AS_TEXT(slate_guard_name(one)),
                  AS_TEXT(slate_guard_lift_lasts(one, draft->goal.lasting)
                              ? ", for good"
                              : ", until the power goes"));
        return true;
    }
    return false;
}
