/* SPDX-License-Identifier: MIT */
/* Content that comes from elsewhere. */
#ifndef SLATE_COMPOSE_SOURCE_H
#define SLATE_COMPOSE_SOURCE_H

#include "trueslate/source.h"

/* Reads bytes of a file, and vouches for it: its last byte is given only when
 * all of it, as it was read, has the digest. What is read in order is read
 * once; else the file is gone through again. Returns SLATE_OK;
 * SLATE_ERR_SOURCE when the file has changed or cannot be read. */
SLATE_MUST_CHECK enum slate_status
slate_source_take(struct slate_source *source, const struct slate_sourced *file,
                  uint64_t at, uint32_t count, void *data);

#endif
