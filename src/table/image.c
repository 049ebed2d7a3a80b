/* SPDX-License-Identifier: MIT */
/* The image of a table that is changed: is it sound, and what does it hold? */

#include "base/base.h"
#include "table/table.h"

/* Larger arrays are not met with. */
#define ARRAY_BYTES_MAX 1048576u

void slate_image_copy(const struct slate_table_plan *plan, uint64_t offset,
                      uint32_t length, uint8_t *to)
{
    uint32_t there = 0;

    if (offset < plan->image_bytes)
        there = plan->image_bytes - offset < length
                    ? (uint32_t)(plan->image_bytes - offset)
                    : length;
    memset(to, 0, length);
    memcpy(to, plan->image + (there > 0 ? offset : 0), there);
}

static uint32_t field32(const struct slate_table_plan *plan,
                        enum slate_image_part part, uint32_t offset)
{
    uint8_t bytes[4];

    slate_image_copy(plan, slate_image_at(plan, part) + offset, 4, bytes);
    return slate_le32(bytes);
}

static uint64_t field64(const struct slate_table_plan *plan,
                        enum slate_image_part part, uint32_t offset)
{
    uint8_t bytes[8];

    slate_image_copy(plan, slate_image_at(plan, part) + offset, 8, bytes);
    return slate_le64(bytes);
}

void slate_image_find(const struct slate_table_plan *plan,
                      enum slate_image_part part,
                      struct slate_image_place *place)
{
    place->part = part;
    place->header = field64(plan, part, SLATE_GPT_MY_LBA);
    place->array = field64(plan, part, SLATE_GPT_ARRAY_LBA);
    place->entries = field32(plan, part, SLATE_GPT_ARRAY_COUNT);
    place->entry_bytes = field32(plan, part, SLATE_GPT_ENTRY_SIZE);
    place->array_blocks =
        (uint32_t)(((uint64_t)place->entries * place->entry_bytes +
                    plan->block_bytes - 1) /
                   plan->block_bytes);
}

/* UEFI 2.10, 5.3.2: the size of an entry is 128 times a power of two. */
static bool is_entry_size(uint32_t bytes)
{
    return bytes >= SLATE_GPT_ENTRY_BYTES && bytes <= 4096 &&
           (bytes & (bytes - 1)) == 0;
}

static bool header_is_sound(const struct slate_table_plan *plan,
                            const struct slate_image_place *place)
{
    uint8_t signature[8];
    uint64_t first = field64(plan, place->part, SLATE_GPT_FIRST_USABLE);
    uint64_t last = field64(plan, place->part, SLATE_GPT_LAST_USABLE);
    uint32_t length = field32(plan, place->part, SLATE_GPT_HEADER_SIZE);
    uint64_t end = place->array + place->array_blocks;

    slate_image_copy(plan, slate_image_at(plan, place->part), 8, signature);
    return memcmp(signature, SLATE_GPT_SIGNATURE, 8) == 0 &&
           length >= SLATE_GPT_HEADER_BYTES && length <= plan->block_bytes &&
           is_entry_size(place->entry_bytes) && place->entries > 0 &&
           place->entries <= ARRAY_BYTES_MAX / place->entry_bytes &&
           first > 1 && first <= last && last < plan->block_count &&
           place->header < plan->block_count && place->array > 1 &&
           end > place->array && end <= plan->block_count &&
           (end <= first || place->array > last) &&
           (place->header < first || place->header > last) &&
           (place->header < place->array || place->header >= end);
}

static bool gpt_is_sound(const struct slate_table_plan *plan)
{
    struct slate_image_place primary, copy;

    slate_image_find(plan, SLATE_IMAGE_HEADER, &primary);
    slate_image_find(plan, SLATE_IMAGE_COPY, &copy);
    return header_is_sound(plan, &primary) && header_is_sound(plan, &copy) &&
           primary.header == 1 && copy.header > 1 &&
           primary.entries == copy.entries &&
           primary.entry_bytes == copy.entry_bytes &&
           (primary.array + primary.array_blocks <= copy.array ||
            copy.array + copy.array_blocks <= primary.array) &&
           field32(plan, SLATE_IMAGE_HEADER, SLATE_GPT_ARRAY_CRC) ==
               field32(plan, SLATE_IMAGE_COPY, SLATE_GPT_ARRAY_CRC);
}

bool slate_table_image_is_sound(const struct slate_table_plan *plan)
{
    uint8_t signature[2];

    if (plan->kind == SLATE_TABLE_GPT)
        return gpt_is_sound(plan);
    slate_image_copy(plan, SLATE_MBR_SIGNATURE, 2, signature);
    return plan->kind == SLATE_TABLE_MBR &&
           slate_le16(signature) == SLATE_MBR_SIGNATURE_VALUE &&
           slate_image_chain_is_sound(plan);
}

void slate_table_image_usable(const struct slate_table_plan *plan,
                              struct slate_range *usable)
{
    uint64_t last;

    usable->first = 1;
    usable->count =
        (plan->block_count > UINT32_MAX ? UINT32_MAX : plan->block_count) - 1;
    if (plan->kind != SLATE_TABLE_GPT)
        return;
    usable->first = field64(plan, SLATE_IMAGE_HEADER, SLATE_GPT_FIRST_USABLE);
    last = field64(plan, SLATE_IMAGE_HEADER, SLATE_GPT_LAST_USABLE);
    usable->count = last - usable->first + 1;
}

bool slate_table_image_entry(const struct slate_table_plan *plan,
                             uint32_t number, uint32_t *slots)
{
    struct slate_image_place place = {.entries = SLATE_MBR_PRIMARIES};
    struct slate_partition logical;
    uint8_t entry[16];

    if (plan->kind == SLATE_TABLE_GPT)
        slate_image_find(plan, SLATE_IMAGE_HEADER, &place);
    if (slots != NULL)
        *slots = place.entries;
    if (number > place.entries && plan->kind == SLATE_TABLE_MBR)
        return slate_table_image_logical(plan, number, &logical);
    if (number == 0 || number > place.entries)
        return false;
    if (plan->kind == SLATE_TABLE_GPT) {
        slate_image_copy(plan,
                         slate_image_at(plan, SLATE_IMAGE_ARRAY) +
                             (uint64_t)(number - 1) * place.entry_bytes,
                         16, entry);
        return !slate_is_zero(entry, 16); /* its type */
    }
    slate_image_copy(plan,
                     SLATE_MBR_ENTRIES +
                         (uint64_t)(number - 1) * SLATE_MBR_ENTRY_BYTES,
                     16, entry);
    return entry[SLATE_MBR_ENTRY_TYPE] != 0;
}
