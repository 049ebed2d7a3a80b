/* SPDX-License-Identifier: MIT */
/* What --lift names: attributes in the content, and guards. */
#include "draft/draft.h"

bool attribute_is_known(const char *name)
{
    for (int i = 0; i < SLATE_ATTRIBUTE_KINDS; i++) {
        if (strcmp(slate_attribute_name((enum slate_attribute_kind)i), name) ==
            0)
            return true;
    }
    return false;
}

bool attributes_are_known(const char *list)
{
    return word_list(list, attribute_is_known);
}

void attributes_find(struct attributes *attributes,
                     const struct slate_facts *facts)
{
    struct slate_attribute *found = attributes->found;
    uint32_t i = 0;

    for (; i < ATTRIBUTES_MOST && slate_attribute_next(facts, i, &found[i]);
         i++)
        attributes->number[i] =
            found[i].partition == SLATE_ATTRIBUTE_WHOLE
                ? 0
                : facts->partition[found[i].partition].number;
    attributes->count = i;
}

/* What makes the draft useless ends it; else the others can be cleared. */
static bool is_of_one(enum slate_status status)
{
    return status == SLATE_OK || status == SLATE_ERR_CHANGED ||
           status == SLATE_ERR_ONE_COPY || status == SLATE_ERR_TWO_COPIES;
}

enum slate_status attributes_draft(struct attributes *attributes,
                                   struct target *target, const char *list,
                                   struct slate_draft *draft)
{
    enum slate_status status = slate_draft_base(draft, &target->facts);

    for (uint32_t i = 0; is_of_one(status) && i < attributes->count; i++) {
        const struct slate_attribute *found = &attributes->found[i];

        if (!word_is_in(list, slate_attribute_name(found->kind)))
            continue;
        status = slate_draft_clear(draft, &target->facts, found, &target->media,
                                   target->work);
        attributes->wanted[i] = true;
        attributes->cleared[i] = status;
    }
    if (is_of_one(status) && draft->change.clears > 0)
        status = slate_draft_make(draft);
    return is_of_one(status) ? SLATE_OK : status;
}

void attribute_place(uint32_t number, char words[32])
{
    if (number == 0)
        snprintf(words, 32, "the volume");
    else
        snprintf(words, 32, "partition %u", number);
}

/* The list behind --lift: which guards a person wants to have lifted. */

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
