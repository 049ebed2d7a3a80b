/* SPDX-License-Identifier: MIT */
/* XFS: each allocation group begins with a copy of the superblock, and a header
 * with its number behind it. */

#include "volume/known/known.h"

#define SECTOR_AT 102u
#define GROUP_AT 8u /* of the header: its number */

static void take(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_be32(run + 4);

    if (block >= 512 && block <= 65536 &&
        slate_be64(run + 8) < UINT64_MAX / block) {
        volume->cluster_bytes = block;
        volume->bytes = slate_be64(run + 8) * block;
    }
    slate_label_utf8(volume, run + 108, 12);
}

/* The header; NULL: there is none. */
static const uint8_t *group_of(struct slate_reader *reader)
{
    const uint8_t *run = slate_reader_at(reader, 0, SLATE_WORK_MIN);
    uint32_t at = run == NULL ? 0 : slate_be16(run + SECTOR_AT);

    return at >= 512 && at <= 2048 && memcmp(run + at, "XAGF", 4) == 0
               ? run + at
               : NULL;
}

static enum slate_here place(struct slate_reader *reader)
{
    const uint8_t *group = group_of(reader);

    return group != NULL && slate_be32(group + GROUP_AT) != 0
               ? SLATE_HERE_COPY
               : SLATE_HERE_UNTOLD;
}

static bool leads_on(struct slate_reader *reader,
                     const struct slate_volume *volume)
{
    const uint8_t *group = group_of(reader);

    (void)volume;
    return group != NULL && slate_be32(group + GROUP_AT) == 0;
}

static const struct slate_signature signature = {
    SLATE_VOLUME_XFS, SLATE_TURN_START, 0, 0, 4, "XFSB", take};

static const struct slate_family family = {.signature = &signature,
                                           .signatures = 1,
                                           .place = place,
                                           .leads_on = leads_on};

SLATE_KNOWN(xfs, "XFS", &family, .mbr = {SLATE_MBR_LINUX, SLATE_MBR_RAID},
            .gpt = {&slate_linux_data}, .sought = true, .never_fills = true,
            .grows = true);
