/* SPDX-License-Identifier: MIT */
/* What may stand on a device before it is renewed. */
#include "old_content.h"

#include <string.h>

#include "craft.h"

#define FIRST 2048u

static void nothing(struct ram *ram)
{
    (void)ram;
}

static void ones(struct ram *ram)
{
    static uint8_t page[65536];

    memset(page, 0xFF, sizeof page);
    for (uint64_t at = 0; at < 3 * sizeof page; at += sizeof page)
        ram_put(ram, at, page, sizeof page);
}

static void noise(struct ram *ram)
{
    craft_noise(ram, 0, 262144);
}

static void one_primary(struct ram *ram)
{
    ram_put_entry(ram, 0, 0x0E, true, FIRST, 20000);
    craft_fat(ram, FIRST, 20000, 16);
}

static void logical_ones(struct ram *ram)
{
    ram_put_entry(ram, 1, 0x0F, false, FIRST, 40000);
    craft_link(ram, FIRST, 0x06, 63, 9000, 20000);
    craft_link(ram, FIRST + 20000, 0x83, 63, 9000, 0);
    craft_fat(ram, FIRST + 63, 9000, 16);
}

static void gpt(struct ram *ram)
{
    struct craft_gpt table = {
        .partition = {{FIRST, 20000, 0, NULL, 0}, {30000, 9000, 0, NULL, 0}}};

    craft_gpt(ram, &table);
    craft_ntfs(ram, FIRST, 20000, "Station");
}

static void gpt_without_backup(struct ram *ram)
{
    struct craft_gpt table = {.parts = CRAFT_PROTECTIVE | CRAFT_PRIMARY,
                              .partition = {{FIRST, 20000, 0, NULL, 0}}};

    craft_gpt(ram, &table);
}

static void backup_gpt_alone(struct ram *ram)
{
    struct craft_gpt table = {.parts = CRAFT_BACKUP,
                              .partition = {{FIRST, 20000, 0, NULL, 0}}};

    craft_gpt(ram, &table);
}

static void hybrid(struct ram *ram)
{
    gpt(ram);
    ram_put_entry(ram, 1, 0x0C, true, FIRST, 20000);
}

static void bare_exfat(struct ram *ram)
{
    craft_exfat(ram, 0, 70000, "CARD");
}

static void bare_ntfs(struct ram *ram)
{
    craft_ntfs(ram, 0, 70000, "Station");
}

static void optical(struct ram *ram)
{
    craft_optical(ram, 0, true, true);
    ram_put_entry(ram, 0, 0xEF, false, 200, 4000);
}

static void mark_of_another(struct ram *ram)
{
    struct slate_mark mark = {.seal = {9, 9}, .tag = "TARUK-47"};
    uint8_t piece[SLATE_PIECE_BYTES];

    slate_mark_piece(&mark, piece);
    ram_put(ram, 0, piece, sizeof piece);
}

static const struct old_content contents[] = {
    {"blank", nothing},
    {"ones", ones},
    {"noise", noise},
    {"one primary", one_primary},
    {"logical ones", logical_ones},
    {"GPT", gpt},
    {"GPT without backup", gpt_without_backup},
    {"backup GPT alone", backup_gpt_alone},
    {"hybrid", hybrid},
    {"bare exFAT", bare_exfat},
    {"bare NTFS", bare_ntfs},
    {"optical image with a table", optical},
    {"mark of another draft", mark_of_another},
};

_Static_assert(sizeof contents / sizeof contents[0] == OLD_CONTENTS,
               "one row for each");

const struct old_content *old_content_at(size_t index)
{
    return index < OLD_CONTENTS ? &contents[index] : NULL;
}
