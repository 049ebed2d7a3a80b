/* SPDX-License-Identifier: MIT */
/* How fast a device is from its start to its end, and where it fails, drawn. */
#ifndef TOOL_PROFILE_H
#define TOOL_PROFILE_H

#include "view/page.h"

struct profile {
    const struct target *target;
    const struct slate_surface *surface;
    const char *words; /* what was done, and what that means */
    const char *doing; /* "read" */
    uint64_t bad;      /* blocks */
};

/* On a page: the device, the rates to scale, what they mean. */
void profile_put(struct page *page, const void *profile);

#endif
