/* SPDX-License-Identifier: MIT */
/* Inside the guard room: the write-protect groups of small SD cards. */
#ifndef SLATE_GUARD_SD_GUARD_H
#define SLATE_GUARD_SD_GUARD_H

#include "guard/guard.h"
#include "media/sd/sd.h"

/* How many are found protected; SLATE_ERR_NO_DEVICE or SLATE_OK. */
enum slate_status slate_guard_count_groups(struct slate_media *media,
                                           const uint8_t csd[16],
                                           uint64_t *found);

/* Lifts the protection of all groups. */
enum slate_status slate_guard_clear_groups(struct slate_media *media,
                                           const uint8_t csd[16]);

#endif
