/* SPDX-License-Identifier: MIT */
/* A bounded write probe: does the device keep what it is given, everywhere? A
 * few blocks are saved, written, read back and restored. */
#ifndef TRUESLATE_PROBE_H
#define TRUESLATE_PROBE_H

#include "trueslate/door.h"
#include "trueslate/compose.h"
#include "trueslate/guard.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Single places that are tried, spread over the device. */
#define SLATE_PROBE_PLACES 64u

/** A work buffer with which every wrap-around is found on devices of up to
 * 512 GiB: the run is then as long as a step of the search. */
/** The fewest blocks of a device that can be probed. */
#define SLATE_PROBE_LEAST 16u

#define SLATE_PROBE_WORK ((size_t)17 << 20)

/** What became of a place. */
enum slate_place {
    SLATE_PLACE_UNTRIED, /**< the probe did not come to it */
    SLATE_PLACE_SKIPPED, /**< could not be read before, so not written */
    SLATE_PLACE_HELD,    /**< returned what was written */
    SLATE_PLACE_OLD,     /**< acknowledged, and returned the old content */
    SLATE_PLACE_OTHER,   /**< returned something else */
    SLATE_PLACE_ALIAS,   /**< returned what was written to another place */
    SLATE_PLACE_REFUSED, /**< the write failed */
    SLATE_PLACE_UNREAD   /**< written, and could not be read back */
};

/** What a probe is doing. */
enum slate_probe_phase {
    SLATE_PROBE_SAVE,
    SLATE_PROBE_CONFIRM, /**< that all was saved of one and the same medium */
    SLATE_PROBE_WRITE,
    SLATE_PROBE_READ,
    SLATE_PROBE_SEARCH, /**< for the run, where it should not be */
    SLATE_PROBE_RESTORE,
    SLATE_PROBE_CHECK, /**< is everything as it was? */
    SLATE_PROBE_DONE,
    SLATE_PROBE_RECOGNISE /**< is it the medium of the blocks to put back? */
};

/** What a probe has found. */
enum slate_verdict {
    SLATE_VERDICT_HOLDS,      /**< and no block is another one's alias */
    SLATE_VERDICT_SEEMS_FINE, /**< the same, but not all aliases excluded */
    SLATE_VERDICT_REFUSES,    /**< refuses every write */
    SLATE_VERDICT_KEEPS_OLD,  /**< acknowledges writes and drops them: worn out
                               */
    SLATE_VERDICT_FALSE_CAPACITY, /**< keeps what is written up to a point */
    SLATE_VERDICT_UNRELIABLE,     /**< some blocks do, some do not */
    SLATE_VERDICT_NOT_RESTORED,   /**< took what was written, and would not take
                                       back what was there */
    SLATE_VERDICT_UNKNOWN         /**< stopped before it was known */
};

/** Blocks that were not restored: so many are listed, all are counted. */
#define SLATE_PROBE_LOST 16u

/**
 * State of a probe, placed by the caller. The saved blocks stand in the work
 * buffer from @c kept on: when SLATE_PROBE_WRITE begins they can be stored
 * elsewhere, with the seed of @c pattern, so that slate_probe_put_back restores
 * them after a power cut.
 */
struct slate_probe {
    struct slate_media *media;
    uint8_t *chunk; /**< for transfers */
    uint8_t *kept;  /**< what was there: the run, then the places */
    uint32_t chunk_blocks;
    uint32_t room;      /**< blocks that can be kept */
    uint32_t run;       /**< blocks in a row that are tried, and searched for */
    uint64_t run_first; /**< the first of them */
    uint32_t run_held;  /**< of them, those that returned what was written */
    uint32_t run_refused; /**< of them, those of which a write failed */
    uint32_t run_unread;  /**< those that could not be read back then */
    uint32_t places;
    uint64_t lba[SLATE_PROBE_PLACES]; /**< ascending */
    enum slate_place place[SLATE_PROBE_PLACES];
    uint64_t touched;             /**< places that were written, bits */
    struct slate_pattern pattern; /**< what is written */
    struct slate_policy before;   /**< how the device was read before */
    enum slate_probe_phase phase;
    uint32_t at;        /**< blocks of this phase that are done */
    uint64_t search_at; /**< block to be searched next */
    uint64_t search_step;
    uint64_t done, total; /**< transfers of all phases, for progress */
    uint64_t alias;       /**< first block that turned out to be another one's
                               alias; 0: none */
    uint64_t distance;    /**< how far that one is: the true capacity */
    bool written;         /**< something was written, and is to be restored */
    bool run_written;
    bool sweeps;        /**< one run alone, without a search */
    bool judged;        /**< all places were read back, or refused the write */
    bool searched;      /**< to the end */
    bool putting_back;  /**< restores what another probe has left */
    bool recognised;    /**< and the medium is the one which that has written */
    bool give_up;       /**< the caller's: zeros may stand for leftovers */
    bool suspected;     /**< one place alone lost what was written, the last:
                             a bad block, or the end of the true capacity */
    bool bounded;       /**< a false capacity was found, between these: */
    bool vague;         /**< and no more can be known of it */
    uint64_t least;     /**< blocks that are there */
    uint64_t most;      /**< the first one that is known to be lost */
    uint32_t leftovers; /**< blocks that hold what a probe wrote whose saved
                             blocks are not here */
    uint64_t leftover;  /**< the first of them */
    uint32_t traces, others, unreadable; /**< blocks, while recognising */
    uint32_t changed; /**< put back: blocks that somebody has written since, and
                           that stay as they are */
    uint32_t lost;    /**< blocks that are not as they were */
    uint64_t lost_lba[SLATE_PROBE_LOST]; /**< the first of them */
    enum slate_status status;            /**< the first failure that ended it */
};

/**
 * Prepares a probe and enters the device. Writes nothing.
 *
 * @param probe      filled in
 * @param media      an open, writable device, kept by reference
 * @param agreed     what was agreed to
 * @param work       work buffer, kept by reference
 * @param work_bytes at least 8 blocks; with SLATE_PROBE_WORK the run is long
 *                   enough to find every wrap-around
 * @return SLATE_OK, SLATE_ERR_BUFFER, SLATE_ERR_PROTECTED (by any guard that
 *         stops writing), SLATE_ERR_TOO_SMALL (fewer than 16 blocks); as
 *         slate_door_enter
 */
SLATE_MUST_CHECK enum slate_status
slate_probe_start(struct slate_probe *probe, struct slate_media *media,
                  const struct slate_agreement *agreed, void *work,
                  size_t work_bytes);

/**
 * Makes one transfer, and what belongs to it: a block is written only while it
 * holds what was saved, and restored only while it holds, whole or torn, what
 * this probe wrote. Until probe->phase is SLATE_PROBE_DONE, call it again:
 * leaving off in the middle leaves other content on the device.
 *
 * @param probe a started probe
 * @return SLATE_OK; SLATE_ERR_LEFTOVER at the end of saving, with nothing
 *         written; SLATE_ERR_NO_DEVICE, SLATE_ERR_NO_MEDIUM, SLATE_ERR_SWAPPED,
 * SLATE_ERR_TAKEN_OUT when the medium is gone: what was saved has to be put
 * back later
 */
SLATE_MUST_CHECK enum slate_status slate_probe_step(struct slate_probe *probe);

/** Cuts a probe short: what was written is restored by the steps to come. */
void slate_probe_stop(struct slate_probe *probe);

/**
 * Puts back what another probe of the same device and work size had saved: the
 * caller has filled @c kept and the seed of @c pattern of a started probe. Only
 * a medium that bears what that probe wrote is touched (@c recognised), and
 * only blocks that still do, whole or torn, or that cannot be read any more:
 * whatever came later stays. Step on until it is done.
 */
void slate_probe_put_back(struct slate_probe *probe);

/**
 * Narrows a false capacity down: where a probe that is done knows it between
 * two bounds only, prepares another round of the same probe between them, whose
 * steps begin at saving, with a seed of its own. The device stays claimed.
 *
 * @param probe a probe that is done, with everything restored
 * @return true: step on until it is done; false: there is nothing to narrow
 *         down, as the capacity is exact, or holds, or no more can be known
 */
SLATE_MUST_CHECK bool slate_probe_refine(struct slate_probe *probe);

/**
 * Makes a probe that is started, or done with everything restored, try one run
 * of blocks and nothing else: every block of it is saved, written, read back
 * and restored, and nothing is searched for. Its steps begin at saving, with a
 * seed of its own. When it is done, @c run_held tells how many blocks kept what
 * was written; SLATE_PROBE_GIVEN_UP: the run could not be read, or held
 * something else each time, and was not written to.
 *
 * @param probe a started probe
 * @param first block
 * @param count at least 1, and what the work buffer has room for (probe->room)
 * @return SLATE_OK, SLATE_ERR_RANGE; as slate_media_random
 */
SLATE_MUST_CHECK enum slate_status
slate_probe_sweep(struct slate_probe *probe, uint64_t first, uint32_t count);

#define SLATE_PROBE_GIVEN_UP UINT32_MAX

/**
 * Sets which blocks a started probe tries: those of an earlier one that is to
 * be put back.
 *
 * @param probe     a started probe
 * @param run_first of the run
 * @param run       its blocks, at least 1
 * @param lba       of the places, ascending
 * @param places    their number, at most SLATE_PROBE_PLACES
 * @return SLATE_OK; SLATE_ERR_RANGE when they do not lie on the device, or the
 *         work buffer has no room for them
 */
SLATE_MUST_CHECK enum slate_status
slate_probe_set_places(struct slate_probe *probe, uint64_t run_first,
                       uint32_t run, const uint64_t *lba, uint32_t places);

/**
 * The most that a probe reads and writes, with all rounds of narrowing down, in
 * blocks: a thousandth of what the device claims, or 32768 where that is more.
 */
uint64_t slate_probe_most(const struct slate_geometry *geometry);

/** Leaves the device. Due after every start. @return as the port says */
SLATE_MUST_CHECK enum slate_status slate_probe_end(struct slate_probe *probe);

/** Bytes of saved blocks behind @c kept. @param probe a started probe */
size_t slate_probe_kept_bytes(const struct slate_probe *probe);

/** What was found. @param probe a probe that is done */
enum slate_verdict slate_probe_verdict(const struct slate_probe *probe);

/**
 * For a false capacity: what the device holds at least, in blocks; beyond it,
 * what is written is lost.
 *
 * @param probe a probe that is done
 * @param most  receives the first block that is known to be lost
 * @return blocks that are known to be there
 */
uint64_t slate_probe_true_blocks(const struct slate_probe *probe,
                                 uint64_t *most);

/** Name of what became of a place for programs: "held". Never NULL. */
const char *slate_place_name(enum slate_place place);

/** Name of a verdict for programs: "false-capacity". Never NULL. */
const char *slate_verdict_name(enum slate_verdict verdict);

/** A verdict in one sentence, and what to do with such a device. Never NULL. */
const char *slate_verdict_words(enum slate_verdict verdict);

/** Is it a verdict by which the device is not to be trusted again? */
bool slate_verdict_is_bad(enum slate_verdict verdict);

#ifdef __cplusplus
}
#endif
#endif
