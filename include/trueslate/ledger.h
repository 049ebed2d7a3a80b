/* SPDX-License-Identifier: MIT */
/* The ledger of loss: what stands in the blocks that a draft writes, whatever
 * the draft was made for. */
#ifndef TRUESLATE_LEDGER_H
#define TRUESLATE_LEDGER_H

#include "trueslate/draft.h"
#include "trueslate/search.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What blocks that will be written belong to. */
enum slate_loss_kind {
    SLATE_LOSS_MEMBER, /**< the device as a whole is a member of something
                            larger, or encrypted */
    SLATE_LOSS_WHOLE,  /**< a volume that took the whole device, and no entry
                            names a living one in it */
    SLATE_LOSS_DISC,   /**< an optical-disc image */
    SLATE_LOSS_VOLUME, /**< a volume that no entry names */
    SLATE_LOSS_TABLE,  /**< a copy of a table that alone names living volumes */
    SLATE_LOSS_ACTIVE, /**< the entry that firmware starts from */
    SLATE_LOSS_CODE,   /**< content behind block 0, where start-up code is */
    SLATE_LOSS_BLOCKS, /**< all that was made for blocks of another size, and
                            does not lie where the table says here */
    SLATE_LOSS_NAMES,  /**< of partitions, which the new table has no place
                            for; told, and in nobody's way */
    SLATE_LOSS_FLAGS   /**< the same of their attributes */
};
#define SLATE_LOSS_KINDS 10

/** One of them. */
struct slate_loss {
    enum slate_loss_kind kind;
    struct slate_range range;   /**< of what it is */
    uint32_t count;             /**< TABLE: volumes that it names; BLOCKS: the
                                     other size, bytes; NAMES, FLAGS:
                                     partitions */
    struct slate_volume volume; /**< where one is known */
};

#define SLATE_LOSSES_MAX 16u

/** All of them, but those that entries name: the facts tell these. */
struct slate_ledger {
    uint32_t count; /**< of them listed */
    struct slate_loss loss[SLATE_LOSSES_MAX];
    uint64_t unknown;       /**< blocks with content that is none of these, nor
                                 part of a table or of the volume changed */
    uint64_t first_unknown; /**< the first of them */
    bool cut;               /**< there is more to look at than it may read */
};

/** Reads that a ledger takes at most. */
#define SLATE_LEDGER_READS 512u

/**
 * Makes the ledger of a draft. Reads where volumes use to begin, and both ends
 * of the device; writes nothing.
 *
 * @param ledger filled in
 * @param draft  that was made for these facts
 * @param facts  of the device, looked at closely
 * @param media  the device
 * @param work   SLATE_WORK_MIN bytes
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_ledger_make(struct slate_ledger *ledger, const struct slate_draft *draft,
                  const struct slate_facts *facts, struct slate_media *media,
                  void *work);

/**
 * Does something stand in it that a draft which promises to keep data must not
 * touch?
 *
 * @param ledger of a draft
 * @param draft  the draft
 * @param anyway what holds no data may go, or what may be stale: start-up code,
 * the flag, the record of a member
 * @param picked one of two copies of a table that differ was picked: the other
 *               one may go
 * @return the first one; NULL: nothing, or the draft promises no such thing
 */
const struct slate_loss *slate_ledger_living(const struct slate_ledger *ledger,
                                             const struct slate_draft *draft,
                                             bool anyway, bool picked);

/** For programs: "member". Never NULL. */
const char *slate_loss_name(enum slate_loss_kind kind);

/**
 * What it is, in words without a stop.
 *
 * @param loss        of a ledger
 * @param block_bytes of the device
 * @param text        started by the caller; appended to
 */
void slate_loss_words(const struct slate_loss *loss, uint32_t block_bytes,
                      struct slate_text *text);

/** What to do instead of writing over it: a sentence with a stop. */
const char *slate_loss_instead(enum slate_loss_kind kind);

#ifdef __cplusplus
}
#endif
#endif
