/* SPDX-License-Identifier: MIT */
/* The two checksums of the SD bus, bit by bit: the data is short. */
#include "trueslate/base.h"

uint8_t slate_crc7(const void *bytes, size_t length)
{
    const uint8_t *p = bytes;
    uint32_t crc = 0;

    for (size_t i = 0; i < length; i++) {
        crc ^= p[i];
        for (int bit = 0; bit < 8; bit++)
            crc = (crc & 0x80) != 0 ? crc << 1 ^ 0x12 : crc << 1;
    }
    return (uint8_t)(crc >> 1 & 0x7F);
}

uint16_t slate_crc16(const void *bytes, size_t length)
{
    const uint8_t *p = bytes;
    uint32_t crc = 0;

    for (size_t i = 0; i < length; i++) {
        crc ^= (uint32_t)p[i] << 8;
        for (int bit = 0; bit < 8; bit++)
            crc = (crc & 0x8000) != 0 ? crc << 1 ^ 0x1021 : crc << 1;
    }
    return (uint16_t)crc;
}
