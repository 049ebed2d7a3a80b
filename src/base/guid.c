/* SPDX-License-Identifier: MIT */
/* GUIDs between their on-disk order and their text form. */
#include <string.h>

#include "trueslate/base.h"

/* The disk byte that each pair of digits stands for; the first three fields
 * are little-endian on disk (UEFI 2.10, appendix A). */
static const uint8_t text_order[16] = {3, 2, 1,  0,  5,  4,  7,  6,
                                       8, 9, 10, 11, 12, 13, 14, 15};

static bool dash_before(int i)
{
    return i == 4 || i == 6 || i == 8 || i == 10;
}

void slate_guid_text(const struct slate_guid *guid, char text[SLATE_GUID_TEXT])
{
    static const char digit[] = "0123456789ABCDEF";

    for (int i = 0; i < 16; i++) {
        uint8_t byte = guid->bytes[text_order[i]];

        if (dash_before(i))
            *text++ = '-';
        *text++ = digit[byte >> 4];
        *text++ = digit[byte & 15];
    }
    *text = '\0';
}

static int digit_value(char c)
{
    if (c >= '0' && c <= '9')
        return c - '0';
    if (c >= 'A' && c <= 'F')
        return c - 'A' + 10;
    if (c >= 'a' && c <= 'f')
        return c - 'a' + 10;
    return -1;
}

enum slate_status slate_guid_parse(const char *text, struct slate_guid *guid)
{
    struct slate_guid read;

    if (text == NULL || guid == NULL)
        return SLATE_ERR_ARGUMENT;
    for (int i = 0; i < 16; i++) {
        int high, low;

        if (dash_before(i) && *text++ != '-')
            return SLATE_ERR_ARGUMENT;
        high = digit_value(text[0]);
        low = high < 0 ? -1 : digit_value(text[1]);
        if (low < 0)
            return SLATE_ERR_ARGUMENT;
        read.bytes[text_order[i]] = (uint8_t)(high * 16 + low);
        text += 2;
    }
    if (*text != '\0')
        return SLATE_ERR_ARGUMENT;
    *guid = read;
    return SLATE_OK;
}

void slate_guid_random(const uint8_t random[16], struct slate_guid *guid)
{
    memcpy(guid->bytes, random, 16);
    guid->bytes[7] = (uint8_t)((guid->bytes[7] & 0x0F) | 0x40);
    guid->bytes[8] = (uint8_t)((guid->bytes[8] & 0x3F) | 0x80);
}
