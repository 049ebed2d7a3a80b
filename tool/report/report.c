/* SPDX-License-Identifier: MIT */
/* Reports for programs: the JSON shapes of docs/json/. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/random.h>

#include "view/map.h"
#include "plain.h"
#include "overwriting.h"
#include "report/report.h"
#include "say.h"
#include "view/view.h"

/* jansson answers NULL for want of memory, and for text that is not UTF-8. */
json_t *report_made(json_t *value)
{
    if (value == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "the report cannot be made: a name in "
                                      "it is not UTF-8, or memory is short"));
    return value;
}

json_t *report_guards(uint32_t guards)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < SLATE_GUARD_KINDS; i++) {
        if ((guards & SLATE_GUARD_BIT(i)) != 0)
            json_array_append_new(
                list, report_made(json_string(
                          slate_guard_name((enum slate_guard_kind)i))));
    }
    return list;
}

json_t *report_hex(const uint8_t *bytes, size_t length)
{
    char hex[2 * SLATE_DIGEST_BYTES + 1];
    struct slate_text text;

    slate_text_start(&text, hex, sizeof hex);
    slate_text_bytes(&text, bytes, length);
    return report_made(json_string(hex));
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

json_t *report_users(const struct target *target)
{
    json_t *list = report_made(json_array());
    const char *at = target->users;

    while (*at != '\0') {
        size_t length = strcspn(at, "\n");
        char line[SLATE_LINUX_USERS_ROOM];

        snprintf(line, sizeof line, "%.*s", (int)length, at);
        json_array_append_new(list, report_shown(line));
        at += length + (at[length] == '\n' ? 1 : 0);
    }
    return list;
}

json_t *report_device(const struct target *target)
{
    const struct slate_media *media = &target->media;
    uint64_t bytes = slate_geometry_bytes(&media->geometry);

    return report_made(json_pack(
        "{s:o, s:s, s:s, s:s, s:s, s:s, s:o, s:o, s:I, s:i, s:b, s:b}",
        "address", report_shown(target->address), "tag", media->tag,
        "transport", transport_words(media->identity.transport), "maker",
        media->identity.maker, "model", media->identity.model, "serial",
        target->is_file ? "" : media->identity.serial, "bytes",
        report_bytes(bytes), "nominal_bytes",
        report_bytes(slate_size_nominal(bytes)), "blocks",
        (json_int_t)media->geometry.block_count, "block_bytes",
        (int)media->geometry.block_bytes, "removable", media->removable,
        "write_protected", media->read_only));
}

static json_t *report_map(const struct map *map)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];

        json_array_append_new(
            list, report_made(json_pack("{s:I, s:I, s:i, s:s}", "first",
                                        (json_int_t)stretch->first, "blocks",
                                        (json_int_t)stretch->count, "partition",
                                        (int)stretch->number, "content",
                                        stretch->words)));
    }
    return list;
}

json_t *report_before(const struct slate_facts *facts)
{
    struct map map;
    json_t *list;

    map_of_facts(facts, &map);
    list = report_map(&map);
    map_forget(&map);
    return list;
}

json_t *report_after(const struct slate_draft *draft,
                     const struct slate_facts *facts)
{
    struct map map;
    json_t *list;

    map_of_draft(draft, facts, &map);
    list = report_map(&map);
    map_forget(&map);
    return list;
}

json_t *report_remarks(const struct slate_draft *draft)
{
    json_t *remarks = report_made(json_array());
    struct slate_text text;
    char words[512];

    slate_text_start(&text, words, sizeof words);
    for (uint32_t i = 0; slate_draft_remark(draft, i, &text); i++) {
        json_array_append_new(remarks, report_made(json_string(words)));
        slate_text_start(&text, words, sizeof words);
    }
    return remarks;
}

const char *report_format(enum slate_volume_kind kind)
{
    const struct slate_format *format = slate_format_of(kind);

    return format == NULL ? "fit" : format->composer.name;
}

json_t *report_enact(const struct slate_draft *draft,
                     const struct slate_enact *enact, const char *journal)
{
    return report_made(json_pack(
        "{s:s, s:s, s:o, s:o, s:b, s:I, s:I, s:I, s:I, s:o, s:o*}", "shape",
        "trueslate.enact/2", "tag", draft->basis.tag, "seal",
        report_hex(draft->seal, SLATE_DIGEST_BYTES), "lifted",
        report_guards(enact->lifted), "resumed", enact->resumed, "blocks",
        (json_int_t)enact->pass.total, "blocks_written",
        (json_int_t)enact->written, "blocks_cleared",
        (json_int_t)enact->cleared, "blocks_equal", (json_int_t)enact->equal,
        "journal", journal[0] == '\0' ? json_null() : report_shown(journal),
        "overwritten",
        overwriting_report(&draft->goal.overwrite, draft, enact, NULL)));
}

json_t *report_prove(const struct slate_draft *draft,
                     const struct slate_prove *prove)
{
    json_t *report = report_made(json_pack(
        "{s:s, s:s, s:o, s:b, s:I, s:I, s:o*}", "shape", "trueslate.prove/1",
        "tag", draft->basis.tag, "seal",
        report_hex(draft->seal, SLATE_DIGEST_BYTES), "proved",
        prove->different + prove->unreadable + prove->altered == 0,
        "blocks_compared", (json_int_t)prove->pass.done, "blocks_different",
        (json_int_t)prove->different, "overwritten",
        overwriting_report(&draft->goal.overwrite, draft, NULL, prove)));

    if (prove->different > 0)
        json_object_set_new(
            report, "first_different",
            report_made(json_integer((json_int_t)prove->first_different)));
    return report;
}

json_t *report_ranges(const struct slate_ranges *ranges)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < ranges->count; i++)
        json_array_append_new(
            list, report_made(json_pack(
                      "{s:I, s:I}", "first", (json_int_t)ranges->range[i].first,
                      "blocks", (json_int_t)ranges->range[i].count)));
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
