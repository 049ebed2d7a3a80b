/* SPDX-License-Identifier: MIT */
/* What came of a renewal: for people, for programs, and for a ticket. */

#include "draft/draft.h"
#include "device/device.h"
#include "work/work.h"
#include "report/report.h"
#include "ticket/ticket.h"
#include "term/term.h"
#include "view/view.h"

/* The host was kept away while it lasted; who has come since? */
static void tell_users(const struct target *target)
{
    struct slate_linux_about about;

    if (target->host == NULL ||
        !slate_linux_describe(slate_linux_about(target->host)->name, &about) ||
        about.users[0] == '\0')
        return;
    print_line("In use now", PAINT_PLAIN,
               "%.*s: eject the device before you unplug it",
               (int)strcspn(about.users, "\n") % 200, about.users);
}

void renewal_words(const struct renewal *renewal, char *words, size_t room)
{
    const struct slate_facts *facts = &renewal->target.facts;
    char shown[SLATE_SIZE_TEXT], what[200];

    if (overwriting_words(renewal->work.draft, words, room))
        return;
    slate_size_both(slate_facts_shown_bytes(facts), shown);
    draft_words(renewal->work.draft, what, sizeof what);
    snprintf(words, room, "%s has %s: hosts show %s of %s%s",
             renewal->work.draft->basis.tag, what, shown,
             in_both(slate_geometry_bytes(&facts->geometry)).words,
             renewal->work.draft->basis.geometry.block_count <
                     slate_draft_claimed(renewal->work.draft)
                 ? "; it is no healthy device, since it claims more than is "
                   "used of it"
                 : "");
}

static void tell_line(const char *label, uint64_t bytes, const char *what)
{
    printf("  %-10s %11llu bytes %s\n", label, (unsigned long long)bytes, what);
}

/* The lines that a high-level format of old systems ends with. */
static void tell_totals(const struct slate_draft *draft)
{
    struct slate_totals totals;
    char words[120];

    if (draft->parts != 1 || !slate_draft_totals(draft, 0, &totals) ||
        (totals.bad_bytes == 0 && totals.system_files == 0))
        return;
    tell_line("Totals", totals.bytes, "in all");
    if (totals.bad_bytes > 0)
        tell_line("", totals.bad_bytes, "in bad sectors");
    if (totals.system_files > 0) {
        snprintf(words, sizeof words, "in %u system file%s",
                 totals.system_files, totals.system_files == 1 ? "" : "s");
        tell_line("", totals.system_bytes, words);
    }
    if (totals.files + totals.folders > 0) {
        snprintf(words, sizeof words, "in %u other file%s and %u folder%s",
                 totals.files, totals.files == 1 ? "" : "s", totals.folders,
                 totals.folders == 1 ? "" : "s");
        if (totals.folders == 0)
            snprintf(words, sizeof words, "in %u other file%s", totals.files,
                     totals.files == 1 ? "" : "s");
        tell_line("", totals.file_bytes, words);
    }
    snprintf(words, sizeof words, "free, in %llu allocation units of %u",
             (unsigned long long)(totals.free_bytes / totals.cluster_bytes),
             totals.cluster_bytes);
    tell_line("", totals.free_bytes, words);
}

void renewal_tell(const struct renewal *renewal)
{
    char words[400];

    if (renewal->erasing.begun)
        erasing_tell(&renewal->erasing);
    tell_enacted(renewal->work.draft, &renewal->work.enact);
    tell_proved(renewal->work.draft, &renewal->work.prove);
    regions_tell(&renewal->target, TARGET_WRITTEN);
    regions_tell(&renewal->target, TARGET_READ);
    overwriting_tell(&renewal->how, renewal->work.draft, &renewal->over,
                     &renewal->over_prove);
    tell_totals(renewal->work.draft);
    renewal_words(renewal, words, sizeof words);
    print_line("Done", PAINT_GOOD, "%s", words);
    tell_users(&renewal->target);
    journals_tell(renewal->work.journal, &renewal->target);
}

static json_t *totals_report(const struct slate_draft *draft)
{
    struct slate_totals totals;

    if (draft->parts != 1 || !slate_draft_totals(draft, 0, &totals))
        return NULL;
    return report_pack(
        "{s:I, s:I, s:I, s:I, s:I, s:i, s:i, s:i, s:i}", "bytes",
        (json_int_t)totals.bytes, "bad", (json_int_t)totals.bad_bytes, "system",
        (json_int_t)totals.system_bytes, "files", (json_int_t)totals.file_bytes,
        "free", (json_int_t)totals.free_bytes, "system_files",
        (int)totals.system_files, "other_files", (int)totals.files, "folders",
        (int)totals.folders, "cluster", (int)totals.cluster_bytes);
}

json_t *renewal_report(struct renewal *renewal)
{
    const struct target *target = &renewal->target;
    json_t *before = json_deep_copy(renewal->before);
    json_t *scan = NULL, *erased = NULL;

    if (renewal->scanned.done)
        scan = scan_report(&renewal->scanned, renewal->work.draft);
    if (renewal->erasing.begun)
        erased = erasing_report(&renewal->erasing);
    return report_pack(
        "{s:s, s:s, s:o, s:o, s:O*, s:o, s:o, s:o, s:o*, s:o*, s:o*, s:o*, "
        "s:o*, s:o*}",
        "shape",
        verb_takes(renewal->options->verb, TAKES_OVERWRITE)
            ? "trueslate.overwrite/1"
            : "trueslate.renew/1",
        "tag", target->facts.tag, "device", report_device(target),
        "findings_before", before, "lost", renewal->lost, "findings_after",
        report_findings(target), "enact",
        report_enact(renewal->work.draft, &renewal->work.enact,
                     renewal->work.journal),
        "prove", report_prove(renewal->work.draft, &renewal->work.prove),
        "scan", scan, "overwritten",
        overwriting_report(&renewal->how, renewal->work.draft, &renewal->over,
                           &renewal->over_prove),
        "pace_written", regions_report(target, TARGET_WRITTEN), "pace_read",
        regions_report(target, TARGET_READ), "erased", erased, "totals",
        totals_report(renewal->work.draft));
}

json_t *renewal_ticket(struct renewal *renewal, int code, const char *failure)
{
    char hex[2 * SLATE_DIGEST_BYTES + 1], words[600];
    struct slate_text seal = {hex, sizeof hex, 0};
    const struct ticket_job job = {.verb = renewal->options->verb->name,
                                   .target = &renewal->target,
                                   .began = renewal->began,
                                   .code = code,
                                   .outcome = words,
                                   .seal = hex,
                                   .picture = renewal->picture,
                                   .report = renewal_report(renewal)};

    if (!renewal->enacted) /* nobody has looked at it since */
        json_object_del(job.report, "findings_after");
    slate_text_bytes(&seal, renewal->work.draft->seal, SLATE_DIGEST_BYTES);
    if (code == 0)
        renewal_words(renewal, words, sizeof words);
    else
        snprintf(words, sizeof words, "%.*s", (int)strcspn(failure, "\n") % 600,
                 failure);
    return ticket_job(&job);
}
