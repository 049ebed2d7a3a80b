/* SPDX-License-Identifier: MIT */
/* exFAT's checksum of boot region and up-case table (file system specification
 * 1.00, 3.4 and 7.2.3): turned right by one bit, then the byte added. */
#include "volume/exfat/exfat.h"

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
