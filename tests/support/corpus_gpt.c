/* SPDX-License-Identifier: MIT */
/* Corpus: what GPTs get wrong, and tables of both kinds on one device. */
#include <string.h>

#include "corpus.h"

#define ALL CORPUS_BLOCKS
#define FIRST 2048u
#define REST (ALL - FIRST)
#define GPT_REST (ALL - FIRST - 34)

static void open_plain(struct ram *ram)
{
    ram_open(ram, 512, ALL, true);
    ram->facts.removable = true;
}

static void put_gpt_fat(struct ram *ram, const struct craft_gpt *gpt)
{
    craft_gpt(ram, gpt);
    craft_fat32(ram, FIRST, gpt->partition[0].count, "TIDE");
}

static void full_gpt(struct ram *ram)
{
    struct craft_gpt gpt = {.partition = {{FIRST, GPT_REST, 0, NULL, 0}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

static void gpt_beyond_limit(struct ram *ram)
{
    struct craft_gpt gpt = {.partition = {{FIRST, 7814035000, 0, NULL, 0}}};

    ram_open(ram, 512, 7814037168, true);
    craft_gpt(ram, &gpt);
    craft_ntfs(ram, FIRST, 7814035000, "Station");
}

static void primary_header(struct ram *ram)
{
    full_gpt(ram);
    craft_flip(ram, 512 + 60);
}

static void primary_array(struct ram *ram)
{
    full_gpt(ram);
    craft_flip(ram, 1024 + 60);
}

static void backup_header(struct ram *ram)
{
    full_gpt(ram);
    craft_flip(ram, (ALL - 1) * 512ull + 60);
}

static void backup_erased(struct ram *ram)
{
    full_gpt(ram);
    craft_erase(ram, (ALL - 33) * 512ull, 33 * 512);
}

static void both_copies(struct ram *ram)
{
    full_gpt(ram);
    craft_flip(ram, 512 + 60);
    craft_flip(ram, (ALL - 1) * 512ull + 60);
}

/* A stick of 1 GiB copied onto one of 2 GiB. */
static void device_grew(struct ram *ram)
{
    struct craft_gpt gpt = {
        .blocks = ALL / 2,
        .partition = {{FIRST, ALL / 2 - FIRST - 34, 0, NULL, 0}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

static void gpt_of_larger(struct ram *ram)
{
    struct craft_gpt gpt = {
        .parts = CRAFT_PROTECTIVE | CRAFT_PRIMARY,
        .blocks = 2 * ALL,
        .partition = {{FIRST, 2 * ALL - FIRST - 34, 0, NULL, 0}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

/* Its partition would fit, but the table ends beyond the device. */
static void gpt_of_slightly_larger(struct ram *ram)
{
    struct craft_gpt gpt = {.parts = CRAFT_PROTECTIVE | CRAFT_PRIMARY,
                            .blocks = ALL + 4096,
                            .partition = {{FIRST, GPT_REST, 0, NULL, 0}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

static void protective_missing(struct ram *ram)
{
    full_gpt(ram);
    craft_erase(ram, 0, 512);
}

static void protective_short(struct ram *ram)
{
    full_gpt(ram);
    ram_put_entry(ram, 0, 0xEE, false, 1, 1000);
}

static void protective_largest(struct ram *ram)
{
    full_gpt(ram);
    ram_put_entry(ram, 0, 0xEE, false, 1, UINT32_MAX);
}

static void hybrid(struct ram *ram)
{
    full_gpt(ram);
    ram_put_entry(ram, 1, 0x0C, false, FIRST, GPT_REST);
}

static void hybrid_disagrees(struct ram *ram)
{
    full_gpt(ram);
    ram_put_entry(ram, 1, 0x0C, false, FIRST, 1000000);
}

static void gpt_under_new_mbr(struct ram *ram)
{
    full_gpt(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, GPT_REST);
}

/* Block 0 came from elsewhere: nothing is where it says. */
static void old_mbr_over_gpt(struct ram *ram)
{
    full_gpt(ram);
    ram_put_entry(ram, 0, 0x0C, false, 1000000, ALL - 1000000);
}

/* The first MiB was overwritten; the backup still names what was there. */
static void only_backup_left(struct ram *ram)
{
    full_gpt(ram);
    craft_erase(ram, 0, 1048576);
    craft_text(ram, 4096, "overwritten with something else");
}

/* Into the blocks that the backup table has. */
static void into_the_backup(struct ram *ram)
{
    struct craft_gpt gpt = {.partition = {{FIRST, REST, 0, NULL, 0}}};

    open_plain(ram);
    craft_gpt(ram, &gpt);
    craft_exfat(ram, FIRST, REST, "Tide");
    craft_gpt(ram, &gpt); /* again, where the volume has been put */
}

static void large_entries(struct ram *ram)
{
    struct craft_gpt gpt = {.entry_bytes = 256,
                            .partition = {{FIRST, GPT_REST - 32, 0, NULL, 0}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

static void same_identifiers(struct ram *ram)
{
    struct craft_gpt gpt = {
        .partition = {{FIRST, 2000000, 0, NULL, 9},
                      {2002048, ALL - 2002048 - 34, 0, &craft_linux, 9}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

/* Made in a dock that shows blocks of 4096 bytes, now seen without it. */
static void gpt_of_large_blocks(struct ram *ram)
{
    struct craft_gpt gpt = {
        .block_bytes = 4096,
        .blocks = ALL / 8,
        .partition = {{256, ALL / 8 - 256 - 6, 0, NULL, 0}}};

    open_plain(ram);
    craft_gpt(ram, &gpt);
    ram_put_entry(ram, 0, 0xEE, false, 1, ALL / 8 - 1);
}

static void gpt_of_small_blocks(struct ram *ram)
{
    struct craft_gpt gpt = {.block_bytes = 512,
                            .blocks = ALL,
                            .partition = {{FIRST, GPT_REST, 0, NULL, 0}}};

    ram_open(ram, 4096, ALL / 8, true);
    craft_gpt(ram, &gpt);
}

static void with_attributes(struct ram *ram, uint64_t attributes)
{
    struct craft_gpt gpt = {
        .partition = {{FIRST, GPT_REST, attributes, NULL, 0}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

static void read_only_attribute(struct ram *ram)
{
    with_attributes(ram, (uint64_t)1 << 60);
}

static void no_letter_attribute(struct ram *ram)
{
    with_attributes(ram, (uint64_t)1 << 63);
}

static void required_attribute(struct ram *ram) /* hides nothing */
{
    with_attributes(ram, 1);
}

#define ONLY_STRICT "Linux takes a GPT only when each detail is as it expects"
#define NO_BACKUP "Linux does not use the second copy unless told to"

static void copies_disagree(struct ram *ram)
{
    struct craft_gpt other = {.parts = CRAFT_BACKUP,
                              .partition = {{FIRST, 2048, 0, NULL, 3}}};

    full_gpt(ram);
    craft_gpt(ram, &other);
}

static void listed_twice(struct ram *ram)
{
    struct craft_gpt gpt = {.partition = {{FIRST, GPT_REST, 0, NULL, 1},
                                          {FIRST, GPT_REST, 0, NULL, 2}}};

    open_plain(ram);
    put_gpt_fat(ram, &gpt);
}

const struct corpus_case corpus_gpts[] = {
    {"copies-disagree", "gpt-copies-disagree", copies_disagree, NULL},
    {"listed-twice", "listed-twice +overlap several-volumes", listed_twice,
     NULL},
    {"full-gpt", "healthy", full_gpt, NULL},
    {"gpt-beyond-limit", "healthy", gpt_beyond_limit, NULL},
    {"primary-header", "gpt-primary-damaged", primary_header, NO_BACKUP},
    {"primary-array", "gpt-primary-damaged", primary_array, NO_BACKUP},
    {"backup-header", "gpt-backup-damaged", backup_header, NULL},
    {"backup-erased", "gpt-backup-damaged", backup_erased, NULL},
    {"both-copies", "gpt-lost", both_copies, NULL},
    {"device-grew", "gpt-backup-misplaced +protective-wrong +small-table",
     device_grew, NULL},
    {"gpt-of-larger", "beyond-end +gpt-backup-damaged +protective-wrong",
     gpt_of_larger, ONLY_STRICT},
    {"gpt-of-slightly-larger",
     "beyond-end +gpt-backup-damaged +protective-wrong", gpt_of_slightly_larger,
     ONLY_STRICT},
    {"protective-missing", "protective-missing", protective_missing,
     "Linux wants the protective entry; without it there is no table"},
    {"protective-short", "protective-wrong", protective_short, NULL},
    {"protective-largest", "healthy", protective_largest, NULL},
    {"hybrid", "healthy", hybrid, NULL},
    {"hybrid-disagrees", "hybrid-disagrees", hybrid_disagrees, NULL},
    {"gpt-under-new-mbr", "gpt-remains", gpt_under_new_mbr, NULL},
    {"old-mbr-over-gpt", "mbr-remains +unallocated +no-volume",
     old_mbr_over_gpt, NULL},
    {"only-backup-left", "gpt-second-alone +start-erased", only_backup_left,
     NULL},
    {"into-the-backup", "out-of-range", into_the_backup, NULL},
    {"large-entries", "unusual-gpt", large_entries, ONLY_STRICT},
    {"same-identifiers", "no-volume unusual-gpt", same_identifiers, NULL},
    {"gpt-of-large-blocks", "block-size-mismatch +gpt-lost +small-table",
     gpt_of_large_blocks, NULL},
    {"gpt-of-small-blocks", "block-size-mismatch +gpt-lost",
     gpt_of_small_blocks, NULL},
    {"read-only-attribute", "attributes", read_only_attribute, NULL},
    {"no-letter-attribute", "attributes", no_letter_attribute, NULL},
    {"required-attribute", "healthy", required_attribute, NULL},
    {NULL, NULL, NULL, NULL}};
