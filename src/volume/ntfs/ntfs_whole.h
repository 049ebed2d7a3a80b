/* SPDX-License-Identifier: MIT */
/* Records of NTFS's file table, read and made whole again. */
#ifndef SLATE_VOLUME_NTFS_WHOLE_H
#define SLATE_VOLUME_NTFS_WHOLE_H

#include "volume/ntfs/ntfs.h"
#include "volume/common/read.h"

/* What is needed to read a volume's records. */
struct slate_ntfs_reading {
    struct slate_reader *reader;
    uint64_t table, mirror; /* the clusters where they begin */
    uint64_t clusters;
    uint32_t cluster_bytes;
    uint32_t length; /* of a record, in bytes */
};

/* boot: the first 512 bytes; volume: its sizes are known. False: they make no
 * sense. */
bool slate_ntfs_begin(struct slate_reader *reader, const uint8_t *boot,
                      const struct slate_volume *volume,
                      struct slate_ntfs_reading *reading);

/* A record of the table, or of the mirror, in the reader's buffer; NULL when it
 * is none, is torn, or cannot be read. byte: receives where it stands. Only the
 * first run of the table is known here: the first records are in it. */
const uint8_t *slate_ntfs_read_record(const struct slate_ntfs_reading *reading,
                                      uint64_t table, uint32_t number,
                                      uint64_t *byte);

/* Where the attribute behind the one at a byte begins, 0 being ahead of the
 * first one; bytes: receives its length, 24 at least. 0: there is none. */
uint32_t slate_ntfs_next_attribute(const uint8_t *record, uint32_t length,
                                   uint32_t at, uint32_t *bytes);

/* The value of an attribute that has it in the record. NULL: it has not. */
const uint8_t *slate_ntfs_value(const uint8_t *attribute, uint32_t length,
                                uint32_t *bytes);

/* Where the nameless data of a record stand: their mapping, which ends with a
 * zero; bytes: receives how many there are. False: they are in the record, or
 * the mapping is longer, or goes on in another record. */
#define SLATE_NTFS_MAP_MOST SLATE_VOLUME_MAP_BYTES
bool slate_ntfs_find_map(const uint8_t *record, uint32_t length,
                         uint8_t map[SLATE_NTFS_MAP_MOST], uint64_t *bytes);

/* Clusters in a row. A hole ends the mapping for all that is read here. */
struct slate_ntfs_stretch {
    uint64_t first, clusters;
    uint32_t next; /* byte of the mapping */
};
bool slate_ntfs_next_stretch(const uint8_t map[SLATE_NTFS_MAP_MOST],
                             struct slate_ntfs_stretch *stretch);

/* Are changes in the log that a host has to repeat or take back first? */
bool slate_ntfs_has_replay(const struct slate_ntfs_reading *reading);

/* Counts the free clusters, unless the bitmap is too long for a look. */
void slate_ntfs_count(const struct slate_ntfs_reading *reading,
                      struct slate_volume *volume);

#endif
