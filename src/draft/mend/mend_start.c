/* SPDX-License-Identifier: MIT */
/* Mending the start of a volume, from the copy that it keeps of it. */
#include "base/base.h"
#include "draft/mend/mend.h"
#include "volume/common/common.h"

/* Bytes of the device, block by block through the work buffer. */
static enum slate_status copy_run(const struct slate_mending *mending,
                                  uint64_t from, uint64_t to, uint32_t bytes)
{
    const struct slate_patching *patching = &mending->patching;
    uint32_t block = mending->facts->geometry.block_bytes;
    enum slate_status status = SLATE_OK;

    while (bytes > 0 && status == SLATE_OK) {
        uint32_t at = (uint32_t)(from % block);
        uint32_t here = block - at < bytes ? block - at : bytes;

        status =
            slate_media_read(patching->media, from / block, 1, patching->work);
        SLATE_THEN(status,
                   slate_patch_put(patching, to, patching->work + at, here));
        from += here;
        to += here;
        bytes -= here;
    }
    return status;
}

static enum slate_status make_first(const struct slate_mending *mending,
                                    const struct slate_start_copy *copy,
                                    uint64_t byte)
{
    uint32_t length = copy->run[0].bytes;
    uint8_t *first;

    SLATE_TRY(slate_patch_get(&mending->patching, byte, length, &first));
    copy->make_first(first);
    return slate_patch_put(&mending->patching, byte, first, length);
}

enum slate_status slate_mend_start(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    struct slate_range range = {0, facts->geometry.block_count};
    struct slate_start_copy copy;
    enum slate_status status;
    uint64_t base;

    if (mending->partition != SLATE_ATTRIBUTE_WHOLE) {
        range.first = facts->partition[mending->partition].first;
        range.count = facts->partition[mending->partition].count;
    }
    base = range.first * facts->geometry.block_bytes;
    status = slate_volume_start_find(mending->patching.media, &range,
                                     mending->patching.work, &copy);
    if (status == SLATE_ERR_FORMAT)
        return SLATE_ERR_CHANGED;
    for (uint32_t i = 0; i < copy.runs && status == SLATE_OK; i++)
        status = copy_run(mending, base + copy.run[i].from,
                          base + copy.run[i].to, copy.run[i].bytes);
    if (status == SLATE_OK && copy.make_first != NULL)
        status = make_first(mending, &copy, base + copy.run[0].to);
    return status;
}
