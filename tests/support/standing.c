/* SPDX-License-Identifier: MIT */
/* Volumes, members and tables, by what their formats publish. */
#include "standing.h"

#include <stdlib.h>

#include "check.h"

/* What stands on the device, by its magic and by its own size. */

struct sign {
    const char *name;
    uint32_t at, length; /* bytes from where it begins */
    const char *magic;
    uint64_t (*bytes)(const uint8_t *start); /* 65536 of them; 0: not told */
    bool member;                             /* of something larger */
};

/* Where only a start is left of it, and what that leads to is not there, it is
 * not counted: a table of a FAT that begins with its media byte, the first
 * record of an NTFS, the first entry of an exFAT. */

static const struct ram *under; /* which is looked at */
static uint64_t here;           /* where it begins, bytes */

static bool leads_to(uint64_t at, uint8_t least, const char *magic)
{
    uint8_t bytes[4];

    if (here + at + sizeof bytes >
        under->facts.block_count * (uint64_t)under->facts.block_bytes)
        return false;
    ram_get(under, here + at, bytes, sizeof bytes);
    return magic == NULL ? bytes[0] >= least : memcmp(bytes, magic, 4) == 0;
}

static uint64_t fat_bytes(const uint8_t *b)
{
    uint64_t sectors = number_at(b, 19, 2);

    if (b[510] != 0x55 || b[511] != 0xAA ||
        !leads_to(number_at(b, 14, 2) * number_at(b, 11, 2), 0xF0, NULL))
        return 0;
    return (sectors != 0 ? sectors : number_at(b, 32, 4)) * number_at(b, 11, 2);
}

static uint64_t exfat_bytes(const uint8_t *b)
{
    return b[108] > 12 || !leads_to(number_at(b, 80, 4) << b[108], 0,
                                    "\xF8\xFF\xFF\xFF")
               ? 0
               : number_at(b, 72, 8) << b[108];
}

static uint64_t ntfs_bytes(const uint8_t *b)
{
    uint64_t cluster = number_at(b, 11, 2) * b[13];

    return leads_to(number_at(b, 48, 8) * cluster, 0, "FILE")
               ? (number_at(b, 40, 8) + 1) * number_at(b, 11, 2)
               : 0;
}

static uint64_t ext_bytes(const uint8_t *b)
{
    return b[1024 + 24] > 6 || number_at(b, 1024 + 90, 2) != 0 ||
                   number_at(b, 1024 + 88, 2) < 128
               ? 0
               : number_at(b, 1028, 4) * (1024u << b[1024 + 24]);
}

static uint64_t xfs_bytes(const uint8_t *b)
{
    uint64_t blocks = 0;

    for (int i = 0; i < 8; i++)
        blocks = blocks << 8 | b[8 + i];
    return blocks * ((uint64_t)b[6] << 8 | (uint64_t)b[5] << 16);
}

static uint64_t apfs_bytes(const uint8_t *b)
{
    return number_at(b, 40, 8) * number_at(b, 36, 4);
}

/* ZFS, RAID and others tell no size in their first bytes: the magic alone. */
static const struct sign signs[] = {
    {"FAT12", 54, 5, "FAT12", fat_bytes, false},
    {"FAT16", 54, 5, "FAT16", fat_bytes, false},
    {"FAT32", 82, 5, "FAT32", fat_bytes, false},
    {"exFAT", 3, 8, "EXFAT   ", exfat_bytes, false},
    {"NTFS", 3, 8, "NTFS    ", ntfs_bytes, false},
    {"ext", 1080, 2, "\x53\xEF", ext_bytes, false},
    {"XFS", 0, 4, "XFSB", xfs_bytes, false},
    {"APFS", 32, 4, "NXSB", apfs_bytes, false},
    {"LUKS", 0, 6, "LUKS\xBA\xBE", NULL, true},
    {"LVM", 512, 8, "LABELONE", NULL, true},
    {"RAID 1.2", 4096, 5, "\xFC\x4E\x2B\xA9\1", NULL, true},
    {"RAID 1.1", 0, 5, "\xFC\x4E\x2B\xA9\1", NULL, true},
    {"disc", 32768, 6, "\1CD001", NULL, false},
    {"swap", 4086, 10, "SWAPSPACE2", NULL, false},
    {"Btrfs", 65536 + 64, 8, "_BHRfS_M", NULL, false},
    {"HFS+", 1024, 4, "H+\0\4", NULL, false},
    {"F2FS", 1024, 4, "\x10\x20\xF5\xF2", NULL, false},
    {"ZFS", 16408, 7, "version", NULL, true},
    {"RAID 1.0, 0.9", 0, 4, "\xFC\x4E\x2B\xA9", NULL, true},
};
#define SIGNS (sizeof signs / sizeof signs[0])

static struct stands *stands;
static uint32_t standing;
static uint64_t hollow[STANDS_MOST]; /* where only a start is left */
static uint32_t hollows;

static uint64_t size_of(const struct ram *ram)
{
    return (uint64_t)ram->facts.block_count * ram->facts.block_bytes;
}

static bool has_sign(const struct ram *ram, const struct sign *sign,
                     uint64_t at)
{
    uint8_t bytes[16];

    if (at + sign->at + sign->length > size_of(ram))
        return false;
    ram_get(ram, at + sign->at, bytes, sign->length);
    return memcmp(bytes, sign->magic, sign->length) == 0;
}

/* A copy of a volume's start lies a few blocks behind it, or at its end. */
static bool is_copy(const struct sign *sign, uint64_t at)
{
    for (uint32_t i = 0; i < standing; i++) {
        const struct stands *one = &stands[i];

        if (one->sign == sign && at > one->at && at < one->end &&
            (at - one->at <= 12 * (uint64_t)under->facts.block_bytes ||
             one->end - at <= 4096))
            return true;
    }
    return false;
}

static void look_for(const struct ram *ram, const struct sign *sign,
                     uint64_t at)
{
    static uint8_t start[65536];
    uint64_t most = size_of(ram), bytes = 0;

    under = ram;
    here = at;
    if (!has_sign(ram, sign, at) || is_copy(sign, at) ||
        (ram->fail_read != 0 && at / ram->facts.block_bytes == ram->fail_read))
        return;
    memset(start, 0, sizeof start);
    ram_get(ram, at, start,
            most - at < sizeof start ? (size_t)(most - at) : sizeof start);
    if (sign->bytes != NULL) {
        bytes = sign->bytes(start);
        if (bytes == 0) { /* not what it seems */
            hollow[hollows++ % STANDS_MOST] = at;
            return;
        }
    }
    assert_true(standing < STANDS_MOST);
    stands[standing++] =
        (struct stands){sign, at, bytes > most - at ? most : at + bytes, false};
}

/* Which entries name what stands there: of an MBR with its chain, and of both
 * copies of a GPT. */

/* Of one block with a table: does it name that place, and where does its chain
 * go on (0: nowhere)? */
static bool entries_name(const struct ram *ram, uint64_t table, uint64_t at,
                         uint64_t *chain)
{
    uint32_t bytes = ram->facts.block_bytes;
    uint8_t block[512] = {0};

    *chain = 0;
    if ((table + 1) * bytes <= size_of(ram))
        ram_get(ram, table * bytes, block, sizeof block);
    for (size_t i = 0; i < 4 && block[510] == 0x55 && block[511] == 0xAA; i++) {
        const uint8_t *entry = block + 446 + 16 * i;
        uint64_t first = number_at(entry, 8, 4);

        if (entry[4] == 0x05 || entry[4] == 0x0F || entry[4] == 0x85)
            *chain = first;
        else if (entry[4] != 0 && first != 0 && (table + first) * bytes == at)
            return true;
    }
    return false;
}

static bool mbr_names(const struct ram *ram, uint64_t at)
{
    uint64_t chain, base;

    if (entries_name(ram, 0, at, &chain))
        return true;
    base = chain;
    for (uint64_t link = base, i = 0; chain != 0 && i < 60; i++) {
        if (entries_name(ram, link, at, &chain))
            return true;
        link = base + chain;
    }
    return false;
}

/* Where a header says that its entries are; none, where it is none. */
static struct slate_range array_of(const struct ram *ram, uint64_t header)
{
    uint32_t bytes = ram->facts.block_bytes;
    uint64_t each, entries;
    uint8_t block[512];

    ram_get(ram, header * bytes, block, sizeof block);
    each = number_at(block, 84, 4);
    entries = number_at(block, 80, 4);
    if (memcmp(block, "EFI PART", 8) != 0 || each < 128 || each > 4096 ||
        entries > 4096)
        return (struct slate_range){0, 0};
    return (struct slate_range){number_at(block, 72, 8),
                                (each * entries + bytes - 1) / bytes};
}

static bool gpt_names(const struct ram *ram, uint64_t header, uint64_t at)
{
    const struct slate_range array = array_of(ram, header);
    uint32_t bytes = ram->facts.block_bytes;
    uint8_t entry[128];

    for (uint64_t i = array.first * bytes;
         i + sizeof entry <= (array.first + array.count) * bytes &&
         i + sizeof entry <= size_of(ram);
         i += sizeof entry) {
        ram_get(ram, i, entry, sizeof entry);
        if ((number_at(entry, 0, 8) | number_at(entry, 8, 8)) != 0 &&
            number_at(entry, 32, 8) * bytes == at)
            return true;
    }
    return false;
}

/* Does a block belong to a table, also where a volume claims it too? */
bool standing_is_of_table(const struct ram *ram, uint64_t block)
{
    uint64_t headers[2] = {1, ram->facts.block_count - 1};

    for (int i = 0; i < 2; i++) {
        const struct slate_range array = array_of(ram, headers[i]);

        if (array.count > 0 &&
            (block == headers[i] ||
             (block >= array.first && block - array.first < array.count)))
            return true;
    }
    return false;
}

bool standing_is_named(const struct ram *ram, uint64_t at)
{
    return mbr_names(ram, at) || gpt_names(ram, 1, at) ||
           gpt_names(ram, ram->facts.block_count - 1, at);
}

uint32_t standing_find(const struct ram *ram, struct stands found[STANDS_MOST])
{
    stands = found;
    standing = hollows = 0;
    for (size_t page = 0; page < ram->page_count; page++) {
        if (ram->pages[page] == NULL)
            continue;
        for (uint64_t at = page * (uint64_t)RAM_PAGE_BYTES;
             at < (page + 1) * (uint64_t)RAM_PAGE_BYTES; at += 512) {
            for (size_t i = 0; i < SIGNS; i++)
                look_for(ram, &signs[i], at);
        }
    }
    /* those whose magic lies in a page of its own, behind an empty start */
    for (size_t page = 0; page < ram->page_count; page++) {
        for (size_t i = 0; i < SIGNS && ram->pages[page] != NULL; i++) {
            uint64_t ahead = signs[i].at / 512 * 512;
            uint64_t first = page * (uint64_t)RAM_PAGE_BYTES;

            for (uint64_t at = first; at < first + RAM_PAGE_BYTES; at += 512) {
                if (at >= ahead && signs[i].at >= 4096 &&
                    ram->pages[(at - ahead) / RAM_PAGE_BYTES] == NULL)
                    look_for(ram, &signs[i], at - ahead);
            }
        }
    }
    for (uint32_t i = 0; i < standing; i++)
        stands[i].named = standing_is_named(ram, stands[i].at);
    return standing;
}

bool standing_is_stale(const struct stands *one)
{
    for (uint32_t i = 0; one->at == 0 && i < standing; i++) {
        if (stands[i].named && stands[i].at > 0)
            return true;
    }
    for (uint32_t i = 0; one->at == 0 && i < hollows && i < STANDS_MOST; i++) {
        if (hollow[i] > 0 && standing_is_named(under, hollow[i]))
            return true;
    }
    return false;
}

bool standing_is_on(const struct ram *ram, const struct stands *one)
{
    return has_sign(ram, one->sign, one->at);
}

const char *standing_name(const struct stands *one)
{
    return one->sign->name;
}

bool standing_is_member(const struct stands *one)
{
    return one->sign->member;
}
