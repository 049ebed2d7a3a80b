/* SPDX-License-Identifier: MIT */
/* Wishes that a device gets in place. */
#include "changes.h"

#include "craft.h"

#define MIB 2048u /* blocks */

void changes_old_disk(struct ram *ram, uint64_t blocks)
{
    ram_open(ram, 512, blocks, true);
    craft_text(ram, 3, "start-up code");
    craft_le(ram, 440, 0x57A71001, 4);
    ram_put_entry(ram, 0, 0x83, false, 80 * 2048, 10 * 2048);
    ram_put_entry(ram, 1, 0x0C, true, 2048, 70 * 2048);
    ram_put_entry(ram, 3, 0x0F, false, 95 * 2048, 40 * 2048);
    craft_fat32(ram, 2048, 70 * 2048, "BUOY");
    craft_link(ram, 95 * 2048, 0x07, 2048, 10 * 2048, 20 * 2048);
    craft_link(ram, 115 * 2048, 0x82, 2048, 5 * 2048, 0);
    craft_noise(ram, 97 * 1048576ull, 5000);
    craft_noise(ram, 116 * 1048576ull, 5000);
}

/* Where nothing is, something was: it has to come back as well. */
static void old_disk(struct ram *ram)
{
    changes_old_disk(ram, 400 * MIB + 77);
    craft_noise(ram, 136 * 1048576ull, 70000);
    craft_noise(ram, 399 * 1048576ull, 1000000);
    craft_noise(ram, 40 * 512, 3000);
}

static void two_of_a_gpt(struct ram *ram)
{
    const struct craft_gpt gpt = {
        .partition = {{1 * MIB, 70 * MIB, 0, NULL, 0x11},
                      {90 * MIB, 20 * MIB, 0, &craft_linux, 0x22}}};

    ram_open(ram, 512, 300 * MIB, true);
    craft_gpt(ram, &gpt);
    craft_fat32(ram, 1 * MIB, 70 * MIB, "BUOY");
    craft_format(ram, SLATE_VOLUME_EXT4, 90 * MIB, 20 * MIB, "LOGS");
    craft_noise(ram, 120 * 1048576ull, 900000);
}

static void one_of_an_mbr(struct ram *ram)
{
    ram_open(ram, 512, 200 * MIB, true);
    ram_put_entry(ram, 2, 0x07, false, 1 * MIB, 20 * MIB);
    craft_format(ram, SLATE_VOLUME_NTFS, 1 * MIB, 20 * MIB, "WAVES");
    craft_fat32(ram, 30 * MIB, 70 * MIB, "BUOY");
}

/* Two that no table tells of, the first one as old systems put it. */
static void without_a_table(struct ram *ram)
{
    ram_open(ram, 512, 200 * MIB, true);
    craft_format(ram, SLATE_VOLUME_FAT16, 63, 40 * MIB - 63, "OLD");
    craft_format(ram, SLATE_VOLUME_EXFAT, 41 * MIB, 60 * MIB, "NEW");
}

static void half_a_gpt(struct ram *ram)
{
    const struct craft_gpt gpt = {
        .partition = {{1 * MIB, 70 * MIB, 0, NULL, 0x11}}};

    ram_open(ram, 512, 300 * MIB, true);
    craft_gpt(ram, &gpt);
    craft_fat32(ram, 1 * MIB, 70 * MIB, "BUOY");
    craft_format(ram, SLATE_VOLUME_EXT4, 90 * MIB, 20 * MIB, "LOGS");
}

#define WHOLE SLATE_ATTRIBUTE_WHOLE
#define FAT                                                                    \
    {                                                                          \
        .volume = SLATE_VOLUME_FAT32, .size_kind = SLATE_SIZE_BYTES,           \
        .size = 60000000, .label = "FRESH"                                     \
    }

static const struct change changes[] = {
    {"MBR to GPT", old_disk, SLATE_MEND_TO_GPT, WHOLE, .found = 4},
    {"MBR to GPT, the rest is new", old_disk, SLATE_MEND_TO_GPT, WHOLE,
     .ask = {{.volume = SLATE_VOLUME_EXT4, .label = "REST"}}, .asks = 1,
     .found = 5},
    {"MBR to GPT, two are new", old_disk, SLATE_MEND_TO_GPT, WHOLE,
     .ask = {FAT, {.volume = SLATE_VOLUME_EXFAT}}, .asks = 2, .found = 6},
    {"GPT to MBR", two_of_a_gpt, SLATE_MEND_TO_MBR, WHOLE, .found = 2},
    {"GPT to MBR, one is new", two_of_a_gpt, SLATE_MEND_TO_MBR, WHOLE,
     .ask = {FAT}, .asks = 1, .found = 3},
    {"GPT to MBR, the rest is new", two_of_a_gpt, SLATE_MEND_TO_MBR, WHOLE,
     .ask = {{.volume = SLATE_VOLUME_FAT32, .label = "REST"}}, .asks = 1,
     .found = 3},
    {"growing under a GPT", two_of_a_gpt, SLATE_MEND_GROW, 1, .found = 2},
    {"growing under an MBR", one_of_an_mbr, SLATE_MEND_GROW, 0, .found = 1},
    {"put back under an MBR", one_of_an_mbr, SLATE_MEND_LOST, WHOLE,
     .put_back = {30 * MIB}, .found = 2},
    {"put back under a GPT", half_a_gpt, SLATE_MEND_LOST, WHOLE,
     .put_back = {90 * MIB}, .found = 2},
    {"put back under a new MBR", without_a_table, SLATE_MEND_LOST, WHOLE,
     .put_back = {41 * MIB, 63}, .table = SLATE_TABLE_MBR, .found = 2},
    {"put back under a new GPT", without_a_table, SLATE_MEND_LOST, WHOLE,
     .put_back = {63, 41 * MIB}, .table = SLATE_TABLE_GPT, .found = 2}};

const struct change *change_at(size_t index)
{
    return index < sizeof changes / sizeof changes[0] ? &changes[index] : NULL;
}

enum slate_status change_draft(struct session *s, const struct change *change)
{
    const struct slate_mend mend = {change->kind, change->partition};
    uint32_t count = change->put_back[1] != 0   ? 2
                     : change->put_back[0] != 0 ? 1
                                                : 0;

    return count > 0 ? session_put_back(s, change->put_back, count,
                                        change->table == SLATE_TABLE_NONE
                                            ? SLATE_TABLE_MBR
                                            : change->table)
                     : session_convert(s, &mend, change->ask, change->asks);
}
