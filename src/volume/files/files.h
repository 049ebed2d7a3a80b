/* SPDX-License-Identifier: MIT */
/* Where files and folders stand on a volume, and what their blocks hold. */
#ifndef SLATE_VOLUME_FILES_H
#define SLATE_VOLUME_FILES_H

#include "compose/compose.h"
#include "trueslate/format.h"
#include "volume/common/common.h"

#define SLATE_NAME_UNITS_MOST 255u
#define SLATE_FOLDER_ENTRY_BYTES 32u

/* How a volume keeps its folders: entries of 32 bytes, of which each item has
 * some. Those that are no item's are the head of a folder. */
struct slate_folders {
    const void *plan;      /* of the volume */
    uint32_t entries_most; /* of a folder */
    uint32_t root_head, head;
    bool head_behind; /* the root's stands behind the first items */
    uint64_t file_most;
    uint8_t (*entries)(const struct slate_files *files, uint32_t item);
    /* Puts entry k of an item, or of the head of a folder. entry: zeroed */
    void (*put)(const struct slate_folders *folders,
                const struct slate_files *files, uint32_t item, uint32_t k,
                uint8_t *entry);
    void (*put_head)(const struct slate_folders *folders,
                     const struct slate_files *files, uint32_t folder,
                     uint32_t k, uint8_t *entry);
};

/* The clusters that they stand in. */
struct slate_placed {
    const struct slate_files *files; /* NULL: none are placed */
    uint8_t role;                    /* of their extents */
    struct slate_folders folders;
    struct slate_clusters clusters;
    uint32_t block_bytes;
};

/* Finds each item's entries in its folder. SLATE_ERR_FILE_SIZE, SLATE_ERR_FILES
 * for a folder with too many. */
enum slate_status slate_files_count(struct slate_files *files,
                                    const struct slate_folders *folders);

/* Entries of a folder, with its head. */
uint32_t slate_files_entries(const struct slate_files *files,
                             const struct slate_folders *folders,
                             uint32_t folder);

/* Clusters that the root takes, where it is in clusters. */
uint32_t slate_files_root_clusters(const struct slate_files *files,
                                   const struct slate_folders *folders,
                                   uint32_t cluster_bytes);

/* Gives each item clusters in a row, none of them bad, from one on.
 * SLATE_ERR_FILES when there are not enough.
 * reach: receives the first cluster behind all; used: how many */
enum slate_status slate_files_place(struct slate_files *files,
                                    const struct slate_placed *placed,
                                    const struct slate_ranges *bad,
                                    uint32_t from, uint32_t *reach,
                                    uint32_t *used);

/* The first item whose clusters end behind one; their number when there is
 * none. It holds the cluster unless it begins behind it. */
uint32_t slate_files_find(const struct slate_files *files, uint32_t cluster);

/* Is a cluster an item's, and does its file or folder go on behind it? */
bool slate_files_holds(const struct slate_files *files, uint32_t cluster,
                       bool *goes_on);

/* slate_composer.next and .covers over the rows of a volume, and the files that
 * are the rest of its body. */
bool slate_placed_next(const struct slate_placed *placed,
                       const struct slate_row *row, uint32_t rows,
                       enum slate_moment moment, uint64_t *at,
                       struct slate_extent *extent);
bool slate_placed_cover(const struct slate_placed *placed,
                        const struct slate_row *row, uint32_t rows,
                        uint64_t lba, uint64_t *until);

/* Is a block of an extent of theirs? Then they fill it. */
bool slate_files_own(const struct slate_placed *placed, uint64_t lba);
enum slate_status slate_files_fill(const struct slate_placed *placed,
                                   uint64_t first, uint32_t count, void *data);

/* Entries of a folder, from one on. data: count * 32 bytes, zeroed */
void slate_folder_put(const struct slate_placed *placed, uint32_t folder,
                      uint32_t first, uint32_t count, uint8_t *data);

/* Sorts the indices of all items into the spots' order. */
typedef int (*slate_item_compare)(const struct slate_files *files, uint32_t a,
                                  uint32_t b);
void slate_files_sort(struct slate_files *files, slate_item_compare compares);

/* Units of UTF-16 of a name: count of them from the first on, zeros behind its
 * end. Returns how many the name has. */
uint32_t slate_name_units(const char *name, uint32_t first, uint16_t *unit,
                          uint32_t count);

/* Adds an item behind those that there are; the first one is the root. Returns
 * SLATE_OK; SLATE_ERR_ROOM for too little of it. */
SLATE_MUST_CHECK enum slate_status
slate_files_add(struct slate_files *files, const struct slate_item *item,
                const char *name);

/* Can all of it stand on a volume? Looks at the order of the items and at
 * their names: 1 to 255 units of UTF-16, no control characters, none of
 * `"*\/:<>?\|`, no space or stop at the end, no two in a folder that differ in
 * case alone. Returns SLATE_OK; SLATE_ERR_NAME, with @c refused and @c why;
 * SLATE_ERR_ARGUMENT for what is no tree. */
SLATE_MUST_CHECK enum slate_status slate_files_check(struct slate_files *files);

/* Asks the source whether every file is still there, and as long as it was.
 * Returns SLATE_OK, SLATE_ERR_SOURCE. */
SLATE_MUST_CHECK enum slate_status
slate_files_look(const struct slate_files *files);

/* slate_composer.next and .covers of a volume with files: name has a function
 * that tells where they are. */
#define SLATE_PLACED_BOTH(name, most, make)                                    \
    bool name##_next(const void *plan, enum slate_moment moment, uint64_t *at, \
                     struct slate_extent *extent)                              \
    {                                                                          \
        struct slate_row row[most];                                            \
        struct slate_placed placed;                                            \
        make(plan, row);                                                       \
        name##_placed(plan, &placed);                                          \
        return slate_placed_next(&placed, row, most, moment, at, extent);      \
    }                                                                          \
    bool name##_covers(const void *plan, uint64_t lba, uint64_t *until)        \
    {                                                                          \
        struct slate_row row[most];                                            \
        struct slate_placed placed;                                            \
        make(plan, row);                                                       \
        name##_placed(plan, &placed);                                          \
        return slate_placed_cover(&placed, row, most, lba, until);             \
    }

#endif
