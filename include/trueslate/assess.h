/* SPDX-License-Identifier: MIT */
/* What is on a device, and what is wrong with it: facts in, findings out. */
#ifndef TRUESLATE_ASSESS_H
#define TRUESLATE_ASSESS_H

#include "trueslate/evidence.h"
#include "trueslate/guard.h"
#include "trueslate/layout.h"
#include "trueslate/mark.h"
#include "trueslate/volume.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Partitions that facts have room for of their own, and of which the volumes
 * are looked at: the first ones in the table. */
#define SLATE_FACTS_PARTITIONS 32

/** Places all over a device that were looked at, of up to 4 KiB each: what lies
 * between them was not read. */
struct slate_sample {
    uint32_t places;     /**< 0: it was not necessary */
    uint32_t held;       /**< of them, those that hold not just the one byte */
    uint64_t held_lba;   /**< the first of those */
    bool start_held;     /**< one of them lies in the first 32 KiB */
    uint8_t byte;        /**< what the others hold throughout */
    uint32_t volumes;    /**< places at which a volume begins */
    uint64_t volume_lba; /**< the first of those */
    struct slate_volume volume;
};

/** The same, of a table that lies hidden under the one that counts. */
#define SLATE_SHADOW_PARTITIONS 4

/** Room for facts: all partitions that fit are listed, and every figure counts
 * them; of others their number is known. */
struct slate_facts_room {
    struct slate_partition *partition; /**< NULL: for none */
    struct slate_volume *volume;       /**< as many */
    uint32_t partitions;
    struct slate_seen *seen; /**< NULL: a draft cannot be made of the facts */
    uint32_t seen_ranges;    /**< SLATE_EVIDENCE_RANGES are always enough */
};

/**
 * All that was seen on a device. A copy refers to the same room: it holds until
 * that is looked into again.
 */
struct slate_facts {
    enum slate_depth depth;   /**< how closely it was looked at */
    enum slate_status opened; /**< why it could not be opened; else SLATE_OK */
    struct slate_fault fault; /**< the same in detail */
    struct slate_identity identity;
    struct slate_geometry geometry;
    struct slate_abilities abilities;
    uint32_t units, unit; /**< logical units of the body, and which this is */
    char tag[SLATE_TAG_ROOM];
    uint8_t identity_digest[SLATE_DIGEST_BYTES];
    bool read_only;
    bool removable;
    bool in_use;            /**< its host has something of it mounted */
    uint64_t proved_blocks; /**< set by the caller who knows by a probe or a
                                 scan of this very device that it has fewer
                                 blocks than it claims; 0: nothing is known */
    uint32_t guards;        /**< what protects it */
    struct slate_guard guard[SLATE_GUARDS_MAX];
    struct slate_layout layout;
    struct slate_partition *partition; /**< layout.count of them, in the room */
    struct slate_volume *volume;       /**< the same; UNREAD behind the first
                                            SLATE_FACTS_PARTITIONS */
    struct slate_volume whole;   /**< volume at block 0, without a table */
    struct slate_volume optical; /**< optical-disc image under a table */
    /** A GPT that does not count: remains of one where another table, or none,
     * does, or the other copy of one whose copies differ. */
    struct slate_layout shadow; /**< its partition is NULL: they are in */
    struct slate_partition shadow_partition[SLATE_SHADOW_PARTITIONS];
    struct slate_volume shadow_volume[SLATE_SHADOW_PARTITIONS];
    uint32_t made_for; /**< block size, bytes, that the content was made for;
                            0: the device's own, or it does not tell */
    struct slate_sample sample; /**< where no table and no volume was found */
    bool blank; /**< every place of the sample holds one and the same byte */
    bool cut_short; /**< not everything was looked at: it would have taken more
                         than a look may take */
    bool marked;    /**< the unfinished mark stands in block 0 */
    bool mark_cut;  /**< or likely did: the block was cut as it was written, and
                         cannot be read; see slate_facts_take_draft */
    struct slate_mark mark;
    bool halfway; /**< set by the caller who keeps the draft of a change in
                       place that was cut on this very device: then its table
                       and its volumes are judged no more */
    struct slate_unread unread;     /**< blocks that could not be read */
    struct slate_evidence evidence; /**< every block that was read */
    struct slate_facts_room room;   /**< which the caller has placed */
};

/**
 * Gives facts their room.
 *
 * @param facts zeroed but for it
 * @param room  copied, with references to all that it refers to
 */
void slate_facts_place(struct slate_facts *facts,
                       const struct slate_facts_room *room);

/**
 * The same device as the other one of two copies of its table has it, where
 * both are sound and differ (slate_layout_copies_differ).
 *
 * @param facts of a device, looked at closely
 * @param other filled in; refers to @p facts and to itself: not to be copied.
 * Of its partitions at most SLATE_SHADOW_PARTITIONS are listed
 */
void slate_facts_other_copy(const struct slate_facts *facts,
                            struct slate_facts *other);

/**
 * Looks at a device: table, volumes, both ends. Never writes. A full look
 * takes at most 256 commands and 4 MiB, a glance 64 commands and 64 KiB; what
 * lies beyond is left unread, and said to be. Blocks that cannot be read are
 * noted in @c unread, and zeros stand for them.
 *
 * @param media      an open device
 * @param depth      how closely
 * @param work       work buffer
 * @param work_bytes at least SLATE_WORK_MIN; more is not used
 * @param facts      placed; filled in, in its room. Where its layout.second was
 *                   set, the second one of two sound copies of a GPT that
 * differ counts
 * @return SLATE_OK, SLATE_ERR_BUFFER, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_assess_look(struct slate_media *media, enum slate_depth depth, void *work,
                  size_t work_bytes, struct slate_facts *facts);

/**
 * The facts about a device that could not be opened: there are findings on
 * these as well.
 *
 * @param media  as slate_media_open left it
 * @param status what that returned
 * @param facts  placed, or all zero; filled in
 */
void slate_assess_unopened(const struct slate_media *media,
                           enum slate_status status, struct slate_facts *facts);

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
    SLATE_FINDING_NO_MEDIUM,
    SLATE_FINDING_UNKNOWN_CAPACITY,
    SLATE_FINDING_ARRAY_BLOCKS,
    SLATE_FINDING_NO_ANSWER,
    SLATE_FINDING_LOCKED,
    SLATE_FINDING_ERASING,
    SLATE_FINDING_UNERASED,
    SLATE_FINDING_NO_SECTORS,
    SLATE_FINDING_OTHER_CONTROLLER,
    SLATE_FINDING_FALSE_CAPACITY,
    SLATE_FINDING_READ_ERRORS,
    SLATE_FINDING_UNFINISHED,
    SLATE_FINDING_HALFWAY,
    SLATE_FINDING_WRITE_PROTECTED,
    SLATE_FINDING_BLOCK_SIZE_MISMATCH,
    SLATE_FINDING_HIDDEN_CAPACITY,
    SLATE_FINDING_BOOT_IMAGE,
    SLATE_FINDING_OPTICAL_IMAGE,
    SLATE_FINDING_MEMBER,
    SLATE_FINDING_MBR_LIMIT,
    SLATE_FINDING_GPT_LOST,
    SLATE_FINDING_GPT_PRIMARY_DAMAGED,
    SLATE_FINDING_GPT_SECOND_ALONE,
    SLATE_FINDING_START_ERASED,
    SLATE_FINDING_BEYOND_END,
    SLATE_FINDING_GPT_BACKUP_MISPLACED,
    SLATE_FINDING_GPT_BACKUP_DAMAGED,
    SLATE_FINDING_GPT_COPIES_DISAGREE,
    SLATE_FINDING_PROTECTIVE_MISSING,
    SLATE_FINDING_PROTECTIVE_WRONG,
    SLATE_FINDING_HYBRID_DISAGREES,
    SLATE_FINDING_MBR_REMAINS,
    SLATE_FINDING_GPT_REMAINS,
    SLATE_FINDING_CHAIN_BROKEN,
    SLATE_FINDING_LISTED_TWICE,
    SLATE_FINDING_OVERLAP,
    SLATE_FINDING_OUT_OF_RANGE,
    SLATE_FINDING_OTHER_TABLE,
    SLATE_FINDING_VOLUME_LARGER,
    SLATE_FINDING_SMALL_TABLE,
    SLATE_FINDING_UNALLOCATED,
    SLATE_FINDING_RANDOM_CONTENT,
    SLATE_FINDING_HALF_OVERWRITTEN,
    SLATE_FINDING_NO_VOLUME,
    SLATE_FINDING_TYPE_DISAGREES,
    SLATE_FINDING_VOLUME_SMALLER,
    SLATE_FINDING_ATTRIBUTES,
    SLATE_FINDING_ZONED,
    SLATE_FINDING_EMPTY_TABLE,
    SLATE_FINDING_BLANK,
    SLATE_FINDING_UNKNOWN_CONTENT,
    SLATE_FINDING_SEVERAL_VOLUMES,
    SLATE_FINDING_TWO_UNITS,
    SLATE_FINDING_NO_TABLE,
    SLATE_FINDING_FOREIGN,
    SLATE_FINDING_PROTECTION_INFORMATION,
    SLATE_FINDING_ODD_SIZE,
    SLATE_FINDING_MISALIGNED,
    SLATE_FINDING_COPY_DIFFERS,
    SLATE_FINDING_DIRTY,
    SLATE_FINDING_CHS_DISAGREES,
    SLATE_FINDING_UNUSUAL_GPT,
    SLATE_FINDING_CUT_SHORT,
    SLATE_FINDING_HEALTHY
};

#define SLATE_FINDINGS_MAX 63

/** One finding. */
struct slate_finding {
    enum slate_finding_id id;
    enum slate_severity severity;
    bool consequence;              /**< explained by another finding */
    enum slate_finding_id because; /**< that one; its own id for none */
};

/**
 * Draws the conclusions from facts; never empty: the last resort is "healthy".
 * The finding that explains the symptom comes first; each is followed by its
 * consequences.
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
    SLATE_FINDING_CAUSE,    /**< how that comes about, likely */
    SLATE_FINDING_HELP      /**< what helps */
};

/**
 * Puts one part of a finding into words.
 *
 * @param facts   the facts it was drawn from
 * @param finding as it was drawn from them
 * @param part    which sentence
 * @param text    started by the caller; appended to; 400 bytes are enough
 */
void slate_finding_words(const struct slate_facts *facts,
                         const struct slate_finding *finding,
                         enum slate_finding_part part, struct slate_text *text);

/** What goes with a finding, beside its remedy: bits. */
enum slate_follow {
    SLATE_FOLLOW_REST = 1,     /**< what belongs to none can be a partition */
    SLATE_FOLLOW_SEARCH = 2,   /**< volumes may be where no partition is */
    SLATE_FOLLOW_GUARDS = 4,   /**< guards tell more, and how to lift them */
    SLATE_FOLLOW_WAIT = 8,     /**< an erase is under way */
    SLATE_FOLLOW_ERASE = 16,   /**< an erase has to be repeated */
    SLATE_FOLLOW_SAME = 32,    /**< a low-level format helps: as it is; */
    SLATE_FOLLOW_BLOCKS = 64,  /**< with blocks of 512 bytes; */
    SLATE_FOLLOW_TRACKS = 128, /**< with the geometry of its own controller */
    SLATE_FOLLOW_UNREADABLE = 256 /**< its blocks cannot be read */
};

/** What goes with a finding: a sum of enum slate_follow. */
uint32_t slate_finding_follows(enum slate_finding_id id);

/** What kind of remedy a finding has. */
enum slate_remedy_kind {
    SLATE_REMEDY_NOTHING,   /**< nothing has to be done */
    SLATE_REMEDY_RENEW,     /**< draft the goal, and enact it */
    SLATE_REMEDY_RESUME,    /**< enact the draft whose mark stands there */
    SLATE_REMEDY_BY_HAND,   /**< something that only a person can do */
    SLATE_REMEDY_ELSEWHERE, /**< another host, port, dock or member */
    SLATE_REMEDY_REPLACE,   /**< take the device out of service */
    SLATE_REMEDY_MEND,      /**< draft it in place: all data stays */
    SLATE_REMEDY_LOWLEVEL   /**< a low-level format: nothing is kept */
};

/**
 * Takes note of what facts alone cannot tell: block 0 cannot be read, and a
 * draft that is at hand is unfinished on the device, as slate_enact_check says
 * (SLATE_OK, and resumed). What else was seen is neither the old content nor
 * the new one, and is forgotten, as with a mark that can be read.
 *
 * @param facts of a device
 * @param seal  of the draft
 */
void slate_facts_take_draft(struct slate_facts *facts,
                            const uint8_t seal[SLATE_DIGEST_BYTES]);

/**
 * The capacity that hosts show for a device: its volumes, or its partitions
 * where no volume is recognised.
 *
 * @param facts of a device
 * @return bytes; 0 for a blank device
 */
uint64_t slate_facts_shown_bytes(const struct slate_facts *facts);

/**
 * What is out of reach for hosts, for whatever cause: blocks that belong to no
 * partition (runs below 8 MiB apart, which are alignment), what a volume leaves
 * of its partition where that is a finding, and what the device itself hides.
 *
 * @param facts of a device
 * @return bytes
 */
uint64_t slate_facts_unreached_bytes(const struct slate_facts *facts);

/**
 * The capacity behind the last partition or volume.
 *
 * @param facts of a device
 * @return bytes out of reach
 */
uint64_t slate_facts_hidden_bytes(const struct slate_facts *facts);

/**
 * Do two looks tell of one device, and of the same content wherever they have
 * read?
 *
 * @param before of the device
 * @param after  of the device, or of another one
 * @return false: one of them is another one
 */
bool slate_facts_unchanged(const struct slate_facts *before,
                           const struct slate_facts *after);

/**
 * Do two looks tell of one medium? Either every block that was read is the
 * same, or table, volumes and their identifiers are: a host that lets go of a
 * volume writes to it.
 *
 * @param before of the device
 * @param after  of the device, or of another one under the same tag
 * @return false also when nothing on it could tell
 */
bool slate_facts_same_medium(const struct slate_facts *before,
                             const struct slate_facts *after);

/** Is there anything on the device that renewing it would lose? */
bool slate_facts_hold_content(const struct slate_facts *facts);

#ifdef __cplusplus
}
#endif
#endif
