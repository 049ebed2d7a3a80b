/* SPDX-License-Identifier: MIT */
/* Attributes in the content: cleared as --lift asks, told, reported. */

#include "draft/draft.h"
#include "work/work.h"
#include "term/term.h"

/* Those that the draft clears share its end. */
static void note_end(struct attributes *attributes, enum slate_status status)
{
    for (uint32_t i = 0; i < attributes->count; i++) {
        if (attributes->wanted[i] && attributes->cleared[i] == SLATE_OK)
            attributes->cleared[i] = status;
    }
}

static int worst_of(const struct attributes *attributes)
{
    int code = 0;

    for (uint32_t i = 0; i < attributes->count; i++) {
        if (attributes->wanted[i] && attributes->cleared[i] != SLATE_OK)
            code = exit_code(attributes->cleared[i]);
    }
    return code;
}

int attributes_refuse(const struct target *target, enum slate_status status)
{
    if (status != SLATE_ERR_ROOM)
        return fail_plainly(status, target->address);
    return fail(status,
                "%s: more blocks would change than one draft holds; name fewer "
                "kinds at a time",
                target->address);
}

/* Of work that did not come to its end. */
static enum slate_status end_of(const struct undertaking *work)
{
    if (work->prove.pass.finished)
        return SLATE_ERR_UNPROVED;
    if (work->prove.pass.status != SLATE_OK)
        return work->prove.pass.status;
    return work->enact.pass.status != SLATE_OK ? work->enact.pass.status
                                               : SLATE_ERR_STOPPED;
}

int attributes_clear(struct attributes *attributes, struct target *target,
                     const struct options *options)
{
    struct undertaking work = {
        .options = options, .target = target, .draft = drafted_new()};
    enum slate_status status =
        attributes_draft(attributes, target, options->lift, work.draft);
    int code = status == SLATE_OK ? ledger_make(target, options, work.draft)
                                  : attributes_refuse(target, status);

    consent_words(target, work.passage.consent);
    if (code == 0 && work.draft->change.clears > 0) {
        code = undertaking_keep(&work);
        THEN(code, undertaking_do(&work));
        code = undertaking_end(&work, code);
    }
    if (code != 0)
        note_end(attributes, end_of(&work));
    drafted_free(work.draft);
    return code != 0 ? code : worst_of(attributes);
}

static void tell(const struct attributes *attributes, uint32_t i)
{
    enum slate_attribute_kind kind = attributes->found[i].kind;
    enum slate_status cleared = attributes->cleared[i];
    char place[32];

    attribute_place(attributes->number[i], place);
    putchar('\n');
    painted(PAINT_STRONG, "  %s", slate_attribute_name(kind));
    printf(", %s: can be cleared in place; a renewal takes it away\n", place);
    print_line("What", PAINT_PLAIN, "%s", slate_attribute_words(kind));
    print_line("Advice", PAINT_PLAIN, "%s", slate_attribute_advice(kind));
    if (attributes->wanted[i])
        print_line("Result", cleared == SLATE_OK ? PAINT_GOOD : PAINT_BAD, "%s",
                   cleared == SLATE_OK ? "cleared, and read back"
                                       : slate_status_sentence(cleared));
}

bool attributes_tell(const struct attributes *attributes)
{
    for (uint32_t i = 0; i < attributes->count; i++)
        tell(attributes, i);
    return attributes->count > 0;
}

json_t *attributes_report(const struct attributes *attributes)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < attributes->count; i++) {
        enum slate_attribute_kind kind = attributes->found[i].kind;
        uint32_t number = attributes->number[i];
        json_t *one = report_pack(
            "{s:s, s:o, s:s, s:s}", "kind", slate_attribute_name(kind),
            "partition", number == 0 ? json_null() : json_integer(number),
            "text", slate_attribute_words(kind), "advice",
            slate_attribute_advice(kind));

        if (attributes->wanted[i])
            json_object_set_new(
                one, "cleared",
                json_boolean(attributes->cleared[i] == SLATE_OK));
        json_array_append_new(list, one);
    }
    return list;
}
