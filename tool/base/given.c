/* SPDX-License-Identifier: MIT */
/* Files that people give: read to the end, or refused. */
#include "base/base.h"

#include <errno.h>
#include <fcntl.h>
#include <stdarg.h>
#include <sys/stat.h>
#include <unistd.h>

LIKE_PRINTF(3, 4)
static bool refuse(struct given *given, enum slate_status status,
                   const char *format, ...)
{
    va_list arguments;

    va_start(arguments, format);
    vsnprintf(given->why, sizeof given->why, format, arguments);
    va_end(arguments);
    given->status = status;
    return false;
}

int given_open(const char *path, struct given *given)
{
    int descriptor = open(path, O_RDONLY | O_NONBLOCK | O_CLOEXEC);
    struct stat about;

    memset(given, 0, sizeof *given);
    if (descriptor < 0 || fstat(descriptor, &about) != 0) {
        (void)refuse(given, SLATE_ERR_ACCESS, "%s", strerror(errno));
    } else if (!S_ISREG(about.st_mode)) {
        (void)refuse(given, SLATE_ERR_ACCESS, "expected a regular file%s",
                     S_ISDIR(about.st_mode) ? ", and this is a folder" : "");
    } else {
        return descriptor;
    }
    if (descriptor >= 0)
        close(descriptor);
    return -1;
}

/* Up to one byte more than it may have: it may grow while it is read, and some
 * files tell no length. Of what is no text, an image say, not much is read. */
static bool read_all(int descriptor, enum given_kind kind, size_t most,
                     struct given *given)
{
    size_t room = 0;
    ssize_t n = 1;

    while (n > 0) {
        if (given->length == room) {
            room = room < 4096 ? 4096 : 2 * room;
            room = room > most ? most + 1 : room;
            given->bytes = realloc(given->bytes, room + 1);
        }
        if (given->bytes == NULL)
            return refuse(given, SLATE_ERR_INTERNAL, "out of memory");
        do
            n = read(descriptor, given->bytes + given->length,
                     room - given->length);
        while (n < 0 && errno == EINTR);
        if (n < 0)
            return refuse(given, SLATE_ERR_ACCESS, "%s", strerror(errno));
        given->length += (size_t)n;
        if (kind == GIVEN_TEXT && given->length <= 4096 &&
            memchr(given->bytes, '\0', given->length) != NULL)
            break; /* told as any other byte that is no text */
        if (given->length > most)
            return refuse(given, SLATE_ERR_ARGUMENT,
                          "expected no more than %zu bytes", most);
    }
    given->bytes[given->length] = '\0';
    return true;
}

/* The bytes that a letter of UTF-8 has behind its first one; -1: it is none. */
static int bytes_behind(uint8_t first)
{
    if (first < 0x80)
        return first >= 0x20 || (first >= '\t' && first <= '\r') ? 0 : -1;
    return first < 0xC2   ? -1
           : first < 0xE0 ? 1
           : first < 0xF0 ? 2
           : first < 0xF5 ? 3
                          : -1;
}

static bool check_text(struct given *given)
{
    size_t at = 0;

    while (at < given->length) {
        int behind = bytes_behind((uint8_t)given->bytes[at]);

        for (int i = 1; i <= behind; i++) {
            if (((uint8_t)given->bytes[at + (size_t)i] & 0xC0) != 0x80)
                behind = -1;
        }
        if (behind < 0)
            return refuse(given, SLATE_ERR_ARGUMENT,
                          "expected plain text in UTF-8; byte %zu is none%s",
                          at + 1,
                          memchr(given->bytes, '\0', given->length) == NULL
                              ? ""
                              : " (as in UTF-16: save it as plain text)");
        at += (size_t)behind + 1;
    }
    return true;
}

static void drop_mark(struct given *given)
{
    if (given->length < 3 || memcmp(given->bytes, "\xEF\xBB\xBF", 3) != 0)
        return;
    given->length -= 3;
    memmove(given->bytes, given->bytes + 3, given->length + 1);
}

bool given_read(const char *path, enum given_kind kind, size_t most,
                struct given *given)
{
    int descriptor = given_open(path, given);
    bool whole = descriptor >= 0 && read_all(descriptor, kind, most, given);

    if (descriptor >= 0)
        close(descriptor);
    if (whole && kind == GIVEN_TEXT) {
        drop_mark(given);
        whole = check_text(given);
    }
    if (!whole)
        given_free(given);
    return whole;
}

void given_free(struct given *given)
{
    free(given->bytes);
    given->bytes = NULL;
    given->length = 0;
}

int given_fail(const struct given *given, const char *option, const char *path)
{
    return fail(given->status, "%s%s%s: %s", option,
                option[0] == '\0' ? "" : " ", plain_word(path), given->why);
}

char *given_line(char **next)
{
    char *line = *next, *end;

    if (line == NULL || *line == '\0')
        return NULL;
    end = line + strcspn(line, "\n");
    *next = *end == '\0' ? end : end + 1;
    *end = '\0';
    return line;
}
