/* SPDX-License-Identifier: MIT */
/* What helps, and what it costs: drafts made for a finding, or for a use. */
#ifndef TRUESLATE_ADVISE_H
#define TRUESLATE_ADVISE_H

#include "trueslate/draft.h"
#include "trueslate/ledger.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Was it looked at what stands in the blocks that mending would write? */
enum slate_weighed {
    SLATE_WEIGHED_NOT,     /**< it was not */
    SLATE_WEIGHED_NOTHING, /**< nothing does: the ledger is empty */
    SLATE_WEIGHED_UNKNOWN, /**< something that nobody recognises, or that may
                                go: it is kept for rewinding */
    SLATE_WEIGHED_PARTLY,  /**< not all of it was looked at: it would have taken
                                more reads than a ledger may take */
    SLATE_WEIGHED_LIVING   /**< something that must not be written over */
};

/** What helps, and what it costs. */
struct slate_remedy {
    enum slate_remedy_kind kind;
    struct slate_goal goal;     /**< RENEW: what was drafted */
    struct slate_ask ask;       /**< RENEW: of its one part */
    struct slate_mend mend;     /**< MEND: what slate_draft_mend takes */
    enum slate_status feasible; /**< SLATE_OK; RENEW: or why slate_draft_make
                                     refuses it; MEND: or why the draft does,
                                     or SLATE_ERR_LIVES (slate_advise_weigh) */
    enum slate_weighed weighed; /**< MEND: what slate_advise_weigh has found */
    struct slate_loss living;   /**< of LIVING, the first one */
    uint32_t block_bytes;       /**< of the device */
    bool loses_content;         /**< there is content, and it would be lost */
    uint32_t minutes;           /**< RENEW, MEND: about so many; 0: does not
                                     apply */
};

/**
 * The remedy of a finding: where data can be kept, mending in place. Where it
 * is a renewal, that is drafted: what is feasible here is what a draft takes.
 *
 * @param draft  a placed draft with room for a part and for the facts; receives
 *               the draft of a renewal
 * @param facts   the facts that the finding was drawn from
 * @param finding as it was drawn
 * @param remedy filled in
 */
void slate_advise_remedy(struct slate_draft *draft,
                         const struct slate_facts *facts,
                         const struct slate_finding *finding,
                         struct slate_remedy *remedy);

/**
 * Drafts a remedy that mends, and looks at what stands in the blocks that it
 * would write: without this, nobody may say that nothing is lost. Reads; writes
 * nothing. Of other remedies nothing changes.
 *
 * @param draft  a placed draft with room for the facts; receives the draft
 * @param facts  that the remedy is of
 * @param remedy as slate_advise_remedy left it; its feasible, weighed and
 *               living are filled in
 * @param ledger filled in
 * @param media  the device
 * @param work   SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_advise_weigh(struct slate_draft *draft, const struct slate_facts *facts,
                   struct slate_remedy *remedy, struct slate_ledger *ledger,
                   struct slate_media *media, void *work);

/**
 * Drafts one volume over a device for a use: table, volume and remarks of the
 * draft are the advice.
 *
 * @param draft a placed draft with room for a part and for the facts
 * @param facts of the device
 * @param use   who will read it
 * @return as slate_draft_make
 */
SLATE_MUST_CHECK enum slate_status
slate_advise_use(struct slate_draft *draft, const struct slate_facts *facts,
                 enum slate_use use);

/**
 * Drafts a partition for the largest gap beside all partitions that are there,
 * which stay: what helps where a part of a device belongs to none. Looks at
 * what stands there as well. Reads; writes nothing.
 *
 * @param draft a placed draft with room for all partitions, one more, and the
 *              image of the table
 * @param facts  of the device
 * @param ledger filled in
 * @param media  the device
 * @param work   SLATE_WORK_MIN bytes
 * @return as slate_draft_keep and slate_draft_make; SLATE_ERR_PARTS where there
 *         is no table, or more partitions than the facts list; SLATE_ERR_LIVES
 *         where something stands there that must not be written over
 */
SLATE_MUST_CHECK enum slate_status
slate_advise_rest(struct slate_draft *draft, const struct slate_facts *facts,
                  struct slate_ledger *ledger, struct slate_media *media,
                  void *work);

/**
 * How long blocks of a draft take, at the pace of a usual device of its kind:
 * the device itself was not measured.
 *
 * @param draft   a draft
 * @param blocks  number of blocks
 * @param reading true: to read them back; else to write them
 * @return seconds
 */
uint64_t slate_advise_seconds(const struct slate_draft *draft, uint64_t blocks,
                              bool reading);

/** Name of a kind of remedy for programs: "renew". Never NULL. */
const char *slate_remedy_name(enum slate_remedy_kind kind);

/**
 * What a remedy costs, as a sentence: what is lost or kept, and how long it
 * takes.
 *
 * @param remedy of a finding
 * @param text   started by the caller; appended to; nothing for a remedy that
 *               costs nothing
 */
void slate_remedy_cost_words(const struct slate_remedy *remedy,
                             struct slate_text *text);

#ifdef __cplusplus
}
#endif
#endif
