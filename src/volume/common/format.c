/* SPDX-License-Identifier: MIT */
/* Which format a volume gets where none was asked for. */
#include "volume/common/common.h"

/* What is chosen; then where that needs more room, and where it has too much.
 */
static const enum slate_volume_kind smaller[] = {
    SLATE_VOLUME_FAT32, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT12};
static const enum slate_volume_kind larger[] = {SLATE_VOLUME_FAT32,
                                                SLATE_VOLUME_EXFAT};

#define LENGTH(list) (sizeof(list) / sizeof(list)[0])

/* The first one that fits its room. */
static enum slate_status choose(const struct slate_wish *wish,
                                const struct slate_format **format,
                                union slate_volume_plan *plan)
{
    enum slate_status status;
    const enum slate_volume_kind *kind;
    bool too_much;
    size_t count;

    *format = slate_format_of(smaller[0]);
    status = (*format)->plan(wish, plan);
    too_much = status == SLATE_ERR_TOO_LARGE || status == SLATE_ERR_FILE_SIZE;
    kind = too_much ? larger : smaller;
    count = too_much ? LENGTH(larger) : LENGTH(smaller);
    if (status != SLATE_ERR_TOO_SMALL && !too_much)
        return status;
    for (size_t i = 1; i < count; i++) {
        const struct slate_format *other = slate_format_of(kind[i]);

        if (other->plan(wish, plan) == SLATE_OK) {
            *format = other;
            return SLATE_OK;
        }
    }
    return status;
}

enum slate_status slate_format_plan(enum slate_volume_kind kind,
                                    const struct slate_wish *wish,
                                    const struct slate_format **format,
                                    union slate_volume_plan *plan)
{
    if (kind == SLATE_VOLUME_NONE)
        return choose(wish, format, plan);
    *format = slate_format_of(kind);
    return *format == NULL ? SLATE_ERR_ARGUMENT : (*format)->plan(wish, plan);
}

const struct slate_format *slate_format_smallest(enum slate_volume_kind kind)
{
    return slate_format_of(
        kind == SLATE_VOLUME_NONE ? smaller[LENGTH(smaller) - 1] : kind);
}

const struct slate_format *slate_format_largest(enum slate_volume_kind kind)
{
    return slate_format_of(
        kind == SLATE_VOLUME_NONE ? larger[LENGTH(larger) - 1] : kind);
}
