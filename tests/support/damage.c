/* SPDX-License-Identifier: MIT */
/* What goes wrong with tables and with the first blocks of volumes. */
#include "damage.h"

#include <string.h>

#include "check.h"
#include "craft.h"

static uint64_t bytes_of(const struct ram *ram, uint64_t lba)
{
    return lba * ram->facts.block_bytes;
}

static uint64_t last(const struct ram *ram)
{
    return ram->facts.block_count - 1;
}

/* Places in MiB. */
static uint64_t mib(const struct ram *ram, uint64_t n)
{
    return n * 1048576 / ram->facts.block_bytes;
}

void damage_table(struct ram *ram, uint64_t blocks)
{
    const struct craft_gpt gpt = {
        .blocks = blocks,
        .partition = {{mib(ram, 1), mib(ram, 70), 0, NULL, 0x11},
                      {mib(ram, 71), mib(ram, 40), 0, NULL, 0x22},
                      {mib(ram, 112), mib(ram, 20), 0, &craft_linux, 0x33}}};

    uint64_t end = (blocks == 0 ? ram->facts.block_count : blocks) - 1;
    const uint8_t chs[] = {(uint8_t)(end / 63 % 255), (uint8_t)(end % 63 + 1),
                           (uint8_t)(end / 63 / 255)};

    craft_gpt(ram, &gpt);
    /* of blocks 1 and "end", with 255 heads and 63 sectors (UEFI 2.10, table
     * 5.4); cylinders beyond 255 are not met with */
    craft_le(ram, 446 + 1, 0x000200, 3);
    ram_put(ram, 446 + 5, chs, sizeof chs);
}

void damage_disk(struct ram *ram)
{
    damage_table(ram, 0);
    craft_text(ram, 3, "start-up code");
    craft_noise(ram, bytes_of(ram, mib(ram, 1)), 20000);
    craft_noise(ram, bytes_of(ram, mib(ram, 71)), 20000);
    craft_noise(ram, bytes_of(ram, mib(ram, 112)), 20000);
}

static void flip_primary(struct ram *ram)
{
    craft_flip(ram, bytes_of(ram, 1) + 60);
}

static void flip_primary_array(struct ram *ram)
{
    craft_flip(ram, bytes_of(ram, 2) + 56);
}

static void erase_primary(struct ram *ram)
{
    craft_erase(ram, bytes_of(ram, 1), 16384 + ram->facts.block_bytes);
}

static void flip_backup(struct ram *ram)
{
    craft_flip(ram, bytes_of(ram, last(ram)) + 17);
}

static void erase_backup(struct ram *ram)
{
    craft_erase(ram, bytes_of(ram, last(ram)), ram->facts.block_bytes);
}

static void flip_backup_array(struct ram *ram)
{
    craft_flip(ram, bytes_of(ram, last(ram)) - 16384 + 128 + 33);
}

static void erase_protective(struct ram *ram)
{
    craft_erase(ram, 446, 64);
}

static void shorten_protective(struct ram *ram)
{
    craft_le(ram, 446 + 12, 77777, 4);
}

static void erase_first(struct ram *ram)
{
    craft_erase(ram, 0, ram->facts.block_bytes);
}

static void erase_start(struct ram *ram)
{
    craft_erase(ram, 0, 16384 + 2 * (size_t)ram->facts.block_bytes);
}

/* Another table's MBR in block 0, whose partitions hold nothing. */
static void restore_old_mbr(struct ram *ram)
{
    craft_erase(ram, 0, 512);
    ram_put_entry(ram, 0, 0x07, false, (uint32_t)mib(ram, 140), 4096);
}

static void add_hybrid(struct ram *ram)
{
    ram_put_entry(ram, 1, 0x0C, false, (uint32_t)mib(ram, 1),
                  (uint32_t)mib(ram, 70));
    ram_put_entry(ram, 2, 0x83, false, (uint32_t)mib(ram, 112),
                  (uint32_t)mib(ram, 20));
}

static void swap_entries(struct ram *ram, uint64_t array, uint64_t header)
{
    uint8_t one[128], two[128], all[16384], head[92];

    ram_get(ram, array, one, 128);
    ram_get(ram, array + 256, two, 128);
    ram_put(ram, array, two, 128);
    ram_put(ram, array + 256, one, 128);
    ram_get(ram, array, all, sizeof all);
    craft_le(ram, header + 88, slate_crc32(0, all, sizeof all), 4);
    craft_le(ram, header + 16, 0, 4);
    ram_get(ram, header, head, sizeof head);
    craft_le(ram, header + 16, slate_crc32(0, head, sizeof head), 4);
}

static void disorder_gpt(struct ram *ram)
{
    swap_entries(ram, bytes_of(ram, 2), bytes_of(ram, 1));
    swap_entries(ram, bytes_of(ram, last(ram)) - 16384,
                 bytes_of(ram, last(ram)));
}

static void build_mbr(struct ram *ram)
{
    craft_text(ram, 3, "start-up code");
    craft_fat32(ram, mib(ram, 1), mib(ram, 70), "BUOY");
    ram_put_entry(ram, 0, 0x0C, true, (uint32_t)mib(ram, 1),
                  (uint32_t)mib(ram, 70));
    ram_put_entry(ram, 1, 0x83, false, (uint32_t)mib(ram, 71),
                  (uint32_t)mib(ram, 40));
    ram_put_entry(ram, 2, 0x07, false, (uint32_t)mib(ram, 112),
                  (uint32_t)mib(ram, 20));
}

static void disorder_mbr(struct ram *ram)
{
    uint8_t one[16], two[16];

    ram_get(ram, 446, one, 16);
    ram_get(ram, 446 + 32, two, 16);
    ram_put(ram, 446, two, 16);
    ram_put(ram, 446 + 32, one, 16);
}

static void mistype_mbr(struct ram *ram)
{
    craft_le(ram, 446 + 4, 0x83, 1);
}

static void build_typed(struct ram *ram)
{
    damage_table(ram, 0);
    craft_fat32(ram, mib(ram, 1), mib(ram, 70), "BUOY");
}

static void mistype(struct ram *ram, uint64_t array, uint64_t header)
{
    uint8_t all[16384], head[92];

    ram_put(ram, array, craft_swap.bytes, 16);
    ram_get(ram, array, all, sizeof all);
    craft_le(ram, header + 88, slate_crc32(0, all, sizeof all), 4);
    craft_le(ram, header + 16, 0, 4);
    ram_get(ram, header, head, sizeof head);
    craft_le(ram, header + 16, slate_crc32(0, head, sizeof head), 4);
}

static void mistype_gpt(struct ram *ram)
{
    mistype(ram, bytes_of(ram, 2), bytes_of(ram, 1));
    mistype(ram, bytes_of(ram, last(ram)) - 16384, bytes_of(ram, last(ram)));
}

/* A device that was set up anew over a GPT: only its headers are left. */
static void add_remains(struct ram *ram)
{
    const struct craft_gpt gpt = {
        .parts = CRAFT_PRIMARY | CRAFT_BACKUP,
        .partition = {{mib(ram, 1), mib(ram, 30), 0, NULL, 0x44}}};

    craft_gpt(ram, &gpt);
}

/* The arrays are nobody's, and stay. */
static void build_with_arrays(struct ram *ram)
{
    build_mbr(ram);
    add_remains(ram);
    craft_erase(ram, bytes_of(ram, 1), ram->facts.block_bytes);
    craft_erase(ram, bytes_of(ram, last(ram)), ram->facts.block_bytes);
}

static void lay(struct ram *ram, enum slate_volume_kind kind,
                enum slate_table_kind table)
{
    static struct session s;

    assert_ok(session_draft(&s, ram,
                            &(struct wanted){.volume = kind,
                                             .label = "STATION",
                                             .table_given = true,
                                             .table = table}));
    assert_ok(session_enact(&s, sizeof s.work));
}

static void lay_fat32(struct ram *ram)
{
    lay(ram, SLATE_VOLUME_FAT32, SLATE_TABLE_NONE);
}

static void lay_exfat(struct ram *ram)
{
    lay(ram, SLATE_VOLUME_EXFAT, SLATE_TABLE_NONE);
}

static void lay_ntfs(struct ram *ram)
{
    lay(ram, SLATE_VOLUME_NTFS, SLATE_TABLE_NONE);
}

static void lay_ext4(struct ram *ram)
{
    lay(ram, SLATE_VOLUME_EXT4, SLATE_TABLE_NONE);
}

static void lay_ext4_in_gpt(struct ram *ram)
{
    lay(ram, SLATE_VOLUME_EXT4, SLATE_TABLE_GPT);
}

static void lay_ntfs_in_mbr(struct ram *ram)
{
    lay(ram, SLATE_VOLUME_NTFS, SLATE_TABLE_MBR);
}

static void erase_boot(struct ram *ram)
{
    craft_erase(ram, 0, ram->facts.block_bytes);
}

static void erase_boot_and_figures(struct ram *ram)
{
    craft_erase(ram, 0, 2 * (size_t)ram->facts.block_bytes);
}

static void erase_region(struct ram *ram)
{
    craft_erase(ram, 0, 12 * (size_t)ram->facts.block_bytes);
}

static void erase_super(struct ram *ram)
{
    craft_erase(ram, 1024, 1024);
}

static void erase_super_inside(struct ram *ram)
{
    craft_erase(ram, bytes_of(ram, mib(ram, 1)) + 1024, 1024);
}

static void noise_on_boot_inside(struct ram *ram)
{
    craft_noise(ram, bytes_of(ram, mib(ram, 1)), ram->facts.block_bytes);
}

#define DISK 512, DAMAGE_BYTES / 512
#define DISK4 4096, DAMAGE_BYTES / 4096

static const struct damage damages[] = {
    {"first header flipped", damage_disk, flip_primary, SLATE_MEND_GPT, DISK,
     true, false, false},
    {"first header flipped, 4096", damage_disk, flip_primary, SLATE_MEND_GPT,
     DISK4, true, false, false},
    {"first array flipped", damage_disk, flip_primary_array, SLATE_MEND_GPT,
     DISK, true, false, false},
    {"first copy erased", damage_disk, erase_primary, SLATE_MEND_GPT, DISK,
     true, false, false},
    {"first copy erased, 4096", damage_disk, erase_primary, SLATE_MEND_GPT,
     DISK4, true, false, false},
    {"second header flipped", damage_disk, flip_backup, SLATE_MEND_GPT, DISK,
     true, false, false},
    {"second header erased", damage_disk, erase_backup, SLATE_MEND_GPT, DISK,
     true, false, false},
    {"second array flipped", damage_disk, flip_backup_array, SLATE_MEND_GPT,
     DISK4, true, false, false},
    {"protective entry erased", damage_disk, erase_protective, SLATE_MEND_GPT,
     DISK, true, false, false},
    {"protective entry too short", damage_disk, shorten_protective,
     SLATE_MEND_GPT, DISK, true, false, false},
    {"block 0 erased", damage_disk, erase_first, SLATE_MEND_GPT, DISK, true,
     false, true},
    {"start erased", damage_disk, erase_start, SLATE_MEND_GPT, DISK, true,
     false, true},
    {"start erased, 4096", damage_disk, erase_start, SLATE_MEND_GPT, DISK4,
     true, false, true},
    {"old MBR restored", build_typed, restore_old_mbr, SLATE_MEND_GPT, DISK,
     true, false, true},
    {"hybrid", damage_disk, add_hybrid, SLATE_MEND_HYBRID, DISK, true, true,
     false},
    {"entries of a GPT out of order", damage_disk, disorder_gpt,
     SLATE_MEND_ORDER, DISK, true, true, false},
    {"the same, 4096", damage_disk, disorder_gpt, SLATE_MEND_ORDER, DISK4, true,
     true, false},
    {"entries of an MBR out of order", build_mbr, disorder_mbr,
     SLATE_MEND_ORDER, DISK, true, true, false},
    {"type of an MBR", build_mbr, mistype_mbr, SLATE_MEND_TYPE, DISK, false,
     false, false},
    {"type of a GPT", build_typed, mistype_gpt, SLATE_MEND_TYPE, DISK, false,
     false, false},
    {"remains of a GPT", build_with_arrays, add_remains, SLATE_MEND_REMAINS,
     DISK, true, false, false},
    {"FAT32 boot block", lay_fat32, erase_boot, SLATE_MEND_START, DISK, true,
     false, false},
    {"FAT32 boot block and figures", lay_fat32, erase_boot_and_figures,
     SLATE_MEND_START, DISK, true, false, false},
    {"exFAT boot region", lay_exfat, erase_region, SLATE_MEND_START, DISK, true,
     false, false},
    {"exFAT boot region, 4096", lay_exfat, erase_region, SLATE_MEND_START,
     DISK4, true, false, false},
    {"NTFS boot block", lay_ntfs, erase_boot, SLATE_MEND_START, DISK, true,
     false, false},
    {"NTFS in a partition", lay_ntfs_in_mbr, noise_on_boot_inside,
     SLATE_MEND_START, DISK, false, false, false},
    {"ext4 superblock", lay_ext4, erase_super, SLATE_MEND_START, DISK, true,
     false, false},
    {"ext4 superblock, 4096", lay_ext4, erase_super, SLATE_MEND_START, DISK4,
     true, false, false},
    {"ext4 in a partition", lay_ext4_in_gpt, erase_super_inside,
     SLATE_MEND_START, DISK, false, false, false},
};

struct slate_mend damage_mend(const struct damage *damage)
{
    return (struct slate_mend){damage->kind,
                               damage->whole ? SLATE_ATTRIBUTE_WHOLE : 0};
}

const struct damage *damage_at(size_t index)
{
    return index < sizeof damages / sizeof damages[0] ? &damages[index] : NULL;
}
