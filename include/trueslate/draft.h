/* SPDX-License-Identifier: MIT */
/* Drafts: a goal and the facts about a device become every block to write. */
#ifndef TRUESLATE_DRAFT_H
#define TRUESLATE_DRAFT_H

#include "trueslate/mendable.h"
#include "trueslate/goal.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Of the stored form: counts up when what is stored is laid out anew. What
 * would compose other bytes for the same input counts up a revision instead. */
#define SLATE_DRAFT_VERSION 14u

/** The oldest version whose drafts are read. */
#define SLATE_DRAFT_VERSION_LEAST 13u

/** Kinds of tables that are written: none, MBR, GPT. */
#define SLATE_TABLES_WRITTEN 3u

/** Formats that there can be (slate_format_at). */
#define SLATE_FORMATS_MOST 16u

/** The part of the facts that a draft depends on. */
struct slate_basis {
    char tag[SLATE_TAG_ROOM];
    uint8_t identity[SLATE_DIGEST_BYTES]; /**< which device */
    enum slate_device_kind device;        /**< advice goes by it */
    struct slate_geometry geometry;       /**< with the blocks that are used */
    uint64_t claimed; /**< blocks that the device claims; 0: those */
    uint64_t proved;  /**< blocks that it was proved to have; 0: not known */
    uint32_t guards;  /**< what stops writing, and a draft lifts first: a sum of
                           SLATE_GUARD_BIT */
    uint32_t firm;    /**< those of them that no command lifts */
    /** Where old structures identify content: ascending, not touching. */
    struct slate_ranges old;
    /** What was on it: where this has changed since, the draft is refused. */
    struct slate_evidence evidence;
    uint32_t disk_signature;   /**< of the MBR that is there; else 0 */
    struct slate_guid disk_id; /**< of the GPT that is there; else all zero */
    /** The table as it stands, where partitions of it, or its code, stay. */
    enum slate_table_kind image_of;
    struct slate_bytes image;
};

struct slate_draft;

/** Blocks that the device of a draft claims. */
uint64_t slate_draft_claimed(const struct slate_draft *draft);

/** The free choices: with the same ones, the same bytes come out. */
struct slate_choices {
    uint8_t seed[16];         /**< serial numbers and GUIDs derive from it */
    struct slate_stamp stamp; /**< for time stamps in the volume */
};

/** One partition of a draft, or the device as a whole where there is no table.
 */
struct slate_part {
    struct slate_ask ask;              /**< input; all else follows */
    struct slate_range range;          /**< blocks of the device; of one that
                                            stays or is placed, input */
    const struct slate_format *format; /**< NULL: without a volume */
    const struct slate_way *way; /**< the advice that was taken; NULL: none */
    union slate_volume_plan volume;
};

/** An attribute that a draft clears in place. */
struct slate_cleared {
    enum slate_attribute_kind kind;
    uint32_t number; /**< of the partition; 0: the volume, without a table */
};

/** Something that a draft mends in place. */
struct slate_mended {
    enum slate_mend_kind kind;
    uint32_t number; /**< of the partition; 0: the table, or the volume where
                          there is none */
};

/** The label that a volume gets in place. */
struct slate_renamed {
    bool wanted;
    uint32_t number;              /**< as in struct slate_cleared */
    char label[SLATE_LABEL_ROOM]; /**< as it will be stored; "" for none */
};

/** What a draft changes in place, all else staying to the last bit. */
struct slate_change {
    struct slate_renamed renamed;
    uint32_t clears;
    struct slate_cleared *clear;
    uint32_t mends;
    struct slate_mended *mend;
    uint32_t patches;
    struct slate_patch *patch; /**< ascending */
    struct slate_bytes bytes;  /**< for each patch, the block as it was, then as
                                    it shall be */
};

/** Room for a draft: memory in which its arrays grow. What the caller puts in
 * place of one, beside it, is not grown. */
struct slate_room {
    uint8_t *byte; /**< the caller's */
    size_t bytes;
    size_t used;
};

/** Bytes that are always enough for so many new partitions on a device whose
 * facts have so many, where nothing that is there stays. What stays takes the
 * bytes of its table as well (an MBR a block, and one for each link to logical
 * partitions; a GPT three blocks and its array); what is changed in place, two
 * blocks and a patch for each block (four for an attribute, three and two
 * arrays for a GPT, up to 12 for the start of a volume); files, an item, a spot
 * and the bytes of the name for each. An array that grows while another one has
 * grown behind it takes up to three times that. */
#define SLATE_DRAFT_ROOM(partitions, found)                                    \
    ((size_t)4096 +                                                            \
     (size_t)3 * (partitions) *                                                \
         (sizeof(struct slate_part) + sizeof(struct slate_partition)) +        \
     (2 + 2 * (found)) * sizeof(struct slate_range) +                          \
     SLATE_EVIDENCE_RANGES * sizeof(struct slate_seen))

/** What was too small of the room that a draft was given. */
struct slate_shortage {
    const char *of;  /**< what had to grow, in words: "partitions" */
    uint64_t needed; /**< bytes of room, at least */
    uint64_t room;   /**< bytes that are there */
};

/** Of what makes what a draft writes out of its input: each counts up when it
 * writes something else for the same input. Of what a draft has no use for, 0.
 */
struct slate_revisions {
    uint32_t placing, rounds, table[SLATE_TABLES_WRITTEN];
    uint32_t format[SLATE_FORMATS_MOST];
};

/**
 * A draft: of parts over a table, or of a change in place, with new parts where
 * nothing was beside a conversion. Goal, basis,
 * choices, change and what is asked of the parts are its input; all other
 * members follow from them. It refers to the room that the caller has placed:
 * two drafts need two rooms.
 */
struct slate_draft {
    struct slate_room room;
    struct slate_goal goal;
    struct slate_basis basis;
    struct slate_choices choices;
    struct slate_change change;
    struct slate_ranges bad;  /**< blocks that are not to be used: ascending,
                                   apart from one another (slate_draft_bad) */
    struct slate_files files; /**< input, but for spots: on the volume of the
                                   part that asks for them; their source is the
                                   caller's */
    struct slate_bytes start; /**< input: a boot block, or three, for the volume
                                   of the part that asks for its code */
    struct slate_revisions revisions; /**< it was made with */
    uint32_t form;  /**< version of its stored form: it is in its seal */
    uint32_t parts; /**< in the order of their blocks */
    struct slate_part *part;
    struct slate_partition *partition; /**< entries of its table */
    struct slate_table_plan table;
    const struct slate_advice *advice;   /**< for the use, on this device */
    struct slate_grid grid;              /**< on which new parts stand */
    const struct slate_card_shape *card; /**< laid out as cards of this capacity
                                              are; NULL: is not */
    uint64_t refused_block;              /**< the one of SLATE_ERR_BAD_BLOCK */
    /** Data stays: no mark is put on the device, but in partitions that are
     * emptied, and what makes new content valid is written last of all. */
    bool switched;
    /** Where single logical partitions stay, or such are added beside primary
     * ones that stay: the blocks of their container, and its number. Else a
     * count of 0: a container that stays is a part like any other. */
    struct slate_range container;
    uint32_t container_number;
    bool table_stays; /**< not a byte of it changes */
    bool drops; /**< and what goes leaves the table before anything else */
    struct slate_table_plan dropped,
        former;                        /**< the table in between; before */
    struct slate_patch_plan patched;   /**< of a change in place; */
    struct slate_patch_plan unpatched; /**< before it */
    uint32_t refused;                  /**< the part that was in the way */
    struct slate_obstacle obstacle;    /**< of slate_draft_mend, when refused */
    const char *why; /**< SLATE_ERR_PARTS: in words, without a stop */
    struct slate_shortage shortage;   /**< SLATE_ERR_ROOM */
    uint8_t seal[SLATE_DIGEST_BYTES]; /**< digest of the input */
};

/**
 * Gives a draft its room, and an input of nothing: no parts, all zero.
 *
 * @param draft filled in
 * @param room  memory for all that the draft refers to, kept by reference; two
 *              drafts need two rooms
 * @param bytes of it
 */
void slate_draft_place(struct slate_draft *draft, void *room, size_t bytes);

/**
 * Gives a draft another room, larger or smaller, with all that it has. One that
 * was made has to be made again.
 *
 * @param draft a placed draft
 * @param room  as with slate_draft_place; the former one is the caller's again
 * @param bytes of it
 * @return SLATE_OK; SLATE_ERR_ROOM for too little of it: the draft stays where
 *         it is
 */
SLATE_MUST_CHECK enum slate_status slate_draft_move(struct slate_draft *draft,
                                                    void *room, size_t bytes);

/**
 * Adds a file or folder to be placed, behind those that there are; the first
 * one is the root.
 *
 * @param draft a placed draft
 * @param item  copied; its name is set
 * @param name  UTF-8, as it was found; copied
 * @return SLATE_OK; SLATE_ERR_ROOM, with nothing added
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_file(struct slate_draft *draft, const struct slate_item *item,
                 const char *name);

/**
 * Takes start-up code for the volume of the part that asks for it.
 *
 * @param draft a placed draft
 * @param bytes a boot block, or three; copied
 * @param count of them
 * @return SLATE_OK; SLATE_ERR_ROOM
 */
SLATE_MUST_CHECK enum slate_status slate_draft_start(struct slate_draft *draft,
                                                     const uint8_t *bytes,
                                                     uint32_t count);

/** What a device is, by its bus and what it says of itself; a card behind a USB
 * reader is a stick. @param facts of it, also of a glance */
enum slate_device_kind slate_device_kind_of(const struct slate_facts *facts);

/**
 * Takes from facts what a draft depends on.
 *
 * @param draft a placed draft; its basis is filled in
 * @param facts as slate_assess_look found them
 * @return SLATE_OK, or SLATE_ERR_ROOM when the room for ranges is too small,
 *         here or of the facts
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_base(struct slate_draft *draft, const struct slate_facts *facts);

/**
 * Asks for one more partition, behind those that were asked for.
 *
 * @param draft a placed draft
 * @param ask   what of it
 * @return SLATE_OK, or SLATE_ERR_ROOM when the room for parts is full
 */
SLATE_MUST_CHECK enum slate_status slate_draft_ask(struct slate_draft *draft,
                                                   const struct slate_ask *ask);

/**
 * Takes what a draft needs to know of the partitions, and of the start-up code,
 * that stay, once all parts are asked for. Reads the table; writes nothing.
 *
 * @param draft a placed draft, with its basis
 * @param facts that the basis was taken from
 * @param media the device
 * @param work  SLATE_WORK_MIN bytes
 * @return SLATE_OK, also where nothing stays; SLATE_ERR_PARTS (no such
 *         partition, no such table, a hybrid, a logical one of a chain
 * that is not plain, or beside its container);
 * SLATE_ERR_ONE_COPY when the copies of a GPT are not both sound and equal;
 * SLATE_ERR_ROOM for too little of it; SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_keep(struct slate_draft *draft, const struct slate_facts *facts,
                 struct slate_media *media, void *work);

/**
 * Asks for an attribute to be cleared in place: takes the blocks that hold its
 * bits and the checksums over them, as they are and as they shall be. Of two
 * copies the one that hosts do not read goes first, so that one is whole at any
 * time. Such a draft has no parts. Reads; writes nothing. A dirty flag that is
 * cleared leaves the volume as it is: a host checks it no more by itself.
 *
 * @param draft     a placed draft, with its basis
 * @param facts     that the basis was taken from
 * @param attribute of the facts
 * @param media     the device
 * @param work      SLATE_WORK_MIN bytes
 * @return SLATE_OK; with nothing added: SLATE_ERR_ARGUMENT for no such
 *         attribute, SLATE_ERR_CHANGED when it is not there any more,
 *         SLATE_ERR_ONE_COPY for a GPT of which one copy is not sound. After
 *         SLATE_ERR_ROOM for too little of it, SLATE_ERR_READ or
 *         SLATE_ERR_NO_DEVICE the draft has to be placed anew
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_clear(struct slate_draft *draft, const struct slate_facts *facts,
                  const struct slate_attribute *attribute,
                  struct slate_media *media, void *work);

/**
 * Asks for another label of one volume, in place: takes the blocks in which it
 * stands, every copy, as they are and as they shall be. Copies that hosts do
 * not read go first. Such a draft has no parts. Reads; writes nothing.
 *
 * @param draft     a placed draft, with its basis
 * @param facts     that the basis was taken from
 * @param partition index in the facts, or SLATE_ATTRIBUTE_WHOLE
 * @param label     UTF-8; adapted to the format; "": none
 * @param media     the device
 * @param work      SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for no such partition, for a second
 *         label or for nothing to change; SLATE_ERR_FORMAT for a volume whose
 *         label cannot be changed; SLATE_ERR_ROOM for too little of it; as
 *         slate_format.relabel. After a failure it has to be placed anew
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_label(struct slate_draft *draft, const struct slate_facts *facts,
                  uint32_t partition, const char *label,
                  struct slate_media *media, void *work);

/**
 * Tells a draft that blocks of the device are bad: nothing is written to them,
 * and new volumes mark their clusters. Input, as what is asked of the parts.
 *
 * @param draft a placed draft
 * @param first of them
 * @param count of them, at least 1; what lies beyond the device does not count
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for none, or beyond 2^63;
 *         SLATE_ERR_ROOM for too little of it
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_bad(struct slate_draft *draft, uint64_t first, uint64_t count);

/** Does a draft change in place, and nothing else? */
static inline bool slate_draft_is_change(const struct slate_draft *draft)
{
    return draft->change.clears > 0 || draft->change.mends > 0 ||
           draft->change.renamed.wanted;
}

/**
 * Makes a draft of its input: a pure function. It may be repeated with another
 * input.
 *
 * @param draft goal, basis, choices and what is asked of the parts are there
 * @return SLATE_OK; SLATE_ERR_USE, SLATE_ERR_LABEL, SLATE_ERR_CLUSTER,
 *         SLATE_ERR_BLOCK_SIZE, SLATE_ERR_PARTS, SLATE_ERR_TOO_SMALL,
 *         SLATE_ERR_TOO_LARGE; SLATE_ERR_BAD_BLOCK where table or volume cannot
 *         do without a bad block; SLATE_ERR_NAME, SLATE_ERR_FILES,
 *         SLATE_ERR_FILE_SIZE, SLATE_ERR_ROOT_FULL for files that cannot be
 *         placed, as @c files tells; SLATE_ERR_START for start-up code that
 *         does not go with the volume; SLATE_ERR_GUARD for a device with a
 * guard that no command lifts, or that is there on purpose and not named by the
 * goal; SLATE_ERR_ARGUMENT for a basis that no device can have. On failure @c
 * refused tells the part, and what follows from the input is undefined
 */
SLATE_MUST_CHECK enum slate_status slate_draft_make(struct slate_draft *draft);

/**
 * The guard that stands in the way of a draft: one that no command lifts, or
 * one that the goal would have to name.
 *
 * @param draft with its goal and basis
 * @return an enum slate_guard_kind; SLATE_GUARD_KINDS for none
 */
uint32_t slate_draft_obstacle(const struct slate_draft *draft);

/**
 * Explains why slate_draft_make refused a draft, with the numbers that matter.
 *
 * @param draft  that was refused
 * @param status what it returned
 * @param text   started by the caller; one sentence without stop is appended
 */
void slate_draft_refusal_words(const struct slate_draft *draft,
                               enum slate_status status,
                               struct slate_text *text);

/** What a volume's room goes to, as high-level formats have always told it. */
struct slate_totals {
    uint64_t bytes;        /**< of all clusters */
    uint64_t bad_bytes;    /**< in clusters that hold bad blocks */
    uint64_t system_bytes; /**< in start-up files, whole clusters */
    uint64_t file_bytes;   /**< in all other files and folders placed */
    uint64_t free_bytes;
    uint32_t system_files, files, folders;
    uint32_t cluster_bytes;
};

/**
 * The totals of a new volume.
 *
 * @param draft  a made draft
 * @param part   index of a part
 * @param totals filled in
 * @return false: the part has no FAT volume
 */
bool slate_draft_totals(const struct slate_draft *draft, uint32_t part,
                        struct slate_totals *totals);

/**
 * The remarks on a draft: why this table, what was adapted, what to expect.
 *
 * @param draft a draft
 * @param index from 0
 * @param text  started by the caller; one sentence is appended
 * @return false when there is no remark of this index
 */
bool slate_draft_remark(const struct slate_draft *draft, uint32_t index,
                        struct slate_text *text);

/**
 * A guard that enacting the draft lifts first, in words: which, and whether
 * that survives power-off.
 *
 * @param draft a draft
 * @param index from 0
 * @param kind  receives the kind; may be NULL
 * @param text  started by the caller; appended to, without a final stop
 * @return false when there is no lift of this index
 */
bool slate_draft_lift(const struct slate_draft *draft, uint32_t index,
                      enum slate_guard_kind *kind, struct slate_text *text);

/** The entry of a part in the table; logical partitions that stay have the
 * number that they have from then on. @return NULL without a table */
const struct slate_partition *slate_draft_entry(const struct slate_draft *draft,
                                                uint32_t part);

/** What an extent belongs to, when it is not a part of the draft. */
#define SLATE_PART_TABLE UINT32_MAX
#define SLATE_PART_ERASED (UINT32_MAX - 1)
#define SLATE_PART_MARK (UINT32_MAX - 2)
#define SLATE_PART_DROPPED (UINT32_MAX - 3)
#define SLATE_PART_FORMER (UINT32_MAX - 4)
/** Of a round of overwriting; role tells which, from 0. */
#define SLATE_PART_OVERWRITTEN (UINT32_MAX - 5)

/**
 * The next extent in the safe order of writes: one moment after the other, and
 * in each of them one part after the other, the table last. Old structures are
 * erased from the last one to the first. Apart from the mark and the rounds of
 * overwriting, over which new content comes, no two extents share a block.
 *
 * @param draft  a draft
 * @param walk   moves on
 * @param extent receives the extent
 * @return false at the end
 */
bool slate_draft_next(const struct slate_draft *draft, struct slate_walk *walk,
                      struct slate_extent *extent);

/**
 * The blocks that a draft writes.
 *
 * @param draft a draft
 * @param final true: without the mark, which does not stay
 * @return number of blocks
 */
uint64_t slate_draft_blocks(const struct slate_draft *draft, bool final);

/**
 * Composes blocks of an extent, from the draft alone, in any order.
 *
 * @param draft  a draft
 * @param extent of it
 * @param first  block, in the extent
 * @param count  number of blocks
 * @param data   receives count * block_bytes bytes
 * @return SLATE_OK; or what a source says
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_compose(const struct slate_draft *draft,
                    const struct slate_extent *extent, uint64_t first,
                    uint32_t count, void *data);

/**
 * Compares blocks with what the draft composes for them.
 *
 * @param draft      a draft
 * @param extent     of it
 * @param first      block, in the extent
 * @param count      number of blocks
 * @param data       count * block_bytes bytes as read from the device
 * @param scratch    room for as many; not touched where all is zeros
 * @param difference receives what differs
 * @return SLATE_OK; or what a source says
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_compare(const struct slate_draft *draft,
                    const struct slate_extent *extent, uint64_t first,
                    uint32_t count, const void *data, void *scratch,
                    struct slate_difference *difference);

/**
 * Does a draft write to any block of a range, in the end or on the way?
 *
 * @param draft a draft
 * @param first block
 * @param count at least 1
 * @return true: it does, or the range is in the room of a new part
 */
bool slate_draft_touches(const struct slate_draft *draft, uint64_t first,
                         uint64_t count);

/**
 * The last round of overwriting as what a pass goes over: all of it, as it is
 * until new content comes over it.
 *
 * @param draft  kept by reference
 * @param supply filled in
 */
void slate_draft_round_supply(const struct slate_draft *draft,
                              struct slate_supply *supply);

/** The smallest work buffer for enacting or proving, in bytes: two blocks, and
 * at least SLATE_WORK_MIN. @param draft a draft */
size_t slate_draft_work_bytes(const struct slate_draft *draft);

/** What an extent of a draft is written for, as a step in words: "write the
 * root directory". Never NULL. */
const char *slate_draft_step(const struct slate_draft *draft,
                             const struct slate_extent *extent);

#ifdef __cplusplus
}
#endif
#endif
