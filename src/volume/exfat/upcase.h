/* SPDX-License-Identifier: MIT */
/* The up-case table that exFAT and NTFS keep on the volume. */
#ifndef SLATE_VOLUME_UPCASE_H
#define SLATE_VOLUME_UPCASE_H

#include <stdint.h>

/* Bytes of the table in its compressed form. */
extern const uint32_t slate_upcase_bytes;

/* Writes bytes of the compressed table, units with the low byte first; zeros
 * behind its end. */
void slate_upcase_put(uint32_t at, uint8_t *data, uint32_t count);

/* The upper case of units of UTF-16: of one, and of a row of them, with the low
 * byte first. */
void slate_upcase_units(uint16_t first, uint32_t count, uint8_t *units);
uint16_t slate_upcase(uint16_t unit);

#endif
