/* SPDX-License-Identifier: MIT */
/* Low-level format: what a device's blocks are made of. A disk behind a
 * controller gets its sectors, newer ones another size of blocks. */
#ifndef TRUESLATE_LOWLEVEL_H
#define TRUESLATE_LOWLEVEL_H

#include "trueslate/drive.h"
#include "trueslate/erase.h"
#include "trueslate/mode.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Who is asked for it. */
enum slate_lowlevel_kind {
    SLATE_LOWLEVEL_NONE, /**< nothing below blocks can be reached */
    SLATE_LOWLEVEL_SCSI, /**< MODE SELECT and FORMAT UNIT (SBC-3, 5.3) */
    SLATE_LOWLEVEL_NVME, /**< Format NVM (NVMe 1.4, 5.23) */
    SLATE_LOWLEVEL_ATA   /**< SET SECTOR CONFIGURATION EXT (ACS-4, B2h) */
};

/** A size of blocks that a device can be given. */
struct slate_block_format {
    uint32_t block_bytes;
    uint32_t extra_bytes; /**< beside each block, for its protection (NVMe) */
    uint8_t index;        /**< how the device calls it */
    uint8_t speed;        /**< NVMe: 0 best to 3 degraded */
    uint16_t check;       /**< ATA: the word that says it is meant */
    bool told;            /**< the device lists it; false: it has to be tried */
};

#define SLATE_BLOCK_FORMATS_MAX 16

/** What is below a device's blocks. */
struct slate_lowlevel_facts {
    enum slate_lowlevel_kind kind;
    uint32_t block_bytes; /**< now */
    bool reaches_units;   /**< NVMe: a format reaches all namespaces */
    bool protection;      /**< formatted with protection information */
    uint32_t formats;     /**< other sizes are among them */
    struct slate_block_format format[SLATE_BLOCK_FORMATS_MAX];
    bool has_drive;           /**< SCSI: it tells cylinders, heads, sectors */
    bool settable;            /**< and takes others */
    bool flexible;            /**< by page 05h, as it has no page 04h */
    struct slate_drive drive; /**< as it tells them */
};

/**
 * Asks what is below the blocks. Changes nothing.
 *
 * - SCSI: mode pages 01h, 03h, 04h and 05h (SCSI-2, 9.3.3; SBC-3, 6.4), and
 *   which of their values may be changed. No device lists the sizes of blocks
 *   that it takes: 512 and 4096 are offered to be tried. Of removable devices
 *   only those that tell cylinders and heads: the others are flash.
 * - NVMe: the formats in Identify Namespace (1.4, figure 245).
 * - ATA: the Sector Configuration log, 2Fh (ACS-4).
 * - SD: nothing; a card can erase itself, and no more.
 *
 * @param media an open device, or one whose opening ended with
 *              SLATE_ERR_GEOMETRY: it has blocks that nobody can use
 * @param facts filled in
 * @return SLATE_OK, also for nothing; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_lowlevel_look(struct slate_media *media,
                    struct slate_lowlevel_facts *facts);

/** What is wished for. All zero: the same again. */
struct slate_lowlevel_wish {
    const struct slate_drive *drive; /**< SCSI: as this one; NULL: as it is */
    uint32_t block_bytes;            /**< 0: as it is, or as drive says */
    uint64_t first_blocks; /**< SCSI: so many belong to the first logical drive,
                                the others to the next one; 0: all of them.
                                Fewer than 2^24 */
    enum slate_defect_form form;
    const struct slate_defect *defect; /**< SCSI: bad places beside those that
                                        the device knows, sorted */
    uint32_t defects;                  /**< 8191 at most */
    bool all_units;     /**< NVMe: that all namespaces go is meant */
    bool forgets_grown; /**< SCSI: bad places that it has found by itself since
                             it was made do not count any more */
};

enum slate_lowlevel_phase {
    SLATE_LOWLEVEL_SETTING,  /**< each step sets one mode page */
    SLATE_LOWLEVEL_ORDERING, /**< the next step sends the command; a device
                                  that does not return at once returns when it
                                  is done */
    SLATE_LOWLEVEL_WAITING,  /**< each step asks how far it is */
    SLATE_LOWLEVEL_CHECKING, /**< is it as was wished? */
    SLATE_LOWLEVEL_OVER
};

/** A low-level format under way. Placed by the caller, who may read it. */
struct slate_lowlevel {
    struct slate_media *media;
    struct slate_lowlevel_wish wish;
    struct slate_lowlevel_facts facts; /**< before; afterwards those of then */
    enum slate_lowlevel_phase phase;
    uint32_t at; /**< steps of the phase that are done */
    bool begun;  /**< the command was sent: all content may be gone */
    struct slate_erase_state state;
    uint8_t *work;
    uint32_t work_bytes;
};

/**
 * Prepares a low-level format. Sends nothing but questions.
 *
 * @param lowlevel   filled in
 * @param media      as with slate_lowlevel_look, kept by reference; no other
 * one may be open on the same device until the end
 * @param wish       copied; what it points at is kept by reference
 * @param work       kept by reference
 * @param work_bytes at least SLATE_WORK_MIN, and 8 bytes for each defect and
 * the header
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for a drive with something wrong,
 * defects that are not sorted or lie outside of it, or a wish that this command
 *         set does not know; SLATE_ERR_BUFFER; SLATE_ERR_COMMAND when the
 *         device has no such format; SLATE_ERR_PARTS when that would reach
 * other namespaces as well, and wish->all_units is not set;
 *         SLATE_ERR_PROTECTED; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_lowlevel_start(struct slate_lowlevel *lowlevel, struct slate_media *media,
                     const struct slate_lowlevel_wish *wish, void *work,
                     uint32_t work_bytes);

/**
 * A bounded amount of work: one command, one question. Once the command was
 * sent, stopping means to call it no more: the device goes on. Checking opens
 * the device anew: capacity, tag and blocks may be others from then on.
 *
 * @param lowlevel started, and not over
 * @return SLATE_OK; SLATE_ERR_COMMAND when the device refuses (nothing is lost
 *         unless @c begun), SLATE_ERR_UNERASED when it failed,
 *         SLATE_ERR_UNPROVED when it says that it is done and is not as was
 *         wished, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_lowlevel_step(struct slate_lowlevel *lowlevel);

/** How far it is, of 65536; 0 until the device tells. */
uint32_t slate_lowlevel_progress(const struct slate_lowlevel *lowlevel);

/** Lists of bad places that a device keeps. */
enum slate_defect_list {
    SLATE_DEFECTS_PRIMARY, /**< known when it was made */
    SLATE_DEFECTS_GROWN    /**< found since */
};

/**
 * Asks for a list of bad places (READ DEFECT DATA, SBC-3, 5.17 and 5.18), in
 * bytes from the index or whatever other form the device gives it in.
 *
 * @param media an open device
 * @param which list
 * @param form  receives the form
 * @param defect  receives them
 * @param room  for so many, up to 4096
 * @param count receives how many there are, also beyond room
 * @param work  room for 8 bytes for each of room, and 8 for the header
 * @return SLATE_OK; SLATE_ERR_COMMAND for a device that does not tell;
 *         SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_defects_read(struct slate_media *media, enum slate_defect_list which,
                   enum slate_defect_form *form, struct slate_defect *defect,
                   uint32_t room, uint32_t *count, void *work);

/**
 * Has a device replace a block by a spare one (REASSIGN BLOCKS, SBC-3).
 * What the block held is lost.
 *
 * @param media an open device
 * @param block to be replaced
 * @return SLATE_OK; SLATE_ERR_COMMAND when it knows no such command or has no
 *         spares left; SLATE_ERR_PROTECTED, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_reassign_block(struct slate_media *media, uint64_t block);

/** Values that can be measured in one go. */
#define SLATE_INTERLEAVES_MAX 32u

/** Finding the interleave: one track is formatted with each value in turn, and
 * read. Placed by the caller, who may read it. */
struct slate_interleave {
    struct slate_lowlevel format; /**< of the value that is tried */
    struct slate_drive drive;     /**< one track of it */
    uint32_t most;                /**< values from 1 to this are tried */
    uint32_t value;               /**< the present one */
    uint32_t turns;               /**< times that the track was read so far */
    uint64_t began;               /**< when that began, milliseconds */
    uint32_t us[SLATE_INTERLEAVES_MAX + 1]; /**< by the value: microseconds to
                                                 read the track; 0: could not be
                                                 read */
    bool finished;
};

/**
 * Prepares to measure. The content of the device will be gone.
 *
 * @param measure    filled in
 * @param media      an open device, kept by reference, whose geometry can be
 * set
 * @param drive      as it will be formatted
 * @param most       the largest value, 1 to SLATE_INTERLEAVES_MAX and less than
 *                   the sectors of a track
 * @param work       kept by reference
 * @param work_bytes room for one track, at least SLATE_WORK_MIN
 * @return as slate_lowlevel_start
 */
SLATE_MUST_CHECK enum slate_status
slate_interleave_start(struct slate_interleave *measure,
                       struct slate_media *media,
                       const struct slate_drive *drive, uint32_t most,
                       void *work, uint32_t work_bytes);

/** One command of it, until @c finished. @return as slate_lowlevel_step */
SLATE_MUST_CHECK enum slate_status
slate_interleave_step(struct slate_interleave *measure);

/** The value that reads fastest, the smallest of those that are within a
 * twentieth of it; 0: none could be read. */
uint32_t slate_interleave_best(const struct slate_interleave *measure);

/** Bytes that are read in a second with a value; 0: it was not measured. */
uint64_t slate_interleave_rate(const struct slate_interleave *measure,
                               uint32_t value);

/** For programs: "scsi". Never NULL. */
const char *slate_lowlevel_name(enum slate_lowlevel_kind kind);

/** What is sent, as a sentence. Never NULL. */
const char *slate_lowlevel_command(enum slate_lowlevel_kind kind);

/** What a power cut leaves, as a sentence. Never NULL. */
const char *slate_lowlevel_cut(enum slate_lowlevel_kind kind);

#ifdef __cplusplus
}
#endif
#endif
