/* SPDX-License-Identifier: MIT */
/* CRC-32 and CRC-32C, four bits at a time: small tables, fast enough for table
 * sectors; and those of SD cards. Where the processor has an instruction for
 * CRC-32C, it is used: journals take one of all that they keep. */
#include "trueslate/base.h"

#include <string.h>

/* Free-standing builds do without. */
#if defined(__x86_64__) && defined(__GNUC__) && __STDC_HOSTED__
#define HAS_INSTRUCTION
#endif

static uint32_t run(const uint32_t step[16], uint32_t crc, const void *bytes,
                    size_t length)
{
    const uint8_t *p = bytes;

    for (size_t i = 0; i < length; i++) {
        crc = step[(crc ^ p[i]) & 15] ^ crc >> 4;
        crc = step[(crc ^ (uint32_t)p[i] >> 4) & 15] ^ crc >> 4;
    }
    return crc;
}

uint32_t slate_crc32(uint32_t crc, const void *bytes, size_t length)
{
    static const uint32_t step[16] = {
        0x00000000, 0x1DB71064, 0x3B6E20C8, 0x26D930AC, 0x76DC4190, 0x6B6B51F4,
        0x4DB26158, 0x5005713C, 0xEDB88320, 0xF00F9344, 0xD6D6A3E8, 0xCB61B38C,
        0x9B64C2B0, 0x86D3D2D4, 0xA00AE278, 0xBDBDF21C};

    return ~run(step, ~crc, bytes, length);
}

#ifdef HAS_INSTRUCTION
__attribute__((target("sse4.2"))) static uint32_t
run_instruction(uint32_t crc, const void *bytes, size_t length)
{
    const uint8_t *p = bytes;
    uint64_t wide = crc, eight;

    for (; length >= sizeof eight; p += sizeof eight, length -= sizeof eight) {
        memcpy(&eight, p, sizeof eight);
        wide = __builtin_ia32_crc32di(wide, eight);
    }
    crc = (uint32_t)wide;
    for (; length > 0; p++, length--)
        crc = __builtin_ia32_crc32qi(crc, *p);
    return crc;
}
#endif

uint32_t slate_crc32c(uint32_t crc, const void *bytes, size_t length)
{
    static const uint32_t step[16] = {
        0x00000000, 0x105EC76F, 0x20BD8EDE, 0x30E349B1, 0x417B1DBC, 0x5125DAD3,
        0x61C69362, 0x7198540D, 0x82F63B78, 0x92A8FC17, 0xA24BB5A6, 0xB21572C9,
        0xC38D26C4, 0xD3D3E1AB, 0xE330A81A, 0xF36E6F75};

#ifdef HAS_INSTRUCTION
    if (__builtin_cpu_supports("sse4.2"))
        return run_instruction(crc, bytes, length);
#endif
    return run(step, crc, bytes, length);
}

/* The two checksums of the SD bus, bit by bit: the data is short. */

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
