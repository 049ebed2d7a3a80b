/* SPDX-License-Identifier: MIT */
/* The up-case table: as it is stored, and unit by unit (exFAT file system
 * specification 1.00, 7.2.5). */
#include "volume/exfat/exfat.h"

#include "base/base.h"
#include "volume/exfat/upcase_table.h"

#define RUN 0xFFFFu /* then how many units are their own upper case */
#define SPANS (sizeof upcase_spans / sizeof upcase_spans[0])
#define UNITS 0x10000u

const uint32_t slate_upcase_bytes = 2 * SLATE_UPCASE_UNITS;
const uint32_t slate_upcase_checksum = SLATE_UPCASE_SUM;

/* The first unit behind a span. */
static uint32_t end_of(const struct slate_upcase_span *span)
{
    return span->first + span->stride * (span->count - 1u) + 1;
}

/* The first span that does not end ahead of a unit; SPANS for none. */
static size_t span_from(uint32_t unit)
{
    size_t low = 0, high = SPANS;

    SLATE_BISECT(low, high, i, end_of(&upcase_spans[i]) <= unit);
    return low;
}

uint16_t slate_upcase(uint16_t unit)
{
    size_t i = span_from(unit);
    const struct slate_upcase_span *span = &upcase_spans[i];

    if (i == SPANS || unit < span->first ||
        (unit - span->first) % span->stride != 0)
        return unit;
    return (uint16_t)(unit - span->less);
}

void slate_upcase_units(uint16_t first, uint32_t count, uint8_t *units)
{
    for (uint32_t i = 0; i < count; i++)
        slate_put_le16(units + (size_t)2 * i,
                       slate_upcase((uint16_t)(first + i)));
}

/* Those bytes of the stored form that are wanted. */
struct putting {
    uint8_t *data;
    uint32_t at, count;
    uint32_t now; /* the unit that comes next */
};

static void put(struct putting *to, uint32_t unit)
{
    for (uint32_t i = 2 * to->now; i < 2 * to->now + 2; i++) {
        if (i >= to->at && i - to->at < to->count)
            to->data[i - to->at] = (uint8_t)(unit >> i % 2 * 8);
    }
    to->now++;
}

void slate_upcase_put(uint32_t at, uint8_t *data, uint32_t count)
{
    struct putting to = {data, at, count, 0};
    uint32_t unit = 0;

    memset(data, 0, count);
    for (size_t i = 0; i <= SPANS; i++) {
        uint32_t first = i == SPANS ? UNITS : upcase_spans[i].first;

        if (first - unit > 2 || i == SPANS) {
            put(&to, RUN);
            put(&to, first - unit);
            unit = first;
        }
        for (; i < SPANS && unit < end_of(&upcase_spans[i]); unit++)
            put(&to, slate_upcase((uint16_t)unit));
    }
}
