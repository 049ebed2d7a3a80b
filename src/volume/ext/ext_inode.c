/* SPDX-License-Identifier: MIT */
/* ext4's first inodes, its two folders, and the start of its journal (Linux
 * kernel documentation, filesystems/ext4). */

#include "base/base.h"
#include "volume/ext/ext.h"

/* An inode. */
enum {
    MODE = 0,
    BYTES = 4,
    READ_AT = 8,
    CHANGED_AT = 12,
    WRITTEN_AT = 16,
    LINKS = 26,
    SECTORS = 28,
    FLAGS = 32,
    MAP = 40,
    BYTES_HIGH = 108,
    SECTORS_HIGH = 116,
    SUM = 124,
    EXTRA = 128,
    SUM_HIGH = 130,
    MADE_AT = 144
};
#define EXTRA_BYTES 32u
#define MAPPED_BY_EXTENTS 0x00080000u
#define FOLDER 0x4000u
#define FILE_ITSELF 0x8000u

#define EXTENT_MOST 32768u
#define MAP_ENTRY 12u

/* An entry of a folder, and what ends its units. */
#define KIND_FOLDER 2u
#define TAIL_BYTES 12u
#define TAIL_KIND 0xDEu

/* The journal's superblock, which has its numbers the other way round. */
#define JOURNAL_MAGIC 0xC03B3998u
#define JOURNAL_SUPER_2 4u

/* map: zeroed; units in a row */
static void put_map(uint64_t at, uint64_t count, uint8_t *map)
{
    uint16_t entries = 0;

    slate_put_le16(map, SLATE_EXT_MAP_MAGIC);
    slate_put_le16(map + 4, SLATE_EXT_MAP_EXTENTS);
    for (uint64_t done = 0; done < count; entries++) {
        uint64_t left = count - done;
        uint32_t length = left < EXTENT_MOST ? (uint32_t)left : EXTENT_MOST;
        uint8_t *extent = map + MAP_ENTRY + (size_t)entries * MAP_ENTRY;

        slate_put_le32(extent, (uint32_t)done);
        slate_put_le16(extent + 4, (uint16_t)length);
        slate_put_le16(extent + 6, (uint16_t)((at + done) >> 32));
        slate_put_le32(extent + 8, (uint32_t)(at + done));
        done += length;
    }
    slate_put_le16(map + 2, entries);
}

void slate_ext_put_journal_map(const struct slate_ext *ext, uint8_t *map)
{
    put_map(ext->journal_at, ext->journal_units, map);
}

/* What an inode is of; held: units of its map, too. */
struct content {
    uint16_t mode, links;
    uint64_t at, units, held;
};

static bool content_of(const struct slate_ext *ext, uint32_t inode,
                       struct content *content)
{
    switch (inode) {
    case SLATE_EXT_BAD_INODE:
        *content = (struct content){FILE_ITSELF | 0600, 1, 0, ext->bad_units,
                                    ext->map_units};
        return ext->bad_units > 0;
    case SLATE_EXT_ROOT_INODE:
        *content =
            (struct content){(uint16_t)(FOLDER | (ext->shared ? 0777 : 0755)),
                             3, ext->root_at, 1, 0};
        return true;
    case SLATE_EXT_JOURNAL_INODE_NUMBER:
        *content = (struct content){FILE_ITSELF | 0600, 1, ext->journal_at,
                                    ext->journal_units, 0};
        return ext->journal_units > 0;
    case SLATE_EXT_LOST_INODE:
        *content = (struct content){FOLDER | 0700, 2, ext->lost_at,
                                    ext->lost_units, 0};
        return true;
    default:
        return false;
    }
}

/* Of an inode, or of a unit of its folder: begins with its number. */
uint32_t slate_ext_inode_seed(const struct slate_ext *ext, uint32_t inode)
{
    uint8_t numbers[8] = {0}; /* the second one is its generation */

    slate_put_le32(numbers, inode);
    return slate_crc32c(slate_ext_seed(ext), numbers, sizeof numbers);
}

/* What it takes, in blocks of 512 bytes, of 48 bits. */
static void put_sectors(const struct slate_ext *ext,
                        const struct content *content, uint8_t *data)
{
    uint64_t sectors =
        (content->units + content->held) * (ext->unit_bytes / 512);

    slate_put_le32(data + SECTORS, (uint32_t)sectors);
    slate_put_le16(data + SECTORS_HIGH, (uint16_t)(sectors >> 32));
}

/* data: zeroed. Those that are reserved stay so, but for their checksum. */
static void put_inode(const struct slate_ext *ext, uint32_t inode,
                      uint8_t *data)
{
    struct content content;
    uint64_t bytes;
    uint32_t sum;

    if (content_of(ext, inode, &content)) {
        bytes = content.units * ext->unit_bytes;
        slate_put_le16(data + MODE, content.mode);
        slate_put_le32(data + BYTES, (uint32_t)bytes);
        slate_put_le32(data + BYTES_HIGH, (uint32_t)(bytes >> 32));
        slate_put_le32(data + READ_AT, ext->seconds);
        slate_put_le32(data + CHANGED_AT, ext->seconds);
        slate_put_le32(data + WRITTEN_AT, ext->seconds);
        slate_put_le32(data + MADE_AT, ext->seconds);
        slate_put_le16(data + LINKS, content.links);
        put_sectors(ext, &content, data);
        slate_put_le32(data + FLAGS, MAPPED_BY_EXTENTS);
        slate_put_le16(data + EXTRA, EXTRA_BYTES);
        if (inode == SLATE_EXT_BAD_INODE)
            slate_ext_put_bad_map(ext, data + MAP);
        else
            put_map(content.at, content.units, data + MAP);
    }
    sum = slate_crc32c(slate_ext_inode_seed(ext, inode), data, SLATE_EXT_INODE);
    slate_put_le16(data + SUM, (uint16_t)sum);
    if (slate_le16(data + EXTRA) > 0)
        slate_put_le16(data + SUM_HIGH, (uint16_t)(sum >> 16));
}

void slate_ext_put_table(const struct slate_ext *ext, uint32_t first_inode,
                         uint8_t *piece)
{
    for (uint32_t i = 0; i < SLATE_EXT_PIECE / SLATE_EXT_INODE; i++) {
        if (first_inode + i < SLATE_EXT_FIRST_FREE_INODE)
            put_inode(ext, first_inode + i,
                      piece + (size_t)i * SLATE_EXT_INODE);
    }
}

/* Returns where the next entry begins. */
static uint8_t *put_entry(uint8_t *entry, uint32_t inode, const char *name,
                          uint32_t length)
{
    uint8_t name_length = (uint8_t)strlen(name);

    slate_put_le32(entry, inode);
    slate_put_le16(entry + 4, (uint16_t)length);
    entry[6] = name_length;
    entry[7] = inode == 0 ? 0 : KIND_FOLDER;
    memcpy(entry + 8, name, name_length);
    return entry + length;
}

/* The start of a folder's unit; the last entry reaches up to the tail. */
static void put_entries(const struct slate_ext *ext, uint32_t inode,
                        uint32_t unit, uint8_t *piece)
{
    uint32_t left = ext->unit_bytes - TAIL_BYTES;
    uint8_t *next = piece;

    if (unit > 0) {
        (void)put_entry(piece, 0, "", left);
        return;
    }
    next = put_entry(next, inode, ".", 12);
    if (inode == SLATE_EXT_ROOT_INODE) {
        next = put_entry(next, SLATE_EXT_ROOT_INODE, "..", 12);
        (void)put_entry(next, SLATE_EXT_LOST_INODE, "lost+found", left - 24);
    } else {
        (void)put_entry(next, SLATE_EXT_ROOT_INODE, "..", left - 12);
    }
}

/* The tail has the checksum over all ahead of it: the entries at the start, and
 * zeros. */
static uint32_t folder_sum(const struct slate_ext *ext, uint32_t inode,
                           uint32_t unit)
{
    uint8_t piece[SLATE_EXT_PIECE] = {0};
    uint32_t left = ext->unit_bytes - TAIL_BYTES - SLATE_EXT_PIECE;
    uint32_t sum;

    put_entries(ext, inode, unit, piece);
    sum = slate_crc32c(slate_ext_inode_seed(ext, inode), piece, sizeof piece);
    memset(piece, 0, sizeof piece);
    for (; left > SLATE_EXT_PIECE; left -= SLATE_EXT_PIECE)
        sum = slate_crc32c(sum, piece, sizeof piece);
    return slate_crc32c(sum, piece, left);
}

void slate_ext_put_folder(const struct slate_ext *ext, uint32_t inode,
                          uint32_t unit, uint32_t at, uint8_t *piece)
{
    uint8_t *tail = piece + SLATE_EXT_PIECE - TAIL_BYTES;

    if (at == 0)
        put_entries(ext, inode, unit, piece);
    if (at + SLATE_EXT_PIECE != ext->unit_bytes)
        return;
    slate_put_le16(tail + 4, TAIL_BYTES);
    tail[7] = TAIL_KIND;
    slate_put_le32(tail + 8, folder_sum(ext, inode, unit));
}

/* An empty journal: what was in its units before has another identifier in its
 * checksums, and other numbers. */
void slate_ext_put_journal(const struct slate_ext *ext, uint32_t at,
                           uint8_t *piece)
{
    if (at != 0)
        return;
    slate_put_be32(piece, JOURNAL_MAGIC);
    slate_put_be32(piece + 4, JOURNAL_SUPER_2);
    slate_put_be32(piece + 12, ext->unit_bytes);
    slate_put_be32(piece + 16, ext->journal_units);
    slate_put_be32(piece + 20, 1);
    slate_put_be32(piece + 24, slate_le32(ext->hash_seed) >> 1 | 1);
    memcpy(piece + 48, ext->id, sizeof ext->id);
    slate_put_be32(piece + 64, 1); /* file systems that use it */
}
