/* SPDX-License-Identifier: MIT */
/* relabel: another name for a volume, all else as it is. */

#include "draft/draft.h"
#include "report/report.h"
#include "work/work.h"
#include "verbs/verbs.h"
#include "term/term.h"
#include "view/view.h"
#include "look/look.h"

/* Which volume is meant: an index in the facts, or the device as a whole. */
static int find_volume(const struct target *target,
                       const struct options *options, uint32_t *partition)
{
    const struct slate_facts *facts = &target->facts;
    uint32_t volumes = 0;

    *partition = SLATE_ATTRIBUTE_WHOLE;
    if (facts->layout.kind == SLATE_TABLE_NONE && options->partition == 0)
        return 0;
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        bool known = slate_volume_is_known(facts->volume[i].kind);

        if (options->partition == 0
                ? known
                : facts->partition[i].number == options->partition) {
            *partition = i;
            volumes++;
        }
    }
    if (volumes == 1)
        return 0;
    if (options->partition != 0)
        return fail(SLATE_ERR_PARTS, "%s has no partition %u", target->address,
                    options->partition);
    return volumes == 0
               ? fail(SLATE_ERR_PARTS, "%s has no volume that is known",
                      target->address)
               : fail(SLATE_ERR_PARTS,
                      "%s has %u volumes; expected --partition N",
                      target->address, volumes);
}

static const struct slate_volume *volume_of(const struct target *target,
                                            uint32_t partition)
{
    return partition == SLATE_ATTRIBUTE_WHOLE
               ? &target->facts.whole
               : &target->facts.volume[partition];
}

static const char *words_of(const struct target *target, uint32_t partition)
{
    return slate_volume_words(volume_of(target, partition)->kind);
}

static int explain(const struct target *target, uint32_t partition,
                   const struct options *options, enum slate_status status)
{
    if (status == SLATE_ERR_FORMAT)
        return fail(status,
                    "%s: the label of %s cannot be changed here; expected a "
                    "FAT, exFAT, ext4 or NTFS volume",
                    target->address, words_of(target, partition));
    if (status == SLATE_ERR_ARGUMENT)
        return fail(status, "%s: the volume has no label that could go",
                    target->address);
    if (status == SLATE_ERR_LABEL)
        return fail(status, "relabel: --label is '%s', expected UTF-8",
                    options->relabel);
    return fail_plainly(status, target->address);
}

static int draft_label(struct target *target, const struct options *options,
                       struct slate_draft *draft)
{
    uint32_t partition = 0;
    enum slate_status status = SLATE_OK;

    TRY(unfinished_refuse(target));
    TRY(find_volume(target, options, &partition));
    status = slate_draft_base(draft, &target->facts);
    if (status == SLATE_OK)
        status =
            slate_draft_label(draft, &target->facts, partition,
                              options->relabel, &target->media, target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(draft);
    return status == SLATE_OK ? ledger_make(target, options, draft)
                              : explain(target, partition, options, status);
}

/* What was asked for is not always what the format keeps. */
static void tell_adapted(const struct target *target,
                         const struct options *options,
                         const struct slate_draft *draft)
{
    const char *label = draft->change.renamed.label;
    uint32_t partition = 0;
    const struct slate_format *format;

    if (options->relabel == NULL || strcmp(label, options->relabel) == 0 ||
        find_volume(target, options, &partition) != 0)
        return;
    format = slate_format_of(volume_of(target, partition)->kind);
    print_line("Adapted", PAINT_PLAIN, "%s %s", words_of(target, partition),
               format->label_rule);
}

static int make(struct undertaking *work)
{
    return draft_label(work->target, work->options, work->draft);
}

static int open_and_look(struct undertaking *work)
{
    int code = target_named(work->target, work->options);

    THEN(code, check_release(work->target));
    THEN(code, target_look(work->target));
    if (code == 0 && work->options->relabel == NULL)
        code = fail(SLATE_ERR_ARGUMENT, "relabel: expected --label TEXT");
    return code;
}

static bool is_asked(const struct slate_draft *draft,
                     const struct options *options)
{
    return draft->change.renamed.wanted &&
           strcmp(draft->change.renamed.label, options->relabel) == 0;
}

static int look_and_draft(struct undertaking *work)
{
    const struct options *options = work->options;
    struct target *target = work->target;
    int code = 0;

    if (code == 0 && options->output != NULL)
        code = draft_file_may_write(options->output, target, options->replace);
    THEN(code, make(work));
    if (code == 0 && !options->json) {
        view_device(target);
        putchar('\n');
        view_draft(target, work->draft);
        tell_adapted(target, options, work->draft);
        journals_announce(options, work->draft);
    }
    return code;
}

static int report_result(const struct undertaking *work)
{
    const struct target *target = work->target;

    return report_print(report_pack(
        "{s:s, s:s, s:o, s:s, s:o, s:o}", "shape", "trueslate.relabel/1", "tag",
        target->facts.tag, "device", report_device(target), "label",
        work->draft->change.renamed.label, "enact",
        report_enact(work->draft, &work->enact, work->journal), "prove",
        report_prove(work->draft, &work->prove)));
}

int verb_relabel(const struct options *options)
{
    struct target target = {0};
    struct undertaking work = {
        .options = options, .target = &target, .draft = drafted_new()};
    int code = open_and_look(&work);

    if (code == 0 && !in_place_found(&work, is_asked, &code)) {
        code = look_and_draft(&work);
        THEN(code,
             in_place_do(&work, "The label will be changed in place.", make));
    }
    if (code == 0 && options->json) {
        code = report_result(&work);
    } else if (code == 0) {
        in_place_tell(&work);
    }
    target_close(&target);
    drafted_free(work.draft);
    return code;
}
