/* SPDX-License-Identifier: MIT */
/* The up-case table: as it is stored, and unit by unit (exFAT file system
 * specification 1.00, 7.2.5). */
#include "volume/exfat/upcase.h"

#include <stdbool.h>
#include <stddef.h>

#include "base/bytes.h"
#include "volume/exfat/upcase_table.h"

#define RUN 0xFFFFu /* then how many units are their own upper case */
#define INDEX_STRIDE 1024u

const uint32_t slate_upcase_bytes = sizeof upcase_table;

void slate_upcase_put(uint32_t at, uint8_t *data, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++, at++) {
        uint16_t unit =
            at < sizeof upcase_table ? upcase_table[at / 2] : (uint16_t)0;

        data[i] = (uint8_t)(unit >> at % 2 * 8);
    }
}

void slate_upcase_units(uint16_t first, uint32_t count, uint8_t *units)
{
    uint32_t at = upcase_index[first / INDEX_STRIDE].at;
    uint32_t here = upcase_index[first / INDEX_STRIDE].unit;
    uint32_t end = first + count;

    while (here < end) {
        bool run = at < SLATE_UPCASE_UNITS && upcase_table[at] == RUN;
        uint32_t next = run ? here + upcase_table[at + 1] : here + 1;

        for (; here < next && here < end; here++)
            if (here >= first)
                slate_put_le16(units + (size_t)2 * (here - first),
                               run ? (uint16_t)here : upcase_table[at]);
        at += run ? 2 : 1;
    }
}

uint16_t slate_upcase(uint16_t unit)
{
    uint8_t upper[2] = {0};

    slate_upcase_units(unit, 1, upper);
    return slate_le16(upper);
}
