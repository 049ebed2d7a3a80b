/* SPDX-License-Identifier: MIT */
/* A draft that is kept while it is carried out and proved, so that what is cut
 * short can go on. */
#include "work/work.h"

#include "draft/draft.h"
#include "look/look.h"
#include "report/report.h"

int undertaking_keep(struct undertaking *work)
{
    int code;

    if (work->options->output != NULL)
        snprintf(work->file, sizeof work->file, "%s", work->options->output);
    else if (!unfinished_path(work->target, work->draft->seal, work->file,
                              sizeof work->file)) {
        work->file[0] = '\0';
        return fail(
            SLATE_ERR_ACCESS,
            "there is no place to keep the draft in; name one with -o FILE");
    }
    code = draft_file_save(work->file, work->target, work->draft);
    if (code != 0)
        work->file[0] = '\0'; /* nothing there is ours to remove */
    return code;
}

void undertaking_drop(struct undertaking *work)
{
    resume_drop(work->target, work->draft);
    if (work->options->output == NULL && work->file[0] != '\0')
        durable_remove(work->file);
    work->file[0] = '\0';
}

/* May anything of the draft be on the device? A write that failed may be there
 * in part; one that was refused is not. */
static bool has_begun(const struct undertaking *work, int code)
{
    const struct slate_pass *pass = &work->enact.pass;

    return work->resumed || pass->done != 0 || work->enact.written != 0 ||
           (pass->status != SLATE_OK && code != (int)SLATE_CLASS_REFUSED);
}

int undertaking_do(struct undertaking *work)
{
    struct target *target = work->target;
    int code = carry_out(target, work->draft, work->options, &work->enact,
                         work->journal);

    if (code == 0)
        code = read_back(target, work->draft, &work->prove);
    else if (work->enact.pass.status == SLATE_ERR_BAD_BLOCK)
        work->around = true;
    return code == 0 ? target_look(target) : code;
}

/* It does not keep what it is given, as writing or proving has shown. */
static bool is_unproved(const struct undertaking *work, int code)
{
    return code == exit_code(SLATE_ERR_UNPROVED) &&
           (work->prove.pass.finished ||
            work->enact.pass.status == SLATE_ERR_UNPROVED);
}

int undertaking_end(struct undertaking *work, int code)
{
    char command[TARGET_NAME_ROOM + 200];

    if (is_unproved(work, code)) {
        snprintf(command, sizeof command, "trueslate probe %s --consent %s%s",
                 work->target->name, work->passage.consent, work->target->also);
        say_how("to find out what it keeps", command);
        if (work->prove.pass.finished)
            undertaking_drop(work);
        return code;
    }
    /* proved, or nothing was written, or no use to go on with */
    if (code == 0 || !has_begun(work, code) ||
        work->enact.pass.status == SLATE_ERR_ALIAS) {
        undertaking_drop(work);
        return code;
    }
    snprintf(command, sizeof command, "trueslate enact %s --consent %s%s",
             plain_word(work->file), work->passage.consent, work->target->also);
    say_how("the draft is kept; to go on", command);
    return code;
}
