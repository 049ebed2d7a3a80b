/* SPDX-License-Identifier: MIT */
/* The extents of a draft in their safe order, and every block of them. */
#include <string.h>

#include "trueslate/draft.h"

enum stage {
    STAGE_MARK,
    STAGE_ERASE,
    STAGE_VOLUME,
    STAGE_TABLE,
    STAGE_FIRST,
    STAGE_END
};

static void next_stage(struct slate_walk *walk)
{
    walk->stage++;
    walk->index = 0;
    walk->at = 0;
}

/* All that stays on the device: the volume's extents, then the table's. */
static bool content_extent(const struct slate_draft *draft, uint32_t index,
                           struct slate_extent *extent)
{
    uint32_t own = 0;

    while (slate_fat32_extent(&draft->volume, own, extent)) {
        if (own++ == index)
            return true;
    }
    return slate_table_extent(&draft->table, index - own, extent);
}

/* Is this block part of the new content? Either way, receives the block up to
 * which that stays so. */
static bool is_content(const struct slate_draft *draft, uint64_t lba,
                       uint64_t *until)
{
    struct slate_extent extent;

    *until = UINT64_MAX;
    for (uint32_t i = 0; content_extent(draft, i, &extent); i++) {
        uint64_t end = extent.first + extent.count;

        if (lba >= extent.first && lba < end) {
            *until = end;
            return true;
        }
        if (extent.first > lba && extent.first < *until)
            *until = extent.first;
    }
    return false;
}

/* The part of an old range, from walk->at on, that new content does not cover.
 * The ranges are taken from the last to the first. */
static bool next_erase(const struct slate_draft *draft, struct slate_walk *walk,
                       struct slate_extent *extent)
{
    const struct slate_basis *basis = &draft->basis;

    while (walk->index < basis->old_count) {
        const struct slate_range *old =
            &basis->old[basis->old_count - 1 - walk->index];
        uint64_t end = old->first + old->count, until;
        uint64_t at = walk->at > old->first ? walk->at : old->first;

        while (at < end && is_content(draft, at, &until))
            at = until;
        if (at < end) {
            (void)is_content(draft, at, &until);
            extent->first = at;
            extent->count = (until < end ? until : end) - at;
            extent->purpose = SLATE_PURPOSE_ERASE;
            walk->at = at + extent->count;
            return true;
        }
        walk->index++;
        walk->at = 0;
    }
    return false;
}

static bool next_volume(const struct slate_draft *draft,
                        struct slate_walk *walk, struct slate_extent *extent)
{
    while (slate_fat32_extent(&draft->volume, walk->index, extent)) {
        walk->index++;
        if (extent->first != 0) /* block 0 comes last of all */
            return true;
    }
    return false;
}

static bool next_table(const struct slate_draft *draft, struct slate_walk *walk,
                       struct slate_extent *extent)
{
    while (slate_table_extent(&draft->table, walk->index, extent)) {
        walk->index++;
        if (extent->first != 0)
            return true;
    }
    return false;
}

static void block_zero(struct slate_walk *walk, enum slate_purpose purpose,
                       struct slate_extent *extent)
{
    extent->first = 0;
    extent->count = 1;
    extent->purpose = purpose;
    next_stage(walk);
}

bool slate_draft_next(const struct slate_draft *draft, struct slate_walk *walk,
                      struct slate_extent *extent)
{
    if (walk->stage == STAGE_MARK) {
        block_zero(walk, SLATE_PURPOSE_MARK, extent);
        return true;
    }
    if (walk->stage == STAGE_ERASE) {
        if (next_erase(draft, walk, extent))
            return true;
        next_stage(walk);
    }
    if (walk->stage == STAGE_VOLUME) {
        if (next_volume(draft, walk, extent))
            return true;
        next_stage(walk);
    }
    if (walk->stage == STAGE_TABLE) {
        if (next_table(draft, walk, extent))
            return true;
        next_stage(walk);
    }
    if (walk->stage == STAGE_FIRST) {
        block_zero(walk, SLATE_PURPOSE_FIRST, extent);
        return true;
    }
    return false;
}

uint64_t slate_draft_blocks(const struct slate_draft *draft, bool final)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;
    uint64_t blocks = 0;

    while (slate_draft_next(draft, &walk, &extent)) {
        if (!final || extent.purpose != SLATE_PURPOSE_MARK)
            blocks += extent.count;
    }
    return blocks;
}

static void mark_piece(const struct slate_draft *draft, uint8_t *piece)
{
    struct slate_mark mark;

    memcpy(mark.seal, draft->seal, sizeof mark.seal);
    memcpy(mark.tag, draft->basis.tag, sizeof mark.tag);
    slate_mark_piece(&mark, piece);
}

void slate_draft_piece(const struct slate_draft *draft,
                       enum slate_purpose purpose, uint64_t lba,
                       uint32_t offset, uint8_t *piece)
{
    bool table = purpose == SLATE_PURPOSE_TABLE ||
                 purpose == SLATE_PURPOSE_TABLE_BACKUP ||
                 (purpose == SLATE_PURPOSE_FIRST &&
                  draft->table.kind != SLATE_TABLE_NONE);

    if (purpose == SLATE_PURPOSE_MARK)
        mark_piece(draft, piece);
    else if (purpose == SLATE_PURPOSE_ERASE)
        memset(piece, 0, SLATE_PIECE_BYTES);
    else if (table)
        slate_table_piece(&draft->table, lba, offset, piece);
    else
        slate_fat32_piece(&draft->volume, lba, offset, piece);
}

void slate_draft_compose(const struct slate_draft *draft,
                         enum slate_purpose purpose, uint64_t lba,
                         uint32_t count, void *data)
{
    uint32_t block_bytes = draft->basis.geometry.block_bytes;
    uint8_t *to = data;

    for (uint32_t i = 0; i < count; i++) {
        for (uint32_t at = 0; at < block_bytes; at += SLATE_PIECE_BYTES) {
            slate_draft_piece(draft, purpose, lba + i, at, to);
            to += SLATE_PIECE_BYTES;
        }
    }
}

uint32_t slate_draft_compare(const struct slate_draft *draft,
                             enum slate_purpose purpose, uint64_t lba,
                             uint32_t count, const void *data)
{
    uint32_t block_bytes = draft->basis.geometry.block_bytes;
    const uint8_t *from = data;
    uint8_t piece[SLATE_PIECE_BYTES];

    for (uint32_t i = 0; i < count; i++) {
        for (uint32_t at = 0; at < block_bytes; at += SLATE_PIECE_BYTES) {
            slate_draft_piece(draft, purpose, lba + i, at, piece);
            if (memcmp(piece, from, SLATE_PIECE_BYTES) != 0)
                return i;
            from += SLATE_PIECE_BYTES;
        }
    }
    return count;
}

const char *slate_purpose_words(enum slate_purpose purpose)
{
    switch (purpose) {
    case SLATE_PURPOSE_MARK:
        return "put the unfinished mark in block 0";
    case SLATE_PURPOSE_ERASE:
        return "erase old structures";
    case SLATE_PURPOSE_RESERVED:
        return "write the volume's reserved blocks";
    case SLATE_PURPOSE_FAT_COPY:
        return "write the second allocation table";
    case SLATE_PURPOSE_FAT:
        return "write the first allocation table";
    case SLATE_PURPOSE_ROOT:
        return "write the root directory";
    case SLATE_PURPOSE_BOOT:
        return "write the volume's boot block";
    case SLATE_PURPOSE_TABLE_BACKUP:
        return "write the backup partition table";
    case SLATE_PURPOSE_TABLE:
        return "write the partition table";
    case SLATE_PURPOSE_FIRST:
    default:
        return "write the true block 0";
    }
}
