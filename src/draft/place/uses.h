/* SPDX-License-Identifier: MIT */
/* What a use is best set up with. */
#ifndef SLATE_DRAFT_PLACE_USES_H
#define SLATE_DRAFT_PLACE_USES_H

#include "trueslate/use.h"

/* Advice for a use, from a table of data. Returns never NULL. */
const struct slate_advice *slate_use_advice(enum slate_use use,
                                            enum slate_device_kind kind,
                                            uint64_t bytes);

#endif
