/* SPDX-License-Identifier: MIT */
/* What can be mended in place: found, drafted, told. */
#include "draft/draft.h"

#include "term/term.h"

static bool is_kind(const char *name)
{
    for (int i = 0; i < SLATE_MEND_LOST; i++) { /* that is searched for */
        if (strcmp(slate_mend_name((enum slate_mend_kind)i), name) == 0)
            return true;
    }
    return strcmp(name, "all") == 0;
}

bool mending_is_known(const char *list)
{
    return word_list(list, is_kind);
}

/* A device that fails, or room that is too small, tells nothing of it. */
static bool is_of_part(const struct slate_draft *draft,
                       enum slate_status status)
{
    return draft->parts > 0 && draft->obstacle.why == NULL &&
           status != SLATE_ERR_ROOM &&
           slate_status_class(status) != SLATE_CLASS_DEVICE;
}

/* Which partition is in the way, and by how much, where that is told. */
static int refuse(const struct target *target, const struct slate_draft *draft,
                  const struct slate_mend *mend, enum slate_status status)
{
    const char *name = slate_mend_name(mend->kind);
    const struct slate_obstacle *obstacle = &draft->obstacle;
    char which[100] = "";

    if (is_of_part(draft, status))
        return fail_refused(draft, status, target->address, "");
    if (status == SLATE_ERR_ROOM)
        return fail(status,
                    "%s: more blocks would change than one draft holds; name "
                    "fewer kinds at a time",
                    target->address);
    if (status != SLATE_ERR_IN_THE_WAY)
        return fail_with_fault(status, &target->media, target->address);
    if (obstacle->number > 0)
        snprintf(which, sizeof which, ": partition %u", obstacle->number);
    if (obstacle->blocks > 0)
        snprintf(
            which + strlen(which), sizeof which - strlen(which),
            ", by %llu block%s (%s)", (unsigned long long)obstacle->blocks,
            obstacle->blocks == 1 ? "" : "s",
            in_decimal(obstacle->blocks * target->facts.geometry.block_bytes)
                .words);
    return fail(status, "%s: '%s' cannot be done without loss: %s%s",
                target->address, name, obstacle->why, which);
}

static int add(struct target *target, struct slate_draft *draft,
               const struct slate_mend *mend)
{
    enum slate_status status = slate_draft_mend(draft, &target->facts, mend,
                                                &target->media, target->work);

    /* what another one has mended already needs no more of it; what needs two
     * sound copies has to wait until they are there */
    return status == SLATE_OK || status == SLATE_ERR_ARGUMENT ||
                   (status == SLATE_ERR_ONE_COPY && draft->change.mends > 0)
               ? 0
               : refuse(target, draft, mend, status);
}

static int add_found(struct target *target, struct slate_draft *draft)
{
    struct slate_mend mend;
    int code = 0;

    for (uint32_t i = 0; code == 0 && slate_mend_next(&target->facts, i, &mend);
         i++)
        code = add(target, draft, &mend);
    return code;
}

/* What is named, of the whole and of each partition; wishes as well. */
static int add_named(struct target *target, const char *list,
                     struct slate_draft *draft)
{
    const struct slate_facts *facts = &target->facts;
    int code = 0;

    for (int kind = 0; kind < SLATE_MEND_KINDS; kind++) {
        struct slate_mend mend = {(enum slate_mend_kind)kind,
                                  SLATE_ATTRIBUTE_WHOLE};

        if (!word_is_in(list, slate_mend_name(mend.kind)))
            continue;
        for (uint32_t i = 0; code == 0 && i <= facts->layout.count; i++) {
            if (slate_mend_holds(facts, &mend))
                code = add(target, draft, &mend);
            mend.partition = i;
        }
    }
    return code;
}

/* Nobody but a person picks one of two. */
static int check_from(const struct target *target,
                      const struct options *options)
{
    bool differ = slate_layout_copies_differ(&target->facts.layout);

    if (options->from != FROM_COUNTS && !differ)
        return fail(
            SLATE_ERR_ARGUMENT,
            "%s: --from is for a table whose copies are both sound, and "
            "differ; these do not",
            target->address);
    if (differ && options->from == FROM_COUNTS)
        return fail(
            SLATE_ERR_LIVES,
            "%s: both copies of its table are sound, and name different "
            "partitions; 'trueslate assess %s%s' shows both; expected "
            "--from first or --from second",
            target->address, target->name, target->also);
    return 0;
}

int mending_draft(struct target *target, const struct options *options,
                  const char *list, struct slate_draft *draft)
{
    enum slate_status status;
    int code = unfinished_refuse(target);

    THEN(code, check_from(target, options));
    THEN(code, asked_choose(target, options, draft));
    TRY(code);
    status = slate_draft_base(draft, &target->facts);
    for (uint32_t i = 0;
         options->divided && i < options->asks && status == SLATE_OK; i++)
        status = slate_draft_ask(draft, &options->ask[i]);
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    code = word_is_in(list, "all") ? add_found(target, draft) : 0;
    THEN(code, add_named(target, list, draft));
    TRY(code);
    if (!slate_draft_is_change(draft))
        return fail(SLATE_ERR_CHANGED,
                    "%s: nothing was found there that could be mended in place",
                    target->address);
    status = slate_draft_make(draft);
    if (is_of_part(draft, status) && status != SLATE_OK)
        return fail_refused(draft, status, target->address, "");
    return status == SLATE_OK ? ledger_make(target, options, draft)
                              : fail_plainly(status, target->address);
}

void mending_tell(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->change.mends; i++) {
        const struct slate_mended *mended = &draft->change.mend[i];
        char place[32] = "the table";

        if (mended->number != 0 || mended->kind == SLATE_MEND_START)
            attribute_place(mended->number, place);
        print_line(i == 0 ? "Mends" : "", PAINT_GOOD, "%s, %s: %s",
                   slate_mend_name(mended->kind), place,
                   slate_mend_words(mended->kind));
    }
}

json_t *mending_report(const struct slate_draft *draft)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < draft->change.mends; i++) {
        const struct slate_mended *mended = &draft->change.mend[i];

        json_array_append_new(
            list,
            report_pack("{s:s, s:o, s:s}", "kind",
                        slate_mend_name(mended->kind), "partition",
                        mended->number == 0 ? json_null()
                                            : json_integer(mended->number),
                        "text", slate_mend_words(mended->kind)));
    }
    return list;
}
