/* SPDX-License-Identifier: MIT */
/* Blocks that a draft changes in place, gathered from the device: each as it
 * is, and as it shall be. */
#include "base/base.h"
#include "draft/make/make.h"
#include "draft/mend/mend.h"
#include "compose/compose.h"

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
static enum slate_status make_room(const struct slate_patching *patching,
                                   uint32_t index)
{
    struct slate_change *change = &patching->draft->change;
    size_t both = 2 * block_bytes(patching);
    uint8_t *bytes;
    enum slate_status status = slate_draft_grow(
        patching->draft, "blocks that are changed", &change->patch,
        (uint64_t)change->patches + 1, sizeof *change->patch);

    SLATE_THEN(status,
               slate_draft_grow_bytes(patching->draft,
                                      "blocks that are changed", &change->bytes,
                                      (uint64_t)change->bytes.count + both));
    SLATE_TRY(status);
    bytes = change->bytes.byte + both * index;
    memmove(&change->patch[index + 1], &change->patch[index],
            (change->patches - index) * sizeof change->patch[0]);
    memmove(bytes + both, bytes, both * (change->patches - index));
    return SLATE_OK;
}

enum slate_status slate_patch_block(const struct slate_patching *patching,
                                    const struct slate_patch *wanted,
                                    uint8_t **block)
{
    struct slate_change *change = &patching->draft->change;
    size_t bytes = block_bytes(patching);
    uint32_t index;

    if (!is_gathered(patching, wanted->lba, &index)) {
        SLATE_TRY(make_room(patching, index));
        SLATE_TRY(slate_media_read(patching->media, wanted->lba, 1,
                                   wanted_at(patching, index) - bytes));
        memcpy(wanted_at(patching, index), wanted_at(patching, index) - bytes,
               bytes);
        change->patch[index] = *wanted;
        change->patches++;
        change->bytes.count += (uint32_t)(2 * bytes);
    }
    *block = wanted_at(patching, index);
    return SLATE_OK;
}

enum slate_status slate_patch_get(const struct slate_patching *patching,
                                  uint64_t byte, uint32_t length,
                                  uint8_t **bytes)
{
    size_t size = block_bytes(patching);
    uint64_t first = byte / size, last = (byte + length - 1) / size;
    enum slate_status status = SLATE_OK;

    if ((last - first + 1) * size > SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    for (uint64_t lba = first; lba <= last && status == SLATE_OK; lba++)
        status = slate_patch_read(
            patching, lba, patching->work + (size_t)(lba - first) * size);
    *bytes = patching->work + byte % size;
    return status;
}

enum slate_status slate_patch_put(const struct slate_patching *patching,
                                  uint64_t byte, const uint8_t *bytes,
                                  uint32_t length)
{
    size_t size = block_bytes(patching);

    while (length > 0) {
        const struct slate_patch patch = {byte / size, SLATE_MOMENT_BODY,
                                          SLATE_PATCH_VOLUME};
        uint32_t at = (uint32_t)(byte % size);
        uint32_t here = size - at < length ? (uint32_t)(size - at) : length;
        uint8_t *block;
        SLATE_TRY(slate_patch_block(patching, &patch, &block));
        memcpy(block + at, bytes, here);
        bytes += here;
        byte += here;
        length -= here;
    }
    return SLATE_OK;
}
