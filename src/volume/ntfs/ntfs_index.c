/* SPDX-License-Identifier: MIT */
/* NTFS's indexes: names in the two folders of a new volume, descriptors by hash
 * and by number, and those that are empty at first. */
#include "volume/ntfs/ntfs.h"

#define IN_ORDER_OF_NUMBERS 0x10u /* how the keys are sorted */
#define IN_ORDER_OF_ACCOUNTS 0x11u
#define IN_ORDER_OF_HASHES 0x12u
#define IN_ORDER_OF_SEVERAL 0x13u
#define IN_ORDER_OF_NAMES 0x01u

#define HEAD_BYTES 16u
#define ENTRY_BYTES 16u
#define HAS_BLOCKS 1u /* of an index; of an entry: there is more below it */
#define LAST 2u
#define BLOCK_HEAD_BYTES 64u /* of an index's block */

/* In the order of their upper-case names. */
static const uint8_t in_root[] = {
    SLATE_NTFS_DEFINITIONS_RECORD, SLATE_NTFS_BAD_RECORD,
    SLATE_NTFS_BITMAP_RECORD,      SLATE_NTFS_BOOT_RECORD,
    SLATE_NTFS_EXTEND_RECORD,      SLATE_NTFS_LOG_RECORD,
    SLATE_NTFS_TABLE_RECORD,       SLATE_NTFS_MIRROR_RECORD,
    SLATE_NTFS_SECURITY_RECORD,    SLATE_NTFS_UPCASE_RECORD,
    SLATE_NTFS_VOLUME_RECORD,      SLATE_NTFS_ROOT_RECORD};
static const uint8_t in_extend[] = {SLATE_NTFS_OBJECTS_RECORD,
                                    SLATE_NTFS_QUOTA_RECORD,
                                    SLATE_NTFS_REPARSE_RECORD};

static uint32_t text_bytes(uint32_t record)
{
    const char *name = slate_ntfs_name_of(record);
    uint32_t units = 0;

    while (name[units] != '\0')
        units++;
    return 2 * units;
}

static void write_names(const struct slate_ntfs *ntfs, const uint8_t *record,
                        uint32_t count, struct slate_pen *pen)
{
    for (uint32_t i = 0; i < count; i++) {
        uint32_t key = SLATE_NTFS_NAME_BYTES + text_bytes(record[i]);

        slate_pen_le(pen, slate_ntfs_reference(record[i]), 8);
        slate_pen_le(pen, (ENTRY_BYTES + key + 7) / 8 * UINT64_C(8), 2);
        slate_pen_le(pen, key, 2);
        slate_pen_skip(pen, 4);
        slate_ntfs_write_name(ntfs, record[i], pen);
        slate_pen_align(pen, 8);
    }
}

/* below: there are entries in blocks */
static void write_last(bool below, struct slate_pen *pen)
{
    slate_pen_skip(pen, 8);
    slate_pen_le(pen, ENTRY_BYTES + (below ? 8u : 0u), 2);
    slate_pen_skip(pen, 2);
    slate_pen_le(pen, LAST | (below ? HAS_BLOCKS : 0), 2);
    slate_pen_skip(pen, 2 + (below ? 8u : 0u)); /* the first block */
}

/* entries: bytes of them */
static void write_start(const struct slate_ntfs *ntfs, uint32_t type,
                        uint32_t order, uint32_t entries, uint32_t flags,
                        struct slate_pen *pen)
{
    uint32_t unit = ntfs->cluster_bytes > SLATE_NTFS_INDEX_BYTES
                        ? SLATE_NTFS_STRIDE
                        : ntfs->cluster_bytes;

    slate_pen_le(pen, type, 4);
    slate_pen_le(pen, order, 4);
    slate_pen_le(pen, SLATE_NTFS_INDEX_BYTES, 4);
    slate_pen_le(pen, SLATE_NTFS_INDEX_BYTES / unit, 4);
    slate_pen_le(pen, HEAD_BYTES, 4);
    slate_pen_le(pen, HEAD_BYTES + entries, 4);
    slate_pen_le(pen, HEAD_BYTES + entries, 4);
    slate_pen_le(pen, flags, 4);
}

void slate_ntfs_write_root_head(const struct slate_ntfs *ntfs,
                                struct slate_pen *pen)
{
    write_start(ntfs, SLATE_NTFS_NAME, IN_ORDER_OF_NAMES, ENTRY_BYTES + 8,
                HAS_BLOCKS, pen);
    write_last(true, pen);
}

void slate_ntfs_write_extend(const struct slate_ntfs *ntfs,
                             struct slate_pen *pen)
{
    struct slate_pen measure = {0};

    write_names(ntfs, in_extend, sizeof in_extend, &measure);
    write_start(ntfs, SLATE_NTFS_NAME, IN_ORDER_OF_NAMES,
                measure.at + ENTRY_BYTES, 0, pen);
    write_names(ntfs, in_extend, sizeof in_extend, pen);
    write_last(false, pen);
}

/* The one block of the root folder's index. */
static void write_root(const struct slate_ntfs_page *page,
                       struct slate_pen *pen)
{
    struct slate_pen measure = {0};

    write_names(page->ntfs, in_root, sizeof in_root, &measure);
    slate_pen_put(pen, "INDX", 4);
    slate_pen_le(pen, page->fixups_at, 2);
    slate_pen_le(pen, page->bytes / SLATE_NTFS_STRIDE + 1, 2);
    slate_pen_skip(pen, 16); /* never logged; block 0 */
    slate_pen_le(pen, BLOCK_HEAD_BYTES - 24, 4);
    slate_pen_le(pen, BLOCK_HEAD_BYTES - 24 + measure.at + ENTRY_BYTES, 4);
    slate_pen_le(pen, page->bytes - 24, 4);
    slate_pen_skip(pen, BLOCK_HEAD_BYTES - pen->at);
    write_names(page->ntfs, in_root, sizeof in_root, pen);
    write_last(false, pen);
}

void slate_ntfs_put_root(const struct slate_ntfs *ntfs, uint32_t stride,
                         uint8_t *out)
{
    const struct slate_ntfs_page page = {ntfs, 0, SLATE_NTFS_INDEX_BYTES, 40,
                                         write_root};

    slate_ntfs_put_stride(&page, stride, out);
}

/* An entry of what is not a name: where its data begin and how many there are,
 * its own length, and that of its key. */
static void write_entry(uint32_t key, uint32_t data, uint32_t bytes,
                        struct slate_pen *pen)
{
    slate_pen_le(pen, ENTRY_BYTES + key, 2);
    slate_pen_le(pen, data, 2);
    slate_pen_skip(pen, 4);
    slate_pen_le(pen, bytes, 2);
    slate_pen_le(pen, key, 2);
    slate_pen_skip(pen, 4);
}

/* The descriptor whose hash, then number, is the next one. */
static uint32_t next_by_hash(const uint32_t hash[SLATE_NTFS_RIGHTS],
                             uint32_t done)
{
    for (uint32_t i = 0; i < SLATE_NTFS_RIGHTS; i++) {
        uint32_t ahead = 0;

        for (uint32_t k = 0; k < SLATE_NTFS_RIGHTS; k++)
            ahead += hash[k] < hash[i] || (k < i && hash[k] == hash[i]);
        if (ahead == done)
            return i;
    }
    return 0;
}

#define RIGHT_BYTES 20u
#define BY_HASH_BYTES 48u
#define BY_NUMBER_BYTES 40u

static void write_by_hash(const struct slate_ntfs *ntfs, struct slate_pen *pen)
{
    uint32_t hash[SLATE_NTFS_RIGHTS];
    struct slate_ntfs_right right;

    for (uint32_t i = 0; i < SLATE_NTFS_RIGHTS; i++) {
        slate_ntfs_right(ntfs, i, &right);
        hash[i] = right.hash;
    }
    for (uint32_t i = 0; i < SLATE_NTFS_RIGHTS; i++) {
        uint32_t index = next_by_hash(hash, i);

        write_entry(8, RIGHT_BYTES, BY_HASH_BYTES, pen);
        slate_pen_le(pen, hash[index], 4);
        slate_pen_le(pen, SLATE_NTFS_SYSTEM_RIGHTS + index, 4);
        slate_ntfs_write_right_head(ntfs, index, pen);
        slate_pen_text(pen, "II"); /* fills it up */
    }
}

static void write_by_number(const struct slate_ntfs *ntfs,
                            struct slate_pen *pen)
{
    for (uint32_t i = 0; i < SLATE_NTFS_RIGHTS; i++) {
        write_entry(4, RIGHT_BYTES, BY_NUMBER_BYTES, pen);
        slate_pen_le(pen, SLATE_NTFS_SYSTEM_RIGHTS + i, 4);
        slate_ntfs_write_right_head(ntfs, i, pen);
    }
}

/* What holds for all accounts: no limits. */
static void write_quota(const struct slate_ntfs *ntfs, struct slate_pen *pen)
{
    write_entry(4, 48, 72, pen);
    slate_pen_le(pen, 1, 4); /* the number of what holds for all */
    slate_pen_le(pen, 2, 4); /* version */
    slate_pen_le(pen, 1, 4); /* it is that */
    slate_pen_skip(pen, 8);
    slate_pen_le(pen, ntfs->time, 8);
    slate_pen_le(pen, UINT64_MAX, 8);
    slate_pen_le(pen, UINT64_MAX, 8);
    slate_pen_skip(pen, 12);
}

static void write_entries(const struct slate_ntfs *ntfs,
                          enum slate_ntfs_view view, struct slate_pen *pen)
{
    switch (view) {
    case SLATE_NTFS_BY_HASH:
        write_by_hash(ntfs, pen);
        break;
    case SLATE_NTFS_BY_NUMBER:
        write_by_number(ntfs, pen);
        break;
    case SLATE_NTFS_QUOTAS:
        write_quota(ntfs, pen);
        break;
    default:
        break;
    }
}

void slate_ntfs_write_view(const struct slate_ntfs *ntfs,
                           enum slate_ntfs_view view, struct slate_pen *pen)
{
    static const uint8_t orders[] = {IN_ORDER_OF_HASHES,   IN_ORDER_OF_NUMBERS,
                                     IN_ORDER_OF_ACCOUNTS, IN_ORDER_OF_NUMBERS,
                                     IN_ORDER_OF_SEVERAL,  IN_ORDER_OF_SEVERAL};
    struct slate_pen measure = {0};

    write_entries(ntfs, view, &measure);
    write_start(ntfs, 0, orders[view], measure.at + ENTRY_BYTES, 0, pen);
    write_entries(ntfs, view, pen);
    write_last(false, pen);
}
