/* SPDX-License-Identifier: MIT */
/* The list behind --lift: which guards a person wants to have lifted. */
#include "draft/draft.h"

static bool is_kind(const char *name)
{
    for (int i = 0; i < SLATE_GUARD_KINDS; i++) {
        if (strcmp(slate_guard_name((enum slate_guard_kind)i), name) == 0)
            return true;
    }
    return strcmp(name, "all") == 0 || attribute_is_known(name);
}

bool lifts_are_known(const char *list)
{
    return word_list(list, is_kind);
}

bool lifts_want(const char *list, const struct slate_guard *guard)
{
    if (list == NULL)
        return false;
    return word_is_in(list, slate_guard_name(guard->kind)) ||
           (word_is_in(list, "all") && guard->lift == SLATE_LIFT_NOW &&
            !slate_guard_is_deliberate(guard->kind));
}

uint32_t lifts_named(const char *list)
{
    uint32_t named = 0;

    for (uint32_t i = 0; i < SLATE_GUARD_KINDS; i++) {
        if (word_is_in(list, slate_guard_name((enum slate_guard_kind)i)))
            named |= SLATE_GUARD_BIT(i);
    }
    return named;
}
