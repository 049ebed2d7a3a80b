/* SPDX-License-Identifier: MIT */
/* Where an optical-disc image stands among the facts. */
#ifndef SLATE_ASSESS_OPTICAL_H
#define SLATE_ASSESS_OPTICAL_H

#include "trueslate/assess.h"

/* On a device without a table it is the volume at block 0; else it may lie
 * under the table. */
static inline const struct slate_volume *
slate_optical_of(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_NONE ? &facts->whole
                                                  : &facts->optical;
}

#endif
