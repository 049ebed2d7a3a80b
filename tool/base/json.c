/* SPDX-License-Identifier: MIT */
/* JSON as programs get it: made, printed exactly, and told when there is none.
 */
#include "base/base.h"

#include <sys/random.h>

/* jansson answers NULL for want of memory, and for text that is not UTF-8. */
json_t *report_made(json_t *value)
{
    if (value == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "the report cannot be made: a name in it "
                                      "is not UTF-8, or memory is short"));
    return value;
}

json_t *report_hex(const uint8_t *bytes, size_t length)
{
    char *hex = malloc(2 * length + 1);
    struct slate_text text;
    json_t *value = NULL;

    if (hex != NULL) {
        slate_text_start(&text, hex, 2 * length + 1);
        slate_text_bytes(&text, bytes, length);
        value = json_string(hex);
    }
    free(hex);
    return report_made(value);
}

/* What stands for a number beyond 2^63 - 1, which jansson does not know, until
 * it is printed; nobody outside can guess it. */
static const char *large_mark(void)
{
    static char mark[32];
    uint64_t chance = 0;

    if (mark[0] == '\0') {
        if (getrandom(&chance, sizeof chance, 0) != (ssize_t)sizeof chance)
            exit(fail(SLATE_ERR_INTERNAL, "the host gives no random bytes"));
        snprintf(mark, sizeof mark, "large-%016llx-",
                 (unsigned long long)chance);
    }
    return mark;
}

json_t *report_bytes(uint64_t bytes)
{
    char number[64];

    if (bytes <= INT64_MAX)
        return report_made(json_integer((json_int_t)bytes));
    snprintf(number, sizeof number, "%s%llu", large_mark(),
             (unsigned long long)bytes);
    return report_made(json_string(number));
}

/* Prints with the large numbers as numbers: exact, whoever reads them. */
static bool print_exactly(const char *text)
{
    const char *mark = large_mark(), *at;

    while ((at = strstr(text, mark)) != NULL) {
        size_t digits = strspn(at + strlen(mark), "0123456789");

        /* without the quotation marks around it */
        fwrite(text, 1, (size_t)(at - 1 - text), stdout);
        fwrite(at + strlen(mark), 1, digits, stdout);
        text = at + strlen(mark) + digits + 1;
    }
    return puts(text) >= 0 && fflush(stdout) == 0;
}

json_t *report_shown(const char *raw)
{
    char shown[40000];

    return report_made(json_string(plain_shown(raw, shown, sizeof shown)));
}

json_t *report_ranges(const struct slate_ranges *ranges)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < ranges->count; i++)
        json_array_append_new(
            list, report_pack("{s:I, s:I}", "first",
                              (json_int_t)ranges->range[i].first, "blocks",
                              (json_int_t)ranges->range[i].count));
    return list;
}

static bool printed; /* a report was, whole */

int report_print(json_t *report)
{
    char *text = json_dumps(report, JSON_INDENT(2) | JSON_ENSURE_ASCII);
    bool ok = text != NULL && print_exactly(text);

    printed = printed || ok;
    json_decref(report);
    free(text);
    return ok ? 0 : fail(SLATE_ERR_INTERNAL, "the report could not be written");
}

/* At the end of the program. */
static void tell_failure(int code, void *nothing)
{
    const char *said = say_last();
    json_t *report;

    (void)nothing;
    if (code == 0 || printed)
        return;
    report = json_pack(
        "{s:s, s:i, s:s}", "shape", "trueslate.error/1", "exit_code", code,
        "error",
        said[0] == '\0' ? "the words of the command make no sense" : said);
    (void)report_print(report);
}

void report_failures(void)
{
    on_exit(tell_failure, NULL);
}
