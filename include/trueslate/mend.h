/* SPDX-License-Identifier: MIT */
/* Mending without loss: tables and the first blocks of volumes made right in
 * place, all else staying to the last bit. */
#ifndef TRUESLATE_MEND_H
#define TRUESLATE_MEND_H

#include "trueslate/draft.h"
#include "trueslate/search.h"

#ifdef __cplusplus
extern "C" {
#endif

/**
 * Asks for something to be mended in place: takes the blocks that change, as
 * they are and as they shall be. What is written first is what nothing reads
 * yet. Such a draft has no parts, but for new ones that a conversion makes of
 * the largest run of blocks that the others leave: they are asked for ahead of
 * it (slate_draft_ask). Reads; writes nothing.
 *
 * - GPT: both copies, from the one that counts, the second one in the last
 *   block; the protective entry in block 0. Entries and identifiers stay as
 * they are (UEFI 2.10, 5.3.2).
 * - HYBRID: block 0 has the protective entry alone (UEFI 2.10, 5.2.3).
 * - REMAINS: the signatures of a GPT that does not count.
 * - START: the first blocks of a volume, from its own copy of them.
 * - TYPE: the type of a partition, by what its volume is.
 * - ORDER: the entries of a table, by their blocks.
 * - GROW: the end of a partition moves, up to the next one.
 * - TO_GPT, TO_MBR: another table over the same partitions; start-up code and
 *   disk signature stay in block 0.
 *
 * @param draft a placed draft, with its basis and the seed of its choices
 * @param facts that the basis was taken from
 * @param mend  what of it
 * @param media the device
 * @param work  SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for what is not there to be mended;
 *         SLATE_ERR_IN_THE_WAY, of which slate_draft.obstacle tells, where it
 *         cannot be done without loss; of a new part what slate_draft_make
 *         says; SLATE_ERR_BUFFER, SLATE_ERR_ROOM, SLATE_ERR_READ,
 * SLATE_ERR_NO_DEVICE. After a failure it has to be placed anew
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_mend(struct slate_draft *draft, const struct slate_facts *facts,
                 const struct slate_mend *mend, struct slate_media *media,
                 void *work);

/**
 * Asks for volumes that were found to get their entries: in the table that is
 * there, whose other entries stay as they are; without one, in a new table.
 * Nothing of the volumes is written. Such a draft has no parts. Reads; writes
 * nothing.
 *
 * @param draft a placed draft, with its basis and the seed of its choices
 * @param facts that the basis was taken from
 * @param lost  volumes, as slate_lost_read found them; in any order
 * @param count of them, at least 1
 * @param table where there is none: SLATE_TABLE_MBR, or SLATE_TABLE_GPT
 * @param media the device
 * @param work  SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for none; SLATE_ERR_IN_THE_WAY, of which
 *         slate_draft.obstacle tells (a number there counts lost, from 1),
 *         where they overlap, or the table has no place for them;
 *         SLATE_ERR_ONE_COPY for a GPT of which one copy is not sound;
 *         SLATE_ERR_BUFFER, SLATE_ERR_ROOM, SLATE_ERR_READ,
 * SLATE_ERR_NO_DEVICE. After a failure it has to be placed anew
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_put_back(struct slate_draft *draft, const struct slate_facts *facts,
                     const struct slate_lost *lost, uint32_t count,
                     enum slate_table_kind table, struct slate_media *media,
                     void *work);

#ifdef __cplusplus
}
#endif
#endif
