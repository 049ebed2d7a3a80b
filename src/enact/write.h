/* SPDX-License-Identifier: MIT */
/* The one place from which the core writes to a device. */
#ifndef SLATE_ENACT_WRITE_H
#define SLATE_ENACT_WRITE_H

#include "trueslate/enact.h"

/* Composes blocks into a buffer, and writes them. */
enum slate_status slate_enact_write(struct slate_media *media,
                                    const struct slate_composer *composer,
                                    const void *plan, uint64_t first,
                                    uint32_t count, void *buffer);

/* Waits for what is being written. */
enum slate_status slate_enact_drain(struct slate_enact *enact);

/* The same, and until it has come to rest on the medium. */
enum slate_status slate_enact_flush(struct slate_enact *enact);

/* The blocks that stand next in a pass; composed: they stand in the other half
 * of the buffer already. */
enum slate_status slate_enact_write_next(struct slate_enact *enact,
                                         uint32_t count, bool composed);

/* Blocks of zeros that the device can clear by itself: so many are next; 0:
 * none, or it has turned out that it does not. */
uint32_t slate_enact_clearable(const struct slate_enact *enact);

/* Clears them, and looks at some of them. Where that does not come out as
 * zeros, *cleared is false, and zeros are written from then on. */
enum slate_status slate_enact_clear_next(struct slate_enact *enact,
                                         uint32_t count, bool *cleared);

/* Tells the device that it may forget the blocks that stand next; *count: of
 * them. A hint: one that does not take it is none the worse. */
enum slate_status slate_enact_discard(struct slate_enact *enact,
                                      uint32_t *count);

#endif
