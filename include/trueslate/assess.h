/* SPDX-License-Identifier: MIT */
/* What is on a device, and what is wrong with it: facts in, findings out. */
#ifndef TRUESLATE_ASSESS_H
#define TRUESLATE_ASSESS_H

#include "trueslate/mark.h"
#include "trueslate/table.h"
#include "trueslate/volume.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Partitions that are looked at; a table with more is reported as such. */
#define SLATE_FACTS_PARTITIONS 16

/**
 * All that was seen on a device. The layout points into the struct: pass it by
 * reference, do not copy it.
 */
struct slate_facts {
    struct slate_identity identity;
    struct slate_geometry geometry;
    char tag[SLATE_TAG_ROOM];
    uint8_t identity_digest[SLATE_DIGEST_BYTES];
    bool read_only;
    bool removable;
    struct slate_layout layout;
    struct slate_partition partition[SLATE_FACTS_PARTITIONS];
    struct slate_volume volume[SLATE_FACTS_PARTITIONS];
    struct slate_volume whole;   /**< volume at block 0, without a table */
    struct slate_volume optical; /**< optical-disc image under a table */
    bool edges_blank;            /**< both ends hold only 00h, or only FFh */
    bool marked;                 /**< the unfinished mark stands in block 0 */
    struct slate_mark mark;
    uint8_t digest[SLATE_DIGEST_BYTES]; /**< of every block that was read */
};

/**
 * Looks at a device: table, volumes, both ends. Never writes; reads at most
 * 256 KiB.
 *
 * @param media      an open device
 * @param work       work buffer
 * @param work_bytes at least SLATE_WORK_MIN; more is not used
 * @param facts      filled in
 * @return SLATE_OK, SLATE_ERR_BUFFER, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_assess_look(struct slate_media *media,
                                                     void *work,
                                                     size_t work_bytes,
                                                     struct slate_facts *facts);

/**
 * Finds out for which logical block size an image was made, from its table and
 * volumes.
 *
 * @param media       the image opened with 512-byte blocks
 * @param work        SLATE_WORK_MIN bytes
 * @param block_bytes receives 512 or 4096, or 0 when the content does not tell
 * @return SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_assess_block_bytes(struct slate_media *media, void *work,
                         uint32_t *block_bytes);

enum slate_severity {
    SLATE_SEVERITY_FINE,   /**< nothing to do */
    SLATE_SEVERITY_NOTE,   /**< worth knowing */
    SLATE_SEVERITY_TROUBLE /**< explains a wrong size, or loses data */
};

/** The causes that are told apart, the one that explains most first. */
enum slate_finding_id {
    SLATE_FINDING_UNFINISHED,
    SLATE_FINDING_WRITE_PROTECTED,
    SLATE_FINDING_BOOT_IMAGE,
    SLATE_FINDING_OPTICAL_IMAGE,
    SLATE_FINDING_SMALL_TABLE,
    SLATE_FINDING_BEYOND_END,
    SLATE_FINDING_OVERLAP,
    SLATE_FINDING_GPT_REMAINS,
    SLATE_FINDING_ODD_SIZE,
    SLATE_FINDING_BLANK,
    SLATE_FINDING_UNKNOWN_CONTENT,
    SLATE_FINDING_HEALTHY
};

#define SLATE_FINDINGS_MAX 12

/** One finding. */
struct slate_finding {
    enum slate_finding_id id;
    enum slate_severity severity;
    bool consequence; /**< explained by the finding ahead of it */
};

/**
 * Draws the conclusions from facts; never empty: the last resort is "healthy".
 *
 * @param facts    of a device
 * @param findings receives the findings, the leading one first
 * @return number of findings, 1 to SLATE_FINDINGS_MAX
 */
uint32_t slate_assess_judge(const struct slate_facts *facts,
                            struct slate_finding findings[SLATE_FINDINGS_MAX]);

/** Stable name of a finding for programs: "small-table". Never NULL. */
const char *slate_finding_name(enum slate_finding_id id);

/** Name of a severity for programs: "trouble". Never NULL. */
const char *slate_severity_name(enum slate_severity severity);

/** The sentences that belong to a finding. */
enum slate_finding_part {
    SLATE_FINDING_TEXT,     /**< what is so, in one sentence */
    SLATE_FINDING_EVIDENCE, /**< the values and blocks it was seen in */
    SLATE_FINDING_REMEDY    /**< what helps, and what it costs */
};

/**
 * Puts one part of a finding into words.
 *
 * @param facts the facts it was drawn from
 * @param id    of the finding
 * @param part  which sentence
 * @param text  started by the caller; appended to; 400 bytes are enough
 */
void slate_finding_words(const struct slate_facts *facts,
                         enum slate_finding_id id, enum slate_finding_part part,
                         struct slate_text *text);

/**
 * The capacity that hosts show for a device: its volumes, or its partitions
 * where no volume is recognised.
 *
 * @param facts of a device
 * @return bytes; 0 for a blank device
 */
uint64_t slate_facts_shown_bytes(const struct slate_facts *facts);

/**
 * The capacity behind the last partition or volume.
 *
 * @param facts of a device
 * @return bytes out of reach
 */
uint64_t slate_facts_hidden_bytes(const struct slate_facts *facts);

/** Is there anything on the device that renewing it would lose? */
bool slate_facts_hold_content(const struct slate_facts *facts);

#ifdef __cplusplus
}
#endif
#endif
