/* SPDX-License-Identifier: MIT */
/* renew: assess, draft, ask, enact and prove in one go. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "paint.h"
#include "report.h"
#include "say.h"
#include "state.h"
#include "verbs.h"
#include "view.h"

struct renewal {
    const struct options *options;
    struct target target;
    struct slate_draft draft;
    struct slate_enact enact;
    struct slate_prove prove;
    char file[4200];  /* where the draft is kept while it is unfinished */
    char consent[64]; /* as given */
    json_t *before;   /* findings, when programs read */
};

/* An interrupted renewal goes on from its draft, so there has to be one. */
static int keep_draft(struct renewal *renewal)
{
    char folder[4000];

    if (renewal->options->output != NULL)
        snprintf(renewal->file, sizeof renewal->file, "%s",
                 renewal->options->output);
    else if (state_folder(folder, sizeof folder))
        snprintf(renewal->file, sizeof renewal->file, "%s/%s.draft.json",
                 folder, renewal->draft.basis.tag);
    else
        return fail(SLATE_ERR_ACCESS,
                    "there is no place to keep the draft in; name one with -o "
                    "FILE");
    return draft_file_save(renewal->file, &renewal->target, &renewal->draft);
}

static int look_and_draft(struct renewal *renewal)
{
    const struct options *options = renewal->options;
    struct target *target = &renewal->target;
    int code = target_open(target, options->operand, options->bench,
                           options->block_bytes);

    if (code == 0)
        code = target_look(target);
    if (code == 0 && options->json) {
        renewal->before = report_findings(&target->facts);
    } else if (code == 0) {
        view_device(target);
        view_findings(&target->facts);
        putchar('\n');
    }
    if (code == 0)
        code = make_draft(target, options, &renewal->draft);
    if (code == 0 && !options->json)
        view_draft(&target->facts, &renewal->draft);
    if (code == 0)
        code = refuse_guarded(target);
    if (code == 0 && target->facts.read_only)
        code = fail_plainly(SLATE_ERR_PROTECTED, target->address);
    return code;
}

/* The tag, from --consent or typed at the prompt. */
static int ask(struct renewal *renewal)
{
    const char *given = renewal->options->consent;
    char wanted[64];

    consent_words(&renewal->target, wanted);
    if (given == NULL && isatty(STDIN_FILENO) != 1)
        return fail(SLATE_ERR_CONSENT,
                    "everything on %s will be lost, and there is no terminal "
                    "to ask at; to agree, add --consent %s",
                    renewal->draft.basis.tag, wanted);
    if (given != NULL) {
        snprintf(renewal->consent, sizeof renewal->consent, "%.63s", given);
        return check_consent(&renewal->target, given);
    }
    fprintf(stderr,
            "\nEverything on this device will be lost. To agree, type %s%s: ",
            renewal->target.system ? "" : "its tag, ", wanted);
    if (fgets(renewal->consent, sizeof renewal->consent, stdin) == NULL)
        renewal->consent[0] = '\0';
    renewal->consent[strcspn(renewal->consent, "\r\n")] = '\0';
    return check_consent(&renewal->target, renewal->consent);
}

static int write_and_prove(struct renewal *renewal)
{
    struct target *target = &renewal->target;
    int code = keep_draft(renewal);

    if (code != 0)
        return code;
    code =
        carry_out(target, &renewal->draft, renewal->consent, &renewal->enact);
    if (code == 0)
        code = read_back(target, &renewal->draft, &renewal->prove);
    if (code == 0)
        code = target_look(target);
    if (code != 0) {
        fprintf(stderr,
                "trueslate: the draft is kept; to go on:\n"
                "  trueslate enact %s --consent %s\n",
                renewal->file, renewal->draft.basis.tag);
        return code;
    }
    if (renewal->options->output == NULL)
        unlink(renewal->file); /* proved: nobody needs it any more */
    return 0;
}

static void tell_result(const struct renewal *renewal)
{
    const struct slate_facts *facts = &renewal->target.facts;
    char shown[SLATE_SIZE_TEXT], all[SLATE_SIZE_TEXT], words[256];
    const char *label = renewal->draft.volume.label;

    tell_enacted(&renewal->draft, &renewal->enact);
    tell_proved(&renewal->draft, &renewal->prove);
    slate_size_both(slate_facts_shown_bytes(facts), shown);
    slate_size_both(slate_geometry_bytes(&facts->geometry), all);
    snprintf(words, sizeof words,
             "%s is one FAT32 volume%s%s%s: hosts show %s of %s", facts->tag,
             label[0] == '\0' ? "" : " \"", label, label[0] == '\0' ? "" : "\"",
             shown, all);
    print_wrapped("Done", PAINT_GOOD, words);
}

static int report_result(struct renewal *renewal)
{
    const struct target *target = &renewal->target;
    json_t *before = renewal->before;

    renewal->before = NULL;
    return report_print(report_made(
        json_pack("{s:s, s:s, s:o, s:o, s:o, s:o, s:o}", "shape",
                  "trueslate.renew/1", "tag", target->facts.tag, "device",
                  report_device(target), "findings_before", before,
                  "findings_after", report_findings(&target->facts), "enact",
                  report_enact(&renewal->draft, &renewal->enact), "prove",
                  report_prove(&renewal->draft, &renewal->prove))));
}

int verb_renew(const struct options *options)
{
    struct renewal renewal = {.options = options};
    int code = look_and_draft(&renewal);

    if (code == 0)
        code = ask(&renewal);
    if (code == 0 && !options->json)
        putchar('\n');
    if (code == 0)
        code = write_and_prove(&renewal);
    if (code == 0 && options->json)
        code = report_result(&renewal);
    else if (code == 0)
        tell_result(&renewal);
    json_decref(renewal.before);
    target_close(&renewal.target);
    return code;
}
