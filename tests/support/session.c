/* SPDX-License-Identifier: MIT */
/* Opened, looked at and drafted: what most tests begin with. */
#include "check.h"

enum slate_status session_assess(struct session *s, enum slate_depth depth)
{
    const struct slate_facts_room room = {s->found, s->found_volume,
                                          SLATE_FACTS_PARTITIONS, s->found_seen,
                                          SLATE_EVIDENCE_RANGES};

    slate_facts_place(&s->facts, &room);
    return slate_assess_look(&s->media, depth, s->work, sizeof s->work,
                             &s->facts);
}

enum slate_status session_look(struct session *s, const struct ram *ram)
{
    enum slate_status status = slate_media_open(&s->media, &ram->port);

    return status != SLATE_OK ? status : session_assess(s, SLATE_DEPTH_FULL);
}

void session_want(struct session *s, const struct wanted *goal)
{
    const struct slate_choices choices = {.seed = {1, 2, 3},
                                          .stamp = {2031, 5, 17, 9, 30, 58}};
    struct slate_ask ask = {.volume = goal->volume,
                            .cluster_bytes = goal->cluster_bytes};

    memcpy(ask.label, goal->label, sizeof ask.label);
    slate_draft_place(&s->draft, s->room, sizeof s->room);
    s->draft.goal.use = goal->use;
    s->draft.goal.table_given = goal->table_given;
    s->draft.goal.table = goal->table;
    s->draft.goal.lift = goal->lift;
    s->draft.goal.lasting = goal->lasting;
    s->draft.choices = choices;
    assert_ok(slate_draft_ask(&s->draft, &ask));
}

enum slate_status session_make(struct session *s, const struct wanted *goal)
{
    session_want(s, goal);
    assert_ok(slate_draft_base(&s->draft, &s->facts));
    return slate_draft_make(&s->draft);
}

enum slate_status session_plan(struct session *s, const struct wanted *goal,
                               struct slate_geometry geometry)
{
    session_want(s, goal);
    strcpy(s->draft.basis.tag, "TARUK-47");
    s->draft.basis.geometry = geometry;
    return slate_draft_make(&s->draft);
}

enum slate_status session_remedy(struct session *s,
                                 const struct slate_remedy *remedy)
{
    session_want(s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s->draft.goal = remedy->goal;
    s->draft.part[0].ask = remedy->ask;
    assert_ok(slate_draft_base(&s->draft, &s->facts));
    return slate_draft_make(&s->draft);
}

enum slate_status session_draft(struct session *s, const struct ram *ram,
                                const struct wanted *goal)
{
    enum slate_status status = session_look(s, ram);

    return status == SLATE_OK ? session_make(s, goal) : status;
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

void session_cut(struct session *s, const struct cut *cut, struct ram *ram,
                 struct shim *shim)
{
    ram_copy(ram, cut->before);
    shim_open(shim, &ram->port);
    shim->cut_at = cut->n;
    shim->way = cut->way;
    shim->seed = cut->seed;
    assert_ok(slate_media_open(&s->media, &shim->port));
    assert_status(session_enact(s, cut->work_bytes), SLATE_ERR_NO_DEVICE);
    shim_power(shim);
}

void session_go_on(struct session *s, const struct cut *cut, struct ram *ram,
                   struct shim *shim)
{
    enum slate_status status;

    assert_ok(slate_media_open(&s->media, &shim->port));
    status = session_enact(s, slate_draft_work_bytes(&s->draft));
    if (status != SLATE_ERR_ALREADY) /* the last write was all there */
        assert_ok(status);
    assert_true(ram_equal(ram, cut->after));
    shim_close(shim);
    ram_close(ram);
}

enum slate_status session_convert(struct session *s,
                                  const struct slate_mend *mend,
                                  const struct slate_ask *ask, uint32_t asks)
{
    enum slate_status status;

    session_want(s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s->draft.parts = 0;
    status = slate_draft_base(&s->draft, &s->facts);
    for (uint32_t i = 0; i < asks && status == SLATE_OK; i++)
        status = slate_draft_ask(&s->draft, &ask[i]);
    if (status == SLATE_OK)
        status =
            slate_draft_mend(&s->draft, &s->facts, mend, &s->media, s->work);
    return status == SLATE_OK ? slate_draft_make(&s->draft) : status;
}

enum slate_status session_mend(struct session *s, const struct slate_mend *mend)
{
    return session_convert(s, mend, NULL, 0);
}

enum slate_status session_put_back(struct session *s, const uint64_t *first,
                                   uint32_t count, enum slate_table_kind table)
{
    struct slate_lost lost[SESSION_CLEARS];
    enum slate_status status = SLATE_OK;

    session_want(s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s->draft.parts = 0;
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++)
        status =
            slate_lost_read(&s->media, &s->facts, first[i], s->work, &lost[i]);
    if (status == SLATE_OK)
        status = slate_draft_base(&s->draft, &s->facts);
    if (status == SLATE_OK)
        status = slate_draft_put_back(&s->draft, &s->facts, lost, count, table,
                                      &s->media, s->work);
    return status == SLATE_OK ? slate_draft_make(&s->draft) : status;
}
