/* SPDX-License-Identifier: MIT */
/* A draft is carried out, and read back. */

#include "draft/draft.h"
#include "device/device.h"
#include "work/work.h"
#include "term/term.h"

static int fail_enact(const struct target *target,
                      const struct slate_enact *enact, enum slate_status status)
{
    if (status == SLATE_ERR_SOURCE)
        return folder_fail(enact->pass.draft, status);
    if (status == SLATE_ERR_ALIAS)
        return fail(
            status,
            "%s: what was written %s block %llu shows in block 0 as well: it "
            "has no more blocks than that, of the %llu that it claims; do not "
            "trust this device",
            target->address,
            enact->pass.draft->goal.overwrite.round[enact->round].kind ==
                    SLATE_ROUND_RANDOM
                ? "to"
                : "up to",
            (unsigned long long)enact->alias,
            (unsigned long long)target->media.geometry.block_count);
    if (is_pulled(status, &target->media))
        return fail(status, "%s: " SAY_PULLED ", and %s", target->address,
                    slate_draft_is_change(enact->pass.draft)
                        ? "go on"
                        : "the same command goes on");
    if (status == SLATE_ERR_STOPPED)
        return fail(status,
                    "interrupted after %llu of %llu blocks; enact the same "
                    "draft again to go on",
                    (unsigned long long)enact->pass.done,
                    (unsigned long long)enact->pass.total);
    if (status == SLATE_ERR_PROTECTED && enact->pass.done == 0)
        return fail(status,
                    "%s is write-protected by what the draft does not lift; "
                    "'trueslate guards %s%s' tells by what",
                    target->address, target->name, target->also);
    return fail_with_fault(status, &target->media, target->address);
}

int enact_check(struct target *target, const struct slate_draft *draft,
                struct slate_enact *enact)
{
    enum slate_status status =
        slate_enact_check(enact, draft, &target->media, target->media.tag,
                          target->work, WORK_BYTES);

    return status == SLATE_OK ? 0 : fail_enact(target, enact, status);
}

/* What goes on while it is written. */
struct writing {
    struct progress progress;
    const struct target *target;
    const struct slate_enact *enact;
    uint64_t saved; /* ms */
};

static bool is_overwritten(const struct slate_draft *draft)
{
    return draft->goal.overwrite.rounds > 0;
}

/* So often it is kept how far overwriting has come. */
#define SAVE_MS 10000u

static bool write_step(void *context, const struct slate_pass *pass)
{
    struct writing *writing = context;
    uint64_t now = progress_now_ms();

    if (is_overwritten(pass->draft) && now - writing->saved >= SAVE_MS) {
        resume_save(writing->target, pass->draft, writing->enact->safe);
        writing->saved = now;
    }
    return progress_step(&writing->progress, pass);
}

/* Goes on where an earlier run has come to; its list of what failed as well. */
static enum slate_status go_on(const struct target *target,
                               struct slate_enact *enact)
{
    const struct slate_draft *draft = enact->pass.draft;

    if (!is_overwritten(draft))
        return SLATE_OK;
    enact->failed = drafted_failed(draft);
    return slate_enact_go_on(enact, resume_load(target, draft));
}

static enum slate_status write_all(struct target *target,
                                   struct slate_enact *enact)
{
    struct writing writing = {.target = target, .enact = enact};
    const struct slate_draft *draft = enact->pass.draft;
    enum slate_status status = go_on(target, enact), end;

    progress_begin(&writing.progress, "Writing");
    writing.progress.rounds = true;
    writing.saved = progress_now_ms();
    if (is_overwritten(draft))
        enact->pass.surface = regions_begin(target, TARGET_WRITTEN);
    if (status == SLATE_OK) {
        status = slate_enact_complete(enact, write_step, &writing);
    } else {
        end = slate_enact_end(enact);
        (void)end; /* the first error counts */
    }
    progress_end(&writing.progress);
    if (is_overwritten(draft) && status == SLATE_OK)
        resume_drop(target, draft);
    else if (is_overwritten(draft) && enact->safe > 0)
        resume_save(target, draft, enact->safe);
    return status;
}

/* On a device that is claimed: nobody changes what has been kept. */
static int keep_and_write(struct target *target, struct slate_draft *draft,
                          const struct options *options,
                          struct slate_enact *enact,
                          char journal[STATE_PATH_ROOM])
{
    enum slate_status status;
    int code = journals_keep(options, target, draft, enact->resumed, journal);

    if (code != 0) {
        status = slate_enact_end(enact);
        (void)status; /* the first error counts */
        return code;
    }
    status = write_all(target, enact);
    if (status == SLATE_ERR_BAD_BLOCK)
        return exit_code(status); /* renewing goes on by itself */
    return status == SLATE_OK ? 0 : fail_enact(target, enact, status);
}

int carry_out(struct target *target, struct slate_draft *draft,
              const struct options *options, struct slate_enact *enact,
              char journal[STATE_PATH_ROOM])
{
    enum slate_status status;
    int code = folder_check(draft, target->work, WORK_BYTES);

    journal[0] = '\0';
    TRY(code);
    progress_catch_interrupts();
    status = slate_enact_start(enact, draft, &target->media, target->agreed,
                               target->work, WORK_BYTES);
    return status == SLATE_OK
               ? keep_and_write(target, draft, options, enact, journal)
               : fail_enact(target, enact, status);
}

static int fail_read_back(struct target *target,
                          const struct slate_draft *draft,
                          const struct slate_prove *prove,
                          enum slate_status status)
{
    if (status == SLATE_OK)
        return 0;
    if (status == SLATE_ERR_SOURCE)
        return folder_fail(draft, status);
    if (status == SLATE_ERR_UNPROVED)
        return fail(status,
                    "%s: not proved: %llu of %llu blocks differ from the "
                    "draft, the first one is block %llu (%s)",
                    target->address, (unsigned long long)prove->different,
                    (unsigned long long)prove->pass.done,
                    (unsigned long long)prove->first_different,
                    prove->first_step);
    if (status == SLATE_ERR_ALIAS)
        return fail(
            status,
            "%s: not proved: block %llu shows what block %llu holds: it "
            "has fewer blocks than it claims; 'trueslate probe %s%s' "
            "finds out how many",
            target->address, (unsigned long long)prove->alias,
            (unsigned long long)prove->alias_of, target->name, target->also);
    return fail_with_fault(status, &target->media, target->address);
}

/* Of what was overwritten, blocks that fail are noted, and end nothing. */
static int complete(struct target *target, const struct slate_draft *draft,
                    struct slate_prove *prove, enum slate_status started)
{
    struct progress progress;
    enum slate_status status = started;

    if (is_overwritten(draft)) {
        prove->failed = drafted_failed(draft);
        prove->pass.surface = regions_begin(target, TARGET_READ);
    }
    progress_catch_interrupts();
    progress_begin(&progress, "Reading back");
    if (status == SLATE_OK)
        status = slate_prove_complete(prove, progress_step, &progress);
    progress_end(&progress);
    return fail_read_back(target, draft, prove, status);
}

int read_back(struct target *target, const struct slate_draft *draft,
              struct slate_prove *prove)
{
    return complete(target, draft, prove,
                    slate_prove_start(prove, draft, &target->media,
                                      target->work, WORK_BYTES));
}

int read_back_round(struct target *target, const struct slate_draft *draft,
                    struct slate_prove *prove)
{
    struct slate_supply supply;

    slate_draft_round_supply(draft, &supply);
    if (draft->goal.overwrite.read_back == SLATE_READ_BACK_NONE)
        return 0;
    return complete(target, draft, prove,
                    slate_prove_begin(prove, &supply, &target->media,
                                      target->work, WORK_BYTES));
}

static void tell_lifted(const struct slate_draft *draft,
                        const struct slate_enact *enact)
{
    for (uint32_t i = 0; i < SLATE_GUARD_KINDS; i++) {
        enum slate_guard_kind kind = (enum slate_guard_kind)i;

        if ((enact->lifted & SLATE_GUARD_BIT(i)) == 0)
            continue;
        print_line("Lifted", PAINT_GOOD, "%s, %s", slate_guard_name(kind),
                   slate_guard_lift_lasts(kind, draft->goal.lasting)
                       ? "for good"
                       : "until the power goes");
    }
}

void tell_enacted(const struct slate_draft *draft,
                  const struct slate_enact *enact)
{
    uint32_t block_bytes = draft->basis.geometry.block_bytes;
    char size[SLATE_SIZE_TEXT], words[280];

    tell_lifted(draft, enact);
    slate_size_both(enact->written * block_bytes, size);
    snprintf(words, sizeof words, "%llu block%s, %s%s",
             (unsigned long long)enact->written, enact->written == 1 ? "" : "s",
             size, enact->resumed ? "; the rest was already in place" : "");
    if (!enact->resumed && enact->equal > 0) {
        slate_size_both(enact->equal * block_bytes, size);
        snprintf(words + strlen(words), sizeof words - strlen(words),
                 "; %s were so already, and left alone", size);
    }
    if (enact->cleared > 0) {
        slate_size_both(enact->cleared * block_bytes, size);
        snprintf(words + strlen(words), sizeof words - strlen(words),
                 "; %s more set to zeros by the device itself", size);
    }
    print_line("Written", PAINT_GOOD, "%s", words);
}

void tell_proved(const struct slate_draft *draft,
                 const struct slate_prove *prove)
{
    uint64_t failed = bad_blocks(drafted_failed(draft));

    if (failed == 0)
        print_line(
            "Proved", failed == 0 ? PAINT_GOOD : PAINT_BAD,
            "%llu block%s read back from %s, and every one is as drafted",
            (unsigned long long)prove->pass.done,
            prove->pass.done == 1 ? " was" : "s were", draft->basis.tag);
    else
        print_line("Proved", failed == 0 ? PAINT_GOOD : PAINT_BAD,
                   "%llu blocks were read back from %s; but for %llu, which "
                   "failed, they are as drafted",
                   (unsigned long long)prove->pass.done, draft->basis.tag,
                   (unsigned long long)failed);
}

int open_device_of(const struct slate_draft *draft, const char *address,
                   const char *bench, struct target *target)
{
    uint32_t block_bytes = draft->basis.geometry.block_bytes;

    if (strncmp(address, "file:", 5) == 0)
        return target_open(target, address, bench, block_bytes);
    if (target_try(target, address, bench, block_bytes) == SLATE_OK &&
        memcmp(target->media.digest, draft->basis.identity,
               SLATE_DIGEST_BYTES) == 0)
        return 0;
    target_close(target);
    return target_open(target, draft->basis.tag, bench, block_bytes);
}
