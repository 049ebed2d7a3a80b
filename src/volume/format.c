/* SPDX-License-Identifier: MIT */
/* The formats that can be composed: a new one is a row here. */
#include "trueslate/format.h"

#include "volume/fat.h"

#define FAT_RULE "keeps 11 upper-case characters of ASCII"

/* In the order in which one is chosen. */
static const struct slate_format formats[] = {
    {{"fat32", slate_fat_next, slate_fat_covers, slate_fat_fill,
      slate_fat_step},
     SLATE_VOLUME_FAT32,
     slate_fat32_plan,
     slate_fat32_limits,
     slate_fat_figures,
     FAT_RULE},
    {{"fat16", slate_fat_next, slate_fat_covers, slate_fat_fill,
      slate_fat_step},
     SLATE_VOLUME_FAT16,
     slate_fat16_plan,
     slate_fat16_limits,
     slate_fat_figures,
     FAT_RULE},
    {{"fat12", slate_fat_next, slate_fat_covers, slate_fat_fill,
      slate_fat_step},
     SLATE_VOLUME_FAT12,
     slate_fat12_plan,
     slate_fat12_limits,
     slate_fat_figures,
     FAT_RULE}};

#define FORMATS (sizeof formats / sizeof formats[0])

const struct slate_format *slate_format_at(uint32_t index)
{
    return index < FORMATS ? &formats[index] : NULL;
}

const struct slate_format *slate_format_of(enum slate_volume_kind kind)
{
    for (size_t i = 0; i < FORMATS; i++) {
        if (formats[i].kind == kind)
            return &formats[i];
    }
    return NULL;
}

/* The first one that is not too large for its room. */
static enum slate_status choose(const struct slate_wish *wish,
                                const struct slate_format **format,
                                union slate_volume_plan *plan)
{
    enum slate_status status = formats[0].plan(wish, plan);

    *format = &formats[0];
    for (size_t i = 1; i < FORMATS && status == SLATE_ERR_TOO_SMALL; i++) {
        enum slate_status next = formats[i].plan(wish, plan);

        if (next == SLATE_OK) {
            *format = &formats[i];
            return next;
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
