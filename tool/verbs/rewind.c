/* SPDX-License-Identifier: MIT */
/* rewind: what a draft has replaced comes back. */
#include "draft/draft.h"
#include "report/report.h"
#include "work/work.h"
#include "verbs/verbs.h"
#include "view/view.h"
#include "term/term.h"
#include "device/device.h"
#include "look/look.h"

struct rewinding {
    const struct options *options;
    struct target target;
    struct loaded *loaded;
    struct slate_rewind rewind;
    uint64_t replaced, changed; /* as the look ahead of it found */
    uint64_t written;
};

/* Images have no tag to be found by: they are named behind the journal. */
static int open_device(struct rewinding *work)
{
    const struct options *options = work->options;
    const struct slate_journal *journal = &work->loaded->journal;
    const char *word = options->count > 1 ? options->more[1] : journal->tag;
    int code;

    if (options->count > 2)
        return fail(SLATE_ERR_ARGUMENT,
                    "rewind: '%s' is one word too many; expected a journal, "
                    "and the device where its tag does not tell",
                    options->more[2]);
    if (options->block_bytes != 0 &&
        options->block_bytes != journal->block_bytes)
        return fail(SLATE_ERR_ARGUMENT,
                    "rewind: --block-size is %u, and the journal is of a "
                    "device with blocks of %u bytes",
                    options->block_bytes, journal->block_bytes);
    code =
        target_open(&work->target, word, options->bench, journal->block_bytes);
    if (code == 0 && memcmp(work->target.media.digest, journal->identity,
                            SLATE_DIGEST_BYTES) != 0)
        return fail(SLATE_ERR_OTHER_DEVICE,
                    "%s is %s, and the journal is of %s: another device, or "
                    "one that shows another size by now",
                    work->target.address, work->target.media.tag, journal->tag);
    return code == 0 ? check_release(&work->target) : code;
}

/* What the device holds now, against what the draft wrote and what was kept. */
static int look(struct rewinding *work)
{
    struct target *target = &work->target;
    struct progress progress;
    enum slate_status status;

    progress_catch_interrupts();
    progress_begin(&progress, "Comparing");
    status = slate_rewind_begin(&work->rewind, &work->loaded->journal,
                                &target->media, target->work, WORK_BYTES);
    if (status == SLATE_OK)
        status = slate_rewind_find(&work->rewind, progress_step, &progress);
    progress_end(&progress);
    if (status == SLATE_ERR_STOPPED)
        return fail(status, "interrupted while comparing");
    return status == SLATE_OK
               ? 0
               : fail_with_fault(status, &target->media, target->address);
}

/* Blocks that are not as they were. */
static uint64_t other_blocks(const struct rewinding *work)
{
    return work->rewind.replaced + work->rewind.changed;
}

static int refuse(const struct rewinding *work)
{
    const struct slate_rewind *rewind = &work->rewind;

    if (rewind->changed == 0 || work->options->anyway)
        return 0;
    return fail(
        SLATE_ERR_USED,
        "%s has been used since: %llu blocks, the first is %llu, hold neither "
        "what was written nor what was kept; to lose that, add --anyway",
        work->target.address, (unsigned long long)rewind->changed,
        (unsigned long long)rewind->first_changed);
}

/* What came last goes back first. */
static int refuse_older(struct rewinding *work)
{
    char newer[STATE_PATH_ROOM], name[STATE_PATH_ROOM];

    if (other_blocks(work) == 0 ||
        !journals_newer(work->loaded, &work->target, newer))
        return 0;
    journals_name(newer, name);
    return fail(SLATE_ERR_USED,
                "%s: a newer journal of it is in force: rewind %s first, then "
                "this one",
                work->target.address, plain_word(name));
}

static void tell_loss(const struct rewinding *work)
{
    struct loss loss;

    if (work->rewind.changed == 0) {
        print_line("Is lost", PAINT_GOOD,
                   "nothing but what was written then: the device has not been "
                   "used since");
        return;
    }
    print_line("Is lost", PAINT_BAD,
               "what was written since to %llu blocks of these",
               (unsigned long long)work->rewind.changed);
    if (!work->loaded->journal.marked)
        return; /* beside what stays */
    loss_of(&work->target, NULL, &loss);
    for (uint32_t i = 0; i < loss.count; i++)
        print_line("", PAINT_BAD, "%s", loss.line[i]);
}

static void tell_before(const struct rewinding *work)
{
    const struct slate_journal *journal = &work->loaded->journal;
    uint32_t block_bytes = journal->block_bytes;
    char name[STATE_PATH_ROOM];

    view_device(&work->target);
    putchar('\n');
    view_content(&work->target.facts);
    journals_name(work->loaded->path, name);
    print_line("Journal", PAINT_PLAIN, "%s: as it was before it got %s", name,
               journal->gets);
    if (journal->had[0] != '\0')
        print_line("Until then", PAINT_PLAIN, "%s", journal->had);
    print_line("Puts back", PAINT_GOOD,
               "%llu blocks, %s, that are not as they were",
               (unsigned long long)other_blocks(work),
               in_both(other_blocks(work) * block_bytes).words);
    if (journal->lost > 0)
        print_line("But", PAINT_BAD,
                   "%llu block%s could not be read when what was there was "
                   "kept: zeros are put back there",
                   (unsigned long long)journal->lost,
                   journal->lost == 1 ? "" : "s");
    tell_loss(work);
}

static int fail_writing(const struct rewinding *work, enum slate_status status)
{
    const struct slate_pass *pass = &work->rewind.enact.pass;

    if ((status == SLATE_ERR_SWAPPED || status == SLATE_ERR_TAKEN_OUT) &&
        work->rewind.enact.written == 0)
        return door_fail(&work->target, status);
    if (is_pulled(status, &work->target.media))
        return fail(status, "%s: " SAY_PULLED ", and the same command goes on",
                    work->target.address);
    if (status == SLATE_ERR_STOPPED)
        return fail(
            status,
            "interrupted after %llu of %llu blocks; the same command goes on",
            (unsigned long long)pass->done, (unsigned long long)pass->total);
    return fail_with_fault(status, &work->target.media, work->target.address);
}

/* What was compared holds for what was looked at then. */
static int compare_anew(void *context, bool changed)
{
    struct rewinding *work = context;
    int code = changed ? look(work) : 0;

    return code == 0 && changed ? refuse(work) : code;
}

static int pass_the_door(struct rewinding *work)
{
    struct passage passage = {
        .options = work->options,
        .target = &work->target,
        .loss = "What is there now will be replaced.",
        .shown = true,
        .ends = unfinished_is(&work->target, work->loaded->journal.seal),
        .ready = compare_anew,
        .context = work};
    int code = door_agree(&passage);

    if (code == 0 && !work->options->json)
        putchar('\n');
    return code == 0 ? door_pass(&passage) : code;
}

static int put_back(struct rewinding *work)
{
    const struct slate_agreement agreed = door_agreement(&work->target);
    struct progress progress;
    enum slate_status status;

    work->replaced = work->rewind.replaced;
    work->changed = work->rewind.changed;
    progress_begin(&progress, "Putting back");
    status = slate_rewind_start(&work->rewind, &agreed, work->options->anyway);
    if (status == SLATE_OK)
        status =
            slate_enact_complete(&work->rewind.enact, progress_step, &progress);
    progress_end(&progress);
    work->written = work->rewind.enact.written;
    return status == SLATE_OK ? 0 : fail_writing(work, status);
}

/* Every block is what was kept. */
static int prove(struct rewinding *work)
{
    int code = look(work);

    if (code == 0 && other_blocks(work) > 0)
        return fail(
            SLATE_ERR_UNPROVED, "%s: %llu block%s not what was put back",
            work->target.address, (unsigned long long)other_blocks(work),
            other_blocks(work) == 1 ? " is" : "s are");
    if (code == 0) {
        unfinished_drop(&work->target, work->loaded->journal.seal);
        journals_rest(work->loaded->path);
    }
    return code == 0 ? target_look(&work->target) : code;
}

static void tell_after(const struct rewinding *work)
{
    char words[300];
    struct slate_text text;

    print_line(
        "Put back", PAINT_GOOD, "%llu blocks, %s",
        (unsigned long long)work->written,
        in_both(work->written * work->target.media.geometry.block_bytes).words);
    print_line("Proved", PAINT_GOOD,
               "%llu blocks were read back, and every one is as it was",
               (unsigned long long)work->rewind.look.done);
    if (work->changed > 0)
        print_line("But", PAINT_BAD,
                   "it was used since: %llu of these blocks had been written "
                   "anew. What was written beside them stays there, and old "
                   "files that had those blocks are not back",
                   (unsigned long long)work->changed);
    slate_text_start(&text, words, sizeof words);
    slate_text_add(&text, work->target.media.tag);
    slate_text_add(&text, " has again what it had: ");
    content_words(&work->target, &text);
    print_line("Done", PAINT_GOOD, "%s", words);
}

static int report_result(const struct rewinding *work)
{
    const struct slate_journal *journal = &work->loaded->journal;

    return report_print(report_pack(
        "{s:s, s:s, s:o, s:o, s:o, s:I, s:I, s:I, s:I, s:o}", "shape",
        "trueslate.rewind/1", "tag", journal->tag, "device",
        report_device(&work->target), "journal",
        report_shown(work->loaded->path), "seal",
        report_hex(journal->seal, SLATE_DIGEST_BYTES), "blocks_replaced",
        (json_int_t)work->replaced, "blocks_changed", (json_int_t)work->changed,
        "blocks_written", (json_int_t)work->written, "blocks_unread",
        (json_int_t)journal->lost, "findings", report_findings(&work->target)));
}

static int find_out(struct rewinding *work)
{
    struct loaded *loaded = work->loaded;
    int code;

    if (loaded->status != SLATE_OK)
        return fail(loaded->status, "%s: %s",
                    plain_word(work->options->operand), loaded->why);
    code = open_device(work);
    THEN(code, target_look(&work->target));
    THEN(code, look(work));
    THEN(code, refuse_older(work));
    if (code == 0 && !work->options->json && other_blocks(work) > 0)
        tell_before(work);
    return code == 0 ? refuse(work) : code;
}

/* It was put back before, or nothing had been written: every block was
 * compared. */
static void tell_done(const struct rewinding *work)
{
    print_line("Done", PAINT_GOOD,
               "%s is as it was when the journal was kept: there is nothing "
               "to put back",
               work->target.media.tag);
}

static int go_back(struct rewinding *work)
{
    int code = pass_the_door(work);

    THEN(code, put_back(work));
    return code == 0 ? prove(work) : code;
}

int verb_rewind(const struct options *options)
{
    struct rewinding work = {.options = options};
    bool done;
    int code;

    if (options->count == 0)
        return fail(
            SLATE_ERR_ARGUMENT,
            "rewind: JOURNAL is missing; 'trueslate journals' lists them");
    work.loaded = journals_load(options->operand, true, options->files);
    code = find_out(&work);
    done = code == 0 && other_blocks(&work) == 0;
    if (done) {
        unfinished_drop(&work.target, work.loaded->journal.seal);
        journals_rest(work.loaded->path);
    } else {
        THEN(code, go_back(&work));
    }
    if (code == 0 && options->json)
        code = report_result(&work);
    else if (code == 0 && done)
        tell_done(&work);
    else if (code == 0)
        tell_after(&work);
    target_close(&work.target);
    journals_unload(work.loaded);
    return code;
}
