/* SPDX-License-Identifier: MIT */
/* Drafts kept and brought back: one list of fields, visited by whoever stores,
 * loads, seals or shows them. */
#ifndef TRUESLATE_STORED_H
#define TRUESLATE_STORED_H

#include "trueslate/draft.h"

#ifdef __cplusplus
extern "C" {
#endif

/** The name of a choice, as programs read it. @return NULL beyond the last */
typedef const char *(*slate_name_of)(uint32_t choice);

/** Which rounds are read back: "last". @return NULL beyond the last choice */
const char *slate_read_back_name(uint32_t choice);

/** When blocks are discarded: "no". @return NULL beyond the last choice */
const char *slate_discard_name(uint32_t choice);

/** What a field is. */
enum slate_field_kind {
    SLATE_FIELD_ENTER, /**< a group, a list or an element of one begins */
    SLATE_FIELD_LEAVE, /**< and ends */
    SLATE_FIELD_COUNT, /**< elements of the list that was entered */
    /** Of what comes next: the elements of ranges and evidence, the bytes of a
     * blob; or the bytes of a text with its zero. One that loads tells it, so
     * that there is room; others leave it alone. */
    SLATE_FIELD_SIZE,
    SLATE_FIELD_TEXT_SIZE,
    SLATE_FIELD_NUMBER,
    SLATE_FIELD_FLAG,
    SLATE_FIELD_CHOICE, /**< a value without a name is not possible */
    SLATE_FIELD_BITS,   /**< a sum of bits, each of which has a name */
    SLATE_FIELD_TEXT,
    SLATE_FIELD_BYTES,
    SLATE_FIELD_RANGES,
    SLATE_FIELD_EVIDENCE,
    SLATE_FIELD_BLOB
};

/** A field of a draft's input, where it stands in the draft. */
struct slate_field {
    enum slate_field_kind kind;
    const char *name; /**< NULL: an element of a list */
    union {
        uint64_t *number; /**< also sizes */
        uint32_t *word;   /**< counts, choices, bits */
        bool *flag;
        char *text;
        uint8_t *bytes;
        struct slate_ranges *ranges;
        struct slate_evidence *evidence;
        struct slate_bytes *blob;
    } at;
    /** The largest number; how many choices or bits there are; the room of a
     * text, or the length of bytes. */
    uint64_t most;
    slate_name_of name_of; /**< of choices and bits */
};

/**
 * Gives a field its default, as it has where it is not stored: zero, nothing,
 * or the first of its choices.
 *
 * @param field a value, a text, bytes or a list; sizes are the caller's
 * @return false where it has none, and has to be stored
 */
bool slate_field_set_default(const struct slate_field *field);

/**
 * A visitor of the fields of a draft's input: one that stores reads a field,
 * one that loads sets it. It returns false to end the visit.
 */
struct slate_visitor {
    bool (*visit)(void *context, const struct slate_field *field);
    void *context;
};

/**
 * Visits all fields of a draft's input, in an order that never changes within a
 * version of drafts.
 *
 * @param draft   a placed draft
 * @param visitor told of each field
 * @return false when the visitor ended the visit
 */
bool slate_draft_visit(struct slate_draft *draft,
                       const struct slate_visitor *visitor);

/**
 * Do two drafts want the same of a device? Their goals are compared, what is
 * asked of their parts, the blocks that are not to be used, the files and the
 * start-up code; not what the device was like, nor the free choices. Which
 * standing a part has is compared as it was asked for: before the drafts are
 * made, or after both were.
 *
 * @param one   a placed draft; it is not changed
 * @param other another one
 * @return true when every field of these is the same
 */
bool slate_draft_same_wish(struct slate_draft *one, struct slate_draft *other);

/**
 * Stores a draft, in the form of docs/formats.md.
 *
 * @param draft a draft; it is not changed
 * @param bytes receives the stored form; may be NULL when @p room is 0
 * @param room  of it
 * @param used  receives the length that the stored form has
 * @return SLATE_OK; SLATE_ERR_BUFFER when the room is too small
 */
SLATE_MUST_CHECK enum slate_status slate_draft_store(struct slate_draft *draft,
                                                     uint8_t *bytes,
                                                     size_t room, size_t *used);

/**
 * Prepares for an input that is visited: of which version is it?
 *
 * @param draft   a placed draft
 * @param version of its stored form
 * @return SLATE_OK; SLATE_ERR_DRAFT_VERSION for one that is not known
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_take_form(struct slate_draft *draft, uint32_t version);

/**
 * Makes a draft of an input that was visited: by what it was made with, or not
 * at all.
 *
 * @param draft with an input of a version that was taken
 * @return as slate_draft_make; SLATE_ERR_DRAFT_REVISION where something else
 * would be written by now
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_make_again(struct slate_draft *draft);

/**
 * Brings a stored draft back, and makes it.
 *
 * @param draft  a placed draft
 * @param bytes  the stored form
 * @param length of it
 * @return SLATE_OK; SLATE_ERR_DRAFT_VERSION (its form is not known, or has
 * fields that are not), SLATE_ERR_DRAFT_REVISION (something else would be
 * written by now), SLATE_ERR_DRAFT_DAMAGED (what is stored is no draft, or was
 * changed), SLATE_ERR_ROOM for too little of it (of names,
 * SLATE_ERR_DRAFT_DAMAGED)
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_restore(struct slate_draft *draft, const uint8_t *bytes,
                    size_t length);

#ifdef __cplusplus
}
#endif
#endif
