/* SPDX-License-Identifier: MIT */
/* Opened, looked at and drafted: what most tests begin with. */
#include "check.h"

enum slate_status session_look(struct session *s, const struct ram *ram)
{
    enum slate_status status = slate_media_open(&s->media, &ram->port);

    return status != SLATE_OK
               ? status
               : slate_assess_look(&s->media, SLATE_DEPTH_FULL, s->work,
                                   sizeof s->work, &s->facts);
}

enum slate_status session_draft(struct session *s, const struct ram *ram,
                                const struct slate_goal *goal)
{
    struct slate_choices choices = {.seed = {1, 2, 3},
                                    .stamp = {2031, 5, 17, 9, 30, 58}};
    struct slate_basis basis;
    enum slate_status status = session_look(s, ram);

    if (status != SLATE_OK)
        return status;
    slate_basis_from(&s->facts, &basis);
    return slate_draft_make(goal, &basis, &choices, &s->draft);
}

void session_compose(const struct session *s, uint64_t first, uint32_t count,
                     void *data)
{
    struct slate_walk walk = {0};
    struct slate_extent e;

    while (slate_draft_next(&s->draft, &walk, &e)) {
        if (e.moment == SLATE_MOMENT_MARK || first < e.first ||
            first + count > e.first + e.count)
            continue;
        assert_ok(slate_draft_compose(&s->draft, &e, first, count, data));
        return;
    }
    fail_msg("nothing is written to block %llu", (unsigned long long)first);
}

enum slate_status session_enact(struct session *s, size_t work_bytes)
{
    struct slate_enact enact;

    return slate_enact_run(&enact, &s->draft, &s->media, s->draft.basis.tag,
                           s->work, work_bytes, NULL, NULL);
}

enum slate_status session_prove(struct session *s, size_t work_bytes)
{
    struct slate_prove prove;

    return slate_prove_run(&prove, &s->draft, &s->media, s->work, work_bytes,
                           NULL, NULL);
}
