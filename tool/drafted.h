/* SPDX-License-Identifier: MIT */
/* Drafts with room for all partitions that a GPT can hold. */
#ifndef TOOL_DRAFTED_H
#define TOOL_DRAFTED_H

#include "folder.h"

#define DRAFTED_PARTS OPTION_ASKS_MOST
/* Three blocks and the array. */
#define DRAFTED_IMAGE (3 * SLATE_BLOCK_MAX + 1048576u)
#define DRAFTED_CLEARS (SLATE_ATTRIBUTE_KINDS * DRAFTED_PARTS)
#define DRAFTED_MENDS 64u
#define DRAFTED_PATCHES 1024u
#define DRAFTED_RANGES (2 + 2 * DRAFTED_PARTS)
#define DRAFTED_BAD 16384u
#define DRAFTED_START 1536u

struct drafted {
    struct slate_draft draft;
    struct slate_part part[DRAFTED_PARTS];
    struct slate_partition partition[DRAFTED_PARTS + 1];
    struct slate_range range[DRAFTED_RANGES];
    struct slate_seen seen[SLATE_EVIDENCE_RANGES];
    uint8_t image[DRAFTED_IMAGE];
    struct slate_cleared clear[DRAFTED_CLEARS];
    struct slate_mended mend[DRAFTED_MENDS];
    struct slate_patch patch[DRAFTED_PATCHES];
    struct slate_range bad[DRAFTED_BAD];
    uint8_t patched[2 * DRAFTED_PATCHES * SLATE_BLOCK_MAX];
    uint8_t start[DRAFTED_START];
    struct folder folder;
    struct slate_range failed_range[DRAFTED_BAD];
    struct slate_ranges failed;
};

/* A placed draft with nothing in it; drafted_free lets it go. Running out of
 * memory ends the program. */
struct slate_draft *drafted_new(void);
void drafted_free(struct slate_draft *draft);

/* Room for so many files and folders, and bytes of their names; what there is
 * stays. */
void drafted_make_room(struct slate_draft *draft, uint32_t items,
                       uint32_t names);

/* Blocks that failed while it was carried out and proved. */
struct slate_ranges *drafted_failed(const struct slate_draft *draft);

/* Where its files come from; and the path of that. */
struct folder *drafted_folder(struct slate_draft *draft);
const char *drafted_path(const struct slate_draft *draft);

#endif
