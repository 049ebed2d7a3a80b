/* SPDX-License-Identifier: MIT */
/* Which volumes a partition's type announces, and what it hides. MBR types as
 * hosts use them; GUIDs of UEFI 2.10, table 5.7, and of the systems that
 * defined them. */
#include <string.h>

#include "assess/judge/judge.h"

#define KIND(kind) ((uint64_t)1 << SLATE_VOLUME_##kind)
#define FATS (KIND(FAT12) | KIND(FAT16) | KIND(FAT32))
#define LINUX                                                                  \
    (KIND(EXT2) | KIND(EXT3) | KIND(EXT4) | KIND(XFS) | KIND(BTRFS) |          \
     KIND(F2FS) | KIND(SQUASHFS) | KIND(LUKS))
#define BASIC                                                                  \
    (FATS | KIND(EXFAT) | KIND(NTFS) | KIND(REFS) | KIND(ENCRYPTED) | KIND(UDF))
#define MAC (KIND(HFS) | KIND(HFS_PLUS))

_Static_assert(SLATE_VOLUME_KINDS <= 64, "a bit of 64 for each kind");

struct mbr_row {
    uint8_t type;
    uint64_t kinds;
};

/* Types that are not listed announce nothing that could be checked. */
static const struct mbr_row mbr_rows[] = {
    {0x01, FATS},
    {0x04, FATS},
    {0x06, FATS},
    {0x0B, FATS},
    {0x0C, FATS},
    {0x0E, FATS},
    {0x11, FATS},
    {0x14, FATS},
    {0x16, FATS},
    {0x1B, FATS},
    {0x1C, FATS},
    {0x1E, FATS},
    {0xEF, FATS},
    {0x07, BASIC & ~FATS},
    {0x82, KIND(SWAP)},
    {0x83, LINUX},
    {0x8E, KIND(LVM)},
    {0xAF, MAC | KIND(APFS)},
    {0xFD, KIND(RAID) | LINUX | KIND(LVM)}};

struct gpt_row {
    struct slate_guid type;
    uint64_t kinds;
};

static const struct gpt_row gpt_rows[] = {
    {{{0xA2, 0xA0, 0xD0, 0xEB, 0xE5, 0xB9, 0x33, 0x44, 0x87, 0xC0, 0x68, 0xB6,
       0xB7, 0x26, 0x99, 0xC7}},
     BASIC}, /* basic data; always the first */
    {{{0x28, 0x73, 0x2A, 0xC1, 0x1F, 0xF8, 0xD2, 0x11, 0xBA, 0x4B, 0x00, 0xA0,
       0xC9, 0x3E, 0xC9, 0x3B}},
     FATS}, /* EFI system */
    {{{0xAF, 0x3D, 0xC6, 0x0F, 0x83, 0x84, 0x72, 0x47, 0x8E, 0x79, 0x3D, 0x69,
       0xD8, 0x47, 0x7D, 0xE4}},
     LINUX | KIND(OPTICAL)}, /* Linux data */
    {{{0x6D, 0xFD, 0x57, 0x06, 0xAB, 0xA4, 0xC4, 0x43, 0x84, 0xE5, 0x09, 0x33,
       0xC8, 0x4B, 0x4F, 0x4F}},
     KIND(SWAP)},
    {{{0x79, 0xD3, 0xD6, 0xE6, 0x07, 0xF5, 0xC2, 0x44, 0xA2, 0x3C, 0x23, 0x8F,
       0x2A, 0x3D, 0xF9, 0x28}},
     KIND(LVM)},
    {{{0x0F, 0x88, 0x9D, 0xA1, 0xFC, 0x05, 0x3B, 0x4D, 0xA0, 0x06, 0x74, 0x3F,
       0x0F, 0x84, 0x91, 0x1E}},
     KIND(RAID)},
    {{{0x00, 0x53, 0x46, 0x48, 0x00, 0x00, 0xAA, 0x11, 0xAA, 0x11, 0x00, 0x30,
       0x65, 0x43, 0xEC, 0xAC}},
     MAC},
    {{{0xEF, 0x57, 0x34, 0x7C, 0x00, 0x00, 0xAA, 0x11, 0xAA, 0x11, 0x00, 0x30,
       0x65, 0x43, 0xEC, 0xAC}},
     KIND(APFS)}};

static uint64_t announced(const struct slate_facts *facts,
                          const struct slate_partition *partition)
{
    if (facts->layout.kind == SLATE_TABLE_MBR) {
        for (size_t i = 0; i < sizeof mbr_rows / sizeof mbr_rows[0]; i++) {
            if (mbr_rows[i].type == partition->mbr_type)
                return mbr_rows[i].kinds;
        }
    }
    if (facts->layout.kind == SLATE_TABLE_GPT) {
        for (size_t i = 0; i < sizeof gpt_rows / sizeof gpt_rows[0]; i++) {
            if (memcmp(gpt_rows[i].type.bytes, partition->type.bytes, 16) == 0)
                return gpt_rows[i].kinds;
        }
    }
    return UINT64_MAX;
}

bool slate_type_fits(const struct slate_facts *facts, uint32_t i)
{
    uint64_t kind = (uint64_t)1 << facts->volume[i].kind;

    return (announced(facts, &facts->partition[i]) & kind) != 0;
}

/* What a partition holds: by its volume, or else by what its type announces. */
static uint64_t held(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind kind = facts->volume[i].kind;

    return slate_volume_is_known(kind) ? (uint64_t)1 << kind
                                       : announced(facts, &facts->partition[i]);
}

#define EFI_ROW 1u /* of gpt_rows */

/* The first one that announces them; basic data, where none does. */
static const struct slate_guid *gpt_type_for(uint64_t kinds)
{
    for (size_t row = 0; row < sizeof gpt_rows / sizeof gpt_rows[0]; row++) {
        if ((gpt_rows[row].kinds & kinds) != 0)
            return &gpt_rows[row].type;
    }
    return &gpt_rows[0].type;
}

const struct slate_guid *slate_type_as_gpt(const struct slate_facts *facts,
                                           uint32_t i)
{
    return facts->partition[i].mbr_type == SLATE_MBR_EFI_SYSTEM
               ? &gpt_rows[EFI_ROW].type
               : gpt_type_for(held(facts, i));
}

const struct slate_guid *slate_gpt_type_for(enum slate_volume_kind kind)
{
    return gpt_type_for((uint64_t)1 << kind);
}

/* Of those that today's hosts look for, the first one that announces it. */
static uint8_t mbr_type_for(uint64_t kinds)
{
    static const struct mbr_row usual[] = {
        {SLATE_MBR_FAT32_LBA, KIND(FAT32)},
        {SLATE_MBR_FAT16_LBA, KIND(FAT12) | KIND(FAT16)},
        {SLATE_MBR_EXFAT, BASIC & ~FATS},
        {SLATE_MBR_LINUX, LINUX},
        {0x82, KIND(SWAP)},
        {0x8E, KIND(LVM)},
        {0xFD, KIND(RAID)},
        {0xAF, MAC | KIND(APFS)}};

    for (size_t row = 0; row < sizeof usual / sizeof usual[0]; row++) {
        if ((usual[row].kinds & kinds) != 0 && kinds != UINT64_MAX)
            return usual[row].type;
    }
    return SLATE_MBR_LINUX;
}

uint8_t slate_type_as_mbr(const struct slate_facts *facts, uint32_t i)
{
    uint64_t kinds = held(facts, i);

    if (memcmp(facts->partition[i].type.bytes, gpt_rows[EFI_ROW].type.bytes,
               16) == 0)
        return SLATE_MBR_EFI_SYSTEM;
    if (kinds == announced(facts, &facts->partition[i]) &&
        slate_partition_is_basic(&facts->partition[i]))
        return SLATE_MBR_EXFAT; /* nothing tells which */
    return mbr_type_for(kinds);
}

uint8_t slate_mbr_type_for(enum slate_volume_kind kind)
{
    return mbr_type_for((uint64_t)1 << kind);
}

/* Parts of dynamic disks: their data, and their own records. */
static const uint8_t dynamic_types[][16] = {
    {0xA0, 0x60, 0x9B, 0xAF, 0x31, 0x14, 0x62, 0x4F, 0xBC, 0x68, 0x33, 0x11,
     0x71, 0x4A, 0x69, 0xAD},
    {0xAA, 0xC8, 0x08, 0x58, 0x8F, 0x7E, 0xE0, 0x42, 0x85, 0xD2, 0xE1, 0xE9,
     0x04, 0x34, 0xCF, 0xB3}};

/* Room for start-up code, and room that a system keeps for itself. */
static const uint8_t bare_types[][16] = {
    {0x48, 0x61, 0x68, 0x21, 0x49, 0x64, 0x6F, 0x6E, 0x74, 0x4E, 0x65, 0x65,
     0x64, 0x45, 0x46, 0x49},
    {0x16, 0xE3, 0xC9, 0xE3, 0x5C, 0x0B, 0xB8, 0x4D, 0x81, 0x7D, 0xF9, 0x2D,
     0xF0, 0x02, 0x15, 0xAE},
    {0x8B, 0xDA, 0xA1, 0x9E, 0x12, 0xC6, 0x16, 0x43, 0xAA, 0x26, 0x8B, 0x49,
     0x52, 0x1E, 0x5A, 0x8B}};

static bool is_one_of(const struct slate_facts *facts, uint32_t i,
                      const uint8_t types[][16], size_t count)
{
    for (size_t t = 0; t < count; t++) {
        if (memcmp(facts->partition[i].type.bytes, types[t], 16) == 0)
            return facts->layout.kind == SLATE_TABLE_GPT;
    }
    return false;
}

bool slate_type_is_dynamic(const struct slate_facts *facts, uint32_t i)
{
    return (facts->layout.kind == SLATE_TABLE_MBR &&
            facts->partition[i].mbr_type == SLATE_MBR_DYNAMIC) ||
           is_one_of(facts, i, dynamic_types,
                     sizeof dynamic_types / sizeof dynamic_types[0]);
}

bool slate_type_needs_no_volume(const struct slate_facts *facts, uint32_t i)
{
    uint8_t type = facts->partition[i].mbr_type;

    if (facts->layout.kind == SLATE_TABLE_MBR)
        return type == 0xDA || type == 0x41 || type == SLATE_MBR_PROTECTIVE;
    return facts->layout.kind > SLATE_TABLE_GPT ||
           is_one_of(facts, i, bare_types,
                     sizeof bare_types / sizeof bare_types[0]);
}

bool slate_type_is_general(const struct slate_facts *facts, uint32_t i)
{
    return facts->layout.kind == SLATE_TABLE_MBR
               ? facts->partition[i].mbr_type == 0x07
               : facts->layout.kind == SLATE_TABLE_GPT &&
                     slate_partition_is_basic(&facts->partition[i]);
}

/* For the GPT, attributes count where they are defined: on basic data. */
bool slate_partition_hides(const struct slate_partition *partition)
{
    if (slate_partition_is_basic(partition))
        return (partition->attributes &
                (SLATE_GPT_NO_BLOCK_IO | SLATE_GPT_READ_ONLY |
                 SLATE_GPT_HIDDEN | SLATE_GPT_NO_LETTER)) != 0;
    return slate_mbr_is_hidden(partition->mbr_type);
}
