/* SPDX-License-Identifier: MIT */
/* Reading ahead: the device has the next blocks before it is done with the
 * present ones, which are compared meanwhile. */
#ifndef SLATE_PASS_AHEAD_H
#define SLATE_PASS_AHEAD_H

#include "trueslate/pass.h"

/* Divides the work buffer of a pass that was just begun by three, where the
 * port can have transfers under way, and there is room. */
void slate_ahead_divide(struct slate_ahead *ahead, struct slate_pass *pass,
                        size_t work_bytes);

/* Reads blocks into *work, which another part of the buffer may stand for then,
 * and begins to read the next ones, if there are any: those are the present
 * ones of the next call. */
enum slate_status slate_ahead_read(struct slate_ahead *ahead,
                                   struct slate_media *media,
                                   const struct slate_range *present,
                                   const struct slate_range *next,
                                   uint8_t **work);

/* The same of a pass: reads the present blocks into pass->work, and begins to
 * read those behind them, as long as these are for the same deed. */
enum slate_status slate_ahead_fetch(struct slate_ahead *ahead,
                                    struct slate_pass *pass, uint32_t count);

/* Waits for what is under way, and drops it. SLATE_OK; or what became of it. */
enum slate_status slate_ahead_end(struct slate_ahead *ahead,
                                  struct slate_media *media);

#endif
