/* SPDX-License-Identifier: MIT */
/* Byte counts in words: decimal, binary, and the size printed on the case. */
#include "base/base.h"

struct unit_row {
    const char *name;
    uint64_t bytes;
};

static const struct unit_row decimal[] = {{" EB", 1000000000000000000u},
                                          {" PB", 1000000000000000u},
                                          {" TB", 1000000000000u},
                                          {" GB", 1000000000u},
                                          {" MB", 1000000u},
                                          {" kB", 1000u},
                                          {" bytes", 1u}};

static const struct unit_row binary[] = {{" EiB", (uint64_t)1 << 60},
                                         {" PiB", (uint64_t)1 << 50},
                                         {" TiB", (uint64_t)1 << 40},
                                         {" GiB", (uint64_t)1 << 30},
                                         {" MiB", (uint64_t)1 << 20},
                                         {" KiB", (uint64_t)1 << 10},
                                         {" bytes", 1u}};

/* bytes * factor / unit, rounded; factor is 100 at most. Large units are
 * divided instead of multiplying the rest, so that nothing overflows. */
static uint64_t scale(uint64_t bytes, uint64_t unit, uint64_t factor)
{
    uint64_t whole = bytes / unit, rest = bytes % unit;

    if (unit <= UINT64_MAX / 200)
        return whole * factor + (rest * factor + unit / 2) / unit;
    return whole * factor + (rest + unit / factor / 2) / (unit / factor);
}

/* three significant digits, no zeros at the end of the fraction */
static void add_scaled(struct slate_text *text, uint64_t bytes, uint64_t unit)
{
    uint64_t factor = bytes / unit >= 100 ? 1 : bytes / unit >= 10 ? 10 : 100;
    uint64_t value = scale(bytes, unit, factor);
    uint64_t fraction = value % factor;

    slate_text_number(text, value / factor);
    if (fraction == 0)
        return;
    slate_text_add(text, ".");
    if (factor == 100 && fraction < 10)
        slate_text_add(text, "0");
    slate_text_number(text, factor == 100 && fraction % 10 == 0 ? fraction / 10
                                                                : fraction);
}

/* The last row of a table is the byte itself. */
static void size_words(const struct unit_row *unit, uint64_t bytes,
                       char *buffer)
{
    struct slate_text text;
    const struct unit_row *larger = unit;

    slate_text_start(&text, buffer, SLATE_SIZE_TEXT);
    while (unit->bytes > 1 && bytes < unit->bytes)
        larger = unit++;
    if (unit->bytes <= 1) {
        slate_text_number(&text, bytes);
    } else {
        /* 999.6 MB reads "1 GB", not "1000 MB" */
        if (larger != unit &&
            scale(bytes, unit->bytes, 1) >= larger->bytes / unit->bytes)
            unit = larger;
        add_scaled(&text, bytes, unit->bytes);
    }
    slate_text_add(&text, unit->name);
}

void slate_size_decimal(uint64_t bytes, char text[SLATE_SIZE_TEXT])
{
    size_words(decimal, bytes, text);
}

void slate_size_binary(uint64_t bytes, char text[SLATE_SIZE_TEXT])
{
    size_words(binary, bytes, text);
}

void slate_size_both(uint64_t bytes, char buffer[SLATE_SIZE_TEXT])
{
    char half[SLATE_SIZE_TEXT];
    struct slate_text text;

    slate_text_start(&text, buffer, SLATE_SIZE_TEXT);
    size_words(decimal, bytes, half);
    slate_text_add(&text, half);
    if (bytes < 1000)
        return;
    size_words(binary, bytes, half);
    SLATE_SAY(&text, " ({})", AS_TEXT(half));
}

/* difference in thousandths of the nominal size */
static uint64_t distance(uint64_t bytes, uint64_t nominal)
{
    uint64_t apart = bytes > nominal ? bytes - nominal : nominal - bytes;

    return apart / (nominal / 1000);
}

/* Flash loses up to a tenth to spare blocks, or counts in binary. */
static bool is_near_flash(uint64_t bytes, uint64_t nominal)
{
    return distance(bytes, nominal) <= (bytes < nominal ? 100u : 80u);
}

/* Disks hold what the case says or slightly more; those of the megabyte age
 * counted in binary. */
static bool is_near_disk(uint64_t bytes, uint64_t nominal, uint64_t unit)
{
    uint64_t above = unit == 1000000 ? 80 : 15;

    return distance(bytes, nominal) <= (bytes < nominal ? 5u : above);
}

uint64_t slate_size_nominal(uint64_t bytes)
{
    static const uint16_t disk[] = {3,   5,   6,   10,  12,  14,  18,  20,
                                    22,  24,  26,  28,  30,  40,  60,  80,
                                    120, 160, 200, 240, 250, 300, 320, 400,
                                    480, 500, 600, 640, 750, 800, 900, 960};
    uint64_t best = 0;

    for (uint64_t unit = 1000000; unit <= 1000000000000000u; unit *= 1000) {
        for (uint64_t size = 1; size <= 512; size *= 2) {
            if (is_near_flash(bytes, size * unit) &&
                (best == 0 ||
                 distance(bytes, size * unit) < distance(bytes, best)))
                best = size * unit;
        }
        for (size_t i = 0; i < sizeof disk / sizeof disk[0]; i++) {
            if (is_near_disk(bytes, disk[i] * unit, unit) &&
                (best == 0 ||
                 distance(bytes, disk[i] * unit) < distance(bytes, best)))
                best = disk[i] * unit;
        }
    }
    return best;
}
