/* SPDX-License-Identifier: MIT */
/* An own reading of the files and folders of FAT and exFAT volumes (FAT
 * specification 1.03; exFAT 1.00), apart from the library's. */
#ifndef TESTS_TREE_H
#define TESTS_TREE_H

#include <stdbool.h>
#include <stdint.h>

#define TREE_MOST 6000u
#define TREE_PATH 2048u

/* A file or folder, as its entries have it. */
struct tree_entry {
    char path[TREE_PATH]; /* UTF-8, "/" ahead of each name */
    char short_name[13];  /* FAT */
    bool folder;
    uint8_t attributes, rest;
    uint16_t date, time;
    uint64_t bytes;
    uint32_t cluster, clusters; /* all in a row */
};

struct tree {
    /* Where blocks of the volume come from. */
    void *context;
    void (*read)(void *context, uint64_t block, uint8_t *data);
    uint32_t block_bytes;
    uint64_t blocks;
    /* What was found. */
    uint32_t count;
    struct tree_entry entry[TREE_MOST];
    uint32_t bits; /* 12, 16, 32; exFAT: 0 */
    uint32_t cluster_bytes, clusters, used, bad, free;
    uint32_t label_at; /* FAT: which entry of the root it is */
    bool labelled;
    uint64_t clusters_at; /* block */
    uint32_t root_cluster;
};

/* Reads a FAT volume, and asserts that its boot block, tables, chains, folders
 * and names are as the specification has them. */
void tree_read_fat(struct tree *tree);

/* Reads all folders of an exFAT volume of which exfat_check.h has told the
 * figures, and asserts the same of their entries; upper: the up-case table. */
void tree_read_exfat(struct tree *tree, const uint16_t *upper,
                     uint32_t root_clusters);

/* The one with this path; fails when there is none. */
const struct tree_entry *tree_find(const struct tree *tree, const char *path);

/* Bytes of what begins at a cluster. */
void tree_bytes(const struct tree *tree, uint32_t cluster, uint64_t at,
                uint32_t count, uint8_t *data);

/* Units as UTF-8, behind a path. */
void tree_add_name(char *path, const uint16_t *unit, uint32_t count);

#endif
