/* SPDX-License-Identifier: MIT */
/* The checksums of tickets: a page ends with that of all ahead of it, the JSON
 * holds that of itself without it. Whoever changes a ticket can make a new sum:
 * so the sum stands in the ticket system as well, or it proves nothing. */
#include "ticket/ticket.h"

#define ENDING_BEGINS "<!-- SHA-256 of all ahead of this line: "
#define ENDING_ENDS " -->\n"
#define SUM_DIGITS 64u
#define ENDING_LENGTH                                                          \
    (sizeof ENDING_BEGINS - 1 + SUM_DIGITS + sizeof ENDING_ENDS - 1)
#define SUM_MEMBER "sha256"
#define FILE_MOST 67108864L

static void sum_of(const char *text, size_t length, char sum[SUM_DIGITS + 1])
{
    uint8_t digest[SLATE_DIGEST_BYTES];
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, text, length);
    slate_sha256_end(&sha, digest);
    for (size_t i = 0; i < sizeof digest; i++)
        sprintf(sum + 2 * i, "%02x", digest[i]);
}

char *ticket_seal_page(const char *page)
{
    size_t length = strlen(page);
    char sum[SUM_DIGITS + 1], *sealed = malloc(length + ENDING_LENGTH + 1);

    if (sealed == NULL)
        return NULL;
    sum_of(page, length, sum);
    sprintf(sealed, "%s%s%s%s", page, ENDING_BEGINS, sum, ENDING_ENDS);
    return sealed;
}

/* In one form, whatever the order and the blanks of the file. */
static bool sum_of_json(json_t *ticket, char sum[SUM_DIGITS + 1])
{
    json_t *bare = json_copy(ticket);
    char *text;

    if (bare == NULL)
        return false;
    json_object_del(bare, SUM_MEMBER);
    text = json_dumps(bare, JSON_COMPACT | JSON_SORT_KEYS);
    json_decref(bare);
    if (text == NULL)
        return false;
    sum_of(text, strlen(text), sum);
    free(text);
    return true;
}

json_t *ticket_seal_json(json_t *ticket)
{
    char sum[SUM_DIGITS + 1];

    if (sum_of_json(ticket, sum))
        json_object_set_new(ticket, SUM_MEMBER, report_made(json_string(sum)));
    return ticket;
}

static enum ticket_state check_json(const char *text)
{
    json_t *ticket = json_loads(text, JSON_REJECT_DUPLICATES, NULL);
    const char *shape = json_string_value(json_object_get(ticket, "shape"));
    const char *told = json_string_value(json_object_get(ticket, SUM_MEMBER));
    char sum[SUM_DIGITS + 1];
    enum ticket_state state = TICKET_NONE;

    if (shape != NULL && strcmp(shape, TICKET_SHAPE) == 0)
        state =
            told != NULL && sum_of_json(ticket, sum) && strcmp(told, sum) == 0
                ? TICKET_AS_WRITTEN
                : TICKET_CHANGED;
    json_decref(ticket);
    return state;
}

/* A page that was cut, or to which something was added, has no such end. */
static enum ticket_state check_page(const char *text, size_t length)
{
    char sum[SUM_DIGITS + 1], ending[ENDING_LENGTH + 1];

    if (strstr(text, "<title>" TICKET_SHAPE) == NULL)
        return TICKET_NONE;
    if (length < ENDING_LENGTH)
        return TICKET_CHANGED;
    sum_of(text, length - ENDING_LENGTH, sum);
    snprintf(ending, sizeof ending, "%s%s%s", ENDING_BEGINS, sum, ENDING_ENDS);
    return memcmp(text + length - ENDING_LENGTH, ending, ENDING_LENGTH) == 0
               ? TICKET_AS_WRITTEN
               : TICKET_CHANGED;
}

enum ticket_state ticket_check(const char *path, struct given *given)
{
    enum ticket_state state;

    if (!given_read(path, GIVEN_BYTES, FILE_MOST, given))
        return TICKET_UNREADABLE;
    state = given->bytes[0] == '<' ? check_page(given->bytes, given->length)
                                   : check_json(given->bytes);
    if (state == TICKET_NONE && strstr(given->bytes, TICKET_SHAPE) != NULL)
        state = TICKET_CHANGED; /* it was one */
    given_free(given);
    return state;
}
