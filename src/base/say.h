/* SPDX-License-Identifier: MIT */
/* Sentences in one piece, with {} where something is filled in. */
#ifndef SLATE_BASE_SAY_H
#define SLATE_BASE_SAY_H

#include "trueslate/base.h"

enum slate_word_kind {
    SLATE_WORD_TEXT, /* as it is */
    SLATE_WORD_NUMBER,
    SLATE_WORD_COUNT,   /* with its noun: "1 block", "3 blocks" */
    SLATE_WORD_DECIMAL, /* a size in decimal units */
    SLATE_WORD_SIZE,    /* in both kinds of units */
    SLATE_WORD_HEX,     /* number: of so many digits */
    SLATE_WORD_BYTES    /* so many, in lower-case hexadecimal */
};

struct slate_word {
    enum slate_word_kind kind;
    const void *text; /* a string, or bytes */
    uint64_t number;
    size_t length; /* in digits or bytes */
};

#define AS_TEXT(string)                                                        \
    {                                                                          \
        SLATE_WORD_TEXT, string, 0, 0                                          \
    }
#define AS_NUMBER(number)                                                      \
    {                                                                          \
        SLATE_WORD_NUMBER, NULL, number, 0                                     \
    }
#define AS_COUNT(number, noun)                                                 \
    {                                                                          \
        SLATE_WORD_COUNT, noun, number, 0                                      \
    }
#define AS_DECIMAL(bytes)                                                      \
    {                                                                          \
        SLATE_WORD_DECIMAL, NULL, bytes, 0                                     \
    }
#define AS_SIZE(bytes)                                                         \
    {                                                                          \
        SLATE_WORD_SIZE, NULL, bytes, 0                                        \
    }
#define AS_HEX(number, digits)                                                 \
    {                                                                          \
        SLATE_WORD_HEX, NULL, number, digits                                   \
    }
#define AS_BYTES(bytes, length)                                                \
    {                                                                          \
        SLATE_WORD_BYTES, bytes, 0, length                                     \
    }

/* Adds a sentence; for each {} in it one of the words that follow. */
#define SLATE_SAY(text, sentence, ...)                                         \
    slate_text_say(text, sentence, (const struct slate_word[]){__VA_ARGS__})

void slate_text_say(struct slate_text *text, const char *sentence,
                    const struct slate_word *words);

#endif
