/* SPDX-License-Identifier: MIT */
/* Text from elsewhere on the screen, and words for copying into a shell. */
#include "base/base.h"

const char *plain_shown(const char *raw, char *shown, size_t room)
{
    struct slate_text text;

    slate_text_start(&text, shown, room);
    slate_text_shown(&text, raw);
    return shown;
}

static bool is_bare(const char *raw)
{
    static const char bare[] = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTU"
                               "VWXYZ0123456789_./:@%+=,-";

    return raw[0] != '\0' && raw[strspn(raw, bare)] == '\0';
}

/* Nothing in it has to be written as \\xHH. */
static bool is_shown(const char *raw)
{
    char shown[8192];

    return strlen(raw) < sizeof shown &&
           strcmp(plain_shown(raw, shown, sizeof shown), raw) == 0;
}

static void add_single(struct slate_text *text, const char *raw)
{
    slate_text_add(text, "'");
    for (; *raw != '\0'; raw++) {
        char one[2] = {*raw, '\0'};

        slate_text_add(text, *raw == '\'' ? "'\\''" : one);
    }
    slate_text_add(text, "'");
}

/* $'...', which bash, zsh and ksh know; every byte that is not plain ASCII. */
static void add_dollar(struct slate_text *text, const char *raw)
{
    slate_text_add(text, "$'");
    for (; *raw != '\0'; raw++) {
        unsigned char byte = (unsigned char)*raw;
        char one[3] = {'\\', *raw, '\0'};

        if (byte < 0x20 || byte > 0x7E) {
            slate_text_add(text, "\\x");
            slate_text_hex(text, byte, 2);
        } else {
            slate_text_add(text, *raw == '\'' || *raw == '\\' ? one : one + 1);
        }
    }
    slate_text_add(text, "'");
}

const char *plain_quoted(const char *raw, char *quoted, size_t room)
{
    struct slate_text text;

    slate_text_start(&text, quoted, room);
    if (is_bare(raw))
        slate_text_add(&text, raw);
    else if (is_shown(raw))
        add_single(&text, raw);
    else
        add_dollar(&text, raw);
    if (text.used + 1 == room) /* cut: rather nothing than half a word */
        quoted[0] = '\0';
    return quoted;
}

const char *plain_word(const char *raw)
{
    static _Thread_local char words[4][17000];
    static _Thread_local unsigned next;
    char *word = words[next++ % 4];

    return plain_quoted(raw, word, sizeof words[0]);
}
