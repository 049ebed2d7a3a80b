/* SPDX-License-Identifier: MIT */
/* The short name of a device, made of what it says of itself. */
#ifndef SLATE_MEDIA_TAG_H
#define SLATE_MEDIA_TAG_H

#include "trueslate/media.h"

/* Fills media->digest and media->tag from identity and capacity. */
void slate_tag_derive(struct slate_media *media);

#endif
