/* SPDX-License-Identifier: MIT */
/* The second boot region of exFAT, what both lead to, and what the first block
 * says of its place (file system specification 1.00, 3 and 4). */
#include "base/base.h"
#include "volume/exfat/exfat.h"

#define PLACE_AT 64u /* 3.1.4 */

enum slate_here slate_exfat_place(struct slate_reader *reader)
{
    const uint8_t *boot = slate_reader_at(reader, 0, SLATE_PIECE_BYTES);

    return slate_volume_told(reader,
                             boot == NULL ? 0 : slate_le64(boot + PLACE_AT));
}

/* The whole second region has to be there: its checksum fills its last block
 * (3.4). */
static bool region_is_sound(struct slate_reader *reader, uint32_t block)
{
    const uint8_t *last;
    uint32_t sum = 0;

    for (uint32_t i = 0; i + 1 < SLATE_EXFAT_REGION_BLOCKS; i++) {
        const uint8_t *bytes = slate_reader_at(
            reader, (uint64_t)(SLATE_EXFAT_REGION_BLOCKS + i) * block, block);

        for (uint32_t at = 0; bytes != NULL && at < block; at++) {
            if (i > 0 || !slate_exfat_is_changing(at))
                sum = slate_exfat_sum(sum, bytes + at, 1);
        }
        if (bytes == NULL)
            return false;
    }
    last = slate_reader_at(
        reader, (2 * (uint64_t)SLATE_EXFAT_REGION_BLOCKS - 1) * block, block);
    for (uint32_t at = 0; last != NULL && at < block; at += 4) {
        if (slate_le32(last + at) != sum)
            return false;
    }
    return last != NULL;
}

/* The first entry of the table of a boot block at this byte (4.1.1). */
static bool leads_on(struct slate_reader *reader, uint64_t byte)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *boot = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);
    uint64_t table = boot == NULL ? 0 : slate_le32(boot + SLATE_EXFAT_TABLE_AT);
    const uint8_t *entry =
        table == 0 ? NULL : slate_reader_at(reader, table * block, 4);

    return entry != NULL && slate_le32(entry) == 0xFFFFFFF8u;
}

bool slate_exfat_leads_on(struct slate_reader *reader,
                          const struct slate_volume *volume)
{
    (void)volume;
    return leads_on(reader, 0);
}

static uint64_t copy_at(const struct slate_reader *reader)
{
    return (uint64_t)SLATE_EXFAT_REGION_BLOCKS *
           reader->media->geometry.block_bytes;
}

bool slate_exfat_find_copy(struct slate_reader *reader,
                           struct slate_volume *volume)
{
    uint64_t byte = copy_at(reader);

    if (slate_boot_named(reader, byte, "EXFAT   ") == NULL)
        return false;
    slate_volume_take_copy(reader, SLATE_VOLUME_EXFAT, byte, volume);
    volume->kept =
        region_is_sound(reader, reader->media->geometry.block_bytes) &&
        leads_on(reader, byte);
    return true;
}

void slate_exfat_add_runs(struct slate_reader *reader, uint64_t from,
                          struct slate_start_copy *copy)
{
    slate_volume_add_run(copy, from, 0, (uint32_t)copy_at(reader));
}
