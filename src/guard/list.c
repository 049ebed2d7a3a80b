/* SPDX-License-Identifier: MIT */
/* The list of guards that a command set fills. */
#include "guard/guard.h"

void slate_guard_note(struct slate_guard_list *list, enum slate_guard_kind kind,
                      uint64_t value)
{
    struct slate_guard *guard = &list->guard[list->count++];

    guard->kind = kind;
    guard->lift = slate_guard_usual_lift(kind);
    guard->value = value;
}
