/* SPDX-License-Identifier: MIT */
/* A ticket as one page of HTML that needs nothing else: made of its JSON alone,
 * fit to be read on a screen and printed on one or two pages. */

#include <stdarg.h>

#include "ticket/ticket.h"

#define RANGES_MOST 60u

static const char style[] =
    "body{font:14px/1.45 'DejaVu "
    "Sans',Verdana,sans-serif;color:#1d2733;max-width:60em;margin:1.5em "
    "auto;padding:0 1em}h1{font-size:22px;margin:0 0 "
    ".2em}h2{font-size:17px;margin:0 0 "
    ".4em}.lead,.foot{color:#50606f;margin:.2em 0 1em}section{border:1px solid "
    "#c3ccd5;border-radius:6px;padding:1em 1.2em;margin:1em "
    "0}table{border-collapse:collapse;width:100%}th{text-align:left;vertical-"
    "align:top;width:9em;font-weight:600;padding:.25em .8em .25em "
    "0}td{padding:.25em "
    "0;vertical-align:top;overflow-wrap:anywhere}tr+tr{border-top:1px solid "
    "#e6ebef}.good,.bad{display:inline-block;font-weight:700;padding:.1em "
    ".6em;border-radius:4px;margin-right:.6em}.good{border:2px solid "
    "#14663a;color:#14663a}.bad{border:2px dashed "
    "#9c1c1c;color:#9c1c1c}img{width:100%;height:auto;margin-top:.6em}code{"
    "font:12px 'DejaVu Sans "
    "Mono',monospace}ul{margin:0;padding-left:1.1em}@page{size:A4;margin:14mm}@"
    "media "
    "print{body{font-size:11px;margin:0;max-width:none;padding:0}section{break-"
    "inside:avoid;margin:.6em 0;padding:.6em "
    ".8em}h1{font-size:17px}h2{font-size:14px}img{max-height:46mm;width:auto;"
    "max-width:100%}}";

static void put(FILE *page, const char *text)
{
    for (; *text != '\0'; text++) {
        switch (*text) {
        case '&':
            fputs("&amp;", page);
            break;
        case '<':
            fputs("&lt;", page);
            break;
        case '>':
            fputs("&gt;", page);
            break;
        case '"':
            fputs("&quot;", page);
            break;
        default:
            fputc(*text, page);
        }
    }
}

static const char *text_of(const json_t *object, const char *key)
{
    const char *text = json_string_value(json_object_get(object, key));

    return text == NULL ? "" : text;
}

static unsigned long long number_of(const json_t *object, const char *key)
{
    json_int_t number = json_integer_value(json_object_get(object, key));

    return number < 0 ? 0 : (unsigned long long)number;
}

static void begin_row(FILE *page, const char *label)
{
    fputs("<tr><th scope=\"row\">", page);
    put(page, label);
    fputs("</th><td>", page);
}

static void end_row(FILE *page)
{
    fputs("</td></tr>\n", page);
}

/* Nothing where there is nothing to say. */
LIKE_PRINTF(3, 4)
static void row(FILE *page, const char *label, const char *format, ...)
{
    char words[2000];
    va_list arguments;

    va_start(arguments, format);
    vsnprintf(words, sizeof words, format, arguments);
    va_end(arguments);
    if (words[0] == '\0')
        return;
    begin_row(page, label);
    put(page, words);
    end_row(page);
}

static void device_row(FILE *page, const json_t *device)
{
    row(page, "Device",
        "%.60s %.60s, %.30s, serial %.60s, %s, %llu blocks of %llu bytes",
        text_of(device, "maker"), text_of(device, "model"),
        text_of(device, "transport"),
        text_of(device, "serial")[0] == '\0' ? "none"
                                             : text_of(device, "serial"),
        in_both(number_of(device, "bytes")).words, number_of(device, "blocks"),
        number_of(device, "block_bytes"));
}

/* Those that say something; a healthy device has one that says so. */
static void findings_row(FILE *page, const char *label, const json_t *findings)
{
    const json_t *one;
    size_t i;

    if (json_array_size(findings) == 0)
        return;
    begin_row(page, label);
    fputs("<ul>", page);
    json_array_foreach (findings, i, one) {
        if (json_is_true(json_object_get(one, "consequence")))
            continue;
        fputs("<li>", page);
        put(page, text_of(one, "text"));
        fputs("</li>", page);
    }
    fputs("</ul>", page);
    end_row(page);
}

static void lost_row(FILE *page, const json_t *lost)
{
    const json_t *one;
    size_t i;

    if (json_array_size(lost) == 0)
        return;
    begin_row(page, "Agreed to lose");
    fputs("<ul>", page);
    json_array_foreach (lost, i, one) {
        fputs("<li>", page);
        put(page, json_string_value(one));
        fputs("</li>", page);
    }
    fputs("</ul>", page);
    end_row(page);
}

static void written_row(FILE *page, const json_t *enact)
{
    if (enact == NULL)
        return;
    row(page, "Written",
        "%llu blocks written, %llu cleared by the device's own command, "
        "%llu were so already",
        number_of(enact, "blocks_written"), number_of(enact, "blocks_cleared"),
        number_of(enact, "blocks_equal"));
}

/* What failed while it was overwritten was not compared. */
static void proved_row(FILE *page, const json_t *prove, const json_t *over)
{
    bool failed = number_of(over, "failed_blocks") > 0;
    if (prove == NULL)
        return;
    row(page, "Proof",
        "%llu blocks read back and compared with the draft%s: %llu differ",
        number_of(prove, "blocks_compared"),
        failed ? ", but for those that failed" : "",
        number_of(prove, "blocks_different"));
}

static void rounds_row(FILE *page, const json_t *over)
{
    if (over == NULL)
        return;
    row(page, "Overwritten",
        "%llu round%s, %s; %llu block%s failed: %llu could not be "
        "written, %llu not read, %llu hold something else",
        number_of(over, "rounds"), number_of(over, "rounds") == 1 ? "" : "s",
        json_is_true(json_object_get(over, "read_back")) ? "read back"
                                                         : "not read back",
        number_of(over, "failed_blocks"),
        number_of(over, "failed_blocks") == 1 ? "" : "s",
        number_of(over, "unwritable"), number_of(over, "unreadable"),
        number_of(over, "altered"));
}

static void ranges_row(FILE *page, const json_t *ranges)
{
    const json_t *one;
    size_t i;

    if (json_array_size(ranges) == 0)
        return;
    begin_row(page, "Bad blocks");
    json_array_foreach (ranges, i, one) {
        unsigned long long first = number_of(one, "first");
        unsigned long long count = number_of(one, "blocks");

        if (i == RANGES_MOST) {
            fprintf(page, " and %zu more, in the JSON",
                    json_array_size(ranges) - i);
            break;
        }
        fprintf(page, "%s%llu", i == 0 ? "" : ", ", first);
        if (count > 1)
            fprintf(page, " to %llu", first + count - 1);
    }
    end_row(page);
}

/* Scans and probes tell in one sentence what they found. */
static void words_rows(FILE *page, const json_t *report)
{
    const json_t *erased = json_object_get(report, "erased");
    row(page, "Found", "%s", text_of(report, "words"));
    row(page, "Found", "%s", text_of(report, "text"));
    ranges_row(page, json_object_get(report, "bad"));
    if (erased == NULL)
        return;
    row(page, "Erased by", "%s", text_of(erased, "way"));
    row(page, "Erased", "%s", text_of(erased, "text"));
    row(page, "Compared",
        "%llu of %llu places held something, %llu hold the same now; %llu "
        "blocks read, of which %llu differ from the rest",
        number_of(erased, "places_held"), number_of(erased, "places"),
        number_of(erased, "places_kept"), number_of(erased, "blocks_read"),
        number_of(erased, "blocks_other"));
}

static void put_base64(FILE *page, const char *text)
{
    static const char digits[] =
        "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    size_t length = strlen(text);

    for (size_t i = 0; i < length; i += 3) {
        uint32_t bits = (uint32_t)(uint8_t)text[i] << 16;

        if (i + 1 < length)
            bits |= (uint32_t)(uint8_t)text[i + 1] << 8;
        if (i + 2 < length)
            bits |= (uint8_t)text[i + 2];
        fputc(digits[bits >> 18 & 63], page);
        fputc(digits[bits >> 12 & 63], page);
        fputc(i + 1 < length ? digits[bits >> 6 & 63] : '=', page);
        fputc(i + 2 < length ? digits[bits & 63] : '=', page);
    }
}

static void when_row(FILE *page, const json_t *job)
{
    row(page, "When", "%.40s to %.40s, %llu s", text_of(job, "began"),
        text_of(job, "ended"), number_of(job, "seconds"));
}

/* In words, so that nobody needs the colour. */
static const char *badge_of(unsigned long long code)
{
    switch (code) {
    case SLATE_CLASS_OK:
        return "Done";
    case SLATE_CLASS_UNPROVED:
        return "Not to be trusted";
    case SLATE_CLASS_STOPPED:
        return "Stopped";
    default:
        return "Not done";
    }
}

static void put_job(FILE *page, const json_t *job)
{
    const json_t *report = json_object_get(job, "report");
    const json_t *over = json_object_get(report, "overwritten");
    bool done = number_of(job, "exit_code") == 0;
    const char *picture = text_of(job, "picture");

    fputs("<section>\n<h2>", page);
    put(page, text_of(job, "tag"));
    fputs("</h2>\n<p>", page);
    fprintf(page, "<span class=\"%s\">%s</span>", done ? "good" : "bad",
            badge_of(number_of(job, "exit_code")));
    put(page, text_of(job, "outcome"));
    fputs("</p>\n<table>\n", page);
    device_row(page, json_object_get(job, "device"));
    row(page, "Asked for", "%s", text_of(job, "verb"));
    when_row(page, job);
    findings_row(page, "Found before",
                 json_object_get(report, "findings_before"));
    lost_row(page, json_object_get(report, "lost"));
    words_rows(page, report);
    rounds_row(page, over);
    ranges_row(page, json_object_get(over, "failed"));
    written_row(page, json_object_get(report, "enact"));
    proved_row(page, json_object_get(report, "prove"), over);
    findings_row(page, "Found after",
                 json_object_get(report, "findings_after"));
    if (text_of(job, "draft")[0] != '\0') {
        begin_row(page, "Draft");
        fputs("SHA-256 <code>", page);
        put(page, text_of(job, "draft"));
        fputs("</code>", page);
        end_row(page);
    }
    fputs("</table>\n", page);
    if (picture[0] != '\0') {
        fputs("<img alt=\"The device before and after, to scale\" "
              "src=\"data:image/svg+xml;base64,",
              page);
        put_base64(page, picture);
        fputs("\">\n", page);
    }
    fputs("</section>\n", page);
}

static void put_head(FILE *page, const json_t *ticket)
{
    const json_t *job, *jobs = json_object_get(ticket, "jobs");
    size_t i, done = 0, all = json_array_size(jobs);

    json_array_foreach (jobs, i, job) {
        done += number_of(job, "exit_code") == 0 ? 1 : 0;
    }
    fprintf(page,
            "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta "
            "charset=\"utf-8\">\n<meta name=\"viewport\" "
            "content=\"width=device-width\">\n<title>%s</title>\n"
            "<style>%s</style>\n</head>\n<body>\n<h1>What was done to %zu "
            "device%s</h1>\n<p class=\"lead\">",
            text_of(ticket, "shape"), style, all, all == 1 ? "" : "s");
    fprintf(page, "%zu well, %zu not. Written ", done, all - done);
    put(page, text_of(ticket, "made"));
    fputs(" by ", page);
    put(page, text_of(ticket, "by"));
    fputs(". Times are UTC.</p>\n", page);
}

static void put_foot(FILE *page, const json_t *ticket)
{
    fputs("<p class=\"foot\">The same for programs is in the JSON beside this "
          "page; its SHA-256 is <code>",
          page);
    put(page, text_of(ticket, "sha256"));
    fputs("</code>: put it into the ticket. <code>trueslate evidence "
          "FILE</code> tells whether a file is as it was written. Blocks that "
          "a device does not show to its host were not looked at.</p>\n"
          "</body>\n</html>\n",
          page);
}

char *ticket_page(const json_t *ticket)
{
    const json_t *job;
    char *text = NULL;
    size_t length, i;
    FILE *page = open_memstream(&text, &length);

    if (page == NULL)
        return NULL;
    put_head(page, ticket);
    json_array_foreach (json_object_get(ticket, "jobs"), i, job) {
        put_job(page, job);
    }
    put_foot(page, ticket);
    if (fclose(page) == 0)
        return text;
    free(text);
    return NULL;
}
