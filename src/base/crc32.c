/* SPDX-License-Identifier: MIT */
/* CRC-32, four bits at a time: small table, fast enough for table sectors. */
#include "trueslate/base.h"

uint32_t slate_crc32(uint32_t crc, const void *bytes, size_t length)
{
    static const uint32_t step[16] = {
        0x00000000, 0x1DB71064, 0x3B6E20C8, 0x26D930AC, 0x76DC4190, 0x6B6B51F4,
        0x4DB26158, 0x5005713C, 0xEDB88320, 0xF00F9344, 0xD6D6A3E8, 0xCB61B38C,
        0x9B64C2B0, 0x86D3D2D4, 0xA00AE278, 0xBDBDF21C};
    const uint8_t *p = bytes;

    crc = ~crc;
    for (size_t i = 0; i < length; i++) {
        crc = step[(crc ^ p[i]) & 15] ^ crc >> 4;
        crc = step[(crc ^ (uint32_t)p[i] >> 4) & 15] ^ crc >> 4;
    }
    return ~crc;
}
