/* SPDX-License-Identifier: MIT */
/* ATA task files and what IDENTIFY DEVICE tells (ACS-3), spoken directly and
 * through a dock (SAT-3). */
#ifndef SLATE_MEDIA_ATA_H
#define SLATE_MEDIA_ATA_H

#include "base/base.h"
#include "media/wire/wire.h"

enum slate_ata_operation {
    SLATE_ATA_DATA_SET_MANAGEMENT = 0x06,
    SLATE_ATA_READ_DMA_EXT = 0x25,
    SLATE_ATA_READ_NATIVE_MAX_EXT = 0x27,
    SLATE_ATA_READ_LOG_EXT = 0x2F,
    SLATE_ATA_WRITE_DMA_EXT = 0x35,
    SLATE_ATA_ACCESSIBLE_MAX = 0x78,
    SLATE_ATA_SET_SECTORS = 0xB2, /* SET SECTOR CONFIGURATION EXT */
    SLATE_ATA_SANITIZE = 0xB4,
    SLATE_ATA_STANDBY_IMMEDIATE = 0xE0,
    SLATE_ATA_FLUSH_CACHE_EXT = 0xEA,
    SLATE_ATA_IDENTIFY = 0xEC,
    SLATE_ATA_SET_PASSWORD = 0xF1,
    SLATE_ATA_UNLOCK = 0xF2,
    SLATE_ATA_ERASE_PREPARE = 0xF3,
    SLATE_ATA_ERASE_UNIT = 0xF4,
    SLATE_ATA_DISABLE_PASSWORD = 0xF6
};

/* A word of what IDENTIFY DEVICE told. */
static inline uint16_t slate_ata_word(const uint8_t *data, size_t index)
{
    return slate_le16(data + 2 * index);
}

/* Is the accessible max address feature set there? Word 119 (ACS-3, 7.12.7). */
static inline bool slate_ata_has_accessible_max(const uint8_t *data)
{
    return (slate_ata_word(data, 119) & 0xC100) == 0x4100;
}

/* The disk's own logical block, bytes (words 106, 117, 118); 0 when it makes
 * no sense. */
uint32_t slate_ata_block_bytes(const uint8_t *data);

/* A task file of 12 bytes: features (2), count (2), LBA (6), device, command.*/
struct slate_ata_task {
    uint8_t operation;
    uint16_t features;
    uint16_t count;
    uint64_t lba;
    bool lba_mode;    /* bit 6 of the device register */
    uint32_t seconds; /* how long it may take; 0: the usual time */
};

/* The task file as an exchange of the ATA command set. */
void slate_ata_task_file(struct slate_exchange *x,
                         const struct slate_ata_task *task,
                         enum slate_direction direction, void *data,
                         uint32_t data_length);

/* The same as ATA PASS-THROUGH (16), or (12) where 8-bit count and 28-bit LBA
 * are enough (SAT-3, 12.2). DMA commands go as DMA, others as PIO. */
void slate_ata_through_scsi(struct slate_exchange *x,
                            const struct slate_ata_task *task, bool twelve,
                            enum slate_direction direction, void *data,
                            uint32_t data_length);

/* Takes identity, geometry and abilities from the 512 bytes; false when they
 * are no IDENTIFY data. */
bool slate_ata_take_identity(struct slate_media *media, const uint8_t *data);

/* Sends a command without data in either way and takes the task file that
 * comes back: 12 bytes, as slate_port has them for ATA. SLATE_ERR_COMMAND when
 * the disk refuses (the task file tells so where there is one), or the dock
 * keeps the answer to itself. */
SLATE_MUST_CHECK enum slate_status
slate_ata_ask_registers(struct slate_media *media,
                        const struct slate_ata_task *task, uint8_t answer[12]);

/* Sends a command with data in either way. */
SLATE_MUST_CHECK enum slate_status
slate_ata_send(struct slate_media *media, const struct slate_ata_task *task,
               enum slate_direction direction, void *data, uint32_t length);

/* Minutes that SECURITY ERASE UNIT takes, as the disk tells in word 89 or 90
 * (ACS-3, 7.12.7.50): units of two minutes, in 8 or 15 bits; 0: it does not. */
uint32_t slate_ata_erase_minutes(const uint8_t *data, bool enhanced);

/* A command with a parameter block: its first word, then the user's password
 * of at most 32 bytes (ACS-3, 7.41 to 7.46). */
SLATE_MUST_CHECK enum slate_status
slate_ata_send_password(struct slate_media *media, uint8_t operation,
                        uint16_t word, const char *password, uint32_t seconds);

/* SECURITY ERASE PREPARE, which says that the next one is meant, and SECURITY
 * ERASE UNIT (7.42, 7.43). */
SLATE_MUST_CHECK enum slate_status
slate_ata_erase_unit(struct slate_media *media, uint16_t word,
                     const char *password, uint32_t seconds);

/* The native size of the disk in its own blocks: 0 when nothing can hide
 * there. data: what IDENTIFY told. A refusal is no failure. */
SLATE_MUST_CHECK enum slate_status
slate_ata_read_native(struct slate_media *media, const uint8_t *data,
                      uint64_t *blocks);

/* Asks a disk behind a dock who it really is; a refusal changes nothing. */
void slate_ata_ask_through_scsi(struct slate_media *media);

#endif
