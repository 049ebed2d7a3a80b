/* SPDX-License-Identifier: MIT */
/* Names and numbers that devices tell of themselves, made printable. */
#include "media/wire/wire.h"

void slate_take_text(char *to, size_t room, const uint8_t *from, size_t length)
{
    size_t n = 0;

    while (length > 0 && (from[length - 1] == ' ' || from[length - 1] == 0))
        length--;
    while (length > 0 && *from == ' ') {
        from++;
        length--;
    }
    for (; n < length && n < room - 1; n++)
        to[n] = (char)(from[n] >= 0x20 && from[n] < 0x7F ? from[n] : '?');
    to[n] = '\0';
}
