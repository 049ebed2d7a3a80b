/* SPDX-License-Identifier: MIT */
/* An own reading of NTFS 3.1 (the layout that the Linux kernel's documentation
 * and headers publish), apart from the library's: every rule of a fresh volume,
 * from its bytes alone. */
#ifndef TESTS_NTFS_CHECK_H
#define TESTS_NTFS_CHECK_H

#include "composed.h"

/* Runs of clusters that somebody owns. */
struct ntfs_run {
    uint64_t first, count;
    char who[20];
};
#define NTFS_RUNS_MOST 8000

struct ntfs_seen {
    uint32_t cluster_bytes, record_bytes, records, log_bytes;
    uint64_t clusters, free, bad, serial;
    uint32_t runs, bad_runs, parts; /* further records of bad clusters */
    bool everyone;                  /* may do all in the root folder */
    char label[100];
    struct ntfs_run run[NTFS_RUNS_MOST];
};

/* Asserts all of it; step: how many blocks of a bitmap apart those are that are
 * looked at where nothing is owned. */
void ntfs_check(const struct volume_blocks *blocks, uint32_t step,
                struct ntfs_seen *seen);

/* Records and their attributes. */
struct ntfs {
    const struct volume_blocks *blocks;
    struct ntfs_seen *seen;
    uint64_t table, mirror; /* bytes of the volume */
};
struct ntfs_attribute {
    uint32_t type, id;
    char name[8];
    bool outside;
    uint64_t first, last, allocated, bytes, valid;
    const uint8_t *value; /* or its mapping */
    uint32_t length;
};

uint64_t ntfs_number(const uint8_t *at, uint32_t bytes);
void ntfs_bytes(const struct ntfs *n, uint64_t at, uint32_t count,
                uint8_t *data);
/* A record as it stands, with its fix-ups undone; all of its head is checked.
 */
void ntfs_record(const struct ntfs *n, uint32_t number, uint8_t record[4096]);
void ntfs_undo(uint8_t *data, uint32_t bytes, const char *magic);
/* The attribute behind *at, which is 0 at first. */
bool ntfs_next(const uint8_t *record, uint32_t *at,
               struct ntfs_attribute *attribute);
bool ntfs_find(const uint8_t *record, uint32_t type, const char *name,
               struct ntfs_attribute *attribute);
/* The only run of a mapping; the byte of the volume where it begins. */
uint64_t ntfs_one_run(const struct ntfs *n,
                      const struct ntfs_attribute *attribute);

/* Names and rights: ntfs_check_index.c. */
void ntfs_check_names(const struct ntfs *n);
void ntfs_check_rights(const struct ntfs *n);

#endif
