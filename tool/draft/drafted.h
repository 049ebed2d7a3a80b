/* SPDX-License-Identifier: MIT */
/* Drafts with room for all partitions that a GPT can hold. */
#ifndef TOOL_DRAFTED_H
#define TOOL_DRAFTED_H

#include "draft/folder.h"

#define DRAFTED_PARTS OPTION_ASKS_MOST
#define DRAFTED_BAD 16384u

struct drafted {
    struct slate_draft draft;
    void *room;
    size_t bytes; /* of it */
    struct folder folder;
    struct slate_range failed_range[DRAFTED_BAD];
    struct slate_ranges failed;
};

/* A placed draft with nothing in it; drafted_free lets it go. Running out of
 * memory ends the program. */
struct slate_draft *drafted_new(void);
void drafted_free(struct slate_draft *draft);

/* Twice the room; what there is stays. */
void drafted_enlarge(struct slate_draft *draft);

/* Adds a file or folder, with as much room as that takes. */
void drafted_add_file(struct slate_draft *draft, const struct slate_item *item,
                      const char *name);

/* Blocks that failed while it was carried out and proved. */
struct slate_ranges *drafted_failed(const struct slate_draft *draft);

/* Where its files come from; and the path of that. */
struct folder *drafted_folder(struct slate_draft *draft);
const char *drafted_path(const struct slate_draft *draft);

#endif
