/* SPDX-License-Identifier: MIT */
/* UTF-8 and UTF-16, one code point at a time (RFC 3629, RFC 2781). */
#include "base/base.h"

static int is_scalar(uint32_t point)
{
    return point < 0xD800 || (point > 0xDFFF && point <= 0x10FFFF);
}

/* bytes that follow a leading byte; -1 when it leads nothing */
static int followers(uint8_t lead)
{
    if (lead < 0x80)
        return 0;
    if (lead >= 0xC2 && lead <= 0xDF)
        return 1;
    if (lead >= 0xE0 && lead <= 0xEF)
        return 2;
    return lead >= 0xF0 && lead <= 0xF4 ? 3 : -1;
}

uint32_t slate_utf8_next(const char **text)
{
    static const uint32_t smallest[4] = {0, 0x80, 0x800, 0x10000};
    static const uint8_t mask[4] = {0x7F, 0x1F, 0x0F, 0x07};
    const char *p = *text;
    uint8_t lead = (uint8_t)*p;
    int more = followers(lead);
    uint32_t point;

    if (lead == 0)
        return 0;
    *text = p + 1;
    if (more < 0)
        return SLATE_UTF_INVALID;
    point = lead & mask[more];
    for (int i = 1; i <= more; i++) {
        if (((uint8_t)p[i] & 0xC0) != 0x80)
            return SLATE_UTF_INVALID;
        point = point << 6 | ((uint8_t)p[i] & 0x3F);
    }
    if (point < smallest[more] || !is_scalar(point))
        return SLATE_UTF_INVALID;
    *text = p + 1 + more;
    return point;
}

int slate_utf8_put(char *text, size_t room, size_t *used, uint32_t point)
{
    uint8_t bytes[4];
    size_t n = 0;

    if (point < 0x80) {
        bytes[n++] = (uint8_t)point;
    } else if (point < 0x800) {
        bytes[n++] = (uint8_t)(0xC0 | point >> 6);
        bytes[n++] = (uint8_t)(0x80 | (point & 0x3F));
    } else if (point < 0x10000) {
        bytes[n++] = (uint8_t)(0xE0 | point >> 12);
        bytes[n++] = (uint8_t)(0x80 | (point >> 6 & 0x3F));
        bytes[n++] = (uint8_t)(0x80 | (point & 0x3F));
    } else {
        bytes[n++] = (uint8_t)(0xF0 | point >> 18);
        bytes[n++] = (uint8_t)(0x80 | (point >> 12 & 0x3F));
        bytes[n++] = (uint8_t)(0x80 | (point >> 6 & 0x3F));
        bytes[n++] = (uint8_t)(0x80 | (point & 0x3F));
    }
    if (*used + n + 1 > room)
        return 0;
    for (size_t i = 0; i < n; i++)
        text[(*used)++] = (char)bytes[i];
    text[*used] = '\0';
    return 1;
}

static int is_high(uint32_t unit)
{
    return unit >= 0xD800 && unit <= 0xDBFF;
}

static int is_low(uint32_t unit)
{
    return unit >= 0xDC00 && unit <= 0xDFFF;
}

/* Ranges that are not to be seen, or change how others are: soft hyphen, marks
 * of direction and joining, line and paragraph separators, embeddings and
 * overrides, isolates, invisible operators, the byte order mark, annotations,
 * tags (Unicode 15, general categories Cf, Zl and Zp). */
static const struct {
    uint32_t first, last;
} hidden[] = {{0x00AD, 0x00AD}, {0x061C, 0x061C},   {0x115F, 0x1160},
              {0x17B4, 0x17B5}, {0x180B, 0x180F},   {0x200B, 0x200F},
              {0x2028, 0x202E}, {0x2060, 0x206F},   {0x3164, 0x3164},
              {0xFE00, 0xFE0F}, {0xFEFF, 0xFEFF},   {0xFFA0, 0xFFA0},
              {0xFFF0, 0xFFFB}, {0x1D173, 0x1D17A}, {0xE0000, 0xE0FFF}};

uint32_t slate_utf_shown(uint32_t point)
{
    if (point == SLATE_UTF_INVALID || point < 0x20 ||
        (point >= 0x7F && point < 0xA0))
        return '?';
    for (size_t i = 0; i < sizeof hidden / sizeof hidden[0]; i++) {
        if (point >= hidden[i].first && point <= hidden[i].last)
            return '?';
    }
    return point;
}

void slate_utf16_to_utf8(const uint8_t *units, size_t count, char *text,
                         size_t room)
{
    size_t used = 0;

    text[0] = '\0';
    for (size_t i = 0; i < count; i++) {
        uint32_t point = slate_le16(units + 2 * i);

        if (point == 0)
            return;
        if (is_high(point) && i + 1 < count &&
            is_low(slate_le16(units + 2 * (i + 1)))) {
            uint32_t low = slate_le16(units + 2 * (i + 1));

            point = 0x10000 + ((point - 0xD800) << 10) + (low - 0xDC00);
            i++;
        } else if (is_high(point) || is_low(point)) {
            point = 0xFFFD;
        }
        if (!slate_utf8_put(text, room, &used, slate_utf_shown(point)))
            return;
    }
}

void slate_utf8_to_utf16(const char *text, uint8_t *units, size_t count)
{
    size_t used = 0;
    uint32_t point;

    while ((point = slate_utf8_next(&text)) != 0) {
        size_t need = point > 0xFFFF && point != SLATE_UTF_INVALID ? 2 : 1;

        if (used + need > count)
            return;
        if (point == SLATE_UTF_INVALID)
            point = 0xFFFD;
        if (need == 2) {
            uint32_t rest = point - 0x10000;

            slate_put_le16(units + 2 * used, (uint16_t)(0xD800 + (rest >> 10)));
            point = 0xDC00 + (rest & 0x3FF);
            used++;
        }
        slate_put_le16(units + 2 * used++, (uint16_t)point);
    }
}
