/* SPDX-License-Identifier: MIT */
/* Bad blocks: typed, or listed in a file. */
#include "draft/draft.h"

#include <errno.h>

#include "device/device.h"

#define LIST_MOST 16777216u /* bytes */
#define EXPECTED "block numbers and ranges of them, as 812,900-911"

/* A number, or a range of them; moves on behind it. */
static bool take_range(const char **word, uint64_t *first, uint64_t *last)
{
    char *end;

    errno = 0;
    if (**word < '0' || **word > '9')
        return false;
    *first = *last = strtoull(*word, &end, 10);
    if (*end == '-') {
        *word = end + 1;
        if (**word < '0' || **word > '9')
            return false;
        *last = strtoull(*word, &end, 10);
    }
    *word = end;
    return errno == 0 && *last >= *first && *last < INT64_MAX;
}

/* Takes one run of blocks. */
typedef enum slate_status (*take_run)(void *context, uint64_t first,
                                      uint64_t count);

static enum slate_status take_none(void *context, uint64_t first,
                                   uint64_t count)
{
    (void)context;
    (void)first;
    (void)count;
    return SLATE_OK;
}

static enum slate_status take_into_draft(void *context, uint64_t first,
                                         uint64_t count)
{
    return slate_draft_bad(context, first, count);
}

/* Commas and white space stand between them. */
static enum slate_status take_list(const char *word, take_run take,
                                   void *context)
{
    static const char between[] = ", \t\r\n";
    enum slate_status status = SLATE_OK;
    uint64_t first, last;

    word += strspn(word, between);
    while (*word != '\0' && *word != '#' && status == SLATE_OK) {
        if (!take_range(&word, &first, &last) ||
            (*word != '\0' && strchr(between, *word) == NULL))
            return SLATE_ERR_ARGUMENT;
        status = take(context, first, last - first + 1);
        word += strspn(word, between);
    }
    return status;
}

bool bad_is_list(const char *word)
{
    return word[0] != '\0' && take_list(word, take_none, NULL) == SLATE_OK;
}

/* As they were typed. */
static enum slate_status take_range_of(void *context, uint64_t first,
                                       uint64_t count)
{
    struct slate_ranges *ranges = context;

    if (ranges->count == ranges->room)
        return SLATE_ERR_ROOM;
    ranges->range[ranges->count++] = (struct slate_range){first, count};
    return SLATE_OK;
}

bool bad_ranges(const char *word, struct slate_ranges *ranges)
{
    return take_list(word, take_range_of, ranges) == SLATE_OK;
}

static int explain(enum slate_status status)
{
    return fail(status, "more ranges of bad blocks than one draft holds; "
                        "expected at most 16384");
}

static int take_file(const char *path, struct slate_draft *draft)
{
    struct given given;
    enum slate_status status = SLATE_OK;
    unsigned at = 0;
    char *line, *next;

    if (!given_read(path, GIVEN_TEXT, LIST_MOST, &given))
        return given_fail(&given, "--bad-list", path);
    next = given.bytes;
    while (status == SLATE_OK && (line = given_line(&next)) != NULL) {
        at++;
        status = take_list(line, take_into_draft, draft);
    }
    given_free(&given);
    if (status == SLATE_ERR_ARGUMENT)
        return fail(status, "%s, line %u: expected " EXPECTED, plain_word(path),
                    at);
    return status == SLATE_OK ? 0 : explain(status);
}

int bad_take(const struct options *options, const struct slate_draft *former,
             struct slate_draft *draft)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; former != NULL && i < former->bad.count; i++) {
        status = slate_draft_bad(draft, former->bad.range[i].first,
                                 former->bad.range[i].count);
        if (status != SLATE_OK)
            return explain(status);
    }
    if (options->bad != NULL)
        status = take_list(options->bad, take_into_draft, draft);
    if (status != SLATE_OK)
        return explain(status);
    return options->bad_list == NULL ? 0 : take_file(options->bad_list, draft);
}

void bad_words(const struct slate_ranges *bad, const char *between,
               uint32_t most, char *words, size_t room)
{
    struct slate_text text;

    slate_text_start(&text, words, room);
    for (uint32_t i = 0; i < bad->count && i < most; i++) {
        const struct slate_range *range = &bad->range[i];

        slate_text_add(&text, i == 0 ? "" : between);
        slate_text_number(&text, range->first);
        if (range->count > 1) {
            slate_text_add(&text, "-");
            slate_text_number(&text, range->first + range->count - 1);
        }
    }
    if (bad->count <= most)
        return;
    slate_text_add(&text, " and ");
    slate_text_number(&text, bad->count - most);
    slate_text_add(&text,
                   bad->count - most == 1 ? " range more" : " ranges more");
}

#define LIST_HEAD "# Blocks of "

static bool is_list(const char *path)
{
    struct given given;
    bool ours = given_read(path, GIVEN_TEXT, LIST_MOST, &given) &&
                strncmp(given.bytes, LIST_HEAD, strlen(LIST_HEAD)) == 0;

    given_free(&given);
    return ours;
}

int bad_may_write(const struct options *options, const struct target *target)
{
    const char *path = options->failed_list;

    return path == NULL ? 0
                        : durable_may_write(path, target, is_list(path), "list",
                                            options->replace);
}

int bad_write(const char *path, const struct target *target,
              const struct slate_ranges *bad)
{
    size_t room = 200 + 44 * (size_t)bad->count;
    char *all = malloc(room);
    struct slate_text text;
    bool ok = all != NULL;

    if (ok) {
        slate_text_start(&text, all, room);
        slate_text_add(&text, LIST_HEAD);
        slate_text_add(&text, target->media.tag);
        slate_text_add(&text, " that failed; --bad-list takes this file.\n");
        for (uint32_t i = 0; i < bad->count; i++) {
            const struct slate_ranges one = {&bad->range[i], 1, 1};
            char words[48];

            bad_words(&one, "", 1, words, sizeof words);
            slate_text_add(&text, words);
            slate_text_add(&text, "\n");
        }
        ok = durable_write(path, all, strlen(all));
    }
    free(all);
    return ok ? 0
              : fail(SLATE_ERR_ACCESS,
                     "%s: the list of failed blocks cannot be written: %s",
                     plain_word(path), strerror(errno));
}

uint64_t bad_blocks(const struct slate_ranges *ranges)
{
    uint64_t blocks = 0;

    for (uint32_t i = 0; i < ranges->count; i++)
        blocks += ranges->range[i].count;
    return blocks;
}
