/* SPDX-License-Identifier: MIT */
/* What protects in the content: attributes of partitions and flags of volumes.
 * They go with a renewal, or are cleared in place without touching data. */
#ifndef TRUESLATE_ATTRIBUTE_H
#define TRUESLATE_ATTRIBUTE_H

#include "trueslate/assess.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_attribute_kind {
    SLATE_ATTRIBUTE_REQUIRED,        /**< GPT: bit 0 (UEFI 2.10, table 5.8) */
    SLATE_ATTRIBUTE_NO_BLOCK_IO,     /**< GPT: bit 1 */
    SLATE_ATTRIBUTE_READ_ONLY,       /**< GPT, basic data: bit 60 */
    SLATE_ATTRIBUTE_HIDDEN,          /**< GPT, basic data: bit 62 */
    SLATE_ATTRIBUTE_NO_LETTER,       /**< GPT, basic data: bit 63 */
    SLATE_ATTRIBUTE_HIDDEN_TYPE,     /**< MBR: a type with 10h added */
    SLATE_ATTRIBUTE_DIRTY,           /**< FAT16, FAT32, exFAT, NTFS */
    SLATE_ATTRIBUTE_READ_ONLY_VOLUME /**< ext: flagged as never to be written */
};

#define SLATE_ATTRIBUTE_KINDS 8

/** The partition of an attribute when there is no table. */
#define SLATE_ATTRIBUTE_WHOLE UINT32_MAX

/** An attribute that was found. */
struct slate_attribute {
    enum slate_attribute_kind kind;
    uint32_t partition; /**< index in the facts, or SLATE_ATTRIBUTE_WHOLE */
};

/**
 * Lists the attributes on a device that was looked at closely.
 *
 * @param facts     of the device
 * @param index     from 0
 * @param attribute receives the attribute
 * @return false when there is none of this index
 */
bool slate_attribute_next(const struct slate_facts *facts, uint32_t index,
                          struct slate_attribute *attribute);

/**
 * Clears an attribute in place: claims the device, changes its bits and the
 * checksums over them, reads them back, and releases the device. Of two copies
 * the one that hosts do not read goes first, so that one is whole at any time;
 * no other byte changes. A dirty flag that is cleared leaves the volume as
 * it is: a host checks it no more by itself.
 *
 * @param media      an open device, writable
 * @param facts      of the device
 * @param attribute  as found
 * @param work       work buffer
 * @param work_bytes at least SLATE_WORK_MIN; more is not used
 * @return SLATE_OK; SLATE_ERR_CHANGED when it is not there any more;
 *         SLATE_ERR_ONE_COPY for a GPT of which one copy is not sound;
 *         SLATE_ERR_STILL_GUARDED when the device keeps the old content;
 *         SLATE_ERR_PROTECTED, SLATE_ERR_BUFFER, SLATE_ERR_READ,
 *         SLATE_ERR_WRITE, SLATE_ERR_BUSY, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_attribute_clear(
    struct slate_media *media, const struct slate_facts *facts,
    const struct slate_attribute *attribute, void *work, size_t work_bytes);

/** Stable name of a kind for programs: "gpt-read-only". Never NULL. */
const char *slate_attribute_name(enum slate_attribute_kind kind);

/** What an attribute means for hosts, one sentence. Never NULL. */
const char *slate_attribute_words(enum slate_attribute_kind kind);

/** What clearing it in place does, one sentence. Never NULL. */
const char *slate_attribute_advice(enum slate_attribute_kind kind);

#ifdef __cplusplus
}
#endif
#endif
