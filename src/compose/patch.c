/* SPDX-License-Identifier: MIT */
/* Kept blocks, with the bytes in them that are changed. */
#include <string.h>

#include "base/base.h"
#include "compose/compose.h"

uint32_t slate_patch_find(const struct slate_patch *patch, uint32_t count,
                          uint64_t lba)
{
    uint32_t low = 0, high = count;

    SLATE_BISECT(low, high, i, patch[i].lba < lba);
    return low;
}

static bool follows(const struct slate_patch *patch)
{
    return patch[1].lba == patch[0].lba + 1 &&
           patch[1].moment == patch[0].moment && patch[1].role == patch[0].role;
}

/* Blocks that adjoin are one extent. */
static bool patch_next(const void *plan, enum slate_moment moment, uint64_t *at,
                       struct slate_extent *extent)
{
    const struct slate_patch_plan *patches = plan;

    while (*at < patches->count) {
        const struct slate_patch *patch = &patches->patch[(*at)++];

        if (patch->moment != moment)
            continue;
        extent->first = patch->lba;
        extent->count = 1;
        extent->role = patch->role;
        extent->zero = false;
        for (; *at < patches->count && follows(patch); patch++, ++*at)
            extent->count++;
        return true;
    }
    return false;
}

static bool patch_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    const struct slate_patch_plan *patches = plan;
    uint32_t at = slate_patch_find(patches->patch, patches->count, lba);

    *until = UINT64_MAX;
    if (at == patches->count)
        return false;
    *until = patches->patch[at].lba;
    if (*until != lba)
        return false;
    ++*until;
    return true;
}

static enum slate_status patch_fill(const void *plan, uint64_t first,
                                    uint32_t count, void *data)
{
    const struct slate_patch_plan *patches = plan;
    uint32_t at = slate_patch_find(patches->patch, patches->count, first);
    size_t block = patches->block_bytes;
    uint8_t *to = data;

    for (uint32_t i = 0; i < count; i++, at++) {
        const uint8_t *former = patches->bytes + 2 * block * at;

        if (at == patches->count || patches->patch[at].lba != first + i)
            return SLATE_ERR_INTERNAL;
        memcpy(to + i * block, patches->former ? former : former + block,
               block);
    }
    return SLATE_OK;
}

static const char *const steps[] = {
    "change the table", "change the backup of the table",
    "change a volume in place", "change the copy that a volume keeps"};

const struct slate_composer slate_patch_composer = {
    "patch", patch_next, patch_covers, patch_fill, steps};
