/* SPDX-License-Identifier: MIT */
/* Putting sentences together without a C library behind it. */

#include "base/base.h"

void slate_text_start(struct slate_text *text, char *buffer, size_t room)
{
    text->bytes = buffer;
    text->room = room;
    text->used = 0;
    buffer[0] = '\0';
}

static void add_run(struct slate_text *text, const char *from, size_t length)
{
    size_t left = text->room - 1 - text->used;
    size_t take = length < left ? length : left;

    memcpy(text->bytes + text->used, from, take);
    text->used += take;
    text->bytes[text->used] = '\0';
}

void slate_text_add(struct slate_text *text, const char *string)
{
    add_run(text, string, strlen(string));
}

void slate_text_shown(struct slate_text *text, const char *raw)
{
    while (*raw != '\0') {
        const char *from = raw;
        uint32_t point = slate_utf8_next(&raw);

        if (slate_utf_shown(point) == point) {
            if ((size_t)(raw - from) <= text->room - 1 - text->used)
                add_run(text, from, (size_t)(raw - from));
            continue;
        }
        for (; from < raw; from++) {
            slate_text_add(text, "\\x");
            slate_text_hex(text, (uint8_t)*from, 2);
        }
    }
}

void slate_text_number(struct slate_text *text, uint64_t number)
{
    char digits[20];
    size_t at = sizeof digits;

    do {
        digits[--at] = (char)('0' + number % 10);
        number /= 10;
    } while (number > 0);
    add_run(text, digits + at, sizeof digits - at);
}

void slate_text_hex(struct slate_text *text, uint64_t number, int digits)
{
    while (digits-- > 0) {
        char digit = "0123456789ABCDEF"[number >> (4 * digits) & 15];

        add_run(text, &digit, 1);
    }
}

void slate_text_size(struct slate_text *text, uint64_t bytes)
{
    char words[SLATE_SIZE_TEXT];

    slate_size_both(bytes, words);
    slate_text_add(text, words);
}

void slate_text_bytes(struct slate_text *text, const uint8_t *bytes,
                      size_t length)
{
    static const char digit[] = "0123456789abcdef";

    for (size_t i = 0; i < length; i++) {
        char pair[2] = {digit[bytes[i] >> 4], digit[bytes[i] & 15]};

        add_run(text, pair, 2);
    }
}

static void add_word(struct slate_text *text, const struct slate_word *word)
{
    char size[SLATE_SIZE_TEXT];

    switch (word->kind) {
    case SLATE_WORD_NUMBER:
    case SLATE_WORD_COUNT:
        slate_text_number(text, word->number);
        if (word->kind == SLATE_WORD_NUMBER)
            return;
        slate_text_add(text, " ");
        slate_text_add(text, word->text);
        slate_text_add(text, word->number == 1 ? "" : "s");
        return;
    case SLATE_WORD_DECIMAL:
        slate_size_decimal(word->number, size);
        slate_text_add(text, size);
        return;
    case SLATE_WORD_SIZE:
        slate_text_size(text, word->number);
        return;
    case SLATE_WORD_HEX:
        slate_text_hex(text, word->number, (int)word->length);
        return;
    case SLATE_WORD_BYTES:
        slate_text_bytes(text, word->text, word->length);
        return;
    case SLATE_WORD_TEXT:
    default:
        slate_text_add(text, word->text);
    }
}

void slate_text_say(struct slate_text *text, const char *sentence,
                    const struct slate_word *words)
{
    const char *from = sentence;

    for (; *sentence != '\0'; sentence++) {
        if (sentence[0] != '{' || sentence[1] != '}')
            continue;
        add_run(text, from, (size_t)(sentence - from));
        add_word(text, words++);
        from = ++sentence + 1;
    }
    add_run(text, from, (size_t)(sentence - from));
}
