/* SPDX-License-Identifier: MIT */
/* What a person types to name a device, understood as it stands. */
#ifndef TOOL_ADDRESS_H
#define TOOL_ADDRESS_H

#include <stdbool.h>
#include <stddef.h>
#include <trueslate/media.h>

/* A tag at the head of a word, in any case, with or without its hyphen: as it
 * is written, and how many characters of the word it takes; 0: none stands
 * there.
 */
size_t address_tag(const char *word, char tag[SLATE_TAG_ROOM]);

/* Are two words the same, letters in any case? */
bool address_same(const char *a, const char *b);

/* sim:NAME, file:PATH and dev:NAME as they stand; a path below /dev is a device
 * of the host, any other path, and the name of a file that is there, an image;
 * what could be a tag is asked first, a file of such a name is ./NAME. False
 * for what is none of these. */
bool address_of(const char *word, char *address, size_t room);

#endif
