/* SPDX-License-Identifier: MIT */
/* assess: what is on devices, and what is wrong with them. */

#include "device/device.h"
#include "look/look.h"
#include "work/work.h"
#include "draft/draft.h"
#include "term/term.h"
#include "view/view.h"
#include "report/report.h"
#include "verbs/verbs.h"

/* The same of a change in place. */
static void tell_halfway(const struct target *target)
{
    if (target->halfway[0] != '\0')
        printf("\nTo go on with it:\n  trueslate enact %s%s\n",
               plain_word(target->halfway), target->also);
    if (target->undoing[0] != '\0')
        journals_tell(target->undoing, target);
}

/* Both ways out of a renewal that is unfinished. */
static void tell_unfinished(const struct target *target)
{
    char path[STATE_PATH_ROOM];

    if (target->facts.halfway) {
        tell_halfway(target);
        return;
    }
    printf("\nTo go on with it:\n  trueslate renew %s%s\n", target->name,
           target->also);
    if (state_path(target->media.tag, target->facts.mark.seal, JOURNAL_ENDING,
                   path, sizeof path) &&
        durable_exists(path))
        journals_tell(path, target);
}

/* What keeps more than the remedy of the finding does. */
static void tell_offers(const struct target *target)
{
    if (slate_layout_copies_differ(&target->facts.layout))
        printf("\nTo keep what the first copy of the table names, or what the "
               "second one does:\n  trueslate mend %s --from first%s\n  "
               "trueslate mend %s --from second%s\n",
               target->name, target->also, target->name, target->also);
    if (offers_rest(target))
        printf("\nTo keep what is there, and give the rest a partition of its "
               "own:\n  trueslate renew %s --keep all --part rest%s\n",
               target->name, target->also);
    if (offers_search(target))
        printf("\nTo look for volumes where no partition is, if some were "
               "deleted:\n  trueslate search %s%s\n",
               target->name, target->also);
}

/* Without consent both show what would change. */
static void tell_mend(struct target *target, const struct slate_mend *mend)
{
    bool converts =
        mend->kind == SLATE_MEND_TO_GPT || mend->kind == SLATE_MEND_TO_MBR;
    const char *table = mend->kind == SLATE_MEND_TO_GPT ? "gpt" : "mbr";

    printf("\nTo see what would change, and with --consent to do it:\n"
           "  trueslate %s %s%s%s%s%s\n",
           converts ? "convert" : "mend", target->name,
           converts ? " --table " : " --only ",
           converts ? table : slate_mend_name(mend->kind),
           converts && offers_part(target, mend) ? " --part rest" : "",
           target->also);
}

static void tell_lowlevel(const struct target *target)
{
    const char *what = offers_lowlevel(target);

    if (what != NULL)
        printf("\nTo see what is below its blocks, and to format it there:\n"
               "  trueslate lowlevel %s%s\n  trueslate lowlevel %s %s%s\n",
               target->name, target->also, target->name, what, target->also);
}

/* The commands for the remedy, where renewing is the remedy. */
static void tell_command(struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    const uint32_t follows = slate_finding_follows(target->finding[0].id);
    const struct slate_goal *goal;
    const struct slate_ask *ask;
    struct told told;

    told_of(target, &told);
    goal = &told.remedy.goal;
    ask = &told.remedy.ask;
    if (told.remedy.kind == SLATE_REMEDY_RESUME)
        tell_unfinished(target);
    if ((follows & SLATE_FOLLOW_GUARDS) != 0)
        printf("\nTo see what protects it, and to lift what can be lifted:\n"
               "  trueslate guards %s%s\n",
               target->name, target->also);
    if ((follows & (SLATE_FOLLOW_WAIT | SLATE_FOLLOW_ERASE)) != 0)
        printf("\n%s\n  trueslate erase %s%s\n",
               (follows & SLATE_FOLLOW_WAIT) != 0
                   ? "To wait until it is done, and to prove it:"
                   : "To see how it can erase itself again:",
               target->name, target->also);
    tell_lowlevel(target);
    tell_offers(target);
    if (told.remedy.kind == SLATE_REMEDY_MEND &&
        told.remedy.feasible == SLATE_OK && !facts->read_only)
        tell_mend(target, &told.remedy.mend);
    if (told.remedy.kind != SLATE_REMEDY_RENEW ||
        told.remedy.feasible != SLATE_OK || facts->read_only ||
        told.finding[0].severity != SLATE_SEVERITY_TROUBLE)
        return;
    puts("\nTo see what renewing would do, and to do it:");
    for (int i = 0; i < 2; i++)
        printf("  trueslate %s %s%s%s%s%s%s\n", i == 0 ? "draft" : "renew",
               target->name, goal->table_given ? " --table " : "",
               goal->table_given ? slate_table_name(goal->table) : "",
               ask->label[0] == '\0' ? "" : " --label ",
               ask->label[0] == '\0' ? "" : plain_word(ask->label),
               target->also);
}

static void tell_one(struct target *target)
{
    view_device(target);
    if (target->facts.opened == SLATE_OK) {
        view_size(target);
        putchar('\n');
        view_content(&target->facts);
        view_other_copy(&target->facts);
    }
    view_findings(target);
    tell_command(target);
}

static int draw(const struct options *options, struct target *const *targets,
                uint32_t count)
{
    int code = 0;

    for (uint32_t i = 0; i < count && code == 0; i++)
        code = durable_may_write(options->picture, targets[i], false, "picture",
                                 options->replace);
    return code == 0 ? picture_draw(options->picture, targets, count) : code;
}

static json_t *report_with_offers(const struct target *target)
{
    json_t *report = report_assess(target);

    json_object_set_new(report, "offers", offers_report(target));
    return report;
}

static int assess_one(const struct options *options)
{
    struct target target, *list[] = {&target};
    int code;

    (void)target_try(&target, options->operand, options->bench,
                     options->block_bytes);
    code = target_assess(&target);
    if (code == 0) {
        count_free(&target);
        offers_look(&target);
    }
    if (code == 0 && options->picture != NULL)
        code = draw(options, list, 1);
    if (code == 0 && options->json)
        code = report_print(report_with_offers(&target));
    else if (code == 0)
        tell_one(&target);
    target_close(&target);
    return code;
}

/* Worst first: by severity, then by what explains most. */
static int compare(const void *a, const void *b)
{
    const struct target *one = *(struct target *const *)a;
    const struct target *other = *(struct target *const *)b;
    const struct slate_finding *of_one = one->finding;
    const struct slate_finding *of_other = other->finding;

    if (of_one->severity != of_other->severity)
        return of_one->severity > of_other->severity ? -1 : 1;
    if (of_one->id != of_other->id)
        return of_one->id < of_other->id ? -1 : 1;
    return strcmp(one->address, other->address);
}

static int report_several(struct target *const *targets, uint32_t count)
{
    json_t *devices = report_made(json_array());

    for (uint32_t i = 0; i < count; i++)
        json_array_append_new(devices, report_with_offers(targets[i]));
    return report_print(report_pack(
        "{s:s, s:o}", "shape", "trueslate.assess-list/1", "devices", devices));
}

/* Those of which nothing is known are named on stderr; the rest is told. */
static uint32_t keep_known(struct attached *attached, int *code)
{
    uint32_t kept = 0;

    for (uint32_t i = 0; i < attached->count; i++) {
        struct target *target = attached->target[i];

        if (target->known) {
            attached->target[kept++] = target;
            continue;
        }
        *code = fail(target->status, "%s", target->why);
        free(target->room);
        free(target);
    }
    attached->count = kept;
    return kept;
}

static int assess_several(const struct options *options)
{
    static struct attached attached;
    uint32_t count;
    int code = 0, drawn = 0;

    if (options->count > 0)
        attached_named(&attached, options, offers_look);
    else if (!attached_open(&attached, options->bench, SLATE_DEPTH_FULL,
                            offers_look))
        return fail(
            SLATE_ERR_NO_DEVICE,
            "the devices cannot be listed; name one, or a bench with --bench");
    count = keep_known(&attached, &code);
    if (count > 1)
        qsort(attached.target, count, sizeof(struct target *), compare);
    if (options->picture != NULL && count > 0)
        drawn = draw(options, attached.target, count);
    if (options->json)
        drawn = report_several(attached.target, count) != 0 ? 1 : drawn;
    for (uint32_t i = 0; i < count && !options->json; i++)
        view_line(attached.target[i]);
    if (count == 0 && code == 0 && !options->json)
        view_nothing_there("No device is there.");
    attached_close(&attached);
    return code != 0 ? code : drawn;
}

int verb_assess(const struct options *options)
{
    return options->count == 1 ? assess_one(options) : assess_several(options);
}
