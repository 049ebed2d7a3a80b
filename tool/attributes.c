/* SPDX-License-Identifier: MIT */
/* Attributes in the content: cleared as --lift asks, told, reported. */
#include "attributes.h"

#include <stdio.h>
#include <string.h>

#include "lifts.h"
#include "paint.h"
#include "say.h"
#include "view.h"

bool attribute_is_known(const char *name, size_t length)
{
    for (int i = 0; i < SLATE_ATTRIBUTE_KINDS; i++) {
        const char *kind = slate_attribute_name((enum slate_attribute_kind)i);

        if (strlen(kind) == length && memcmp(kind, name, length) == 0)
            return true;
    }
    return false;
}

int attributes_clear(struct attributes *attributes, struct target *target,
                     const char *list)
{
    struct slate_attribute attribute;
    int code = 0;

    for (uint32_t i = 0; slate_attribute_next(&target->facts, i, &attribute);
         i++) {
        if (!lifts_list(list, slate_attribute_name(attribute.kind)))
            continue;
        attributes->wanted[i] = true;
        attributes->cleared[i] =
            slate_attribute_clear(&target->media, &target->facts, &attribute,
                                  target->work, WORK_BYTES);
        if (attributes->cleared[i] != SLATE_OK)
            code = exit_code(attributes->cleared[i]);
    }
    return code;
}

/* "partition 2", or "the volume" where there is no table. */
static void place_of(const struct slate_facts *facts,
                     const struct slate_attribute *attribute, char words[64])
{
    if (attribute->partition == SLATE_ATTRIBUTE_WHOLE)
        snprintf(words, 64, "the volume");
    else
        snprintf(words, 64, "partition %u",
                 facts->partition[attribute->partition].number);
}

bool attributes_tell(const struct attributes *attributes)
{
    const struct slate_facts *facts = &attributes->target->facts;
    struct slate_attribute attribute;
    uint32_t i;

    for (i = 0; slate_attribute_next(facts, i, &attribute); i++) {
        enum slate_status cleared = attributes->cleared[i];
        char place[64];

        place_of(facts, &attribute, place);
        putchar('\n');
        painted(PAINT_STRONG, "  %s", slate_attribute_name(attribute.kind));
        printf(", %s: can be cleared in place; a renewal takes it away\n",
               place);
        print_wrapped("What", PAINT_PLAIN,
                      slate_attribute_words(attribute.kind));
        print_wrapped("Advice", PAINT_PLAIN,
                      slate_attribute_advice(attribute.kind));
        if (attributes->wanted[i])
            print_wrapped("Result",
                          cleared == SLATE_OK ? PAINT_GOOD : PAINT_BAD,
                          cleared == SLATE_OK ? "cleared, and read back"
                                              : slate_status_sentence(cleared));
    }
    return i > 0;
}

json_t *attributes_report(const struct attributes *attributes)
{
    const struct slate_facts *facts = &attributes->target->facts;
    json_t *list = report_made(json_array());
    struct slate_attribute attribute;

    for (uint32_t i = 0; slate_attribute_next(facts, i, &attribute); i++) {
        bool whole = attribute.partition == SLATE_ATTRIBUTE_WHOLE;
        json_t *one = report_made(json_pack(
            "{s:s, s:o, s:s, s:s}", "kind",
            slate_attribute_name(attribute.kind), "partition",
            whole ? json_null()
                  : json_integer(facts->partition[attribute.partition].number),
            "text", slate_attribute_words(attribute.kind), "advice",
            slate_attribute_advice(attribute.kind)));

        if (attributes->wanted[i])
            json_object_set_new(
                one, "cleared",
                json_boolean(attributes->cleared[i] == SLATE_OK));
        json_array_append_new(list, one);
    }
    return list;
}
