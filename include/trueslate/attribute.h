/* SPDX-License-Identifier: MIT */
/* What protects in the content: attributes of partitions and flags of volumes.
 * They go with a renewal, or a draft clears them in place (slate_draft_clear).
 */
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

/** The bits of a GPT entry that an attribute stands for; 0 for others. */
uint64_t slate_attribute_bits(enum slate_attribute_kind kind);

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
