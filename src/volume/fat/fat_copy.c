/* SPDX-License-Identifier: MIT */
/* What the first block of FAT leads to, the copy that FAT32 keeps of it, and
 * what it says of its place. */

#include "base/base.h"
#include "volume/fat/fat.h"

#define FAT32_COPY 6u        /* blocks; FAT32 specification 1.03, 3.3 */
#define HIDDEN_BLOCKS_AT 28u /* blocks ahead of the volume */

enum slate_here slate_fat_place(struct slate_reader *reader)
{
    const uint8_t *boot = slate_reader_at(reader, 0, SLATE_PIECE_BYTES);

    return slate_volume_told(
        reader, boot == NULL ? 0 : slate_le32(boot + HIDDEN_BLOCKS_AT));
}

/* The first entry of a table repeats the medium, and has ones above it (FAT32
 * specification 1.03, 4.2). */
static bool leads_on(struct slate_reader *reader, const uint8_t *boot,
                     uint32_t mask)
{
    uint32_t block = reader->media->geometry.block_bytes;
    uint32_t medium = boot[SLATE_FAT_MEDIUM];
    const uint8_t *entry;

    if (slate_le16(boot + SLATE_FAT_BYTES_PER_BLOCK) != block)
        return false;
    entry = slate_reader_at(
        reader, (uint64_t)slate_le16(boot + SLATE_FAT_RESERVED_BLOCKS) * block,
        4);
    return entry != NULL &&
           (slate_le32(entry) & mask) == ((0x0FFFFF00u | medium) & mask);
}

static uint32_t mask_of(enum slate_volume_kind kind)
{
    return kind == SLATE_VOLUME_FAT12   ? 0xFFFu
           : kind == SLATE_VOLUME_FAT16 ? 0xFFFFu
                                        : 0x0FFFFFFFu;
}

bool slate_fat_leads_on(struct slate_reader *reader,
                        const struct slate_volume *volume)
{
    const uint8_t *boot = slate_reader_at(reader, 0, SLATE_PIECE_BYTES);

    return boot != NULL && leads_on(reader, boot, mask_of(volume->kind));
}

/* A copy may have outlived its volume: it counts as long as what it leads to is
 * there still. */
bool slate_fat_find_copy(struct slate_reader *reader,
                         struct slate_volume *volume)
{
    uint64_t byte = (uint64_t)FAT32_COPY * reader->media->geometry.block_bytes;
    const uint8_t *found = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);
    uint8_t boot[SLATE_PIECE_BYTES];
    struct slate_volume copy = {.kind = SLATE_VOLUME_NONE};

    if (found == NULL)
        return false;
    memcpy(boot, found, sizeof boot);
    if (!slate_fat_read(reader, boot, SLATE_DEPTH_GLANCE, &copy) ||
        copy.kind != SLATE_VOLUME_FAT32)
        return false;
    slate_volume_take_copy(reader, copy.kind, byte, volume);
    volume->kept = leads_on(reader, boot, mask_of(copy.kind));
    return true;
}

/* The block of figures changes in use: it comes back where it is not there. */
void slate_fat_add_runs(struct slate_reader *reader, uint64_t from,
                        struct slate_start_copy *copy)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *figures = slate_reader_at(reader, block, SLATE_PIECE_BYTES);
    bool there =
        figures != NULL && slate_le32(figures) == SLATE_FAT_INFO_LEAD_VALUE;

    slate_volume_add_run(copy, from, 0, block);
    figures = slate_reader_at(reader, from + block, SLATE_PIECE_BYTES);
    if (!there && figures != NULL &&
        slate_le32(figures) == SLATE_FAT_INFO_LEAD_VALUE)
        slate_volume_add_run(copy, from + block, block, block);
}
