/* SPDX-License-Identifier: MIT */
/* The list of ways that a command set fills. */
#include "erase/erase.h"

void slate_erase_note(struct slate_erase_list *list, enum slate_erase_kind kind,
                      uint32_t minutes, bool reaches_units)
{
    struct slate_erase_way *way = &list->way[list->count++];

    way->kind = kind;
    way->minutes = minutes;
    way->reaches_units = reaches_units;
}
