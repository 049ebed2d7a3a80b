/* SPDX-License-Identifier: MIT */
/* Inside table: the formats of MBR and GPT, read, edited, composed. */
#ifndef SLATE_TABLE_TABLE_H
#define SLATE_TABLE_TABLE_H

#include "media/wire/wire.h"
#include "trueslate/layout.h"
#include "trueslate/table.h"

/* The composers of tables; their plans are struct slate_table_plan. */

extern const struct slate_composer slate_mbr_composer;
extern const struct slate_composer slate_gpt_composer;

/* One entry, zeroed. */
void slate_mbr_put_entry(const struct slate_table_plan *plan,
                         const struct slate_partition *partition,
                         uint8_t *entry);
void slate_gpt_put_entry(const struct slate_partition *partition,
                         uint8_t *entry);

/* The two entries of a link, zeroed: its own partition, and the way to the next
 * one; container: its first block. */
void slate_mbr_put_logical(const struct slate_table_plan *plan,
                           const struct slate_partition *here, uint8_t *entry);
void slate_mbr_put_next(const struct slate_table_plan *plan,
                        const struct slate_partition *next, uint64_t container,
                        uint8_t *entry);

/* Block 0, zeroed, as a table of its own or as the guard of a GPT. */
void slate_mbr_put_protective(const struct slate_table_plan *plan,
                              uint8_t *block);

/* Tables that are changed, not made anew: what was there is the image. */

extern const struct slate_composer slate_mbr_edit_composer;
extern const struct slate_composer slate_gpt_edit_composer;

/* Bytes of the image from an offset on; zeros stand behind its end. */
void slate_image_copy(const struct slate_table_plan *plan, uint64_t offset,
                      uint32_t length, uint8_t *to);

/* The GPT's image: block 0, the header, its copy, the array. */
enum slate_image_part {
    SLATE_IMAGE_FIRST,
    SLATE_IMAGE_HEADER,
    SLATE_IMAGE_COPY,
    SLATE_IMAGE_ARRAY
};

static inline uint64_t slate_image_at(const struct slate_table_plan *plan,
                                      enum slate_image_part part)
{
    return (uint64_t)part * plan->block_bytes;
}

/* Where one copy of a GPT stands, as its header in the image says. */
struct slate_image_place {
    enum slate_image_part part;
    uint64_t header, array;
    uint32_t array_blocks, entries, entry_bytes;
};

void slate_image_find(const struct slate_table_plan *plan,
                      enum slate_image_part part,
                      struct slate_image_place *place);
/* The chain of logical partitions that an image of an MBR holds behind block 0,
 * link by link; without links, the container is one that stays as a whole. */
uint32_t slate_image_links(const struct slate_table_plan *plan);

/* A link of it, by its index; each is found in constant time. */
struct slate_image_link {
    uint64_t lba;
    uint64_t first, count; /* of its partition; count 0: it has none */
    uint64_t next;         /* the next link's block; 0: it is the last one */
};

void slate_image_link(const struct slate_table_plan *plan, uint32_t index,
                      struct slate_image_link *link);

/* The index of the link in a block; slate_image_links: there is none. */
uint32_t slate_image_link_at(const struct slate_table_plan *plan, uint64_t lba);

/* Does each link stand ahead of its partition, and behind the one before, all
 * in the container, with nothing beside? The first may have no partition. */
bool slate_image_chain_is_sound(const struct slate_table_plan *plan);

/* Does a partition have an entry in this state of the table? */
static inline bool slate_edit_shows(const struct slate_table_plan *plan,
                                    const struct slate_partition *partition)
{
    return partition->kept || plan->state == SLATE_TABLE_FINAL;
}

/* The GPT's fields (UEFI 2.10, 5.3), shared by its reader and its composer. */

#define SLATE_GPT_SIGNATURE "EFI PART"
#define SLATE_GPT_HEADER_BYTES 92u
#define SLATE_GPT_ENTRY_BYTES 128u
#define SLATE_GPT_ENTRIES 128u

/* Blocks of the array of a new table: 16 KiB are its least room (UEFI 2.10,
 * 5.3.1), also where it has fewer entries. entries 0: 128. */
static inline uint64_t slate_gpt_array_blocks(uint32_t entries,
                                              uint32_t block_bytes)
{
    uint32_t bytes =
        (entries < SLATE_GPT_ENTRIES ? SLATE_GPT_ENTRIES : entries) *
        SLATE_GPT_ENTRY_BYTES;

    return (bytes + block_bytes - 1) / block_bytes;
}

/* Offsets in the header. */
enum {
    SLATE_GPT_REVISION = 8,
    SLATE_GPT_HEADER_SIZE = 12,
    SLATE_GPT_HEADER_CRC = 16,
    SLATE_GPT_MY_LBA = 24,
    SLATE_GPT_OTHER_LBA = 32,
    SLATE_GPT_FIRST_USABLE = 40,
    SLATE_GPT_LAST_USABLE = 48,
    SLATE_GPT_DISK_ID = 56,
    SLATE_GPT_ARRAY_LBA = 72,
    SLATE_GPT_ARRAY_COUNT = 80,
    SLATE_GPT_ENTRY_SIZE = 84,
    SLATE_GPT_ARRAY_CRC = 88
};

/* Offsets in an entry. */
enum {
    SLATE_GPT_ENTRY_TYPE = 0,
    SLATE_GPT_ENTRY_ID = 16,
    SLATE_GPT_ENTRY_FIRST = 32,
    SLATE_GPT_ENTRY_LAST = 40,
    SLATE_GPT_ENTRY_ATTRIBUTES = 48,
    SLATE_GPT_ENTRY_NAME = 56
};

#define SLATE_GPT_NAME_UNITS 36u

/* What is asked about a table and its partitions. */

/* Reads the partitions of one sound copy of a GPT, whether it counts or not.
 * Returns SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE, SLATE_ERR_ARGUMENT
 * for a copy that is not sound. */
SLATE_MUST_CHECK enum slate_status
slate_layout_read_gpt(struct slate_media *media, void *work,
                      const struct slate_gpt_copy *copy,
                      struct slate_layout *layout);

/* Does a logical partition lie outside its container? */
bool slate_layout_is_outside(const struct slate_layout *layout, uint32_t i);

/* The copy of a GPT that counts: the first one, where it is sound. */
const struct slate_gpt_copy *
slate_layout_gpt(const struct slate_layout *layout);

/* Do two partitions share blocks, neither being the container of the other? */
bool slate_partitions_overlap(const struct slate_partition *a,
                              const struct slate_partition *b);

/* Is this an MBR type that hides its volume: a common one with 10h added? */
bool slate_mbr_is_hidden(uint8_t type);

/* Is it a GPT partition of basic data? */
bool slate_partition_is_basic(const struct slate_partition *partition);

/* Does a partition reach beyond the end? */
bool slate_partition_is_beyond(const struct slate_partition *partition,
                               uint64_t block_count);

/* Do the CHS addresses of an MBR entry agree with its LBA addresses, in one of
 * the geometries that hosts use? Addresses that are left out or at their limit
 * agree with everything (UEFI 2.10, 5.2.1). */
bool slate_mbr_chs_agrees(const struct slate_mbr_entry *entry, uint32_t *heads,
                          uint32_t *sectors);

/* The MBR's fields (UEFI 2.10, 5.2.1), shared by its reader and its composer.
 */

/* Offsets in block 0, and in each link of a chain of logical partitions. */
enum {
    SLATE_MBR_DISK_SIGNATURE = 440,
    SLATE_MBR_ENTRIES = 446,
    SLATE_MBR_SIGNATURE = 510
};

#define SLATE_MBR_SIGNATURE_VALUE 0xAA55u
#define SLATE_MBR_ENTRY_BYTES 16u
#define SLATE_MBR_PRIMARIES 4u

/* Offsets in an entry. */
enum {
    SLATE_MBR_ENTRY_BOOT = 0,
    SLATE_MBR_ENTRY_CHS_FIRST = 1,
    SLATE_MBR_ENTRY_TYPE = 4,
    SLATE_MBR_ENTRY_CHS_LAST = 5,
    SLATE_MBR_ENTRY_FIRST = 8,
    SLATE_MBR_ENTRY_COUNT = 12
};

/* A type that stands for a container of logical partitions. */
static inline bool slate_mbr_is_container(uint8_t type)
{
    return type == SLATE_MBR_EXTENDED || type == SLATE_MBR_EXTENDED_LBA ||
           type == 0x85;
}

#define SLATE_MBR_ACTIVE 0x80

/* Geometry that firmware assumes where nothing else is known. */
#define SLATE_CHS_HEADS 255u
#define SLATE_CHS_SECTORS 63u
#define SLATE_CHS_CYLINDERS 1024u

struct slate_chs {
    uint32_t cylinder, head, sector;
};

/* The three bytes of an entry; the packing is that of the firmware's disk
 * call. */
void slate_chs_put(uint8_t *field, struct slate_chs chs);

/* Of a block; the last one that there is where it lies beyond. */
struct slate_chs slate_chs_of(uint64_t lba, uint32_t heads, uint32_t sectors);

/* Where partitions of a new table go, and what the image of an old one says. */

/* The table that reaches the whole device: an MBR as far as 32-bit block
 * numbers do (UEFI 2.10, table 5.3), else a GPT. */
enum slate_table_kind slate_table_choose(const struct slate_geometry *geometry);

/* What partitions are aligned to, in bytes: 1 MiB, or a larger erase unit that
 * can be believed. */
uint32_t slate_table_align(const struct slate_geometry *geometry);

/* The grid of today: slate_table_align. */
void slate_table_grid(const struct slate_geometry *geometry,
                      struct slate_grid *grid);

/* The grid of systems that count cylinders, heads and sectors. */
void slate_table_cylinders(const struct slate_geometry *geometry,
                           uint16_t heads, uint16_t sectors,
                           struct slate_grid *grid);

/* The room for partitions that a table leaves, from the first unit of the grid
 * to the last whole physical block, or cylinder; without a table, the device.
 * Returns SLATE_OK, or SLATE_ERR_TOO_SMALL when nothing is left. */
SLATE_MUST_CHECK enum slate_status
slate_table_place(enum slate_table_kind kind,
                  const struct slate_geometry *geometry,
                  const struct slate_grid *grid, struct slate_range *range);

/* Is the image of a table one that can be changed? It may come from a file:
 * places, sizes and checksums are checked. Returns true when it is. */
bool slate_table_image_is_sound(const struct slate_table_plan *plan);

/* The blocks that such a table leaves to partitions. */
void slate_table_image_usable(const struct slate_table_plan *plan,
                              struct slate_range *usable);

/* Does the image have an entry of a number from 1? Logical partitions have one
 * where the image holds their links. Returns true when it does. */
bool slate_table_image_entry(const struct slate_table_plan *plan,
                             uint32_t number, uint32_t *slots);

/* The container of logical partitions in the image of an MBR. Returns its
 * number; 0 when there is none, or more than one. */
uint32_t slate_table_image_container(const struct slate_table_plan *plan,
                                     struct slate_range *range);

/* Does the image of an MBR hold the links to its logical partitions, so that
 * single ones of them stay? */
bool slate_table_image_holds_links(const struct slate_table_plan *plan);

/* A logical partition out of the links that an image holds. Returns false when
 * there is none. */
bool slate_table_image_logical(const struct slate_table_plan *plan,
                               uint32_t number,
                               struct slate_partition *logical);

/* Which block belongs into the image of an MBR behind those that it holds, so
 * that single logical partitions can stay. Returns false when there is none,
 * or more than SLATE_CHAIN_LINKS. */
bool slate_table_image_block(const struct slate_table_plan *plan,
                             uint32_t index, uint64_t *lba);

/* What the readers of the table kinds share. */

/* Forgets all partitions, so that another table may be taken. */
void slate_layout_empty(struct slate_layout *layout);

/* Counts a partition, and gives a zeroed one with its place filled in; NULL
 * when there is no room left. */
struct slate_partition *slate_layout_take(struct slate_layout *layout,
                                          uint64_t first, uint64_t count,
                                          uint32_t number);

/* Does block 0 begin a volume? */
bool slate_block_begins_volume(const uint8_t *block);

/* Takes the four entries of block 0 as they stand, when it is an MBR. */
void slate_mbr_read(const uint8_t *block, struct slate_layout *layout);

/* Turns them into partitions, following the chains of logical ones. */
SLATE_MUST_CHECK enum slate_status slate_mbr_take(struct slate_media *media,
                                                  uint8_t *work,
                                                  struct slate_layout *layout);

/* Checks both copies and, when the table counts, takes the partitions of the
 * sound one and sets the kind. wanted: it may count. */
SLATE_MUST_CHECK enum slate_status slate_gpt_read(struct slate_media *media,
                                                  uint8_t *work, bool wanted,
                                                  struct slate_layout *layout);

/* The other kinds; work holds block 0. Sets the kind when it is one. */
SLATE_MUST_CHECK enum slate_status
slate_other_read(struct slate_media *media, uint8_t *work,
                 struct slate_layout *layout);

#endif
