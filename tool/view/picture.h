/* SPDX-License-Identifier: MIT */
/* Devices drawn to scale, as a picture file. */
#ifndef TOOL_PICTURE_H
#define TOOL_PICTURE_H

#include <trueslate/trueslate.h>

#include "device/target.h"
#include "view/profile.h"

enum picture_kind {
    PICTURE_NONE,
    PICTURE_SVG,
    PICTURE_PNG,
    PICTURE_PDF
};

/* By the ending of a file's name. */
enum picture_kind picture_kind(const char *path);

/* Draws the devices, one below the other, in the order given. Returns an exit
 * code, and says on stderr what went wrong. */
int picture_draw(const char *path, struct target *const *targets,
                 uint32_t count);

/* How fast a device is, region by region. */
int picture_profile(const char *path, const struct profile *profile);

/* The same of a device before and after a draft. */
int picture_draft(const char *path, const struct target *target,
                  const struct slate_draft *draft);

/* The same as SVG text, to be freed; NULL: it cannot be drawn here. */
char *picture_text_of_draft(const struct target *target,
                            const struct slate_draft *draft);
char *picture_text_of_profile(const struct profile *profile);
char *picture_text_of_device(struct target *target);

#endif
