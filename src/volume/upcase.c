/* SPDX-License-Identifier: MIT */
/* The up-case table: as it is stored, and unit by unit (exFAT file system
 * specification 1.00, 7.2.5). */
#include "volume/upcase.h"

#include "volume/upcase_table.h"

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

uint16_t slate_upcase(uint16_t unit)
{
    uint32_t at = upcase_index[unit / INDEX_STRIDE].at;
    uint32_t here = upcase_index[unit / INDEX_STRIDE].unit;

    while (at < SLATE_UPCASE_UNITS) {
        if (upcase_table[at] == RUN) {
            here += upcase_table[at + 1];
            if (unit < here)
                return unit;
            at += 2;
        } else if (here == unit) {
            return upcase_table[at];
        } else {
            here++;
            at++;
        }
    }
    return unit;
}
