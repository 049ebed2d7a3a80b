/* SPDX-License-Identifier: MIT */
/* The formats that can be composed: a new one is a row here. */
#include "trueslate/format.h"

#include "volume/exfat/exfat.h"
#include "volume/ext/ext.h"
#include "volume/fat/fat.h"
#include "volume/ntfs/ntfs.h"

#define FAT_RULE "keeps 11 upper-case characters of ASCII"

/* The first one is chosen where it fits. */
static const struct slate_format formats[] = {
    {{"fat32", slate_fat_next, slate_fat_covers, slate_fat_fill,
      slate_fat_step},
     SLATE_VOLUME_FAT32,
     slate_fat32_plan,
     slate_fat32_limits,
     slate_fat_figures,
     FAT_RULE,
     slate_fat_relabel},
    {{"fat16", slate_fat_next, slate_fat_covers, slate_fat_fill,
      slate_fat_step},
     SLATE_VOLUME_FAT16,
     slate_fat16_plan,
     slate_fat16_limits,
     slate_fat_figures,
     FAT_RULE,
     slate_fat_relabel},
    {{"fat12", slate_fat_next, slate_fat_covers, slate_fat_fill,
      slate_fat_step},
     SLATE_VOLUME_FAT12,
     slate_fat12_plan,
     slate_fat12_limits,
     slate_fat_figures,
     FAT_RULE,
     slate_fat_relabel},
    {{"exfat", slate_exfat_next, slate_exfat_covers, slate_exfat_fill,
      slate_exfat_step},
     SLATE_VOLUME_EXFAT,
     slate_exfat_plan,
     slate_exfat_limits,
     slate_exfat_figures,
     "keeps 11 characters, and none that names of files must not have",
     slate_exfat_relabel},
    {{"ext4", slate_ext_next, slate_ext_covers, slate_ext_fill, slate_ext_step},
     SLATE_VOLUME_EXT4,
     slate_ext_plan,
     slate_ext_limits,
     slate_ext_figures,
     "keeps 16 bytes of UTF-8",
     slate_ext_relabel},
    {{"ntfs", slate_ntfs_next, slate_ntfs_covers, slate_ntfs_fill,
      slate_ntfs_step},
     SLATE_VOLUME_NTFS,
     slate_ntfs_plan,
     slate_ntfs_limits,
     slate_ntfs_figures,
     "keeps 32 characters",
     slate_ntfs_relabel}};

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

/* What is chosen where FAT32 needs more room, and where it has too much. */
static const enum slate_volume_kind smaller[] = {SLATE_VOLUME_FAT16,
                                                 SLATE_VOLUME_FAT12};
static const enum slate_volume_kind larger[] = {SLATE_VOLUME_EXFAT};

/* The first one that fits its room. */
static enum slate_status choose(const struct slate_wish *wish,
                                const struct slate_format **format,
                                union slate_volume_plan *plan)
{
    enum slate_status status = formats[0].plan(wish, plan);
    bool too_much =
        status == SLATE_ERR_TOO_LARGE || status == SLATE_ERR_FILE_SIZE;
    const enum slate_volume_kind *kind = too_much ? larger : smaller;
    size_t count = too_much ? sizeof larger / sizeof larger[0]
                            : sizeof smaller / sizeof smaller[0];

    *format = &formats[0];
    if (status != SLATE_ERR_TOO_SMALL && !too_much)
        return status;
    for (size_t i = 0; i < count; i++) {
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
