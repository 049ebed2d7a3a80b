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

/**
 * A visitor of the fields of a draft's input. Each operation gets the field
 * itself: one that stores reads it, one that loads sets it. Names are NULL for
 * the elements of a list. Each returns false to end the visit.
 */
struct slate_visitor {
    /** Groups, lists and their elements begin and end. */
    bool (*enter)(void *context, const char *name);
    bool (*leave)(void *context);
    /** The number of elements of the list that was entered. */
    bool (*count)(void *context, uint32_t *count);
    /** One that loads tells how large what comes next is, so that there is room
     * for it: the elements of ranges and evidence, the bytes of a blob, or,
     * where it says so, those of a text with its zero. Others leave it alone.
     */
    bool (*size)(void *context, const char *name, bool text, uint64_t *size);
    bool (*number)(void *context, const char *name, uint64_t *value,
                   uint64_t most);
    bool (*flag)(void *context, const char *name, bool *value);
    /** A value below choices; one without a name is not possible. */
    bool (*choice)(void *context, const char *name, uint32_t *value,
                   slate_name_of name_of, uint32_t choices);
    /** A sum of bits, each of which has a name. */
    bool (*bits)(void *context, const char *name, uint32_t *value,
                 slate_name_of name_of, uint32_t choices);
    bool (*text)(void *context, const char *name, char *text, size_t room);
    bool (*bytes)(void *context, const char *name, uint8_t *bytes,
                  size_t length);
    bool (*ranges)(void *context, const char *name,
                   struct slate_ranges *ranges);
    bool (*evidence)(void *context, const char *name,
                     struct slate_evidence *evidence);
    bool (*blob)(void *context, const char *name, struct slate_bytes *bytes);
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
 * Brings a stored draft back, and makes it.
 *
 * @param draft  a placed draft
 * @param bytes  the stored form
 * @param length of it
 * @return SLATE_OK; SLATE_ERR_DRAFT_VERSION, SLATE_ERR_DRAFT_DAMAGED (what is
 *         stored is no draft, or was changed), SLATE_ERR_ROOM for too little
 *         of it (of names, SLATE_ERR_DRAFT_DAMAGED)
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_restore(struct slate_draft *draft, const uint8_t *bytes,
                    size_t length);

#ifdef __cplusplus
}
#endif
#endif
