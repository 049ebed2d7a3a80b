/* SPDX-License-Identifier: MIT */
/* On-disk numbers, read and written byte by byte in either order. */
#ifndef SLATE_BASE_BYTES_H
#define SLATE_BASE_BYTES_H

#include <stdint.h>

static inline uint16_t slate_le16(const uint8_t *p)
{
    return (uint16_t)(p[0] | (uint32_t)p[1] << 8);
}

static inline uint32_t slate_le32(const uint8_t *p)
{
    return slate_le16(p) | (uint32_t)slate_le16(p + 2) << 16;
}

static inline uint64_t slate_le64(const uint8_t *p)
{
    return slate_le32(p) | (uint64_t)slate_le32(p + 4) << 32;
}

static inline uint16_t slate_be16(const uint8_t *p)
{
    return (uint16_t)((uint32_t)p[0] << 8 | p[1]);
}

static inline uint32_t slate_be32(const uint8_t *p)
{
    return (uint32_t)slate_be16(p) << 16 | slate_be16(p + 2);
}

static inline uint64_t slate_be64(const uint8_t *p)
{
    return (uint64_t)slate_be32(p) << 32 | slate_be32(p + 4);
}

static inline void slate_put_le16(uint8_t *p, uint16_t v)
{
    p[0] = (uint8_t)v;
    p[1] = (uint8_t)(v >> 8);
}

static inline void slate_put_le32(uint8_t *p, uint32_t v)
{
    slate_put_le16(p, (uint16_t)v);
    slate_put_le16(p + 2, (uint16_t)(v >> 16));
}

static inline void slate_put_le64(uint8_t *p, uint64_t v)
{
    slate_put_le32(p, (uint32_t)v);
    slate_put_le32(p + 4, (uint32_t)(v >> 32));
}

static inline void slate_put_be16(uint8_t *p, uint16_t v)
{
    p[0] = (uint8_t)(v >> 8);
    p[1] = (uint8_t)v;
}

static inline void slate_put_be32(uint8_t *p, uint32_t v)
{
    slate_put_be16(p, (uint16_t)(v >> 16));
    slate_put_be16(p + 2, (uint16_t)v);
}

static inline void slate_put_be64(uint8_t *p, uint64_t v)
{
    slate_put_be32(p, (uint32_t)(v >> 32));
    slate_put_be32(p + 4, (uint32_t)v);
}

#endif
