/* SPDX-License-Identifier: MIT */
/* How wide text is on a screen. */
#include "term/term.h"

#include <locale.h>
#include <wchar.h>

static locale_t utf8;

static void make_locale(void)
{
    utf8 = newlocale(LC_CTYPE_MASK, "C.UTF-8", (locale_t)0);
}

/* The next letter: how many bytes it has, and how many columns it takes.
 * Whatever the locale is, text is UTF-8 here. */
static size_t letter(const char *at, size_t bytes, int *columns)
{
    static pthread_once_t once = PTHREAD_ONCE_INIT;
    locale_t before;
    mbstate_t state = {0};
    wchar_t wide;
    size_t length;

    pthread_once(&once, make_locale);
    before = uselocale(utf8); /* where there is none, that of the program */
    length = mbrtowc(&wide, at, bytes, &state);
    if (length == 0 || length > bytes) { /* no letter: a byte is shown */
        length = 1;
        *columns = 1;
    } else {
        *columns = wcwidth(wide) < 0 ? 0 : wcwidth(wide);
    }
    (void)uselocale(before);
    return length;
}

int columns_of(const char *words, size_t bytes)
{
    int all = 0, columns;

    for (size_t at = 0; at < bytes; all += columns)
        at += letter(words + at, bytes - at, &columns);
    return all;
}

size_t columns_fit(const char *words, int columns)
{
    size_t at = 0, bytes = strlen(words);

    while (at < bytes) {
        int taken;
        size_t length = letter(words + at, bytes - at, &taken);

        if (taken > columns)
            break;
        columns -= taken;
        at += length;
    }
    return at;
}

void print_padded(const char *words, int columns)
{
    int taken = columns_of(words, strlen(words));

    printf("%s%*s", words, taken < columns ? columns - taken : 0, "");
}
