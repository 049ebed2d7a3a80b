/* SPDX-License-Identifier: MIT */
/* Probes with their saved blocks in a file: run, put back, and told of when
 * something does not come back. */
#include "work/work.h"

#include "look/look.h"
#include "term/term.h"
#include "device/device.h"

/* "blocks 2048, 4096 and 3 more" */
void probing_name_lost(const struct slate_probe *probe, char words[400])
{
    struct slate_text text;
    uint32_t named =
        probe->lost < SLATE_PROBE_LOST ? probe->lost : SLATE_PROBE_LOST;

    slate_text_start(&text, words, 400);
    slate_text_add(&text, probe->lost == 1 ? "block " : "blocks ");
    for (uint32_t i = 0; i < named; i++) {
        slate_text_add(&text, i == 0 ? "" : ", ");
        slate_text_number(&text, probe->lost_lba[i]);
    }
    if (probe->lost > named) {
        slate_text_add(&text, " and ");
        slate_text_number(&text, probe->lost - named);
        slate_text_add(&text, " more");
    }
}

static int fail_step(const struct probing *probing, enum slate_status status)
{
    const struct slate_probe *probe = &probing->probe;

    if (status == SLATE_ERR_LEFTOVER)
        return fail(status,
                    "%s: %u block%s (the first is %llu) hold%s what an earlier "
                    "probe wrote and never put back: probe it where that was "
                    "done, or add --give-up to have zeros there",
                    probing->target->address, probe->leftovers,
                    probe->leftovers == 1 ? "" : "s",
                    (unsigned long long)probe->leftover,
                    probe->leftovers == 1 ? "s" : "");
    if (!probe->written && !probe->putting_back)
        return fail_plainly(status, probing->target->address);
    return fail(status,
                "%s: %s; what was on the probed blocks is kept in %s: probe "
                "the same medium again to put it back",
                probing->target->address,
                status == SLATE_ERR_NO_DEVICE ? "it does not answer any more"
                                              : slate_status_sentence(status),
                probing->file);
}

/* What was saved is on disk before the first block is written. */
static int step(struct probing *probing)
{
    struct slate_probe *probe = &probing->probe;
    bool saved = probe->phase == SLATE_PROBE_WRITE;
    enum slate_status status = slate_probe_step(probe);

    if (status != SLATE_OK)
        return fail_step(probing, status);
    if (!saved && probe->phase == SLATE_PROBE_WRITE)
        return kept_save(probing->file, probing->target, probe);
    return 0;
}

/* The file goes when every single block is back, and not before. */
static int run(struct probing *probing, const char *doing)
{
    struct slate_probe *probe = &probing->probe;
    struct progress progress;
    int code = 0;

    progress_catch_interrupts();
    if (!probing->quiet)
        progress_begin(&progress, doing);
    while (code == 0 && probe->phase != SLATE_PROBE_DONE) {
        code = step(probing);
        if (probing->quiet ? progress_is_interrupted()
                           : !progress_count(&progress, probe->done,
                                             probe->total, "transfers"))
            slate_probe_stop(probe);
    }
    if (!probing->quiet)
        progress_end(&progress);
    if (code == 0 && probe->lost == 0 &&
        (!probe->putting_back || probe->recognised))
        durable_remove(probing->file);
    return code;
}

int probing_begin(struct probing *probing)
{
    struct target *target = probing->target;
    const struct slate_agreement agreed = door_agreement(target);
    enum slate_status status =
        slate_probe_start(&probing->probe, &target->media, &agreed,
                          probing->work, SLATE_PROBE_WORK);

    if (status == SLATE_ERR_PROTECTED)
        return fail(
            status,
            "%s is write-protected; 'trueslate guards %s%s' tells by what",
            target->address, target->name, target->also);
    return status == SLATE_OK ? 0 : door_fail(target, status);
}

int probing_end(struct probing *probing, int code)
{
    enum slate_status status = slate_probe_end(&probing->probe);

    return code != 0 || status == SLATE_OK
               ? code
               : fail_plainly(status, probing->target->address);
}

int probing_fail_lost(const struct probing *probing)
{
    char words[400];

    probing_name_lost(&probing->probe, words);
    return fail(SLATE_ERR_WRITE,
                "%s: not restored: %s; what was there is kept in %s: probe the "
                "same medium again to put it back, and do not trust it",
                probing->target->address, words, probing->file);
}

/* An earlier probe that did not come to its end, with this medium or another
 * one in the same reader. */
static int put_back(struct probing *probing, const char *file)
{
    struct slate_probe *probe = &probing->probe;
    int code = probing_begin(probing);

    TRY(code);
    snprintf(probing->file, sizeof probing->file, "%s", file);
    code = kept_load(probing->file, probing->target, probe);
    if (code == 0) {
        slate_probe_put_back(probe);
        code = run(probing, "Putting back");
    }
    code = probing_end(probing, code);
    if (code == 0 && !probe->recognised)
        probing->alone++;
    else if (code == 0 && probe->lost > 0)
        code = probing_fail_lost(probing);
    else if (code == 0) {
        probing->put_back = true;
        code = target_look(probing->target); /* it holds what it held */
    }
    return code;
}

int probing_put_all_back(struct probing *probing)
{
    struct state_files earlier;
    int code = kept_list(&earlier, probing->target);

    for (uint32_t i = 0; i < earlier.count && code == 0; i++)
        code = put_back(probing, earlier.path[i]);
    state_forget(&earlier);
    return code;
}

int probing_run(struct probing *probing, const char *doing)
{
    int code = kept_path(probing->file, probing->target, &probing->probe);

    return code == 0 ? run(probing, doing) : code;
}

static void note_tried(struct probing *probing)
{
    const struct slate_probe *probe = &probing->probe;
    struct tried *tried = &probing->tried;

    tried->places = probe->places;
    memcpy(tried->lba, probe->lba, sizeof tried->lba);
    memcpy(tried->place, probe->place, sizeof tried->place);
}

int probing_do(struct probing *probing)
{
    int code;

    probing->work = malloc(SLATE_PROBE_WORK);
    if (probing->work == NULL)
        return fail_plainly(SLATE_ERR_INTERNAL, "the probe's work buffer");
    code = probing_put_all_back(probing);
    THEN(code, probing_begin(probing));
    TRY(code);
    probing->probe.give_up = probing->gives_up;
    code = probing_run(probing, "Probing");
    note_tried(probing);
    while (code == 0 && !progress_is_interrupted() &&
           slate_probe_refine(&probing->probe))
        code = probing_run(probing, "Narrowing");
    return probing_end(probing, code);
}
