/* SPDX-License-Identifier: MIT */
/* Inside the lowlevel room: one file for each command set. */
#ifndef SLATE_LOWLEVEL_LOWLEVEL_H
#define SLATE_LOWLEVEL_LOWLEVEL_H

#include "trueslate/lowlevel.h"

/* No device takes longer, seconds: two days. */
#define SLATE_LOWLEVEL_SECONDS 172800u

/* Each fills in what it finds; SLATE_ERR_NO_DEVICE or SLATE_OK. */
enum slate_status slate_lowlevel_look_scsi(struct slate_media *media,
                                           struct slate_lowlevel_facts *facts);
enum slate_status slate_lowlevel_look_nvme(struct slate_media *media,
                                           struct slate_lowlevel_facts *facts);
enum slate_status slate_lowlevel_look_ata(struct slate_media *media,
                                          struct slate_lowlevel_facts *facts);

/* SCSI: one of the steps that set what is wished; *more: there is another. */
enum slate_status slate_lowlevel_set_scsi(struct slate_lowlevel *lowlevel,
                                          bool *more);

/* Each sends the command, and returns when it is under way, or done. */
enum slate_status slate_lowlevel_order_scsi(struct slate_lowlevel *lowlevel);
enum slate_status slate_lowlevel_order_nvme(struct slate_lowlevel *lowlevel);
enum slate_status slate_lowlevel_order_ata(struct slate_lowlevel *lowlevel);

/* The parameter list of FORMAT UNIT, into the work buffer; its length. */
uint32_t slate_format_list(const struct slate_lowlevel *lowlevel, bool at_once,
                           uint8_t *list);

/* Notes a size of blocks, each once. */
void slate_lowlevel_note(struct slate_lowlevel_facts *facts,
                         const struct slate_block_format *format);

/* The format of that size that has nothing beside its blocks; NULL: there is
 * none. */
const struct slate_block_format *
slate_lowlevel_format_of(const struct slate_lowlevel_facts *facts,
                         uint32_t block_bytes);

#endif
