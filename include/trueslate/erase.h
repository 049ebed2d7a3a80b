/* SPDX-License-Identifier: MIT */
/* Erasing by the device itself: which ways it has, what each reaches and what
 * not, how far it is, and whether it did what it says. */
#ifndef TRUESLATE_ERASE_H
#define TRUESLATE_ERASE_H

#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

/** The ways that command sets know. */
enum slate_erase_kind {
    SLATE_ERASE_SCSI_OVERWRITE, /**< SANITIZE, overwrite (SBC-3, 5.27) */
    SLATE_ERASE_SCSI_BLOCK,     /**< SANITIZE, block erase */
    SLATE_ERASE_SCSI_CRYPTO,    /**< SANITIZE, cryptographic erase */
    SLATE_ERASE_SCSI_FORMAT,    /**< FORMAT UNIT (SBC-3, 5.3) */
    SLATE_ERASE_ATA_OVERWRITE,  /**< OVERWRITE EXT (ACS-3, 7.33) */
    SLATE_ERASE_ATA_BLOCK,      /**< BLOCK ERASE EXT */
    SLATE_ERASE_ATA_CRYPTO,     /**< CRYPTO SCRAMBLE EXT */
    SLATE_ERASE_ATA_SECURITY,   /**< SECURITY ERASE UNIT (ACS-3, 7.43) */
    SLATE_ERASE_ATA_ENHANCED,   /**< the same, enhanced mode */
    SLATE_ERASE_NVME_OVERWRITE, /**< Sanitize (NVMe 1.4, 5.24) */
    SLATE_ERASE_NVME_BLOCK,     /**< Sanitize, block erase */
    SLATE_ERASE_NVME_CRYPTO,    /**< Sanitize, crypto erase */
    SLATE_ERASE_NVME_FORMAT,    /**< Format NVM, user data erase (5.23) */
    SLATE_ERASE_NVME_KEY,       /**< Format NVM, cryptographic erase */
    SLATE_ERASE_SD              /**< CMD32, CMD33, CMD38 (4.3.5) */
};

#define SLATE_ERASE_KINDS 15

/** The most ways that one device has: a disk behind a dock. */
#define SLATE_ERASE_WAYS_MAX 9

/** The password that a disk bears while SECURITY ERASE UNIT works: one that
 * was cut is erased again with it. */
#define SLATE_ERASE_PASSWORD "TRUE SLATE"

/** A way that a device has. */
struct slate_erase_way {
    enum slate_erase_kind kind;
    uint32_t minutes;   /**< as the device tells; 0: it does not */
    bool reaches_units; /**< all units or namespaces of the same body go */
};

/** What a device says of erasing itself. */
enum slate_erase_activity {
    SLATE_ERASE_IDLE, /**< nothing */
    SLATE_ERASE_WORKING,
    SLATE_ERASE_DONE,
    SLATE_ERASE_FAILED /**< and until it succeeds, nothing can be stored */
};

struct slate_erase_state {
    enum slate_erase_activity activity;
    bool told;         /**< progress is */
    uint32_t progress; /**< of 65536 */
};

/**
 * Finds the ways in which a device can erase itself: those that it names; none
 * is tried. Changes nothing.
 *
 * - SCSI: REPORT SUPPORTED OPERATION CODES (SPC-4, 6.34).
 * - ATA: IDENTIFY DEVICE words 59, 89, 90 and 128 (ACS-3, 7.12.7), also behind
 *   a dock.
 * - NVMe: Identify Controller, OACS, FNA and SANICAP (1.4, figure 247).
 * - SD: every card.
 *
 * @param media an open device
 * @param way   receives them
 * @param count receives their number
 * @return SLATE_OK, also for none; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_erase_find(struct slate_media *media,
                 struct slate_erase_way way[SLATE_ERASE_WAYS_MAX],
                 uint32_t *count);

/**
 * Asks whether the device is erasing itself, and how far it is: by the sense
 * data of TEST UNIT READY and REQUEST SENSE (SBC-3, 4.11), SANITIZE STATUS EXT
 * (ACS-3, 7.33.6), or the Sanitize Status log (NVMe 1.4, 5.14.1.16.2).
 *
 * @param media an open device
 * @param state filled in; idle where the command set tells of nothing
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_erase_ask(struct slate_media *media, struct slate_erase_state *state);

/** A block as it was before: the caller's array of these has to stay until the
 * end. */
struct slate_erase_place {
    uint64_t lba;
    uint8_t digest[8]; /**< the first bytes of its SHA-256 */
    bool held;         /**< something other than zeros or ones all over */
};

enum slate_erase_phase {
    SLATE_ERASE_LOOKING,  /**< at what is there, for the proof */
    SLATE_ERASE_ORDERING, /**< the next step sends the command; where the
                               command set tells of no progress, it returns
                               when the device is done, which may take hours */
    SLATE_ERASE_WAITING,  /**< each step asks how far it is */
    SLATE_ERASE_PROVING,  /**< the same places are read again */
    SLATE_ERASE_READING,  /**< every block is */
    SLATE_ERASE_OVER
};

/** An erase under way. Placed by the caller, who may read every field and set
 * those that say so. */
struct slate_erase {
    struct slate_media *media;
    struct slate_erase_way way;
    enum slate_erase_phase phase;
    bool read_all; /**< set after the start: every block is read afterwards */
    bool begun;    /**< the command was sent: what was there may be gone */
    bool joined;   /**< it was under way already: nothing to compare with */
    struct slate_erase_state state;
    struct slate_erase_place *place;
    uint32_t places, at;
    uint32_t held;   /**< places that held something before */
    uint32_t kept;   /**< of them, those that hold the same now */
    uint32_t plain;  /**< places that hold one byte all over now */
    uint32_t unread; /**< places that cannot be read now */
    uint64_t first_kept;
    uint64_t read;  /**< blocks of the whole that were read */
    uint64_t other; /**< of them, those that are not as the first one */
    uint64_t unread_blocks;
    uint64_t first_other;
    uint64_t next; /**< block to be erased or read next */
    bool has_fill; /**< the byte that the whole holds is known */
    uint8_t fill;
    uint8_t *work;
    uint32_t work_bytes;
};

/** Bytes of work that erasing likes to have. */
#define SLATE_ERASE_WORK 65536u

/**
 * Prepares to erase. Sends nothing yet.
 *
 * @param erase      filled in
 * @param media      an open device, kept by reference; to be entered before
 *                   the first step
 * @param way        as found
 * @param place      room for the places that are compared, kept by reference
 * @param places     their number, at least 2
 * @param work       kept by reference
 * @param work_bytes at least SLATE_WORK_MIN; SLATE_ERASE_WORK makes it likelier
 *                   that a place holds something
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER; SLATE_ERR_PROTECTED
 *         when the device says that it may not be written
 */
SLATE_MUST_CHECK enum slate_status
slate_erase_start(struct slate_erase *erase, struct slate_media *media,
                  const struct slate_erase_way *way,
                  struct slate_erase_place *place, uint32_t places, void *work,
                  uint32_t work_bytes);

/**
 * The same for a device that is erasing itself already, or that has ended
 * since: waits for it, then looks. Arguments and errors as above.
 */
SLATE_MUST_CHECK enum slate_status
slate_erase_join(struct slate_erase *erase, struct slate_media *media,
                 struct slate_erase_place *place, uint32_t places, void *work,
                 uint32_t work_bytes);

/**
 * A bounded amount of work: one place, one command, one question, one run of
 * blocks. Once the command was sent, stopping means to call it no more: the
 * device goes on.
 *
 * @param erase started, and not over
 * @return SLATE_OK; SLATE_ERR_COMMAND when the device refuses the command
 *         (nothing is lost unless @c begun), SLATE_ERR_GUARD when the disk has
 * a password that is not ours, or its security settings are frozen;
 *         SLATE_ERR_STILL_GUARDED when it failed and bears our password now;
 *         SLATE_ERR_UNERASED when the device says that it failed;
 *         SLATE_ERR_WRITE (SD), SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_erase_step(struct slate_erase *erase);

/** Parts of the present phase that are done. @param total receives all of
 * them; 0: the device does not tell */
uint64_t slate_erase_done(const struct slate_erase *erase, uint64_t *total);

/** What came of it. */
enum slate_erased {
    SLATE_ERASED_UNKNOWN, /**< not over yet, or nothing to judge by */
    SLATE_ERASED_ALL,     /**< every block was read: one byte all over */
    SLATE_ERASED_PLACES,  /**< no place that was compared is as it was */
    SLATE_ERASED_BLANK,   /**< there was nothing at them; there is nothing */
    SLATE_ERASED_OTHER,   /**< no place is as it was, but blocks differ */
    SLATE_ERASED_UNREAD,  /**< places or blocks cannot be read now */
    SLATE_ERASED_KEPT     /**< places hold what they held: it did not do it */
};

/** @param erase that is over */
enum slate_erased slate_erase_verdict(const struct slate_erase *erase);

/** For programs: "gone-everywhere". Never NULL. */
const char *slate_erased_name(enum slate_erased erased);

/** One sentence. Never NULL. */
const char *slate_erased_words(enum slate_erased erased);

/** Must nobody rely on it? */
bool slate_erased_is_bad(enum slate_erased erased);

/** For options and programs: "sanitize-block". Names are unique within a
 * command set; a disk behind a dock may have the same one twice, and the first
 * one counts. Never NULL. */
const char *slate_erase_name(enum slate_erase_kind kind);

/** Sentences on a way. */
enum slate_erase_part {
    SLATE_ERASE_TEXT,    /**< what the device does */
    SLATE_ERASE_REACHES, /**< what it guarantees */
    SLATE_ERASE_LEAVES,  /**< what not */
    SLATE_ERASE_CUT,     /**< when power fails meanwhile */
    SLATE_ERASE_COMMAND  /**< what is sent */
};

/** @param part which  @return never NULL */
const char *slate_erase_words(enum slate_erase_kind kind,
                              enum slate_erase_part part);

/** Does the device tell how far it is? (SD: by its ranges.) */
bool slate_erase_tells(enum slate_erase_kind kind);

/** What a device is erased for. */
enum slate_erase_aim {
    SLATE_ERASE_STAYS, /**< it stays in the house: the next user sees nothing */
    SLATE_ERASE_LEAVES_HOUSE /**< it goes to strangers, who may have a
                                  laboratory */
};

/**
 * Which way suits the aim best, of those that a device has.
 *
 * @param media an open device: flash or platters
 * @param way   as found
 * @param count of them
 * @param why   receives one sentence
 * @return its index; count: overwrite it instead, as the sentence says
 */
uint32_t slate_erase_advise(const struct slate_media *media,
                            const struct slate_erase_way *way, uint32_t count,
                            enum slate_erase_aim aim, const char **why);

#ifdef __cplusplus
}
#endif
#endif
