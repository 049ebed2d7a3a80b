/* SPDX-License-Identifier: MIT */
/* What a board, a host or a simulator has to supply: the port. */
#ifndef TRUESLATE_PORT_H
#define TRUESLATE_PORT_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "trueslate/status.h"

#ifdef __cplusplus
extern "C" {
#endif

/** How a device is attached. */
enum slate_transport {
    SLATE_TRANSPORT_UNKNOWN,
    SLATE_TRANSPORT_IMAGE,  /**< an image file */
    SLATE_TRANSPORT_MEMORY, /**< held in RAM */
    SLATE_TRANSPORT_USB,    /**< a USB stick, dock or card reader */
    SLATE_TRANSPORT_SD,     /**< an SD card in a slot of its own */
    SLATE_TRANSPORT_SATA,
    SLATE_TRANSPORT_NVME,
    SLATE_TRANSPORT_SCSI, /**< SAS, parallel SCSI, or simulated by a kernel */
    SLATE_TRANSPORT_LOOP, /**< a file that the host shows as a device */
    SLATE_TRANSPORT_OTHER /**< some other device of the host */
};

/** Which command set slate_port_ops.exchange carries. */
enum slate_command_set {
    SLATE_COMMANDS_NONE,   /**< plain blocks: read and write do the work */
    SLATE_COMMANDS_SCSI,   /**< SCSI command descriptor blocks */
    SLATE_COMMANDS_ATA,    /**< ATA task files */
    SLATE_COMMANDS_NVME,   /**< NVMe submission queue entries */
    SLATE_COMMANDS_SD,     /**< SD command frames, native bus */
    SLATE_COMMANDS_SD_SPI, /**< SD command frames, SPI bus */
};

#define SLATE_MAKER_ROOM 32
#define SLATE_MODEL_ROOM 64
#define SLATE_SERIAL_ROOM 64
#define SLATE_REVISION_ROOM 16

/** What a device says of itself; printable ASCII, zero-terminated, trimmed. */
struct slate_identity {
    enum slate_transport transport;
    char maker[SLATE_MAKER_ROOM];
    char model[SLATE_MODEL_ROOM];
    char serial[SLATE_SERIAL_ROOM];
    char revision[SLATE_REVISION_ROOM];
};

/**
 * Facts that a port states as data. All zero is allowed for each field but
 * @c block_bytes and @c block_count of a plain-block port.
 */
struct slate_port_facts {
    struct slate_identity identity; /**< at least the transport */
    enum slate_command_set commands;
    uint32_t block_bytes;    /**< logical block, bytes */
    uint64_t block_count;    /**< capacity, logical blocks */
    uint32_t physical_bytes; /**< physical block; 0: as logical */
    uint32_t unit;        /**< logical unit or namespace in its body, from 0 */
    uint32_t erase_bytes; /**< erase unit to align to; 0: unknown */
    uint32_t largest_transfer_bytes; /**< per call; 0: no limit */
    bool removable;
    bool read_only;
    bool slider; /**< the reader tells that the card's slider is locked; then
                      read_only as well */
    bool in_use; /**< the host has a volume of it mounted, or uses it otherwise
                  */
    bool volatile_cache; /**< a write may be lost before a flush */
    bool card;           /**< the host has identified this SD card: cid, csd and
                              card_address hold what it found */
    uint16_t card_address;
    uint8_t cid[16], csd[16];
};

enum slate_direction {
    SLATE_DIRECTION_NONE,
    SLATE_DIRECTION_IN, /**< from the device */
    SLATE_DIRECTION_OUT /**< to the device */
};

/**
 * One raw command of the device's own command set, and its answer.
 *
 * | set    | command                         | state          | answer        |
 * |--------|---------------------------------|----------------|---------------|
 * | SCSI   | 6, 10, 12 or 16 bytes of CDB    | status byte    | sense data,   |
 * |        |                                 | (SAM-5, 5.3.1) | at state 02h  |
 * | ATA    | 12: features, count (16 bits),  | 0 done,        | 12, the same  |
 * |        | LBA (48), device, command, all  | 1 error        | places; error |
 * |        | little-endian (ACS-3, 4)        |                | ahead, status |
 * |        |                                 |                | at the end    |
 * | NVMe   | 64: submission queue entry; the | 0 done         | 16:           |
 * |        | port fills in data pointers     |                | completion    |
 * | SD     | 6: command frame with CRC7; an  | 0 done,        | 6 or 17 bytes |
 * |        | ACMD is two exchanges           | 1 no response, | of response   |
 * | SD SPI | the same; data has its CRC16    | 2 data error   | 1, 2 or 5     |
 * |        | behind it                       |                | bytes         |
 */
struct slate_exchange {
    uint8_t command[64];
    uint8_t command_length;
    enum slate_direction direction;
    void *data;            /**< read from when direction is OUT */
    uint32_t data_length;  /**< bytes */
    uint32_t transferred;  /**< out: bytes that really went over */
    uint8_t state;         /**< out: see above; 0 is success in every set */
    uint8_t answer[32];    /**< out: see above */
    uint8_t answer_length; /**< out: bytes of it */
    bool admin;            /**< NVMe: for the admin queue */
    uint32_t seconds;      /**< how long it may take; 0: the usual time */
};

/**
 * One transfer under way. Of a device that is spoken to in raw commands it is
 * an exchange, which is carried as slate_port_ops.exchange would; else blocks.
 */
struct slate_request {
    struct slate_exchange *exchange; /**< NULL: blocks, as below */
    bool write;
    uint64_t lba;
    uint32_t count;
    void *data; /**< writing, it is only read from */
    void *mark; /**< the port's own, from submit to wait */
};

/** How a host parts with a device. */
enum slate_leave {
    SLATE_LEAVE_OFFLINE,  /**< the host shows it no more, until it is plugged in
                               again */
    SLATE_LEAVE_POWER_OFF /**< the same, and its power is switched off */
};

/** What slate_port_ops.clear leaves in the range. */
enum slate_clear {
    SLATE_CLEAR_ZERO,   /**< reads as zeros afterwards */
    SLATE_CLEAR_DISCARD /**< content undefined afterwards */
};

/**
 * The operations of a port. @c size and @c facts are required, and either
 * @c read and @c write (plain blocks) or @c exchange (a command set). Every
 * other operation may be NULL; what happens then stands beside it. New
 * operations are appended, and @c size tells which ones a port knows: one that
 * was built with fewer of them goes on working.
 *
 * Of an SD card whose host moves blocks and carries commands, a port has both:
 * content goes by blocks then.
 *
 * All calls come from one thread at a time and block until done. A transfer is
 * all or nothing: after an error the state of the range is unknown. The
 * core never asks for zero blocks nor beyond the capacity.
 */
struct slate_port_ops {
    /** sizeof (struct slate_port_ops) as the port was compiled. */
    size_t size;

    /** States the facts. @p facts comes zeroed. */
    enum slate_status (*facts)(void *context, struct slate_port_facts *facts);

    /** Reads @p count blocks at @p lba into @p data. */
    enum slate_status (*read)(void *context, uint64_t lba, uint32_t count,
                              void *data);

    /** Writes @p count blocks at @p lba. */
    enum slate_status (*write)(void *context, uint64_t lba, uint32_t count,
                               const void *data);

    /** Makes all that was written durable. NULL: writes are durable. */
    enum slate_status (*flush)(void *context);

    /** Clears a range without sending data. NULL: the core writes zeros. */
    enum slate_status (*clear)(void *context, uint64_t lba, uint64_t count,
                               enum slate_clear how);

    /**
     * Carries one raw command. A device's refusal is no error of this call:
     * it is told by @c state and @c sense. SLATE_ERR_NO_DEVICE when the device
     * is gone.
     */
    enum slate_status (*exchange)(void *context,
                                  struct slate_exchange *exchange);

    /** Takes the device for exclusive use. NULL: nobody else has it. */
    enum slate_status (*claim)(void *context);

    /** Gives back what claim took. NULL: nothing to give back. */
    enum slate_status (*release)(void *context);

    /** Lets the host read the new table. NULL: no host to tell. */
    enum slate_status (*reread)(void *context);

    /** Makes the device safe to unplug. NULL: flushing is enough. */
    enum slate_status (*eject)(void *context);

    /** Monotonic time in ms, any zero point. NULL: time stands still. */
    uint64_t (*milliseconds)(void *context);

    /** Random bytes. NULL: derived from the device and its content. */
    enum slate_status (*random)(void *context, void *bytes, size_t length);

    /**
     * Lifts the read-only setting that the host keeps for the device;
     * @c facts tells afterwards whether that held. NULL: there is none that
     * can be lifted so.
     */
    enum slate_status (*allow_writes)(void *context);

    /**
     * Begins a transfer and returns. Until @c wait has returned, the request
     * and all that it refers to stay where they are, and data that is written
     * stays as it is. At most two are under way, so that the device has the
     * next one when it is done with the first; other operations may be asked
     * for meanwhile. NULL: transfers are made one after the other. A port that
     * has it has @c wait as well.
     */
    enum slate_status (*submit)(void *context, struct slate_request *request);

    /** Waits for a transfer that was begun, the older one first; returns what
     * became of it, as @c read, @c write or @c exchange would. */
    enum slate_status (*wait)(void *context, struct slate_request *request);

    /** Takes the device away from the host; nothing else is asked for
     * afterwards. NULL: there is no such thing. */
    enum slate_status (*leave)(void *context, enum slate_leave how);
};

/** A port: its operations and what they work on. Both kept by reference. */
struct slate_port {
    const struct slate_port_ops *ops;
    void *context;
};

#ifdef __cplusplus
}
#endif
#endif
