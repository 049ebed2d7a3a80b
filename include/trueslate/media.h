/* SPDX-License-Identifier: MIT */
/* One device as blocks, with what it says of itself and what it can do. */
#ifndef TRUESLATE_MEDIA_H
#define TRUESLATE_MEDIA_H

#include "trueslate/base.h"
#include "trueslate/port.h"

#ifdef __cplusplus
extern "C" {
#endif

/** The smallest work buffer that any function takes, in bytes. */
#define SLATE_WORK_MIN 4096u

/** The largest logical block that is spoken to, in bytes. */
#define SLATE_BLOCK_MAX 4096u

/** Size and alignment of a device. */
struct slate_geometry {
    uint64_t block_count;    /**< logical blocks, at least 1 */
    uint32_t block_bytes;    /**< 512, 1024, 2048 or 4096 */
    uint32_t physical_bytes; /**< at least block_bytes */
    uint32_t erase_bytes;    /**< erase unit to align to; 0: unknown */
};

enum slate_operation {
    SLATE_OPERATION_NONE,
    SLATE_OPERATION_READ,
    SLATE_OPERATION_WRITE,
    SLATE_OPERATION_FLUSH,
    SLATE_OPERATION_COMMAND
};

/** The first thing that went wrong; it stays until the device is reopened. */
struct slate_fault {
    enum slate_status status;       /**< SLATE_OK: nothing went wrong */
    enum slate_operation operation; /**< what was being done */
    uint64_t lba;                   /**< first block of the failed transfer */
    uint32_t count;                 /**< blocks of it */
    bool has_sense;                 /**< the three numbers below are known */
    uint8_t sense_key, asc, ascq;   /**< SPC-4, 4.5 */
};

/** How much went over to and from the device since it was opened. */
struct slate_traffic {
    uint64_t commands; /**< calls of read, write, flush or exchange */
    uint64_t blocks_read;
    uint64_t blocks_written;
};

/** Must a device be written in the order of its zones? */
enum slate_zoned {
    SLATE_ZONED_NOT,
    SLATE_ZONED_BY_DEVICE, /**< it sorts that out by itself (device-managed) */
    SLATE_ZONED_AWARE,     /**< better so (host-aware) */
    SLATE_ZONED_BY_HOST    /**< else it refuses (host-managed) */
};

/** What a device can do, and what it is, beyond reading and writing. */
struct slate_abilities {
    bool zero;              /**< can clear a range to zeros by a command */
    bool discard;           /**< can be told that a range is not needed */
    uint64_t clear_most;    /**< blocks per such command; 0: no limit */
    bool rotating;          /**< has platters that need time to stop */
    bool protection;        /**< formatted with protection information */
    bool passes_ata;        /**< SCSI: a dock or host that carries ATA on */
    uint32_t write_unit;    /**< optimal transfer, bytes; 0: unknown */
    uint8_t speed_class;    /**< SD: 2, 4, 6, 10; 0: none */
    uint32_t aligned_block; /**< first block that begins a physical one */
    enum slate_zoned zoned;
    uint64_t native_blocks; /**< capacity with what is hidden of it; 0: not
                                 told */
};

/** Bad blocks that are remembered one by one. */
#define SLATE_UNREAD_MOST 8u

/** Blocks that could not be read; see slate_policy.unread. */
struct slate_unread {
    uint32_t count;                  /**< all of them */
    uint64_t lba[SLATE_UNREAD_MOST]; /**< the first ones */
    struct slate_fault fault;        /**< of the first one */
};

/** The longest answer that is asked for: NVMe Identify. */
#define SLATE_ANSWER_BYTES 4096u

/** Room for a tag, with its final zero. */
#define SLATE_TAG_ROOM 9

struct slate_evidence;
struct slate_speech;  /* how the device is spoken to; private */
struct slate_witness; /* of what is read; private */

/** What a reader may take at most, counted as slate_traffic counts. */
struct slate_limit {
    uint64_t commands, bytes; /**< of the device, when they are reached */
    uint64_t skipped;         /**< blocks that were not read because of it */
};

/** How a device is read: whoever looks says so for as long as that lasts. All
 * zero: three tries, and what cannot be read then is an error. */
struct slate_policy {
    uint32_t tries;                /**< of a failing read; 0: three */
    struct slate_unread *unread;   /**< when set, a block that cannot be read is
                                        noted here, and zeros stand for it */
    struct slate_limit *limit;     /**< when set, what reading may take; what
                                        lies beyond is left unread, and zeros
                                        stand for it */
    struct slate_witness *witness; /**< when set, sees all that is read */
};

/**
 * An open device. Placed by the caller, who may read every field and change
 * none. Nothing has to be closed; the port must outlive it.
 */
struct slate_media {
    const struct slate_port *port;
    struct slate_port_ops
        ops; /**< those that the port knows; NULL for others */
    const struct slate_speech *speech;
    struct slate_identity identity;
    struct slate_geometry geometry;
    struct slate_fault fault;
    struct slate_traffic traffic;
    struct slate_abilities abilities;
    uint32_t units;            /**< logical units in the same body */
    uint32_t unit;             /**< which of them this is, from 0 */
    uint32_t largest_transfer; /**< blocks per command, at least 1 */
    uint32_t address;          /**< SD: card address; NVMe: namespace */
    bool byte_addressed;       /**< SD standard capacity */
    bool byte_mover;           /**< SD over SPI: data carries its CRC16 */
    bool removable;
    bool read_only; /**< the device or its host says so */
    bool slider;    /**< the reader tells of a locked slider */
    bool in_use; /**< its host had something of it mounted when it was opened */
    bool settled; /**< opened: from now on it is this medium */
    bool swapped; /**< and may be no more: nothing is done to it, for which
                       SLATE_ERR_TAKEN_OUT stands */
    bool entered; /**< slate_door_enter: it may be changed */
    const struct slate_evidence *shown; /**< and is to hold this; NULL: any */
    struct slate_policy policy;         /**< slate_media_read_by */
    uint8_t answer[SLATE_ANSWER_BYTES]; /**< of the device to a long question:
                                             too much for a small stack */
    uint8_t digest[SLATE_DIGEST_BYTES]; /**< of the identity and capacity */
    char tag[SLATE_TAG_ROOM];           /**< short name made of the digest */
};

/**
 * Opens a device: asks the port for its facts, speaks to the device where it
 * has a command set, and derives its tag. Writes nothing.
 *
 * - SCSI: INQUIRY with the VPD pages that the device lists (serial number,
 *   identification, block limits, characteristics, provisioning), REPORT LUNS,
 *   TEST UNIT READY, READ CAPACITY (10) and (16), MODE SENSE (SPC-4, SBC-3).
 *   A disk behind a dock is asked by ATA PASS-THROUGH as well (SAT-3, 12).
 * - ATA: IDENTIFY DEVICE (ACS-3, 7.12).
 * - NVMe: Identify, controller and namespace (NVM Express 1.4, 5.15).
 * - SD: identification and CSD, CID, SCR and SD status registers (Physical
 *   Layer Simplified Specification 6.00, 4.2, 5, 7.2).
 *
 * @param media filled in; on failure its @c fault tells why, and @c identity,
 *              @c geometry and @c tag what was found before
 * @param port  kept by reference
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for a port without the required
 *         operations; SLATE_ERR_NO_DEVICE, SLATE_ERR_NO_MEDIUM,
 *         SLATE_ERR_GEOMETRY (no capacity, or blocks that are not 512, 1024,
 *         2048 or 4096 bytes), SLATE_ERR_COMMAND
 */
SLATE_MUST_CHECK enum slate_status
slate_media_open(struct slate_media *media, const struct slate_port *port);

/**
 * From now on the device is read by this policy.
 *
 * @param media  an open device
 * @param policy copied; what it refers to has to outlive its use
 * @return the policy that held before, to be set again
 */
struct slate_policy slate_media_read_by(struct slate_media *media,
                                        const struct slate_policy *policy);

/**
 * Reads blocks. Any count; split to what the device takes at a time. A read
 * that fails is tried as often as the policy has it; then, where that notes
 * them, its blocks one by one. Once SLATE_UNREAD_MOST blocks are bad, neither
 * is.
 *
 * @param media an open device
 * @param lba   first logical block
 * @param count number of blocks; 0 does nothing
 * @param data  receives count * block_bytes bytes
 * @return SLATE_OK, SLATE_ERR_RANGE, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE,
 *         SLATE_ERR_TAKEN_OUT
 */
SLATE_MUST_CHECK enum slate_status slate_media_read(struct slate_media *media,
                                                    uint64_t lba,
                                                    uint32_t count, void *data);

/**
 * Writes blocks. Any count; split to what the device takes at a time.
 *
 * @param media an open device that was entered
 * @param lba   first logical block
 * @param count number of blocks; 0 does nothing
 * @param data  count * block_bytes bytes
 * @return SLATE_OK, SLATE_ERR_RANGE, SLATE_ERR_WRITE, SLATE_ERR_PROTECTED,
 *         SLATE_ERR_NO_DEVICE, SLATE_ERR_TAKEN_OUT, SLATE_ERR_OUTSIDE
 */
SLATE_MUST_CHECK enum slate_status slate_media_write(struct slate_media *media,
                                                     uint64_t lba,
                                                     uint32_t count,
                                                     const void *data);

/** A transfer that may go on while the caller does something else. */
struct slate_pending {
    bool under_way; /**< at the port; else status is what became of it */
    enum slate_status status;
    struct slate_exchange exchange;
    struct slate_request request;
};

/**
 * Makes all that was written durable.
 *
 * @param media an open device
 * @return SLATE_OK, SLATE_ERR_WRITE, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_media_flush(struct slate_media *media);

/**
 * Clears a range by a command of the device, without sending data.
 *
 * @param media an open device that was entered
 * @param lba   first logical block
 * @param count number of blocks; 0 does nothing
 * @param how   zeros afterwards, or any content
 * @return SLATE_OK, SLATE_ERR_RANGE, SLATE_ERR_WRITE, SLATE_ERR_PROTECTED,
 *         SLATE_ERR_NO_DEVICE, SLATE_ERR_OUTSIDE; SLATE_ERR_COMMAND when the
 *         device has no such command: write zeros instead
 */
SLATE_MUST_CHECK enum slate_status slate_media_clear(struct slate_media *media,
                                                     uint64_t lba,
                                                     uint64_t count,
                                                     enum slate_clear how);

/**
 * Makes the device safe to unplug: has it for itself meanwhile, flushes, allows
 * removal, stops platters. It has to be opened anew afterwards.
 *
 * @param media an open device
 * @return SLATE_OK, SLATE_ERR_WRITE, SLATE_ERR_COMMAND, SLATE_ERR_NO_DEVICE,
 *         SLATE_ERR_ACCESS (somebody at this host uses it); SLATE_ERR_BUSY when
 *         another host or program prevents removal
 */
SLATE_MUST_CHECK enum slate_status slate_media_eject(struct slate_media *media);

/**
 * Stops what turns, and leaves the device where it is: START STOP UNIT (SBC-3,
 * 5.25), STANDBY IMMEDIATE (ACS-3, 7.50). It starts again with the next access.
 *
 * @param media an open device
 * @return SLATE_OK, SLATE_ERR_WRITE (what was written is made durable first),
 *         SLATE_ERR_NO_DEVICE; SLATE_ERR_COMMAND when it has no such command
 */
SLATE_MUST_CHECK enum slate_status slate_media_rest(struct slate_media *media);

/**
 * Takes the device away from the host, once all that was written is durable and
 * it has stopped. It is not to be used afterwards.
 *
 * @param media an open device
 * @param how   shown no more, or without power as well
 * @return SLATE_OK, SLATE_ERR_WRITE, SLATE_ERR_NO_DEVICE; SLATE_ERR_COMMAND
 *         when the host cannot do that to this device
 */
SLATE_MUST_CHECK enum slate_status slate_media_leave(struct slate_media *media,
                                                     enum slate_leave how);

/**
 * Random bytes from the port; without such an operation, bytes derived from
 * the identity of the device, the same each time.
 *
 * @param media  an open device
 * @param bytes  receives the bytes
 * @param length at most 32
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, or what the port says
 */
SLATE_MUST_CHECK enum slate_status
slate_media_random(struct slate_media *media, void *bytes, size_t length);

/** Monotonic milliseconds; always 0 without such a port operation. */
uint64_t slate_media_milliseconds(const struct slate_media *media);

/** Capacity in bytes. @param geometry of an open device */
uint64_t slate_geometry_bytes(const struct slate_geometry *geometry);

/**
 * Puts a fault into one English sentence without a final stop: what was being
 * done, where, and what the device answered.
 *
 * @param fault any
 * @param text  started by the caller; appended to
 */
void slate_fault_words(const struct slate_fault *fault,
                       struct slate_text *text);

/**
 * Additional sense in words (SPC-4, annex D): the codes that storage devices
 * return.
 *
 * @param asc  additional sense code
 * @param ascq its qualifier
 * @return a constant string; NULL for a code that is not in the list
 */
const char *slate_sense_words(uint8_t asc, uint8_t ascq);

/**
 * A sense key in words (SPC-4, table 55).
 *
 * @param sense_key 0 to 15
 * @return a constant string, never NULL
 */
const char *slate_sense_key_words(uint8_t sense_key);

#ifdef __cplusplus
}
#endif
#endif
