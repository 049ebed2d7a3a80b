/* SPDX-License-Identifier: MIT */
/* Composing NTFS: any block from the plan alone (the layout that the Linux
 * kernel's documentation and headers publish). */

#include "base/base.h"
#include "compose/compose.h"
#include "volume/common/common.h"
#include "volume/ntfs/ntfs.h"
#include "volume/exfat/exfat.h"

#define ROWS 18u
#define BOOT_BYTES 512u

enum role {
    ROLE_MIRROR,
    ROLE_COPY,
    ROLE_START,
    ROLE_LOG,
    ROLE_DEFINITIONS,
    ROLE_UPCASE,
    ROLE_SECURITY,
    ROLE_ROOT,
    ROLE_BITMAP,
    ROLE_RECORDS,
    ROLE_BOOT
};

const char *const slate_ntfs_steps[] = {
    "write the mirror of the file table", "write the copy of the boot block",
    "clear the room of a boot program",   "write an empty log",
    "write the attribute definitions",    "write the up-case table",
    "write the security descriptors",     "write the root folder",
    "write the allocation bitmap",        "write the file table",
    "write the volume's boot block"};

/* Blocks of a stream from one byte up to another. */
static struct slate_row row_of(const struct slate_ntfs *ntfs,
                               enum slate_ntfs_stream stream, enum role role,
                               uint64_t from, uint64_t end)
{
    struct slate_range range;
    struct slate_row row = {.moment = SLATE_MOMENT_BODY, .role = (uint8_t)role};

    slate_ntfs_range(ntfs, stream, &range);
    from = (from + ntfs->block_bytes - 1) / ntfs->block_bytes;
    end = (end + ntfs->block_bytes - 1) / ntfs->block_bytes;
    row.first = range.first + from;
    row.count = from < end ? end - from : 0;
    return row;
}

static struct slate_row whole_of(const struct slate_ntfs *ntfs,
                                 enum slate_ntfs_stream stream, enum role role)
{
    return row_of(ntfs, stream, role, 0, slate_ntfs_bytes(ntfs, stream));
}

static struct slate_row zeros(struct slate_row row)
{
    row.zero = true;
    return row;
}

static struct slate_row at_moment(struct slate_row row,
                                  enum slate_moment moment)
{
    row.moment = moment;
    return row;
}

/* Bits are set at the start of the bitmap and at its end; bad clusters may have
 * them anywhere. Both bytes are whole blocks, but for the last one. */
static void find_zeros(const struct slate_ntfs *ntfs, uint64_t *from,
                       uint64_t *end)
{
    uint64_t all = slate_ntfs_bytes(ntfs, SLATE_NTFS_BITMAP);
    uint32_t block = ntfs->block_bytes;

    *from = (((uint64_t)ntfs->reach + 7) / 8 + block - 1) / block * block;
    *end = ntfs->at[SLATE_NTFS_MIRROR] / 8 / block * (uint64_t)block;
    if (*from >= *end || ntfs->bad_clusters > 0)
        *from = *end = all;
}

static void make_rows(const struct slate_ntfs *ntfs, struct slate_row row[ROWS])
{
    uint64_t bits = slate_ntfs_bytes(ntfs, SLATE_NTFS_BITMAP);
    uint64_t rights = slate_ntfs_rights_bytes(ntfs), from, end;
    const struct slate_row boot =
        row_of(ntfs, SLATE_NTFS_BOOT, ROLE_BOOT, 0, ntfs->block_bytes);
    struct slate_row copy = boot;

    copy.first = ntfs->first + ntfs->blocks - 1;
    copy.role = ROLE_COPY;
    find_zeros(ntfs, &from, &end);
    const struct slate_row rows[ROWS] = {
        at_moment(whole_of(ntfs, SLATE_NTFS_MIRROR, ROLE_MIRROR),
                  SLATE_MOMENT_COPIES),
        at_moment(copy, SLATE_MOMENT_COPIES),
        zeros(row_of(ntfs, SLATE_NTFS_BOOT, ROLE_START, ntfs->block_bytes,
                     SLATE_NTFS_BOOT_BYTES)),
        whole_of(ntfs, SLATE_NTFS_LOG, ROLE_LOG),
        whole_of(ntfs, SLATE_NTFS_DEFINITIONS, ROLE_DEFINITIONS),
        whole_of(ntfs, SLATE_NTFS_UPCASE, ROLE_UPCASE),
        row_of(ntfs, SLATE_NTFS_SECURITY, ROLE_SECURITY, 0, rights),
        zeros(row_of(ntfs, SLATE_NTFS_SECURITY, ROLE_SECURITY, rights,
                     SLATE_NTFS_SECURITY_APART)),
        row_of(ntfs, SLATE_NTFS_SECURITY, ROLE_SECURITY,
               SLATE_NTFS_SECURITY_APART, SLATE_NTFS_SECURITY_APART + rights),
        whole_of(ntfs, SLATE_NTFS_RECORD_BITS, ROLE_RECORDS),
        whole_of(ntfs, SLATE_NTFS_ROOT, ROLE_ROOT),
        row_of(ntfs, SLATE_NTFS_BITMAP, ROLE_BITMAP, 0, from),
        zeros(row_of(ntfs, SLATE_NTFS_BITMAP, ROLE_BITMAP, from, end)),
        row_of(ntfs, SLATE_NTFS_BITMAP, ROLE_BITMAP, end, bits),
        whole_of(ntfs, SLATE_NTFS_PARTS, ROLE_RECORDS),
        whole_of(ntfs, SLATE_NTFS_RECORDS, ROLE_RECORDS),
        at_moment(boot, SLATE_MOMENT_BIRTH)};

    memcpy(row, rows, sizeof rows);
}

SLATE_ROWS_BOTH(, slate_ntfs, ROWS, make_rows)

/* Sizes are a number of units; or the negative of a shift, of what a unit is
 * larger than, or of more units than a byte holds. */
static uint8_t negative_shift(uint32_t value)
{
    uint32_t shift = 0;

    while (value >> shift > 1)
        shift++;
    return (uint8_t)(0x100 - shift);
}

static uint8_t size_code(const struct slate_ntfs *ntfs, uint32_t bytes)
{
    if (bytes < ntfs->cluster_bytes)
        return negative_shift(bytes);
    return (uint8_t)(bytes / ntfs->cluster_bytes);
}

/* data: a block, zeroed */
static void put_boot(const struct slate_ntfs *ntfs, uint8_t *data)
{
    uint32_t blocks = ntfs->cluster_bytes / ntfs->block_bytes;

    memcpy(data, "\xEB\x52\x90NTFS    ", 11);
    slate_put_le16(data + SLATE_NTFS_BLOCK_BYTES, (uint16_t)ntfs->block_bytes);
    data[SLATE_NTFS_CLUSTER_BLOCKS] = (uint8_t)blocks;
    if (blocks > 0x80)
        data[SLATE_NTFS_CLUSTER_BLOCKS] = negative_shift(blocks);
    data[SLATE_NTFS_MEDIUM] = 0xF8;
    slate_put_le16(data + SLATE_NTFS_TRACK_SECTORS, ntfs->track_sectors);
    slate_put_le16(data + SLATE_NTFS_HEADS, ntfs->heads);
    slate_put_le32(data + SLATE_NTFS_HIDDEN, (uint32_t)ntfs->first);
    slate_put_le32(data + SLATE_NTFS_DRIVE, 0x00800080);
    slate_put_le64(data + SLATE_NTFS_BLOCKS, ntfs->blocks - 1);
    slate_put_le64(data + SLATE_NTFS_TABLE_AT, ntfs->at[SLATE_NTFS_RECORDS]);
    slate_put_le64(data + SLATE_NTFS_MIRROR_AT, ntfs->at[SLATE_NTFS_MIRROR]);
    data[SLATE_NTFS_RECORD_SIZE] = size_code(ntfs, ntfs->record_bytes);
    data[SLATE_NTFS_INDEX_SIZE] = size_code(ntfs, SLATE_NTFS_INDEX_BYTES);
    slate_put_le64(data + SLATE_NTFS_SERIAL, ntfs->serial);
    slate_start_put(data + SLATE_NTFS_CODE);
    slate_put_le16(data + SLATE_NTFS_SIGNATURE, 0xAA55);
}

/* What attributes there are: name, number, how they are shown and sorted,
 * and what their values may have. */
static const struct {
    const char *name;
    uint32_t type, flags;
    uint64_t least, most;
} definitions[] = {
    {"$STANDARD_INFORMATION", 0x10, 0x40, 48, 72},
    {"$ATTRIBUTE_LIST", 0x20, 0x80, 0, UINT64_MAX},
    {"$FILE_NAME", 0x30, 0x42, 68, 578},
    {"$OBJECT_ID", 0x40, 0x40, 0, 256},
    {"$SECURITY_DESCRIPTOR", 0x50, 0x80, 0, UINT64_MAX},
    {"$VOLUME_NAME", 0x60, 0x40, 2, 256},
    {"$VOLUME_INFORMATION", 0x70, 0x40, 12, 12},
    {"$DATA", 0x80, 0, 0, UINT64_MAX},
    {"$INDEX_ROOT", 0x90, 0x40, 0, UINT64_MAX},
    {"$INDEX_ALLOCATION", 0xA0, 0x80, 0, UINT64_MAX},
    {"$BITMAP", 0xB0, 0x80, 0, UINT64_MAX},
    {"$REPARSE_POINT", 0xC0, 0x80, 0, 16384},
    {"$EA_INFORMATION", 0xD0, 0x40, 8, 8},
    {"$EA", 0xE0, 0, 0, 65536},
    {"$LOGGED_UTILITY_STREAM", 0x100, 0x80, 0, 65536},
};

static void write_definitions(struct slate_pen *pen)
{
    for (size_t i = 0; i < sizeof definitions / sizeof definitions[0]; i++) {
        uint32_t start = pen->at;

        slate_pen_text(pen, definitions[i].name);
        slate_pen_skip(pen, start + 128 - pen->at);
        slate_pen_le(pen, definitions[i].type, 4);
        slate_pen_skip(pen, 8);
        slate_pen_le(pen, definitions[i].flags, 4);
        slate_pen_le(pen, definitions[i].least, 8);
        slate_pen_le(pen, definitions[i].most, 8);
    }
}

/* at: byte of the bitmap; a stride of it. Behind the last cluster, clusters
 * count as in use up to the end of the bitmap. */
static void put_bitmap(const struct slate_ntfs *ntfs, uint64_t at, uint8_t *out)
{
    const struct slate_bits bits = {out, at * 8,
                                    UINT64_C(8) * SLATE_NTFS_STRIDE};
    uint64_t all = slate_ntfs_bytes(ntfs, SLATE_NTFS_BITMAP) * 8;
    struct slate_clusters grid;

    for (int i = 0; i < SLATE_NTFS_STREAMS; i++)
        slate_bits_set(&bits, ntfs->at[i],
                       slate_ntfs_clusters(ntfs, (enum slate_ntfs_stream)i));
    slate_bits_set(&bits, ntfs->clusters, all - ntfs->clusters);
    slate_ntfs_grid(ntfs, &grid);
    slate_bits_set_bad(&bits, ntfs->bad, &grid);
}

static bool is_set(const struct slate_ntfs *ntfs, uint32_t record)
{
    uint8_t flags[SLATE_NTFS_STRIDE] = {0};

    slate_ntfs_put_record(ntfs, record, 0, flags);
    return (flags[SLATE_NTFS_RECORD_FLAGS] & SLATE_NTFS_IN_USE) != 0;
}

/* A stride of a stream, which begins at this byte of it. */
static void put_stride(const struct slate_ntfs *ntfs,
                       enum slate_ntfs_stream stream, uint64_t at, uint8_t *out)
{
    uint32_t stride = (uint32_t)(at % ntfs->record_bytes) / SLATE_NTFS_STRIDE;
    struct slate_pen pen = {out, (uint32_t)at, SLATE_NTFS_STRIDE, 0};

    switch (stream) {
    case SLATE_NTFS_BOOT:
        if (at == 0)
            put_boot(ntfs, out);
        return;
    case SLATE_NTFS_LOG: /* never used */
        memset(out, 0xFF, SLATE_NTFS_STRIDE);
        return;
    case SLATE_NTFS_DEFINITIONS:
        write_definitions(&pen);
        return;
    case SLATE_NTFS_UPCASE:
        slate_upcase_units((uint16_t)(at / 2), SLATE_NTFS_STRIDE / 2, out);
        return;
    case SLATE_NTFS_SECURITY:
        pen.from %= SLATE_NTFS_SECURITY_APART;
        if (pen.from < slate_ntfs_rights_bytes(ntfs))
            slate_ntfs_write_rights(ntfs, &pen);
        return;
    case SLATE_NTFS_RECORD_BITS:
        for (uint32_t i = 0; i < 8 * SLATE_NTFS_STRIDE; i++)
            if (at * 8 + i < ntfs->records &&
                is_set(ntfs, (uint32_t)at * 8 + i))
                out[i / 8] |= (uint8_t)(1u << i % 8);
        return;
    case SLATE_NTFS_ROOT:
        slate_ntfs_put_root(ntfs, (uint32_t)at / SLATE_NTFS_STRIDE, out);
        return;
    case SLATE_NTFS_BITMAP:
        put_bitmap(ntfs, at, out);
        return;
    case SLATE_NTFS_PARTS:
        slate_ntfs_write_list(ntfs, &pen);
        return;
    case SLATE_NTFS_RECORDS:
    case SLATE_NTFS_MIRROR:
        slate_ntfs_put_record(ntfs, (uint32_t)(at / ntfs->record_bytes), stride,
                              out);
        return;
    }
}

/* Which stream a block belongs to, and where it is in that. */
static bool find_stream(const struct slate_ntfs *ntfs, uint64_t lba,
                        enum slate_ntfs_stream *stream, uint64_t *at)
{
    for (int i = 0; i < SLATE_NTFS_STREAMS; i++) {
        struct slate_range range;

        *stream = (enum slate_ntfs_stream)i;
        slate_ntfs_range(ntfs, *stream, &range);
        if (lba >= range.first && lba - range.first < range.count) {
            *at = (lba - range.first) * ntfs->block_bytes;
            return true;
        }
    }
    return false;
}

enum slate_status slate_ntfs_fill(const void *plan, uint64_t first,
                                  uint32_t count, void *data)
{
    const struct slate_ntfs *ntfs = plan;
    uint8_t *out = data;
    enum slate_ntfs_stream stream;
    uint64_t at;

    memset(data, 0, (size_t)count * ntfs->block_bytes);
    for (uint32_t i = 0; i < count; i++) {
        if (first + i == ntfs->first + ntfs->blocks - 1) {
            put_boot(ntfs, out);
            out += ntfs->block_bytes;
            continue;
        }
        if (!find_stream(ntfs, first + i, &stream, &at))
            return SLATE_ERR_INTERNAL;
        for (uint32_t k = 0; k < ntfs->block_bytes; k += SLATE_NTFS_STRIDE) {
            put_stride(ntfs, stream, at + k, out);
            out += SLATE_NTFS_STRIDE;
        }
    }
    return SLATE_OK;
}
