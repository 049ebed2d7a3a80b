/* SPDX-License-Identifier: MIT */
/* The room of a draft: arrays that grow in the memory that the caller gave. */
#ifndef SLATE_DRAFT_ROOM_H
#define SLATE_DRAFT_ROOM_H

#include "trueslate/draft.h"

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

#endif
