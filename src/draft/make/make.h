/* SPDX-License-Identifier: MIT */
/* Inside draft: how one is made, stored and put into its room. */
#ifndef SLATE_DRAFT_MAKE_H
#define SLATE_DRAFT_MAKE_H

#include "trueslate/draft.h"
#include "trueslate/stored.h"

/* Can the input of a draft be at all? It may come from a file. */

/* Are goal and asks made of values that there are? */
bool slate_draft_input_is_possible(const struct slate_draft *draft);

bool slate_draft_block_size_is_possible(const struct slate_draft *draft);

/* Could basis and change be of a device? Nothing below may divide by zero,
 * overflow or write beyond it. */
bool slate_draft_basis_is_possible(const struct slate_draft *draft);

/* The room of a draft: arrays that grow in the memory that the caller gave. */

/* Notes what is too small. Returns SLATE_ERR_ROOM. */
enum slate_status slate_draft_lacks(struct slate_draft *draft, const char *of,
                                    uint64_t needed);

/* Makes an array hold so many elements of a size; what it has stays, though it
 * may move. of: what these are, in words; array: the address of the pointer to
 * the first one, which may be NULL. Of what is too large, SLATE_ERR_ROOM. */
enum slate_status slate_draft_grow(struct slate_draft *draft, const char *of,
                                   void *array, uint64_t count, size_t each);

/* The same, with the room that they tell. */
enum slate_status slate_draft_grow_ranges(struct slate_draft *draft,
                                          const char *of,
                                          struct slate_ranges *ranges,
                                          uint64_t count);
enum slate_status slate_draft_grow_bytes(struct slate_draft *draft,
                                         const char *of,
                                         struct slate_bytes *bytes,
                                         uint64_t count);
enum slate_status slate_draft_grow_seen(struct slate_draft *draft,
                                        uint64_t count);

/* Both arrays of items, and the names of all of them. */
enum slate_status slate_draft_grow_files(struct slate_draft *draft,
                                         uint64_t items, uint64_t names);

/* The revisions of all that an input makes use of: noted, or compared. */
void slate_revisions_note(struct slate_draft *draft);
bool slate_revisions_hold(const struct slate_draft *draft);

/* The seal of a draft: the digest of its stored form. */

void slate_draft_seal(struct slate_draft *draft,
                      uint8_t seal[SLATE_DIGEST_BYTES]);

/* Where the bytes of a stored form go: into a digest, and into a buffer as far
 * as it reaches. */
struct slate_sink {
    struct slate_sha256 sha;
    uint8_t *bytes;
    size_t room, used;
};

void slate_sink_put(struct slate_sink *sink, const void *bytes, size_t length);

/* Of CBOR: major types, and bytes. */
enum {
    SLATE_CBOR_NUMBER = 0,
    SLATE_CBOR_BYTES = 2,
    SLATE_CBOR_TEXT = 3,
    SLATE_CBOR_LIST = 4,
    SLATE_CBOR_MAP = 0xBF, /* of a length that is not told */
    SLATE_CBOR_END = 0xFF, /* of it */
    SLATE_CBOR_TRUE = 0xF5
};

/* The fields of a draft, or of what is wanted, by their names. */
void slate_draft_put_named(struct slate_draft *draft, struct slate_sink *sink);
void slate_draft_put_wish(struct slate_draft *draft, struct slate_sink *sink);

/* Reads them; used: receives how many bytes they took. SLATE_ERR_DRAFT_VERSION
 * for names that are not known, SLATE_ERR_DRAFT_DAMAGED. */
enum slate_status slate_draft_take_named(struct slate_draft *draft,
                                         const uint8_t *bytes, size_t length,
                                         size_t *used);

/* The same of version 13, with the number of the version ahead when put. */
void slate_draft_put_thirteen(struct slate_draft *draft,
                              struct slate_sink *sink);
enum slate_status slate_draft_take_thirteen(struct slate_draft *draft,
                                            const uint8_t *bytes, size_t length,
                                            size_t *used);

/* The fields of what is wanted, in an order of their own. */
bool slate_draft_visit_wish(struct slate_draft *draft,
                            const struct slate_visitor *visitor);

#endif
