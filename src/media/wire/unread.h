/* SPDX-License-Identifier: MIT */
/* Blocks for which zeros stand: they could not be read, or a look may take no
 * more. */
#ifndef SLATE_MEDIA_UNREAD_H
#define SLATE_MEDIA_UNREAD_H

#include "trueslate/media.h"

/* How many so far; and are there more than that now? */
uint32_t slate_media_unread_count(const struct slate_media *media);
bool slate_media_unread_since(const struct slate_media *media, uint32_t count);

#endif
