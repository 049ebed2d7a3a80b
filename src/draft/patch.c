/* SPDX-License-Identifier: MIT */
/* Blocks that a draft changes in place, gathered from the device: each as it
 * is, and as it shall be. */
#include "draft/patch.h"

#include <string.h>

static size_t block_bytes(const struct slate_patching *patching)
{
    return patching->media->geometry.block_bytes;
}

/* The block as it shall be, by its index. */
static uint8_t *wanted_at(const struct slate_patching *patching, uint32_t index)
{
    return patching->draft->change.bytes.byte +
           (2 * (size_t)index + 1) * block_bytes(patching);
}

static bool is_gathered(const struct slate_patching *patching, uint64_t lba,
                        uint32_t *index)
{
    const struct slate_change *change = &patching->draft->change;

    *index = slate_patch_find(change->patch, change->patches, lba);
    return *index < change->patches && change->patch[*index].lba == lba;
}

enum slate_status slate_patch_read(const struct slate_patching *patching,
                                   uint64_t lba, uint8_t *block)
{
    uint32_t index;

    if (!is_gathered(patching, lba, &index))
        return slate_media_read(patching->media, lba, 1, block);
    memcpy(block, wanted_at(patching, index), block_bytes(patching));
    return SLATE_OK;
}

/* Makes room for one more, at its place among the others. */
static bool make_room(const struct slate_patching *patching, uint32_t index)
{
    struct slate_change *change = &patching->draft->change;
    size_t both = 2 * block_bytes(patching);
    uint8_t *bytes = change->bytes.byte + both * index;

    if (change->patches == patching->draft->room.patches ||
        change->bytes.room - change->bytes.count < both)
        return false;
    memmove(&change->patch[index + 1], &change->patch[index],
            (change->patches - index) * sizeof change->patch[0]);
    memmove(bytes + both, bytes, both * (change->patches - index));
    return true;
}

enum slate_status slate_patch_block(const struct slate_patching *patching,
                                    const struct slate_patch *wanted,
                                    uint8_t **block)
{
    struct slate_change *change = &patching->draft->change;
    size_t bytes = block_bytes(patching);
    enum slate_status status;
    uint32_t index;

    if (!is_gathered(patching, wanted->lba, &index)) {
        if (!make_room(patching, index))
            return SLATE_ERR_BUFFER;
        status = slate_media_read(patching->media, wanted->lba, 1,
                                  wanted_at(patching, index) - bytes);
        if (status != SLATE_OK)
            return status;
        memcpy(wanted_at(patching, index), wanted_at(patching, index) - bytes,
               bytes);
        change->patch[index] = *wanted;
        change->patches++;
        change->bytes.count += (uint32_t)(2 * bytes);
    }
    *block = wanted_at(patching, index);
    return SLATE_OK;
}
