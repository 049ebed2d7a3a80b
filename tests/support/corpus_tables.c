/* SPDX-License-Identifier: MIT */
/* Corpus: what tables get wrong. */
#include <string.h>

#include "corpus.h"

#define ALL CORPUS_BLOCKS
#define FIRST 2048u
#define REST (ALL - FIRST)

static void open_plain(struct ram *ram)
{
    ram_open(ram, 512, ALL, true);
    ram->facts.removable = true;
}

/* One full FAT32 under an MBR. */
static void full_mbr(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, REST);
    craft_fat32(ram, FIRST, REST, "TIDE");
}

static void vintage(struct ram *ram)
{
    ram_open(ram, 512, 41820, true); /* 615 cylinders, 4 heads, 17 sectors */
    ram_put_entry(ram, 0, 0x01, true, 17, 41820 - 17);
    ram_put(ram, 447, "\1\1\0", 3);
    ram_put(ram, 451, "\3\x91\x66", 3);
    craft_fat(ram, 17, 41820 - 17, 12);
}

static void small_table(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 1000000);
    craft_fat32(ram, FIRST, 1000000, "SMALL");
}

/* The table of a 16 GB stick on one of 32 GB, which is not quite half. */
static void table_of_smaller(struct ram *ram)
{
    ram_open(ram, 512, 60000000, true);
    ram_put_entry(ram, 0, 0x83, false, FIRST, 30546944 - FIRST);
    craft_ext4(ram, FIRST, 30546944 - FIRST, "station");
}

static void small_bare_volume(struct ram *ram)
{
    open_plain(ram);
    craft_fat32(ram, 0, 1000000, "SMALL");
}

/* A volume that ends so many blocks ahead of the device's end. */
static void end_early(struct ram *ram, uint32_t blocks, uint32_t ahead)
{
    ram_open(ram, 512, blocks, true);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, blocks - FIRST - ahead);
    craft_fat32(ram, FIRST, blocks - FIRST - ahead, "TIDE");
}

static void just_below_a_hundredth(struct ram *ram)
{
    end_early(ram, ALL, 41900);
}

static void just_above_a_hundredth(struct ram *ram)
{
    end_early(ram, ALL, 42000);
}

static void below_8_mib(struct ram *ram) /* much of a small device */
{
    end_early(ram, 131072, 16000);
}

static void free_tail(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 3000000);
    craft_fat32(ram, FIRST, 3000000, "TIDE");
}

static void free_middle(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 1000000);
    ram_put_entry(ram, 1, 0x0C, false, 2000000 & ~7u, ALL - 2000000);
    craft_fat32(ram, FIRST, 1000000, "ONE");
    craft_fat32(ram, 2000000, ALL - 2000000, "TWO");
}

static void mbr_limit(struct ram *ram)
{
    ram_open(ram, 512, 7814037168, true);
    ram_put_entry(ram, 0, 0x07, false, FIRST, UINT32_MAX - FIRST);
    craft_ntfs(ram, FIRST, UINT32_MAX - FIRST, "Station");
}

static void just_below_limit(struct ram *ram)
{
    ram_open(ram, 512, 4294967295, true);
    ram_put_entry(ram, 0, 0x07, false, FIRST, UINT32_MAX - FIRST);
    craft_ntfs(ram, FIRST, UINT32_MAX - FIRST, "Station");
}

static void mbr_of_larger(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 2 * ALL);
    craft_fat32(ram, FIRST, 2 * ALL, "TIDE");
}

static void put_chain(struct ram *ram, uint32_t third)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 1000000);
    ram_put_entry(ram, 1, 0x0F, false, 1002048, ALL - 1002048);
    craft_fat32(ram, FIRST, 1000000, "ONE");
    craft_link(ram, 1002048, 0x83, 2048, 1000000, 1002048);
    craft_ext4(ram, 1004096, 1000000, "two");
    craft_link(ram, 2004096, 0x83, 2048, 1000000, third);
    craft_ext4(ram, 2006144, 1000000, "three");
    craft_link(ram, 3006144, 0x83, 2048, ALL - 3008192, 0);
    craft_ext4(ram, 3008192, ALL - 3008192, "four");
}

static void chain(struct ram *ram)
{
    put_chain(ram, 2004096);
}

static void chain_loop(struct ram *ram)
{
    put_chain(ram, 1002048);
}

static void chain_to_nowhere(struct ram *ram)
{
    put_chain(ram, 2500000);
}

static void chain_beyond_end(struct ram *ram)
{
    put_chain(ram, ALL);
}

static void overlap(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 3000000);
    ram_put_entry(ram, 1, 0x83, false, 3000000, ALL - 3000000);
    craft_fat32(ram, FIRST, 3000000, "ONE");
}

static void touching(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x0C, false, FIRST, 3000000);
    ram_put_entry(ram, 1, 0x83, false, FIRST + 3000000, REST - 3000000);
    craft_fat32(ram, FIRST, 3000000, "ONE");
}

static void chs_of_another_drive(struct ram *ram)
{
    full_mbr(ram);
    ram_put(ram, 447, "\1\2\3", 3);
    ram_put(ram, 451, "\7\7\7", 3);
}

static void in_odd_order(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x83, false, 2002048, ALL - 2002048);
    ram_put_entry(ram, 2, 0x0C, true, FIRST, 2000000);
    craft_fat32(ram, FIRST, 2000000, "ONE");
    craft_ext4(ram, 2002048, ALL - 2002048, "two");
}

static void apple_map(struct ram *ram)
{
    static const char *const types[] = {"Apple_partition_map", "Apple_HFS",
                                        "Apple_Free"};
    static const uint32_t first[] = {1, 64, 3000064};
    static const uint32_t count[] = {63, 3000000, ALL - 3000064};

    open_plain(ram);
    craft_text(ram, 0, "ER");
    craft_be(ram, 2, 512, 2);
    for (uint32_t i = 0; i < 3; i++) {
        uint64_t at = 512 * (i + 1);

        craft_text(ram, at, "PM");
        craft_be(ram, at + 4, 3, 4);
        craft_be(ram, at + 8, first[i], 4);
        craft_be(ram, at + 12, count[i], 4);
        craft_text(ram, at + 16, "chart");
        craft_text(ram, at + 48, types[i]);
        craft_be(ram, at + 84, count[i], 4);
        craft_be(ram, at + 88, 0x37, 4);
    }
    craft_text(ram, 64 * 512 + 1024, "H+");
    craft_be(ram, 64 * 512 + 1026, 4, 2);
}

static void bsd_label(struct ram *ram)
{
    open_plain(ram);
    craft_le(ram, 512, 0x82564557, 4);
    craft_le(ram, 512 + 132, 0x82564557, 4);
    craft_le(ram, 512 + 138, 4, 2);
    craft_le(ram, 512 + 148, ALL - 64, 4);
    craft_le(ram, 512 + 152, 64, 4);
    craft_le(ram, 512 + 160, 7, 1);
}

static void sun_label(struct ram *ram)
{
    uint16_t sum = 0;

    open_plain(ram);
    craft_be(ram, 128, 1, 4);
    craft_be(ram, 140, 8, 2);
    craft_be(ram, 142, 2, 2);
    craft_be(ram, 150, 5, 2);
    craft_be(ram, 188, 0x600DDEEE, 4);
    craft_be(ram, 432, 1024, 2);
    craft_be(ram, 436, 64, 2);
    craft_be(ram, 438, 63, 2);
    craft_be(ram, 444, 2, 4);
    craft_be(ram, 448, 1000 * 4032, 4);
    craft_be(ram, 460, 0, 4);
    craft_be(ram, 464, 1024 * 4032, 4);
    craft_be(ram, 508, 0xDABE, 2);
    for (uint64_t at = 0; at < 510; at += 2) {
        uint8_t two[2];

        ram_get(ram, at, two, 2);
        sum = (uint16_t)(sum ^ (two[0] << 8 | two[1]));
    }
    craft_be(ram, 510, sum, 2);
}

static void sgi_label(struct ram *ram)
{
    uint32_t sum = 0;

    open_plain(ram);
    craft_be(ram, 0, 0x0BE5A941, 4);
    craft_be(ram, 312, 4000000, 4);
    craft_be(ram, 316, 4096, 4);
    craft_be(ram, 320, 10, 4);
    craft_be(ram, 312 + 8 * 12, 4096, 4);
    for (uint64_t at = 0; at < 512; at += 4) {
        uint8_t four[4];

        ram_get(ram, at, four, 4);
        sum += (uint32_t)four[0] << 24 | (uint32_t)four[1] << 16 |
               (uint32_t)four[2] << 8 | four[3];
    }
    craft_be(ram, 504, 0u - sum, 4);
}

static void mbr_of_large_blocks(struct ram *ram)
{
    struct ram large;

    ram_open(&large, 4096, ALL / 8, true);
    ram_put_entry(&large, 0, 0x0C, false, 256, ALL / 8 - 256);
    craft_fat32(&large, 256, ALL / 8 - 256, "TIDE");
    *ram = large;
    ram->port.context = ram;
    ram->facts.block_bytes = 512;
    ram->facts.block_count = ALL;
}

static void large_blocks(struct ram *ram)
{
    ram_open(ram, 4096, ALL / 8, true);
    ram_put_entry(ram, 0, 0x0C, false, 256, ALL / 8 - 256);
    craft_fat32(ram, 256, ALL / 8 - 256, "TIDE");
}

static void misaligned(struct ram *ram)
{
    open_plain(ram);
    ram_put_entry(ram, 0, 0x83, false, 63, ALL - 63);
    craft_ext4(ram, 63, ALL - 63, "old");
}

static void hidden_type(struct ram *ram)
{
    full_mbr(ram);
    ram_put_entry(ram, 0, 0x1C, false, FIRST, REST);
}

static void boot_image(struct ram *ram)
{
    small_table(ram);
    ram_put(ram, 0, "\xFA\x31\xC0", 3);
    ram_put_entry(ram, 0, 0x0C, true, FIRST, 1000000);
}

static void start_up_partition(struct ram *ram)
{
    small_table(ram);
    ram_put_entry(ram, 0, 0xEF, false, FIRST, 1000000);
}

static void active_without_code(struct ram *ram)
{
    small_table(ram);
    ram_put_entry(ram, 0, 0x0C, true, FIRST, 1000000);
}

static void bootable_but_full(struct ram *ram)
{
    full_mbr(ram);
    ram_put(ram, 0, "\xFA\x31\xC0", 3);
    ram_put_entry(ram, 0, 0x0C, true, FIRST, REST);
}

static void bootable_but_most_in_use(struct ram *ram)
{
    free_tail(ram);
    ram_put(ram, 0, "\xFA\x31\xC0", 3);
    ram_put_entry(ram, 0, 0x0C, true, FIRST, 3000000);
}

#define NOT_A_PARTITION                                                        \
    "entries for the map, the whole disk and free space hold no volume"

const struct corpus_case corpus_tables[] = {
    {"full-mbr", "healthy", full_mbr, NULL},
    {"vintage", "healthy", vintage, NULL},
    {"large-blocks", "healthy", large_blocks, NULL},
    {"small-table", "small-table", small_table, NULL},
    {"table-of-smaller", "small-table", table_of_smaller, NULL},
    {"small-bare-volume", "small-table no-table", small_bare_volume, NULL},
    {"just-below-a-hundredth", "healthy", just_below_a_hundredth, NULL},
    {"just-above-a-hundredth", "unallocated", just_above_a_hundredth, NULL},
    {"below-8-mib", "healthy", below_8_mib, NULL},
    {"free-tail", "unallocated", free_tail, NULL},
    {"free-middle", "unallocated several-volumes", free_middle, NULL},
    {"mbr-limit", "mbr-limit +unallocated", mbr_limit, NULL},
    {"just-below-limit", "healthy", just_below_limit, NULL},
    {"mbr-of-larger", "beyond-end", mbr_of_larger, NULL},
    {"chain", "several-volumes", chain, NULL},
    {"chain-loop", "chain-broken +unallocated several-volumes", chain_loop,
     "Linux lists the partitions of a loop again and again"},
    {"chain-to-nowhere", "chain-broken +unallocated several-volumes",
     chain_to_nowhere, NULL},
    {"chain-beyond-end", "chain-broken +unallocated several-volumes",
     chain_beyond_end, NULL},
    {"overlap", "overlap no-volume", overlap, NULL},
    {"touching", "no-volume", touching, NULL},
    {"chs-of-another-drive", "chs-disagrees", chs_of_another_drive, NULL},
    {"in-odd-order", "several-volumes", in_odd_order, NULL},
    {"apple-map", "other-table +unallocated +foreign-volume", apple_map,
     NOT_A_PARTITION},
    {"bsd-label", "other-table", bsd_label,
     "Linux looks for it inside of MBR partitions alone"},
    {"sun-label", "other-table +unallocated", sun_label, NOT_A_PARTITION},
    {"sgi-label", "other-table +unallocated", sgi_label, NOT_A_PARTITION},
    {"mbr-of-large-blocks", "block-size-mismatch +small-table +no-volume",
     mbr_of_large_blocks, NULL},
    {"misaligned", "misaligned", misaligned, NULL},
    {"hidden-type", "attributes", hidden_type, NULL},
    {"boot-image", "boot-image +small-table", boot_image, NULL},
    {"start-up-partition", "boot-image +small-table", start_up_partition, NULL},
    {"active-without-code", "small-table", active_without_code, NULL},
    {"bootable-but-most-in-use", "unallocated", bootable_but_most_in_use, NULL},
    {"bootable-but-full", "healthy", bootable_but_full, NULL},
    {NULL, NULL, NULL, NULL}};
