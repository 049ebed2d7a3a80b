/* SPDX-License-Identifier: MIT */
/* Start-up code that is merged into a FAT boot block: the code alone, the
 * parameters being the volume's own (FAT specification 1.03, 3.1). */

#include "base/base.h"
#include "volume/fat/fat.h"

#define BOOT_BYTES 512u
#define THREE_BLOCKS (3 * BOOT_BYTES)
#define JUMP_BYTES 3u
#define SHORT_JUMP 0xEBu
#define NEAR_JUMP 0xE9u

static uint32_t code_at(const struct slate_fat *fat)
{
    return fat->bits == 32 ? SLATE_FAT32_CODE : SLATE_FAT16_CODE;
}

/* Where the code goes on from the jump at its beginning; 0: there is none. */
static uint32_t jump_to(const uint8_t *boot)
{
    if (boot[0] == SHORT_JUMP)
        return boot[1] < 0x80 ? 2u + boot[1] : 0;
    return boot[0] == NEAR_JUMP ? 3u + slate_le16(boot + 1) : 0;
}

/* It jumps over the parameters that a volume of this kind has. */
bool slate_fat_start_fits(const struct slate_fat *fat)
{
    const struct slate_bytes *start = fat->start;
    uint32_t target;

    if (start == NULL)
        return true;
    if (start->count != BOOT_BYTES &&
        (start->count != THREE_BLOCKS || fat->bits != 32 ||
         fat->block_bytes != BOOT_BYTES))
        return false;
    target = jump_to(start->byte);
    return slate_le16(start->byte + SLATE_FAT_SIGNATURE) == 0xAA55 &&
           target >= code_at(fat) && target < SLATE_FAT_SIGNATURE;
}

void slate_fat_put_start(const struct slate_fat *fat, uint8_t *boot)
{
    uint32_t code = code_at(fat);

    if (fat->start == NULL)
        return;
    memcpy(boot, fat->start->byte, JUMP_BYTES);
    memcpy(boot + code, fat->start->byte + code, SLATE_FAT_SIGNATURE - code);
}

/* With its signature, as it stands in the file or by itself. */
void slate_fat_put_third(const struct slate_fat *fat, uint8_t *piece)
{
    if (fat->start != NULL && fat->start->count == THREE_BLOCKS)
        memcpy(piece, fat->start->byte + 2 * (size_t)BOOT_BYTES, BOOT_BYTES);
    slate_put_le16(piece + SLATE_FAT_SIGNATURE, 0xAA55);
}
