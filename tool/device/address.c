/* SPDX-License-Identifier: MIT */
/* What a person types to name a device, understood as it stands. */
#include "device/device.h"

#include <ctype.h>
#include <sys/stat.h>

#define LETTERS 5u

size_t address_tag(const char *word, char tag[SLATE_TAG_ROOM])
{
    size_t at = LETTERS;

    for (size_t i = 0; i < LETTERS; i++) {
        if (!isalpha((unsigned char)word[i]))
            return 0; /* also at the end of the word */
        tag[i] = (char)toupper((unsigned char)word[i]);
    }
    at += word[at] == '-' ? 1 : 0;
    if (!isdigit((unsigned char)word[at]) ||
        !isdigit((unsigned char)word[at + 1]))
        return 0;
    tag[LETTERS] = '-';
    tag[LETTERS + 1] = word[at];
    tag[LETTERS + 2] = word[at + 1];
    tag[LETTERS + 3] = '\0';
    return at + 2;
}

bool address_same(const char *a, const char *b)
{
    while (*a != '\0' &&
           toupper((unsigned char)*a) == toupper((unsigned char)*b)) {
        a++;
        b++;
    }
    return *a == *b;
}

static bool has_kind(const char *word)
{
    return strncmp(word, "sim:", 4) == 0 || strncmp(word, "file:", 5) == 0 ||
           strncmp(word, "dev:", 4) == 0;
}

bool address_of(const char *word, char *address, size_t room)
{
    struct stat about;
    const char *kind = "";
    int length;

    if (strncmp(word, "/dev/", 5) == 0)
        kind = "dev:";
    else if (!has_kind(word) &&
             (strchr(word, '/') != NULL ||
              (stat(word, &about) == 0 && S_ISREG(about.st_mode))))
        kind = "file:";
    else if (!has_kind(word))
        return false;
    length = snprintf(address, room, "%s%s", kind, word);
    return length > 0 && (size_t)length < room;
}
