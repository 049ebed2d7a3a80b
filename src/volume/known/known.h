/* SPDX-License-Identifier: MIT */
/* Kinds that are recognised and not composed. */
#ifndef SLATE_VOLUME_KNOWN_H
#define SLATE_VOLUME_KNOWN_H

#include "base/base.h"
#include "volume/common/common.h"

/* The names of an APFS container's volumes. */
void slate_apfs_read(struct slate_reader *reader, const uint8_t *boot,
                     struct slate_volume *volume);

/* Recognises an optical-disc image: false for anything else. */
bool slate_optical_read(struct slate_reader *reader,
                        struct slate_volume *volume);

/* The record that members of a Linux RAID keep near their end. */
void slate_raid_tail_read(struct slate_reader *reader,
                          struct slate_volume *volume);

#endif
