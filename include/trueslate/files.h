/* SPDX-License-Identifier: MIT */
/* Files and folders that are placed on a fresh volume. */
#ifndef TRUESLATE_FILES_H
#define TRUESLATE_FILES_H

#include "trueslate/source.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Attributes of a file or folder; bits. */
enum slate_item_attribute {
    SLATE_ITEM_READ_ONLY = 1,
    SLATE_ITEM_HIDDEN = 2,
    SLATE_ITEM_SYSTEM = 4
};

/** Room for a name, with its zero: 255 units of UTF-16 as UTF-8. */
#define SLATE_NAME_ROOM 766

/** A file or folder. */
struct slate_item {
    uint32_t parent; /**< index of the folder that it is in */
    uint32_t name;   /**< where it begins in the names; UTF-8 */
    bool folder;
    uint8_t attributes; /**< a sum of enum slate_item_attribute */
    struct slate_stamp changed;
    uint64_t bytes;                     /**< of a file's content; a folder: 0 */
    uint8_t digest[SLATE_DIGEST_BYTES]; /**< SHA-256 of it; a folder: zeros */
};

/** Where an item goes: follows from the items and the volume. */
struct slate_spot {
    uint32_t cluster;  /**< its first one, counted from 0 */
    uint32_t clusters; /**< in a row; 0: an empty file */
    uint32_t child;    /**< a folder: the first item in it */
    uint32_t children; /**< and how many there are */
    uint32_t entry;    /**< its first entry in its folder */
    uint32_t order;    /**< an index, while items are sorted */
    uint8_t entries;
    uint8_t short_name[11]; /**< FAT: as its entry has it */
};

/**
 * What is placed: item 0 is the volume's root, all others follow folder by
 * folder, those of a folder in the order in which they shall stand there, and
 * the folders in their own order. Names follow one another, each with a zero at
 * its end, in the order of the items; the root's is empty.
 */
struct slate_files {
    struct slate_item *item;
    struct slate_spot *spot; /**< one for each */
    uint32_t room;           /**< of both */
    uint32_t count;          /**< 0: nothing is placed */
    struct slate_bytes names;
    uint32_t ahead; /**< so many of the root's come ahead of a FAT's label, as
                         old start-up code wants it */
    struct slate_source *source; /**< the caller's; NULL: content cannot be
                                      composed */
    uint32_t refused;            /**< the item that was in the way */
    const char *why;             /**< in words, without a stop */
};

/** The name of an item, UTF-8. */
static inline const char *slate_item_name(const struct slate_files *files,
                                          uint32_t item)
{
    return (const char *)files->names.byte + files->item[item].name;
}

/** Bytes of all files, and how many files and folders there are beside the
 * root. */
struct slate_files_sum {
    uint64_t bytes;
    uint32_t files, folders;
};

/** @param files any @param sum filled in */
void slate_files_add_up(const struct slate_files *files,
                        struct slate_files_sum *sum);

/** Reading all files once, for their digests, a bounded amount at a time. */
struct slate_files_reading {
    struct slate_files *files;
    bool checks;   /**< compares with the digests that there are */
    uint32_t item; /**< that is read */
    uint64_t at;   /**< byte of it */
    uint64_t done; /**< bytes, of all */
    uint64_t total;
    struct slate_sha256 sha;
};

/** Begins. @param files with their source; kept by reference
 * @param checks false: takes the digests; true: compares with them */
void slate_files_read_start(struct slate_files_reading *reading,
                            struct slate_files *files, bool checks);

/**
 * Goes on.
 *
 * @param reading    its item tells which one failed
 * @param work       receives content
 * @param work_bytes at least 1
 * @param finished   set when all digests are there
 * @return SLATE_OK, or what the source says; SLATE_ERR_SOURCE for another
 * digest
 */
SLATE_MUST_CHECK enum slate_status
slate_files_read_step(struct slate_files_reading *reading, void *work,
                      size_t work_bytes, bool *finished);

#ifdef __cplusplus
}
#endif
#endif
