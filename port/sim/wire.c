/* SPDX-License-Identifier: MIT */
/* Numbers, text and answers as a device puts them on the wire. */

#include "sim.h"

uint64_t sim_be(const uint8_t *bytes, int length)
{
    uint64_t value = 0;

    for (int i = 0; i < length; i++)
        value = value << 8 | bytes[i];
    return value;
}

void sim_put_be(uint8_t *bytes, int length, uint64_t value)
{
    for (int i = length; i-- > 0; value >>= 8)
        bytes[i] = (uint8_t)value;
}

uint64_t sim_le(const uint8_t *bytes, int length)
{
    uint64_t value = 0;

    for (int i = length; i-- > 0;)
        value = value << 8 | bytes[i];
    return value;
}

void sim_put_le(uint8_t *bytes, int length, uint64_t value)
{
    for (int i = 0; i < length; i++, value >>= 8)
        bytes[i] = (uint8_t)value;
}

void sim_put_padded(uint8_t *field, size_t length, const char *text)
{
    size_t have = strlen(text);

    memset(field, ' ', length);
    memcpy(field, text, have < length ? have : length);
}

void sim_answer(struct slate_exchange *x, const uint8_t *data, uint64_t length,
                uint64_t allowed)
{
    if (length > allowed)
        length = allowed;
    if (length > x->data_length)
        length = x->data_length;
    if (x->direction == SLATE_DIRECTION_IN && length > 0)
        memcpy(x->data, data, (size_t)length);
    x->transferred = (uint32_t)length;
}
