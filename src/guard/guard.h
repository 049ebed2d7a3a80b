/* SPDX-License-Identifier: MIT */
/* Inside guard: the guards of each command set. */
#ifndef SLATE_GUARD_GUARD_H
#define SLATE_GUARD_GUARD_H

#include "media/sd/sd.h"
#include "trueslate/guard.h"

/* Inside the guard room: one finder and one lifter for each command set. */

struct slate_guard_list {
    struct slate_guard *guard;
    uint32_t count;
};

/* Notes a guard that is lifted as those of its kind are. */
void slate_guard_note(struct slate_guard_list *list, enum slate_guard_kind kind,
                      uint64_t value);

struct slate_guard_order {
    const struct slate_guard *guard;
    const char *password; /* "" for none */
    bool lasting;
    bool erase; /* with all content */
};

/* Each notes what it finds; SLATE_ERR_NO_DEVICE or SLATE_OK. */
enum slate_status slate_guard_find_scsi(struct slate_media *media,
                                        struct slate_guard_list *list);
enum slate_status slate_guard_find_sd(struct slate_media *media,
                                      struct slate_guard_list *list);
enum slate_status slate_guard_find_ata(struct slate_media *media,
                                       struct slate_guard_list *list);
enum slate_status slate_guard_find_nvme(struct slate_media *media,
                                        struct slate_guard_list *list);

/* Each sends the command; SLATE_ERR_COMMAND when the device refuses. */
enum slate_status slate_guard_lift_scsi(struct slate_media *media,
                                        const struct slate_guard_order *order);
enum slate_status slate_guard_lift_sd(struct slate_media *media,
                                      const struct slate_guard_order *order);
enum slate_status slate_guard_lift_ata(struct slate_media *media,
                                       const struct slate_guard_order *order);
enum slate_status slate_guard_lift_nvme(struct slate_media *media,
                                        const struct slate_guard_order *order);

/* Inside the guard room: the write-protect groups of small SD cards. */

/* How many are found protected; SLATE_ERR_NO_DEVICE or SLATE_OK. */
enum slate_status slate_guard_count_groups(struct slate_media *media,
                                           const uint8_t csd[16],
                                           uint64_t *found);

/* Lifts the protection of all groups. */
enum slate_status slate_guard_clear_groups(struct slate_media *media,
                                           const uint8_t csd[16]);

#endif
