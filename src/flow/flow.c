/* SPDX-License-Identifier: MIT */
/* One change of one device, stage by stage. */
#include "trueslate/flow.h"

#include "base/base.h"
#include "trueslate/door.h"

static enum slate_status look(struct slate_flow *flow)
{
    return slate_assess_look(flow->media, SLATE_DEPTH_FULL, flow->work,
                             flow->work_bytes, flow->facts);
}

static enum slate_status plan(struct slate_flow *flow)
{
    SLATE_TRY(flow->hooks->plan(flow->hooks->context, flow));
    return slate_draft_work_bytes(flow->draft) > flow->work_bytes
               ? SLATE_ERR_BUFFER
               : SLATE_OK;
}

static enum slate_status begin_proof(struct slate_flow *flow)
{
    enum slate_status status = slate_prove_start(
        &flow->prove, flow->draft, flow->media, flow->work, flow->work_bytes);

    flow->proving = status == SLATE_OK;
    return status;
}

/* What goes on was weighed when it began: by now its own blocks stand there.
 * What was stopped behind its last write is proved, and nothing else. */
static enum slate_status weigh(struct slate_flow *flow)
{
    enum slate_status status =
        slate_enact_check(&flow->enact, flow->draft, flow->media,
                          flow->media->tag, flow->work, flow->work_bytes);

    flow->in_place = status == SLATE_ERR_ALREADY;
    if (flow->in_place) {
        flow->stage = SLATE_STAGE_WRITE; /* which is over */
        return begin_proof(flow);
    }
    SLATE_TRY(status);
    if (flow->enact.resumed)
        return SLATE_OK;
    SLATE_TRY(slate_ledger_make(&flow->ledger, flow->draft, flow->facts,
                                flow->media, flow->work));
    flow->living = slate_ledger_living(
        &flow->ledger, flow->draft, flow->hooks->anyway, flow->hooks->picked);
    return flow->living == NULL ? SLATE_OK : SLATE_ERR_LIVES;
}

static enum slate_status agree(struct slate_flow *flow)
{
    const char *consent = flow->hooks->agree(flow->hooks->context, flow);

    return consent != NULL && slate_same_text(consent, flow->media->tag)
               ? SLATE_OK
               : SLATE_ERR_CONSENT;
}

static enum slate_status enter(struct slate_flow *flow)
{
    SLATE_TRY(slate_enact_start(&flow->enact, flow->draft, flow->media,
                                flow->media->tag, flow->work,
                                flow->work_bytes));
    flow->entered = true;
    return SLATE_OK;
}

static enum slate_status leave(struct slate_flow *flow)
{
    if (!flow->entered)
        return SLATE_OK;
    flow->entered = false;
    return slate_enact_end(&flow->enact);
}

/* Each of these tells in done whether its stage is passed. */

/* Of what goes on, the journal of the first run still holds. */
static enum slate_status keep(struct slate_flow *flow, bool *done)
{
    struct slate_saving *saving = &flow->saving;
    bool keeps = flow->hooks->keeper != NULL && !flow->enact.resumed;
    enum slate_status status = SLATE_OK;

    if (keeps && saving->keeper == NULL)
        status = slate_saving_start(saving, flow->draft, &flow->hooks->words,
                                    flow->media, flow->hooks->keeper,
                                    flow->work, flow->work_bytes);
    else if (keeps)
        status = slate_saving_step(saving);
    *done = !keeps || saving->finished;
    return status;
}

static enum slate_status write(struct slate_flow *flow, bool *done)
{
    SLATE_TRY(slate_enact_step(&flow->enact));
    *done = flow->enact.pass.finished;
    if (!*done)
        return SLATE_OK;
    SLATE_TRY(leave(flow));
    return begin_proof(flow);
}

static enum slate_status prove(struct slate_flow *flow, bool *done)
{
    SLATE_TRY(slate_prove_step(&flow->prove));
    *done = flow->prove.pass.finished;
    if (!*done)
        return SLATE_OK;
    flow->proving = false;
    SLATE_TRY(slate_prove_end(&flow->prove));
    return flow->prove.different == 0 ? SLATE_OK : SLATE_ERR_UNPROVED;
}

static enum slate_status pass(struct slate_flow *flow, bool *done)
{
    *done = true;
    switch (flow->stage) {
    case SLATE_STAGE_LOOK:
    case SLATE_STAGE_LOOK_AFTER:
        return look(flow);
    case SLATE_STAGE_PLAN:
        return plan(flow);
    case SLATE_STAGE_WEIGH:
        return weigh(flow);
    case SLATE_STAGE_AGREE:
        return agree(flow);
    case SLATE_STAGE_ENTER:
        return enter(flow);
    case SLATE_STAGE_KEEP:
        return keep(flow, done);
    case SLATE_STAGE_WRITE:
        return write(flow, done);
    case SLATE_STAGE_PROVE:
        return prove(flow, done);
    case SLATE_STAGE_OVER:
    default:
        *done = false;
        return SLATE_OK;
    }
}

enum slate_status
slate_flow_start(struct slate_flow *flow, const struct slate_flow_hooks *hooks,
                 struct slate_media *media, struct slate_facts *facts,
                 struct slate_draft *draft, void *work, size_t work_bytes)
{
    if (flow == NULL || hooks == NULL || hooks->plan == NULL ||
        hooks->agree == NULL || media == NULL || facts == NULL || draft == NULL)
        return SLATE_ERR_ARGUMENT;
    if (work == NULL || work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    memset(flow, 0, sizeof *flow);
    flow->hooks = hooks;
    flow->media = media;
    flow->facts = facts;
    flow->draft = draft;
    flow->work = work;
    flow->work_bytes = work_bytes;
    return SLATE_OK;
}

enum slate_status slate_flow_step(struct slate_flow *flow)
{
    bool done = false;

    if (flow->status != SLATE_OK)
        return flow->status;
    flow->status = pass(flow, &done);
    if (flow->status == SLATE_OK && done)
        flow->stage = (enum slate_stage)(flow->stage + 1);
    return flow->status;
}

enum slate_status slate_flow_end(struct slate_flow *flow)
{
    enum slate_status status = SLATE_OK;

    if (flow->proving)
        status = slate_prove_end(&flow->prove);
    flow->proving = false;
    SLATE_THEN(status, leave(flow));
    return status;
}

enum slate_status slate_flow_run(struct slate_flow *flow)
{
    const struct slate_flow_hooks *hooks = flow->hooks;
    enum slate_status status = SLATE_OK, end;

    while (status == SLATE_OK && flow->stage != SLATE_STAGE_OVER) {
        status = slate_flow_step(flow);
        if (status == SLATE_OK && flow->stage != SLATE_STAGE_OVER &&
            hooks->goes_on != NULL && !hooks->goes_on(hooks->context, flow))
            status = SLATE_ERR_STOPPED;
    }
    end = slate_flow_end(flow);
    return status != SLATE_OK ? status : end;
}

SLATE_NAMES(
    slate_stage_name,
    enum slate_stage, [SLATE_STAGE_LOOK] = "look", [SLATE_STAGE_PLAN] = "plan",
    [SLATE_STAGE_WEIGH] = "weigh", [SLATE_STAGE_AGREE] = "agree",
    [SLATE_STAGE_ENTER] = "enter", [SLATE_STAGE_KEEP] = "keep",
    [SLATE_STAGE_WRITE] = "write", [SLATE_STAGE_PROVE] = "prove",
    [SLATE_STAGE_LOOK_AFTER] = "look-after", [SLATE_STAGE_OVER] = "over")
