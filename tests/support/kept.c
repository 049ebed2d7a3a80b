/* SPDX-License-Identifier: MIT */
/* Tables with partitions that stay, and what is asked to happen to them. */
#include "kept.h"

#include <stdlib.h>
#include <string.h>

#include "craft.h"

#define MIB 1048576u

static uint32_t at_mib(const struct ram *ram, uint32_t mib)
{
    return mib * (MIB / ram->facts.block_bytes);
}

/* Start-up code, and bytes in entries that nobody else would write there. */
static void code(struct ram *ram)
{
    craft_noise(ram, 0, 440);
    craft_le(ram, 440, 0x51DE7E57, 4);
}

static void put_entry(struct ram *ram, unsigned slot, uint8_t type,
                      uint32_t mib, uint32_t size)
{
    ram_put_entry(ram, slot, type, slot == 1, at_mib(ram, mib),
                  at_mib(ram, size));
    craft_le(ram, 446 + 16 * slot + 1, 0xABCDEF, 3); /* CHS of its own */
}

static void fat_at(struct ram *ram, uint32_t mib, uint32_t size)
{
    craft_fat(ram, at_mib(ram, mib), at_mib(ram, size), 16);
}

static void three_primaries(struct ram *ram)
{
    code(ram);
    put_entry(ram, 0, 0x06, 1, 20);
    put_entry(ram, 1, 0x83, 30, 20);
    put_entry(ram, 3, 0x0C, 60, 40); /* one slot is left out */
    fat_at(ram, 1, 20);
    craft_ext4(ram, at_mib(ram, 30), at_mib(ram, 20), "LOGS");
}

static void a_container(struct ram *ram)
{
    code(ram);
    put_entry(ram, 0, 0x06, 1, 20);
    put_entry(ram, 1, 0x0F, 30, 50);
    put_entry(ram, 2, 0x07, 100, 20);
    craft_link(ram, at_mib(ram, 30), 0x06, 63, at_mib(ram, 15),
               at_mib(ram, 20));
    craft_link(ram, at_mib(ram, 50), 0x83, 63, at_mib(ram, 10), 0);
    fat_at(ram, 1, 20);
}

/* A link with a partition one MiB behind it, bytes of its own, and the next
 * link; the container begins at 20 MiB. */
static void link_at(struct ram *ram, uint32_t mib, uint32_t size, uint32_t next)
{
    uint64_t byte = (uint64_t)mib * MIB;

    craft_noise(ram, byte, 440);
    craft_link(ram, at_mib(ram, mib), 0x06, at_mib(ram, 1), at_mib(ram, size),
               next == 0 ? 0 : at_mib(ram, next - 20));
    craft_le(ram, byte + 447, 0xFEDCBA, 3);
    if (next != 0)
        craft_le(ram, byte + 463, 0xFADE5, 3);
    fat_at(ram, mib + 1, size);
}

/* Four logical partitions, with gaps ahead of the third and behind the last. */
static void a_chain(struct ram *ram)
{
    code(ram);
    put_entry(ram, 0, 0x06, 1, 18);
    put_entry(ram, 2, 0x0F, 20, 100);
    put_entry(ram, 3, 0x07, 130, 10);
    fat_at(ram, 1, 18);
    link_at(ram, 20, 15, 36);
    link_at(ram, 36, 15, 70);
    link_at(ram, 70, 15, 86);
    link_at(ram, 86, 9, 0);
}

/* The head of the chain has no partition any more, and stands off the grid;
 * links are a track ahead, as old systems had them. */
static void an_empty_head(struct ram *ram)
{
    uint32_t container = at_mib(ram, 20) + 7;

    code(ram);
    put_entry(ram, 1, 0x05, 20, 100);
    craft_le(ram, 446 + 16 + 8, container, 4);
    craft_le(ram, (uint64_t)container * ram->facts.block_bytes + 510, 0xAA55,
             2);
    craft_link(ram, container, 0, 0, 0, 63 * 40);
    craft_le(ram, (uint64_t)container * ram->facts.block_bytes + 474, 63 * 101,
             4);
    craft_link(ram, container + 63 * 40, 0x06, 63, 63 * 100, 63 * 160);
    craft_link(ram, container + 63 * 160, 0x83, 63, 63 * 50, 0);
}

static void two_primaries(struct ram *ram)
{
    code(ram);
    put_entry(ram, 0, 0x06, 1, 20);
    put_entry(ram, 1, 0x83, 60, 20);
    fat_at(ram, 1, 20);
    craft_ext4(ram, at_mib(ram, 60), at_mib(ram, 20), "LOGS");
}

static void gpt_of(struct ram *ram, uint32_t entries, uint32_t entry_bytes)
{
    struct craft_gpt table = {
        .entries = entries,
        .entry_bytes = entry_bytes,
        .partition = {{at_mib(ram, 1), at_mib(ram, 20), 0, NULL, 0},
                      {at_mib(ram, 30), at_mib(ram, 20), 4, &craft_linux, 0},
                      {0},
                      {at_mib(ram, 60), at_mib(ram, 40), 0, NULL, 0}}};

    craft_gpt(ram, &table);
    fat_at(ram, 1, 20);
    craft_ext4(ram, at_mib(ram, 30), at_mib(ram, 20), "LOGS");
}

static void usual_gpt(struct ram *ram)
{
    gpt_of(ram, 0, 0);
}

static void gpt_of_wide_entries(struct ram *ram)
{
    gpt_of(ram, 200, 256);
}

static void gpt_of_four_entries(struct ram *ram)
{
    gpt_of(ram, 4, 128);
}

#define FITS SLATE_STANDING_FITS
#define PRIMARY SLATE_STANDING_PRIMARY
#define LOGICAL SLATE_STANDING_LOGICAL
#define REST UINT32_MAX

/* Of three partitions; bits say which of them stay. */
static const struct kept_edit of_three[] = {{7, {{10, FITS}}},
                                            {5, {{20, FITS}}},
                                            {1, {{0, FITS}}},
                                            {2, {{12, FITS}, {25, FITS}}},
                                            {4, {{3, FITS}, {50, FITS}}},
                                            {3, {{0, FITS}}}};

/* 1: number 1; 2: number 4; 4, 8, 16, 32: numbers 5 to 8. */
static const struct kept_edit of_chain[] = {
    {1 + 2 + 4 + 8 + 16 + 32, {{10, FITS}, {5, FITS}}},
    {1 + 2 + 4 + 8 + 16 + 32, {{REST, LOGICAL}}},
    {1 + 2 + 8 + 16 + 32, {{15, LOGICAL}}}, /* where the first one was */
    {1 + 2 + 8 + 32, {{0, FITS}}},          /* the first one, one between */
    {1 + 2 + 4 + 32, {{4, FITS}, {4, FITS}, {20, FITS}}},
    {1 + 2 + 4, {{REST, FITS}}}, /* the end of the chain is another one */
    {2 + 4 + 16, {{10, PRIMARY}, {10, LOGICAL}, {3, LOGICAL}}},
    {16, {{3, FITS}, {4, FITS}, {5, FITS}, {6, FITS}, {7, FITS}}},
    {1 + 4 + 8 + 16 + 32, {{9, FITS}}}}; /* a primary one goes */

static const struct kept_edit of_empty_head[] = {
    {3, {{10, FITS}}}, {2, {{0, FITS}}}, {1, {{12, LOGICAL}, {3, LOGICAL}}}};

/* More than there are entries, and what is asked to be logical. */
static const struct kept_edit of_two[] = {
    {3, {{5, FITS}, {6, FITS}, {7, FITS}}},
    {3, {{5, LOGICAL}}},
    {1, {{5, FITS}, {6, FITS}, {7, FITS}, {8, FITS}, {REST, FITS}}},
    {2, {{30, LOGICAL}, {5, PRIMARY}, {20, FITS}}}};

#define EDITS(list) list, sizeof list / sizeof list[0]

static const struct {
    const char *name;
    void (*build)(struct ram *ram);
    uint32_t number[KEPT_NUMBERS];
    const struct kept_edit *edit;
    size_t edits;
} devices[] = {
    {"three primaries", three_primaries, {1, 2, 4}, EDITS(of_three)},
    {"a container", a_container, {1, 2, 3}, EDITS(of_three)},
    {"GPT", usual_gpt, {1, 2, 4}, EDITS(of_three)},
    {"GPT of wide entries", gpt_of_wide_entries, {1, 2, 4}, EDITS(of_three)},
    {"GPT of four entries", gpt_of_four_entries, {1, 2, 4}, EDITS(of_three)},
    {"a chain", a_chain, {1, 4, 5, 6, 7, 8}, EDITS(of_chain)},
    {"an empty head", an_empty_head, {5, 6}, EDITS(of_empty_head)},
    {"two primaries", two_primaries, {1, 2}, EDITS(of_two)}};

bool kept_case(size_t index, struct kept_case *one)
{
    for (size_t i = 0; i < sizeof devices / sizeof devices[0]; i++) {
        if (index < devices[i].edits) {
            one->name = devices[i].name;
            one->build = devices[i].build;
            memcpy(one->number, devices[i].number, sizeof one->number);
            one->edit = &devices[i].edit[index];
            return true;
        }
        index -= devices[i].edits;
    }
    return false;
}

void kept_find(const char *name, size_t edit, struct kept_case *one)
{
    for (size_t i = 0; kept_case(i, one); i++) {
        if (strcmp(one->name, name) == 0 && edit-- == 0)
            return;
    }
    abort();
}

void kept_build(struct ram *ram, const struct kept_case *one, uint32_t block)
{
    ram_open(ram, block, KEPT_MIB * (MIB / block), true);
    craft_noise(ram, 52ull * MIB, 2 * MIB); /* in gaps */
    craft_noise(ram, 144ull * MIB, 2 * MIB);
    one->build(ram);
}

void kept_ask(struct slate_draft *draft, const struct kept_case *one)
{
    enum slate_status status = SLATE_OK;

    draft->parts = 0;
    for (int i = 0; i < KEPT_NUMBERS && status == SLATE_OK; i++) {
        struct slate_ask ask = {.keep = one->number[i]};

        if ((one->edit->stay >> i & 1) != 0)
            status = slate_draft_ask(draft, &ask);
    }
    for (int i = 0; i < KEPT_NEW && status == SLATE_OK; i++) {
        uint32_t mib = one->edit->add[i].mib;
        struct slate_ask ask = {.size_kind = mib == REST ? SLATE_SIZE_REST
                                                         : SLATE_SIZE_BYTES,
                                .size = mib == REST ? 0 : mib * (uint64_t)MIB,
                                .standing = one->edit->add[i].standing,
                                .label = "NEW"};

        ask.label[3] = (char)('1' + i);
        if (mib != 0)
            status = slate_draft_ask(draft, &ask);
    }
    if (status != SLATE_OK)
        abort();
}
