/* SPDX-License-Identifier: MIT */
/* Which volumes a partition's type announces, and what it hides: the kinds list
 * their types. */
#include <string.h>

#include "assess/judge/judge.h"
#include "volume/common/common.h"
#include "table/table.h"

static bool lists_mbr(const struct slate_kind *kind, uint8_t type)
{
    for (uint32_t i = 0; i < SLATE_MBR_TYPES && kind->mbr[i] != 0; i++) {
        if (kind->mbr[i] == type)
            return true;
    }
    return false;
}

static bool lists_gpt(const struct slate_kind *kind,
                      const struct slate_guid *type)
{
    for (uint32_t i = 0; i < SLATE_GPT_TYPES && kind->gpt[i] != NULL; i++) {
        if (memcmp(kind->gpt[i]->bytes, type->bytes, 16) == 0)
            return true;
    }
    return false;
}

static bool announces(const struct slate_facts *facts, uint32_t i,
                      const struct slate_kind *kind)
{
    const struct slate_partition *partition = &facts->partition[i];

    return (facts->layout.kind == SLATE_TABLE_MBR &&
            lists_mbr(kind, partition->mbr_type)) ||
           (facts->layout.kind == SLATE_TABLE_GPT &&
            lists_gpt(kind, &partition->type));
}

/* The first kind that its type announces; SLATE_VOLUME_NONE: types that no kind
 * lists announce nothing that could be checked. */
static enum slate_volume_kind announced(const struct slate_facts *facts,
                                        uint32_t i)
{
    for (uint32_t k = 0; k < SLATE_VOLUME_KINDS; k++) {
        if (announces(facts, i, slate_kind_of((enum slate_volume_kind)k)))
            return (enum slate_volume_kind)k;
    }
    return SLATE_VOLUME_NONE;
}

bool slate_type_fits(const struct slate_facts *facts, uint32_t i)
{
    return announces(facts, i, slate_kind_of(facts->volume[i].kind)) ||
           announced(facts, i) == SLATE_VOLUME_NONE;
}

/* What a partition holds: by its volume, or else by what its type announces. */
static enum slate_volume_kind held(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind kind = facts->volume[i].kind;

    return slate_volume_is_known(kind) ? kind : announced(facts, i);
}

static bool is_efi(const struct slate_partition *partition)
{
    return partition->mbr_type == SLATE_MBR_EFI_SYSTEM ||
           memcmp(partition->type.bytes, slate_efi_data.bytes, 16) == 0;
}

const struct slate_guid *slate_type_as_gpt(const struct slate_facts *facts,
                                           uint32_t i)
{
    return is_efi(&facts->partition[i]) ? &slate_efi_data
                                        : slate_gpt_type_for(held(facts, i));
}

/* Basic data, where nothing tells which, are of the type that most have. */
uint8_t slate_type_as_mbr(const struct slate_facts *facts, uint32_t i)
{
    if (is_efi(&facts->partition[i]))
        return SLATE_MBR_EFI_SYSTEM;
    if (!slate_volume_is_known(facts->volume[i].kind) &&
        slate_partition_is_basic(&facts->partition[i]))
        return SLATE_MBR_EXFAT;
    return slate_mbr_type_for(held(facts, i));
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
