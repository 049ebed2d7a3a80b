/* SPDX-License-Identifier: MIT */
/* Entries of files and folders on FAT (specification 1.03, 6 and 7). */

#include "base/base.h"
#include "volume/fat/fat.h"
#include "volume/common/common.h"

#define LONG_ATTRIBUTES 0x0Fu
#define LONG_UNITS 13u
#define LONG_LAST 0x40u /* of the name's last piece, which stands first */

/* Where the units of a piece stand in its entry. */
static const uint8_t unit_at[LONG_UNITS] = {1,  3,  5,  7,  9,  14, 16,
                                            18, 20, 22, 24, 28, 30};

static uint32_t pieces(const struct slate_files *files, uint32_t item)
{
    uint16_t none;

    if (slate_fat_is_short(files, item))
        return 0;
    return (slate_name_units(slate_item_name(files, item), 0, &none, 0) +
            LONG_UNITS - 1) /
           LONG_UNITS;
}

static uint8_t entries(const struct slate_files *files, uint32_t item)
{
    return (uint8_t)(1 + pieces(files, item));
}

/* Ties the pieces to the short name (7.2). */
static uint8_t short_sum(const uint8_t name[11])
{
    uint8_t sum = 0;

    for (uint32_t i = 0; i < 11; i++)
        sum = (uint8_t)((sum >> 1 | sum << 7) + name[i]);
    return sum;
}

/* Units behind the end: a zero, then all ones. */
static void put_piece(const struct slate_files *files, uint32_t item,
                      uint32_t piece, bool last, uint8_t *entry)
{
    uint16_t unit[LONG_UNITS];
    uint32_t first = piece * LONG_UNITS;
    uint32_t length =
        slate_name_units(slate_item_name(files, item), first, unit, LONG_UNITS);

    entry[0] = (uint8_t)((piece + 1) | (last ? LONG_LAST : 0));
    entry[SLATE_FAT_ENTRY_ATTRIBUTES] = LONG_ATTRIBUTES;
    entry[13] = short_sum(files->spot[item].short_name);
    for (uint32_t i = 0; i < LONG_UNITS; i++)
        slate_put_le16(entry + unit_at[i],
                       first + i > length ? 0xFFFF : unit[i]);
}

uint8_t slate_fat_attributes(const struct slate_item *item)
{
    uint8_t attributes = item->folder ? SLATE_FAT_FOLDER : SLATE_FAT_ARCHIVE;

    if ((item->attributes & SLATE_ITEM_READ_ONLY) != 0)
        attributes |= SLATE_FAT_READ_ONLY;
    if ((item->attributes & SLATE_ITEM_HIDDEN) != 0)
        attributes |= SLATE_FAT_HIDDEN;
    if ((item->attributes & SLATE_ITEM_SYSTEM) != 0)
        attributes |= SLATE_FAT_SYSTEM;
    return attributes;
}

/* All but the name. cluster: as in the table; 0: none */
static void put_fields(const struct slate_item *item, uint32_t cluster,
                       uint8_t *entry)
{
    uint16_t date = slate_packed_date(&item->changed);
    uint16_t time = slate_packed_time(&item->changed);

    entry[SLATE_FAT_ENTRY_MADE_REST] = slate_packed_rest(&item->changed);
    slate_put_le16(entry + SLATE_FAT_ENTRY_MADE_TIME, time);
    slate_put_le16(entry + SLATE_FAT_ENTRY_MADE_DATE, date);
    slate_put_le16(entry + SLATE_FAT_ENTRY_READ_DATE, date);
    slate_put_le16(entry + SLATE_FAT_ENTRY_CLUSTER_HIGH,
                   (uint16_t)(cluster >> 16));
    slate_put_le16(entry + SLATE_FAT_ENTRY_TIME, time);
    slate_put_le16(entry + SLATE_FAT_ENTRY_DATE, date);
    slate_put_le16(entry + SLATE_FAT_ENTRY_CLUSTER, (uint16_t)cluster);
    slate_put_le32(entry + SLATE_FAT_ENTRY_BYTES_AT, (uint32_t)item->bytes);
}

static uint32_t cluster_of(const struct slate_files *files, uint32_t item)
{
    const struct slate_spot *spot = &files->spot[item];

    return spot->clusters == 0 ? 0 : 2 + spot->cluster;
}

/* The pieces of the long name stand ahead, the last one first. */
static void put(const struct slate_folders *folders,
                const struct slate_files *files, uint32_t item, uint32_t k,
                uint8_t *entry)
{
    uint32_t ahead = files->spot[item].entries - 1u;

    (void)folders;
    if (k < ahead) {
        put_piece(files, item, ahead - 1 - k, k == 0, entry);
        return;
    }
    memcpy(entry, files->spot[item].short_name, 11);
    entry[SLATE_FAT_ENTRY_ATTRIBUTES] =
        slate_fat_attributes(&files->item[item]);
    put_fields(&files->item[item], cluster_of(files, item), entry);
}

/* In a folder "." and "..", which has cluster 0 where that is the root (6.5);
 * in the root, the label. */
static void put_head(const struct slate_folders *folders,
                     const struct slate_files *files, uint32_t folder,
                     uint32_t k, uint8_t *entry)
{
    const struct slate_fat *fat = folders->plan;
    uint32_t parent = files->item[folder].parent;

    if (folder == 0) {
        slate_fat_put_label_entry(entry, fat->label, &fat->stamp);
        return;
    }
    memset(entry, ' ', 11);
    memset(entry, '.', k + 1);
    entry[SLATE_FAT_ENTRY_ATTRIBUTES] = SLATE_FAT_FOLDER;
    put_fields(&files->item[folder],
               k == 0        ? cluster_of(files, folder)
               : parent == 0 ? 0
                             : cluster_of(files, parent),
               entry);
}

void slate_fat_folders(const struct slate_fat *fat,
                       struct slate_folders *folders)
{
    *folders = (struct slate_folders){
        .plan = fat,
        .entries_most = SLATE_FAT_FOLDER_MOST,
        .root_head = fat->label[0] != '\0' ? 1 : 0,
        .head = 2,
        .head_behind = true,
        .file_most = SLATE_FAT_FILE_MOST,
        .entries = entries,
        .put = put,
        .put_head = put_head,
    };
}
