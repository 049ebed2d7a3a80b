/* SPDX-License-Identifier: MIT */
/* What helps, and what it costs: drafts made for a finding, or for a use. */
#ifndef TRUESLATE_ADVISE_H
#define TRUESLATE_ADVISE_H

#include "trueslate/draft.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What helps, and what it costs. */
struct slate_remedy {
    enum slate_remedy_kind kind;
    struct slate_goal goal;     /**< RENEW: what was drafted */
    struct slate_ask ask;       /**< RENEW: of its one part */
    struct slate_mend mend;     /**< MEND: what slate_draft_mend takes */
    enum slate_status feasible; /**< RENEW: SLATE_OK, or why slate_draft_make
                                     refuses it */
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
 * which stay: what helps where a part of a device belongs to none. Reads the
 * table; writes nothing.
 *
 * @param draft a placed draft with room for all partitions, one more, and the
 *              image of the table
 * @param facts of the device
 * @param media the device
 * @param work  SLATE_WORK_MIN bytes
 * @return as slate_draft_keep and slate_draft_make; SLATE_ERR_PARTS where there
 *         is no table, or more partitions than the facts list
 */
SLATE_MUST_CHECK enum slate_status
slate_advise_rest(struct slate_draft *draft, const struct slate_facts *facts,
                  struct slate_media *media, void *work);

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
