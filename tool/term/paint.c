/* SPDX-License-Identifier: MIT */
/* Colours and fill characters. Blue, orange and grey are told apart by every
 * kind of colour vision, and each fill has a shape of its own as well. */
#include <langinfo.h>
#include <locale.h>
#include <stdarg.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "term/term.h"

#define COLUMNS 80
#define COLUMNS_LEAST 60
#define COLUMNS_MOST 160
#define LABEL_COLUMNS 13

static bool has_colour, has_unicode;
static int columns = COLUMNS;

/* Of the terminal; where the output goes elsewhere, what a page takes. */
static int measure(bool screen)
{
    struct winsize size = {0};

    if (!screen || ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) != 0 ||
        size.ws_col == 0)
        return COLUMNS;
    return size.ws_col < COLUMNS_LEAST  ? COLUMNS_LEAST
           : size.ws_col > COLUMNS_MOST ? COLUMNS_MOST
                                        : size.ws_col;
}

int paint_columns(void)
{
    return columns;
}

void paint_begin(void)
{
    const char *no_colour = getenv("NO_COLOR");
    const char *terminal = getenv("TERM");
    bool screen = isatty(STDOUT_FILENO) == 1;

    columns = measure(screen);
    setlocale(LC_CTYPE, "");
    has_unicode = screen && strcmp(nl_langinfo(CODESET), "UTF-8") == 0;
    has_colour = screen && (no_colour == NULL || no_colour[0] == '\0') &&
                 terminal != NULL && strcmp(terminal, "dumb") != 0;
}

static const char *code_of(enum paint paint)
{
    static const char *const codes[] = {[PAINT_PLAIN] = "",
                                        [PAINT_STRONG] = "\033[1m",
                                        [PAINT_FAINT] = "\033[38;5;245m",
                                        [PAINT_VOLUME] = "\033[38;5;39m",
                                        [PAINT_UNKNOWN] = "\033[38;5;183m",
                                        [PAINT_FREE] = "\033[38;5;214m",
                                        [PAINT_GOOD] = "\033[38;5;39m",
                                        [PAINT_BAD] = "\033[38;5;214m"};

    return codes[paint];
}

void painted(enum paint paint, const char *format, ...)
{
    va_list arguments;

    va_start(arguments, format);
    if (has_colour)
        fputs(code_of(paint), stdout);
    vprintf(format, arguments);
    if (has_colour && paint != PAINT_PLAIN)
        fputs("\033[0m", stdout);
    va_end(arguments);
}

const char *paint_edge(void)
{
    return has_unicode ? "\u2590" : ":";
}

const char *paint_fill(enum paint paint)
{
    switch (paint) {
    case PAINT_VOLUME:
        return has_unicode ? "\u2588" : "#";
    case PAINT_UNKNOWN:
        return has_unicode ? "\u2592" : "%";
    default:
        return has_unicode ? "\u2591" : "-";
    }
}

const char *paint_frame(void)
{
    return has_unicode ? "\u2502" : "|";
}

/* The length of a word; a unit stays with its number. */
static size_t word_length(const char *words)
{
    size_t length = strcspn(words, " ");
    const char *next = words + length + 1;

    if (words[length] != '\0' && *next != '\0' &&
        strchr("kKMGTPE", *next) != NULL &&
        (next[1] == 'B' || strncmp(next + 1, "iB", 2) == 0))
        length += 1 + strcspn(next, " ");
    return length;
}

void print_line(const char *label, enum paint paint, const char *format, ...)
{
    char raw[8192], shown[8192];
    const char *words;
    int column = LABEL_COLUMNS;
    bool first = true;
    va_list arguments;

    va_start(arguments, format);
    vsnprintf(raw, sizeof raw, format, arguments);
    va_end(arguments);
    words = plain_shown(raw, shown, sizeof shown);
    painted(paint, "  %-*s", LABEL_COLUMNS - 2, label);
    while (*words != '\0') {
        size_t bytes = word_length(words);
        int length = columns_of(words, bytes);

        if (!first && column + 1 + length > columns - 1) {
            printf("\n%*s", LABEL_COLUMNS, "");
            column = LABEL_COLUMNS;
            first = true;
        }
        printf("%s%.*s", first ? "" : " ", (int)bytes, words);
        column += length + (first ? 0 : 1);
        first = false;
        words += bytes;
        words += strspn(words, " ");
    }
    putchar('\n');
}
