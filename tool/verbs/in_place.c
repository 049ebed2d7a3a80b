/* SPDX-License-Identifier: MIT */
/* Changes in place, from consent to proof: what the verbs for them share. */
#include "verbs/verbs.h"

#include "draft/draft.h"
#include "term/term.h"
#include "work/work.h"

struct in_place {
    struct undertaking *work;
    int (*make)(struct undertaking *work);
};

/* The draft is made of what is there, and a host that lets go of a volume
 * writes to it. */
static int make_ready(void *context, bool changed)
{
    const struct in_place *in_place = context;
    struct undertaking *work = in_place->work;
    int code = 0;

    undertaking_drop(work);
    if (changed) {
        drafted_free(work->draft);
        work->draft = drafted_new();
        code = in_place->make(work);
    }
    return code == 0 ? undertaking_keep(work) : code;
}

int in_place_do(struct undertaking *work, const char *loss,
                int (*make)(struct undertaking *work))
{
    struct in_place in_place = {work, make};
    int code;

    work->passage = (struct passage){.options = work->options,
                                     .target = work->target,
                                     .loss = loss,
                                     .shown = true,
                                     .ready = make_ready,
                                     .context = &in_place};
    code = door_agree(&work->passage);
    if (code == 0 && !work->options->json)
        putchar('\n');
    THEN(code, door_pass(&work->passage));
    THEN(code, undertaking_do(work));
    return undertaking_end(work, code);
}

bool in_place_found(struct undertaking *work,
                    bool (*is_it)(const struct slate_draft *draft,
                                  const struct options *options),
                    int *code)
{
    struct target *target = work->target;
    struct slate_draft *draft = drafted_new();

    work->found =
        unfinished_written(target, draft) && is_it(draft, work->options);
    if (!work->found) { /* something else is begun: that one is done with */
        if (target->written[0] != '\0')
            unfinished_drop(target, draft->seal);
        drafted_free(draft);
        return false;
    }
    drafted_free(work->draft);
    work->draft = draft;
    if (!state_path(target->media.tag, draft->seal, JOURNAL_ENDING,
                    work->journal, sizeof work->journal) ||
        !durable_exists(work->journal))
        work->journal[0] = '\0';
    *code = read_back(target, draft, &work->prove);
    if (*code == 0)
        unfinished_drop(target, draft->seal);
    return true;
}

void in_place_tell(const struct undertaking *work)
{
    if (work->found)
        print_line("Written", PAINT_GOOD,
                   "before it was cut: all that was begun then is there");
    else
        tell_enacted(work->draft, &work->enact);
    tell_proved(work->draft, &work->prove);
    journals_tell(work->journal, work->target);
}
