/* SPDX-License-Identifier: MIT */
/* One change of one device, from looking to looking again: the flow that every
 * change goes through, for those who do not drive its parts themselves. */
#ifndef TRUESLATE_FLOW_H
#define TRUESLATE_FLOW_H

#include "trueslate/assess.h"
#include "trueslate/enact.h"
#include "trueslate/journal.h"
#include "trueslate/ledger.h"
#include "trueslate/prove.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What is done next. Each stage is passed once, in this order; none is left
 * out, and none comes behind one that failed. Where the draft is in place
 * already, nothing is asked and nothing written: it is proved next. */
enum slate_stage {
    SLATE_STAGE_LOOK,  /**< what is on the device, closely */
    SLATE_STAGE_PLAN,  /**< slate_flow_hooks.plan makes a draft of it */
    SLATE_STAGE_WEIGH, /**< may the draft be enacted, and the ledger: what
                          stands where it would write; not where it goes on */
    SLATE_STAGE_AGREE, /**< slate_flow_hooks.agree shows all that, and asks */
    SLATE_STAGE_ENTER, /**< through the door: claimed, looked at again, lifted
                        */
    SLATE_STAGE_KEEP,  /**< what will be replaced, where there is a keeper */
    SLATE_STAGE_WRITE,
    SLATE_STAGE_PROVE,      /**< every block is read back and compared */
    SLATE_STAGE_LOOK_AFTER, /**< what is on the device then */
    SLATE_STAGE_OVER
};

struct slate_flow;

/** What only the caller knows. */
struct slate_flow_hooks {
    /** Makes the draft: flow->draft is placed, and has its seed. Where
     * flow->facts.marked, or a change was cut, the draft that is unfinished has
     * to be made again; the flow goes on with it then. What it returns other
     * than SLATE_OK ends the flow. */
    enum slate_status (*plan)(void *context, struct slate_flow *flow);

    /** Shows a person who the device is, what is drafted and what is lost, and
     * returns the tag that the person repeats; NULL: nobody agrees. */
    const char *(*agree)(void *context, const struct slate_flow *flow);

    /** Called after each piece of work; false: to be stopped. NULL: never. */
    bool (*goes_on)(void *context, const struct slate_flow *flow);

    void *context; /**< handed to all of them */

    const struct slate_keeper *keeper; /**< of the journal; NULL: nothing is
                                            kept, and there is no way back */
    struct slate_journal_words words;  /**< of the journal, for people */
    bool anyway, picked;               /**< as with slate_ledger_living */
};

/** A change under way. Placed by the caller, who may read every field. */
struct slate_flow {
    const struct slate_flow_hooks *hooks;
    struct slate_media *media;
    struct slate_facts *facts;
    struct slate_draft *draft;
    enum slate_stage stage;
    enum slate_status status; /**< of the first failure, and of what follows */
    struct slate_ledger ledger;
    const struct slate_loss *living; /**< SLATE_ERR_LIVES: what stands there */
    bool in_place;                   /**< the draft was, before this flow */
    bool entered;                    /**< through the door */
    bool proving;                    /**< the proof has begun */
    struct slate_saving saving;
    struct slate_enact enact;
    struct slate_prove prove;
    uint8_t *work;
    size_t work_bytes;
};

/**
 * Begins a change. Reads nothing yet.
 *
 * @param flow       filled in
 * @param hooks      kept by reference; plan and agree are required
 * @param media      an open device, not entered; kept by reference
 * @param facts      placed; kept by reference
 * @param draft      placed, with the seed and the stamp of its choices; kept by
 *                   reference
 * @param work       work buffer, kept by reference
 * @param work_bytes at least SLATE_WORK_MIN, and what the draft needs
 *                   (slate_draft_work_bytes)
 * @return SLATE_OK; SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER
 */
SLATE_MUST_CHECK enum slate_status
slate_flow_start(struct slate_flow *flow, const struct slate_flow_hooks *hooks,
                 struct slate_media *media, struct slate_facts *facts,
                 struct slate_draft *draft, void *work, size_t work_bytes);

/**
 * Passes a stage, or does a piece of one that is long: at most one work buffer
 * is kept, written or read. Until flow->stage is SLATE_STAGE_OVER, call it
 * again. After a failure every further call returns the same status.
 *
 * @param flow a started one
 * @return SLATE_OK; SLATE_ERR_CONSENT where nobody agrees, SLATE_ERR_LIVES
 *         where something stands there that must not be written over,
 *         SLATE_ERR_UNPROVED; as slate_assess_look, slate_ledger_make,
 *         slate_enact_start, slate_saving_start, slate_enact_step and
 *         slate_prove_step; as plan
 */
SLATE_MUST_CHECK enum slate_status slate_flow_step(struct slate_flow *flow);

/**
 * Gives the device back to its host, whatever the flow has come to. Due after
 * every start; what was written by then can be gone on with.
 *
 * @param flow a started one
 * @return SLATE_OK, or what the port says
 */
SLATE_MUST_CHECK enum slate_status slate_flow_end(struct slate_flow *flow);

/**
 * All steps and the end in one call.
 *
 * @param flow a started one
 * @return as the steps; SLATE_ERR_STOPPED where goes_on said so
 */
SLATE_MUST_CHECK enum slate_status slate_flow_run(struct slate_flow *flow);

/** Name of a stage for programs: "look-after". Never NULL. */
const char *slate_stage_name(enum slate_stage stage);

#ifdef __cplusplus
}
#endif
#endif
