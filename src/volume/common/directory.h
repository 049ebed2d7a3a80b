/* SPDX-License-Identifier: MIT */
/* Looking through the root directory of FAT and exFAT, entry by entry. */
#ifndef SLATE_VOLUME_DIRECTORY_H
#define SLATE_VOLUME_DIRECTORY_H

#include "volume/common/read.h"

#define SLATE_ENTRY_BYTES 32u

/* A directory: one run, or a chain of clusters. Bytes are bytes of the volume's
 * range. */
struct slate_directory {
    struct slate_reader *reader;
    uint64_t at, left; /* the run that is looked through */
    uint64_t chain;    /* where the 32-bit table begins; 0: there is none */
    uint64_t clusters_at;
    uint32_t mask; /* of a table's entry */
    uint32_t cluster, clusters, cluster_bytes;
    uint64_t most; /* bytes that a directory may have */
};

/* What kind an entry is of. */
enum slate_entry_kind {
    SLATE_ENTRY_END, /* nor is anything behind it */
    SLATE_ENTRY_FREE,
    SLATE_ENTRY_LABEL,
    SLATE_ENTRY_OTHER
};

/* Begins with the chain of a cluster. */
void slate_directory_begin(struct slate_directory *directory, uint32_t cluster);

/* Finds the label's entry, or else one that is free. at: receives its byte,
 * entry: its content. Returns SLATE_ERR_ROOT_FULL when there is neither,
 * SLATE_ERR_CHANGED for a chain that leads nowhere, SLATE_ERR_READ. */
enum slate_status
slate_directory_find(struct slate_directory *directory,
                     enum slate_entry_kind (*judge)(const uint8_t *entry),
                     uint64_t *at, uint8_t entry[SLATE_ENTRY_BYTES]);

#endif
