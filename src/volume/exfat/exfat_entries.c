/* SPDX-License-Identifier: MIT */
/* Entries of files and folders on exFAT (file system specification 1.00, 7.4 to
 * 7.7). */
#include "base/base.h"
#include "volume/exfat/exfat.h"
#include "volume/fat/fat.h"
#include "volume/common/common.h"

#define NAME_UNITS 15u               /* of an entry */
#define FOLDER_ENTRIES_MOST 8388608u /* 256 MiB (7.4) */

/* Flags of the stream extension (6.3.4). */
#define HAS_CLUSTERS 0x01u
#define IN_A_ROW 0x02u /* its chain is not in the table */

static uint32_t name_length(const struct slate_files *files, uint32_t item)
{
    uint16_t none;

    return slate_name_units(slate_item_name(files, item), 0, &none, 0);
}

/* The file, its stream, its name. */
static uint8_t entries(const struct slate_files *files, uint32_t item)
{
    return (uint8_t)(2 +
                     (name_length(files, item) + NAME_UNITS - 1) / NAME_UNITS);
}

static void put_file(const struct slate_item *item, uint8_t entry_count,
                     uint8_t *entry)
{
    uint32_t stamp = (uint32_t)slate_packed_date(&item->changed) << 16 |
                     slate_packed_time(&item->changed);

    entry[0] = SLATE_EXFAT_ENTRY_FILE;
    entry[SLATE_EXFAT_FILE_MORE] = (uint8_t)(entry_count - 1);
    slate_put_le16(entry + SLATE_EXFAT_FILE_ATTRIBUTES,
                   slate_fat_attributes(item));
    slate_put_le32(entry + SLATE_EXFAT_FILE_MADE, stamp);
    slate_put_le32(entry + SLATE_EXFAT_FILE_CHANGED, stamp);
    slate_put_le32(entry + SLATE_EXFAT_FILE_READ, stamp);
    entry[SLATE_EXFAT_FILE_MADE_REST] = slate_packed_rest(&item->changed);
    entry[SLATE_EXFAT_FILE_CHANGED_REST] = slate_packed_rest(&item->changed);
}

/* Both checksums turn by a bit for each byte. */
static uint16_t turned(uint16_t sum, uint8_t byte)
{
    return (uint16_t)(((unsigned)sum >> 1 | (unsigned)sum << 15) + byte);
}

/* Of the name in upper case (7.6.3). */
static uint16_t name_hash(const char *name, uint32_t length)
{
    uint16_t hash = 0, unit[NAME_UNITS];

    for (uint32_t i = 0; i < length; i++) {
        uint16_t upper;

        if (i % NAME_UNITS == 0)
            (void)slate_name_units(name, i, unit, NAME_UNITS);
        upper = slate_upcase(unit[i % NAME_UNITS]);
        hash = turned(hash, (uint8_t)(upper & 0xFF));
        hash = turned(hash, (uint8_t)(upper >> 8));
    }
    return hash;
}

static void put_stream(const struct slate_exfat *exfat,
                       const struct slate_files *files, uint32_t item,
                       uint8_t *entry)
{
    const struct slate_spot *spot = &files->spot[item];
    uint32_t length = name_length(files, item);
    uint64_t cluster_bytes =
        (uint64_t)exfat->cluster_blocks * exfat->block_bytes;
    uint64_t bytes = files->item[item].folder ? spot->clusters * cluster_bytes
                                              : files->item[item].bytes;

    entry[0] = SLATE_EXFAT_ENTRY_STREAM;
    entry[SLATE_EXFAT_STREAM_FLAGS] =
        spot->clusters > 0 ? HAS_CLUSTERS | IN_A_ROW : HAS_CLUSTERS;
    entry[SLATE_EXFAT_STREAM_NAME_LENGTH] = (uint8_t)length;
    slate_put_le16(entry + SLATE_EXFAT_STREAM_NAME_HASH,
                   name_hash(slate_item_name(files, item), length));
    slate_put_le64(entry + SLATE_EXFAT_STREAM_VALID, bytes);
    if (spot->clusters > 0)
        slate_put_le32(entry + SLATE_EXFAT_ENTRY_CLUSTER,
                       SLATE_EXFAT_FIRST_CLUSTER + spot->cluster);
    slate_put_le64(entry + SLATE_EXFAT_ENTRY_LENGTH, bytes);
}

static void put_name(const struct slate_files *files, uint32_t item,
                     uint32_t piece, uint8_t *entry)
{
    uint16_t unit[NAME_UNITS];

    (void)slate_name_units(slate_item_name(files, item), piece * NAME_UNITS,
                           unit, NAME_UNITS);
    entry[0] = SLATE_EXFAT_ENTRY_NAME;
    for (uint32_t i = 0; i < NAME_UNITS; i++)
        slate_put_le16(entry + 2 + (size_t)2 * i, unit[i]);
}

static void put_one(const struct slate_exfat *exfat,
                    const struct slate_files *files, uint32_t item, uint32_t k,
                    uint8_t *entry)
{
    if (k == 0)
        put_file(&files->item[item], files->spot[item].entries, entry);
    else if (k == 1)
        put_stream(exfat, files, item, entry);
    else
        put_name(files, item, k - 2, entry);
}

/* Of all entries of a file, but for the checksum itself (6.3.3). */
static uint16_t set_sum(const struct slate_exfat *exfat,
                        const struct slate_files *files, uint32_t item)
{
    uint16_t sum = 0;

    for (uint32_t k = 0; k < files->spot[item].entries; k++) {
        uint8_t entry[SLATE_EXFAT_ENTRY_BYTES] = {0};

        put_one(exfat, files, item, k, entry);
        for (uint32_t at = 0; at < sizeof entry; at++) {
            if (k > 0 ||
                (at != SLATE_EXFAT_FILE_SUM && at != SLATE_EXFAT_FILE_SUM + 1))
                sum = turned(sum, entry[at]);
        }
    }
    return sum;
}

static void put(const struct slate_folders *folders,
                const struct slate_files *files, uint32_t item, uint32_t k,
                uint8_t *entry)
{
    put_one(folders->plan, files, item, k, entry);
    if (k == 0)
        slate_put_le16(entry + SLATE_EXFAT_FILE_SUM,
                       set_sum(folders->plan, files, item));
}

/* Only the root has one. */
static void put_head(const struct slate_folders *folders,
                     const struct slate_files *files, uint32_t folder,
                     uint32_t k, uint8_t *entry)
{
    (void)files;
    (void)folder;
    slate_exfat_put_head(folders->plan, k, entry);
}

void slate_exfat_folders(const struct slate_exfat *exfat,
                         struct slate_folders *folders)
{
    *folders = (struct slate_folders){
        .plan = exfat,
        .entries_most = FOLDER_ENTRIES_MOST,
        .root_head = SLATE_EXFAT_ROOT_HEAD,
        .file_most = INT64_MAX,
        .entries = entries,
        .put = put,
        .put_head = put_head,
    };
}

/* exFAT's checksum of boot region and up-case table (file system specification
 * 1.00, 3.4 and 7.2.3): turned right by one bit, then the byte added. */

uint32_t slate_exfat_sum(uint32_t sum, const uint8_t *bytes, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++)
        sum = (sum << 31 | sum >> 1) + bytes[i];
    return sum;
}

uint32_t slate_exfat_sum_zeros(uint32_t sum, uint64_t count)
{
    uint32_t turn = (uint32_t)(count % 32);

    return turn == 0 ? sum : sum << (32 - turn) | sum >> turn;
}

bool slate_exfat_is_changing(uint32_t at)
{
    return at == SLATE_EXFAT_FLAGS || at == SLATE_EXFAT_FLAGS + 1 ||
           at == SLATE_EXFAT_IN_USE;
}
