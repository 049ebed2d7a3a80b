/* SPDX-License-Identifier: MIT */
/* Corpus: what volumes get wrong, and volumes that need more than the device.
 */
#include <string.h>

#include "corpus.h"

#define ALL CORPUS_BLOCKS
#define FIRST 2048u
#define REST (ALL - FIRST)
#define AT ((uint64_t)FIRST * 512)

/* A device with one partition over all of it. */
static void open_mbr(struct ram *ram, uint8_t type)
{
    ram_open(ram, 512, ALL, true);
    ram_put_entry(ram, 0, type, false, FIRST, REST);
}

static void open_bare(struct ram *ram)
{
    ram_open(ram, 512, ALL, true);
}

static void fat12(struct ram *ram)
{
    ram_open(ram, 512, 16384, true);
    ram_put_entry(ram, 0, 0x01, false, 64, 16320);
    craft_fat(ram, 64, 16320, 12);
}

static void fat16(struct ram *ram)
{
    ram_open(ram, 512, 131072, true);
    ram_put_entry(ram, 0, 0x0E, false, FIRST, 131072 - FIRST);
    craft_fat(ram, FIRST, 131072 - FIRST, 16);
}

static void exfat(struct ram *ram)
{
    open_mbr(ram, 0x07);
    craft_exfat(ram, FIRST, REST, "Tide log");
}

static void ntfs(struct ram *ram)
{
    open_mbr(ram, 0x07);
    craft_ntfs(ram, FIRST, REST, "Station");
}

static void ext4(struct ram *ram)
{
    open_mbr(ram, 0x83);
    craft_ext4(ram, FIRST, REST, "station");
}

static void apfs(struct ram *ram)
{
    struct craft_gpt gpt = {
        .partition = {{FIRST, REST - 34, 0, &craft_linux, 0}}};

    open_bare(ram);
    craft_gpt(ram, &gpt);
    craft_apfs(ram, FIRST, REST - 34, "Charts");
}

static void bare_fat32(struct ram *ram)
{
    open_bare(ram);
    craft_fat32(ram, 0, ALL, "BARE");
}

static void blank_zeros(struct ram *ram)
{
    open_bare(ram);
}

static void one_block(struct ram *ram)
{
    ram_open(ram, 512, 1, true);
}

static void one_megabyte(struct ram *ram)
{
    ram_open(ram, 4096, 256, true);
    craft_fat(ram, 0, 2048, 12);
}

static void fill_ones(struct ram *ram)
{
    static uint8_t ones[65536];

    memset(ones, 0xFF, sizeof ones);
    ram_open(ram, 4096, 16, true);
    ram_put(ram, 0, ones, sizeof ones);
}

static void almost_blank(struct ram *ram) /* one byte at the end */
{
    fill_ones(ram);
    ram_put(ram, 65535, "x", 1);
}

static void empty_table(struct ram *ram)
{
    open_bare(ram);
    craft_le(ram, 510, 0xAA55, 2);
}

static void empty_gpt(struct ram *ram)
{
    struct craft_gpt gpt = {0};

    open_bare(ram);
    craft_gpt(ram, &gpt);
}

static void optical(struct ram *ram)
{
    open_bare(ram);
    craft_optical(ram, 0, false, false);
}

static void optical_boot(struct ram *ram)
{
    open_bare(ram);
    craft_optical(ram, 0, true, false);
}

static void optical_under_table(struct ram *ram)
{
    optical_boot(ram);
    ram_put_entry(ram, 0, 0x17, true, 0, 96000);
}

static void optical_udf(struct ram *ram)
{
    open_bare(ram);
    craft_optical(ram, 0, false, true);
}

static void no_descriptor(struct ram *ram) /* near miss of an optical image */
{
    optical_under_table(ram);
    ram_put(ram, 32769, "XX", 2);
    ram_put_entry(ram, 0, 0x83, false, 64, 96000);
}

static void luks(struct ram *ram)
{
    open_mbr(ram, 0x83);
    ram_put(ram, AT, "LUKS\xBA\xBE\0\2", 8);
}

static void lvm(struct ram *ram)
{
    open_bare(ram);
    craft_text(ram, 512, "LABELONE");
    craft_text(ram, 536, "LVM2 001");
}

static void raid_at_the_end(struct ram *ram)
{
    open_mbr(ram, 0xFD);
    craft_le(ram, AT + (uint64_t)REST * 512 - 8192, 0xA92B4EFC, 4);
}

static void old_raid(struct ram *ram)
{
    open_mbr(ram, 0xFD);
    craft_le(ram, AT + (((uint64_t)REST * 512) & ~65535ull) - 65536, 0xA92B4EFC,
             4);
}

static void zfs(struct ram *ram)
{
    open_bare(ram);
    craft_be(ram, 16384, 0x01010000, 4);
    craft_be(ram, 16384 + 12, 36, 4);
    craft_be(ram, 16384 + 16, 36, 4);
    craft_be(ram, 16384 + 20, 7, 4);
    craft_text(ram, 16384 + 24, "version");
    craft_be(ram, 16384 + 48, 36, 4);
    craft_be(ram, 16384 + 52, 36, 4);
    craft_be(ram, 16384 + 56, 4, 4);
    craft_text(ram, 16384 + 60, "name");
    craft_be(ram, 16384 + 64, 9, 4);
    craft_be(ram, 16384 + 68, 1, 4);
    craft_be(ram, 16384 + 72, 5, 4);
    craft_text(ram, 16384 + 76, "tides");
}

static void dynamic_disk(struct ram *ram)
{
    open_mbr(ram, 0x42);
    craft_text(ram, 6 * 512, "PRIVHEAD");
}

static void random_partition(struct ram *ram)
{
    open_mbr(ram, 0x83);
    craft_noise(ram, AT, 131072);
}

static void half_overwritten(struct ram *ram)
{
    const struct slate_mark mark = {{1, 2, 3}, "QRST2345"};
    uint8_t piece[SLATE_PIECE_BYTES];

    open_mbr(ram, 0x0C);
    slate_mark_piece(&mark, piece);
    ram_put(ram, AT, piece, sizeof piece);
    craft_noise(ram, AT + 512, 131072);
}

static void spoiled_mark(struct ram *ram) /* near miss: no record is whole */
{
    half_overwritten(ram);
    ram_put(ram, AT + 50, "?", 1);
    ram_put(ram, AT + 512 - 64 + 50, "?", 1);
}

static void half_random(struct ram *ram) /* near miss: only the first run */
{
    open_mbr(ram, 0x83);
    craft_noise(ram, AT, 4096);
}

static void fat_as_linux(struct ram *ram)
{
    open_mbr(ram, 0x83);
    craft_fat32(ram, FIRST, REST, "TIDE");
}

static void ntfs_as_fat(struct ram *ram)
{
    open_mbr(ram, 0x0C);
    craft_ntfs(ram, FIRST, REST, "Station");
}

static void ext4_as_swap(struct ram *ram)
{
    struct craft_gpt gpt = {
        .partition = {{FIRST, REST - 34, 0, &craft_swap, 0}}};

    open_bare(ram);
    craft_gpt(ram, &gpt);
    craft_ext4(ram, FIRST, REST - 34, "station");
}

static void unknown_type(struct ram *ram) /* announces nothing */
{
    open_mbr(ram, 0xDA);
    craft_fat32(ram, FIRST, REST, "TIDE");
}

static void larger_than_room(struct ram *ram)
{
    open_mbr(ram, 0x07);
    craft_ntfs(ram, FIRST, REST, "Station");
    craft_le(ram, AT + 40, REST + 4096, 8);
}

static void smaller_than_room(struct ram *ram)
{
    open_mbr(ram, 0x83);
    craft_ext4(ram, FIRST, REST / 2, "station");
}

static void slightly_smaller(struct ram *ram)
{
    open_mbr(ram, 0x83);
    craft_ext4(ram, FIRST, REST - 8192, "station");
}

static void fat32_copy(struct ram *ram)
{
    open_mbr(ram, 0x0C);
    craft_fat32(ram, FIRST, REST, "TIDE");
    craft_flip(ram, AT + 6 * 512 + 71);
}

static void exfat_copy(struct ram *ram)
{
    exfat(ram);
    craft_flip(ram, AT + 12 * 512 + 92);
}

static void exfat_use_changed(struct ram *ram) /* what only the first has */
{
    exfat(ram);
    craft_le(ram, AT + 112, 80, 1);
}

static void ntfs_copy(struct ram *ram)
{
    ntfs(ram);
    craft_flip(ram, AT + ((uint64_t)REST - 1) * 512 + 72);
}

static void ext4_copy(struct ram *ram)
{
    ext4(ram);
    craft_flip(ram, AT + (uint64_t)32768 * 4096 + 104);
}

static void fat32_dirty(struct ram *ram)
{
    open_mbr(ram, 0x0C);
    craft_fat32(ram, FIRST, REST, "TIDE");
    craft_le(ram, AT + 65, 1, 1);
}

static void fat16_dirty(struct ram *ram)
{
    fat16(ram);
    craft_le(ram, AT + 512 + 2, 0x7FFF, 2);
}

static void exfat_dirty(struct ram *ram)
{
    exfat(ram);
    craft_le(ram, AT + 106, 2, 2);
}

static void ntfs_dirty(struct ram *ram)
{
    ntfs(ram);
    craft_le(ram, AT + 4 * 4096 + 3 * 1024 + 80 + 16 + 34, 1, 2);
}

static void ext4_replay(struct ram *ram)
{
    ext4(ram);
    craft_le(ram, AT + 1024 + 96, 0x2C6, 4);
}

static void ext4_errors(struct ram *ram)
{
    ext4(ram);
    craft_le(ram, AT + 1024 + 58, 3, 2);
}

static void unreadable_table(struct ram *ram)
{
    open_mbr(ram, 0x0C);
    craft_fat32(ram, FIRST, REST, "TIDE");
    ram->fail_read = FIRST;
}

static void protected_device(struct ram *ram)
{
    open_mbr(ram, 0x0C);
    craft_fat32(ram, FIRST, REST, "TIDE");
    ram->facts.read_only = true;
}

static void nobody_sells(struct ram *ram)
{
    ram_open(ram, 512, 44040192, true);
    ram->facts.identity.transport = SLATE_TRANSPORT_USB;
    ram_put_entry(ram, 0, 0x07, false, FIRST, 44040192 - FIRST);
    craft_ntfs(ram, FIRST, 44040192 - FIRST, "Station");
}

static void image_of_any_size(struct ram *ram) /* near miss of an odd size */
{
    nobody_sells(ram);
    ram->facts.identity.transport = SLATE_TRANSPORT_IMAGE;
}

static void format_of_its_own(struct ram *ram)
{
    open_bare(ram);
    craft_text(ram, 0, "a format of its own");
}

static void forty_logical_ones(struct ram *ram)
{
    ram_open(ram, 512, ALL, true);
    ram_put_entry(ram, 0, 0x0F, false, FIRST, 40 * 100000);
    for (uint32_t i = 0; i < 40; i++)
        craft_link(ram, FIRST + i * 100000, 0x83, 2048, 97952,
                   i == 39 ? 0 : (i + 1) * 100000);
}

const struct corpus_case corpus_volumes[] = {
    {"format-of-its-own", "unknown-content", format_of_its_own, NULL},
    {"forty-logical-ones", "no-volume cut-short", forty_logical_ones, NULL},
    {"fat12", "healthy", fat12, NULL},
    {"fat16", "healthy", fat16, NULL},
    {"exfat", "healthy", exfat, NULL},
    {"ntfs", "healthy", ntfs, NULL},
    {"ext4", "healthy", ext4, NULL},
    {"apfs", "type-disagrees +foreign-volume", apfs, NULL},
    {"bare-fat32", "no-table", bare_fat32, NULL},
    {"blank-zeros", "blank", blank_zeros, NULL},
    {"one-block", "blank", one_block, NULL},
    {"one-megabyte", "block-size-mismatch +no-table", one_megabyte, NULL},
    {"blank-ones", "blank", fill_ones, NULL},
    {"almost-blank", "start-erased", almost_blank, NULL},
    {"empty-table", "empty-table", empty_table, NULL},
    {"empty-gpt", "empty-table", empty_gpt, NULL},
    {"optical", "optical-image +small-table", optical, NULL},
    {"optical-boot", "boot-image +small-table", optical_boot, NULL},
    {"optical-under-table", "boot-image +small-table +attributes",
     optical_under_table, NULL},
    {"optical-udf", "optical-image +small-table", optical_udf, NULL},
    {"no-descriptor", "small-table no-volume", no_descriptor, NULL},
    {"luks", "member", luks, NULL},
    {"lvm", "member", lvm, NULL},
    {"raid-at-the-end", "member", raid_at_the_end, NULL},
    {"old-raid", "member", old_raid, NULL},
    {"zfs", "member", zfs, NULL},
    {"dynamic-disk", "member", dynamic_disk, NULL},
    {"random-partition", "random-content", random_partition, NULL},
    {"half-overwritten", "half-overwritten", half_overwritten, NULL},
    {"spoiled-mark", "no-volume", spoiled_mark, NULL},
    {"half-random", "no-volume", half_random, NULL},
    {"fat-as-linux", "type-disagrees", fat_as_linux, NULL},
    {"ntfs-as-fat", "type-disagrees", ntfs_as_fat, NULL},
    {"ext4-as-swap", "type-disagrees", ext4_as_swap, NULL},
    {"unknown-type", "healthy", unknown_type, NULL},
    {"larger-than-room", "volume-larger", larger_than_room, NULL},
    {"smaller-than-room", "volume-smaller", smaller_than_room, NULL},
    {"slightly-smaller", "healthy", slightly_smaller, NULL},
    {"fat32-copy", "copy-differs", fat32_copy, NULL},
    {"exfat-copy", "copy-differs", exfat_copy, NULL},
    {"exfat-use-changed", "healthy", exfat_use_changed, NULL},
    {"ntfs-copy", "copy-differs", ntfs_copy, NULL},
    {"ext4-copy", "copy-differs", ext4_copy, NULL},
    {"fat32-dirty", "dirty", fat32_dirty, NULL},
    {"fat16-dirty", "dirty", fat16_dirty, NULL},
    {"exfat-dirty", "dirty", exfat_dirty, NULL},
    {"ntfs-dirty", "dirty", ntfs_dirty, NULL},
    {"ext4-replay", "dirty", ext4_replay, NULL},
    {"ext4-errors", "dirty", ext4_errors, NULL},
    {"unreadable-boot-block", "read-errors", unreadable_table, NULL},
    {"protected-device", "write-protected", protected_device, NULL},
    {"nobody-sells", "odd-size", nobody_sells, NULL},
    {"image-of-any-size", "healthy", image_of_any_size, NULL},
    {NULL, NULL, NULL, NULL}};

const struct corpus_case *corpus_case(size_t i)
{
    const struct corpus_case *const lists[] = {corpus_tables, corpus_gpts,
                                               corpus_volumes};

    for (size_t list = 0; list < 3; list++) {
        for (const struct corpus_case *one = lists[list]; one->name != NULL;
             one++) {
            if (i-- == 0)
                return one;
        }
    }
    return NULL;
}
