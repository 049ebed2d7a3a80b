/* SPDX-License-Identifier: MIT */
/* What protects a device: found without changing anything, explained, lifted
 * where a command can, and never said to be lifted when it is not. */
#ifndef TRUESLATE_GUARD_H
#define TRUESLATE_GUARD_H

#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_guard_kind {
    SLATE_GUARD_SWITCH,      /**< SCSI: the medium is protected (SBC-3, 6.4.1)*/
    SLATE_GUARD_SOFTWARE,    /**< SCSI: SWP, control mode page (SPC-4, 7.5.8) */
    SLATE_GUARD_RESERVATION, /**< SCSI: persistent, another's (SPC-4, 5.13) */
    SLATE_GUARD_SLIDER,      /**< SD: told by the reader alone (4.3.6) */
    SLATE_GUARD_TEMPORARY,   /**< SD: TMP_WRITE_PROTECT (5.3) */
    SLATE_GUARD_PERMANENT,   /**< SD: PERM_WRITE_PROTECT (5.3) */
    SLATE_GUARD_GROUPS, /**< SD standard capacity: write-protect groups (4.3.6)
                         */
    SLATE_GUARD_CARD_PASSWORD, /**< SD: locked (4.3.7) */
    SLATE_GUARD_HIDDEN_AREA,   /**< ATA: host protected area, or accessible max
                                    address (ACS-3, 4.2) */
    SLATE_GUARD_OVERLAY, /**< ATA: device configuration overlay (ATA8-ACS, 4.8)
                          */
    SLATE_GUARD_DISK_PASSWORD,   /**< ATA: security locked (ACS-3, 4.18) */
    SLATE_GUARD_FROZEN,          /**< ATA: security frozen (the same) */
    SLATE_GUARD_NAMESPACE,       /**< NVMe: write protect (1.4, 8.19) */
    SLATE_GUARD_UNTIL_POWER,     /**< NVMe: until power cycle */
    SLATE_GUARD_FOR_EVER,        /**< NVMe: permanent */
    SLATE_GUARD_SMALL_NAMESPACE, /**< NVMe: a part of the drive belongs to no
                                      namespace (1.4, 8.12) */
    SLATE_GUARD_WORN_OUT, /**< NVMe: its medium is read-only (5.14.1.2) */
    SLATE_GUARD_HOST,     /**< the host keeps it read-only */
    SLATE_GUARD_ERASING,  /**< it is erasing itself (slate_erase_ask) */
    SLATE_GUARD_UNERASED  /**< that was cut, or failed */
};

#define SLATE_GUARD_KINDS 20

/** A set of kinds is a sum of these. @param kind of a guard */
#define SLATE_GUARD_BIT(kind) (1u << (unsigned)(kind))
#define SLATE_GUARDS_MAX SLATE_GUARD_KINDS

/** How a guard can be lifted. */
enum slate_lift {
    SLATE_LIFT_NOW,         /**< by a command */
    SLATE_LIFT_PASSWORD,    /**< by a command with the password */
    SLATE_LIFT_POWER_CYCLE, /**< by unplugging the device and plugging it in */
    SLATE_LIFT_BY_HAND,     /**< by something that only a person can do */
    SLATE_LIFT_NEVER
};

/** A guard that was found. */
struct slate_guard {
    enum slate_guard_kind kind;
    enum slate_lift lift;
    uint64_t value; /**< hidden area, overlay, small namespace: capacity with
                         what is hidden, blocks; reservation: its key; disk
                         password: minutes that an erase takes, 0 for unknown;
                         groups: how many were found protected; erasing: how
                         far it is, of 65536, 0 where it does not tell */
};

/**
 * Finds what protects a device. Changes nothing.
 *
 * @param media an open device
 * @param guard receives the guards
 * @param count receives their number
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE; a question that the device refuses
 *         is no failure
 */
SLATE_MUST_CHECK enum slate_status
slate_guard_find(struct slate_media *media,
                 struct slate_guard guard[SLATE_GUARDS_MAX], uint32_t *count);

/**
 * Lifts one guard by the command that is meant for it, and looks again. A
 * permanent bit is never set. After lifting a hidden area the device has to be
 * opened anew: its capacity has changed.
 *
 * @param media    an open device
 * @param guard    as found
 * @param password for those that need one; else NULL; at most 16 bytes for a
 *                 card, 32 for a disk
 * @param lasting  true: the lift shall survive power-off, where there is a
 *                 choice (software write protect, hidden area, passwords:
 *                 these are taken away)
 * @return SLATE_OK; SLATE_ERR_GUARD when no command can lift it, or the device
 *         refuses; SLATE_ERR_STILL_GUARDED when the device says that it is
 *         lifted, and it is not; SLATE_ERR_ARGUMENT when the password is
 *         missing or too long; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_guard_lift(struct slate_media *media, const struct slate_guard *guard,
                 const char *password, bool lasting);

/**
 * Takes a password away together with all content: the way out when nobody
 * knows it. A card needs none for that (forced erase, SD 4.3.7); a disk needs
 * its user password (SECURITY ERASE UNIT, ACS-3, 7.43), and may take hours.
 * The device has to be opened anew afterwards.
 *
 * @param media    an open device
 * @param guard    as found: a card's or a disk's password
 * @param password for a disk, at most 32 bytes; else NULL
 * @return as slate_guard_lift
 */
SLATE_MUST_CHECK enum slate_status
slate_guard_erase(struct slate_media *media, const struct slate_guard *guard,
                  const char *password);

/** Stable name of a kind for programs: "software-write-protect". Never NULL. */
const char *slate_guard_name(enum slate_guard_kind kind);

/** Name of a way to lift for programs: "power-cycle". Never NULL. */
const char *slate_lift_name(enum slate_lift lift);

/** How guards of this kind are lifted, as a rule; the one that was found may
 * tell of another way. */
enum slate_lift slate_guard_usual_lift(enum slate_guard_kind kind);

/** Does a lift survive power-off? @param lasting as it was asked for */
bool slate_guard_lift_lasts(enum slate_guard_kind kind, bool lasting);

/** Does it stop writing (or only hide, or only refuse to be changed)? */
bool slate_guard_stops_writing(enum slate_guard_kind kind);

/** Does it stop reading as well: is the device locked? */
bool slate_guard_stops_reading(enum slate_guard_kind kind);

/** Is it there on purpose, often: to be lifted only when asked for by name? */
bool slate_guard_is_deliberate(enum slate_guard_kind kind);

/** Does the device show other content or another capacity once it is lifted?
 * Then it has to be lifted before anything else is judged. */
bool slate_guard_conceals(enum slate_guard_kind kind);

/** The sentences that belong to a guard. */
enum slate_guard_part {
    SLATE_GUARD_TEXT,   /**< what it is and does */
    SLATE_GUARD_PLACE,  /**< where it lives */
    SLATE_GUARD_COMMAND /**< what lifts it: the command, or the person's part */
};

/** One sentence on a guard. @param part which  @return never NULL */
const char *slate_guard_words(enum slate_guard_kind kind,
                              enum slate_guard_part part);

#ifdef __cplusplus
}
#endif
#endif
