/* SPDX-License-Identifier: MIT */
/* Inside the erase room: one file for each command set. */
#ifndef SLATE_ERASE_ERASE_H
#define SLATE_ERASE_ERASE_H

#include "trueslate/erase.h"

/* No device takes longer, seconds: two days. */
#define SLATE_ERASE_SECONDS 172800u

struct slate_erase_list {
    struct slate_erase_way *way;
    uint32_t count;
};

void slate_erase_note(struct slate_erase_list *list, enum slate_erase_kind kind,
                      uint32_t minutes, bool reaches_units);

/* Each notes what it finds; SLATE_ERR_NO_DEVICE or SLATE_OK. */
enum slate_status slate_erase_find_scsi(struct slate_media *media,
                                        struct slate_erase_list *list);
enum slate_status slate_erase_find_ata(struct slate_media *media,
                                       struct slate_erase_list *list);
enum slate_status slate_erase_find_nvme(struct slate_media *media,
                                        struct slate_erase_list *list);

/* Each sends the command, and returns when it is under way, or done. */
enum slate_status slate_erase_order_scsi(struct slate_media *media,
                                         enum slate_erase_kind kind);
enum slate_status slate_erase_order_ata(struct slate_media *media,
                                        enum slate_erase_kind kind);
enum slate_status slate_erase_order_nvme(struct slate_media *media,
                                         enum slate_erase_kind kind);

/* The next run of a card; SLATE_OK when the last one is done, and erase->next
 * the capacity then. */
enum slate_status slate_erase_run_sd(struct slate_erase *erase);

/* Each fills in a state that says idle. */
enum slate_status slate_erase_ask_scsi(struct slate_media *media,
                                       struct slate_erase_state *state);
enum slate_status slate_erase_ask_ata(struct slate_media *media,
                                      struct slate_erase_state *state);
enum slate_status slate_erase_ask_nvme(struct slate_media *media,
                                       struct slate_erase_state *state);

/* Looks at one place before, and after. */
enum slate_status slate_erase_look(struct slate_erase *erase);
enum slate_status slate_erase_compare(struct slate_erase *erase);

/* Reads the next run of the whole. */
enum slate_status slate_erase_read_on(struct slate_erase *erase);

#endif
