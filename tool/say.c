/* SPDX-License-Identifier: MIT */
/* Errors for people: one line on stderr, and the exit code that goes with it.
 */
#include <stdarg.h>
#include <stdio.h>

#include "plain.h"
#include "say.h"

int exit_code(enum slate_status status)
{
    return (int)slate_status_class(status);
}

int fail(enum slate_status status, const char *format, ...)
{
    static char said[20000], shown[40000];
    va_list arguments;

    va_start(arguments, format);
    vsnprintf(said, sizeof said, format, arguments);
    va_end(arguments);
    fflush(stdout);
    fprintf(stderr, "trueslate: %s\n", plain_shown(said, shown, sizeof shown));
    return exit_code(status);
}

int fail_plainly(enum slate_status status, const char *subject)
{
    return fail(status, "%s: %s", subject, slate_status_sentence(status));
}

int fail_with_fault(enum slate_status status, const struct slate_media *media,
                    const char *subject)
{
    char words[256];
    struct slate_text text;

    if (media->fault.status != status)
        return fail_plainly(status, subject);
    slate_text_start(&text, words, sizeof words);
    slate_fault_words(&media->fault, &text);
    return fail(status, "%s: %s", subject, words);
}
