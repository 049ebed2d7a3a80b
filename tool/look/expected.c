/* SPDX-License-Identifier: MIT */
/* Which devices are meant, of those that come. */
#include "look/look.h"

static bool is_kind(const char *word, enum slate_device_kind *kind)
{
    static const enum slate_device_kind kinds[] = {
        SLATE_DEVICE_STICK, SLATE_DEVICE_CARD, SLATE_DEVICE_DISK};

    for (size_t i = 0; i < sizeof kinds / sizeof kinds[0]; i++) {
        *kind = kinds[i];
        if (strcmp(word, slate_device_name(kinds[i])) == 0)
            return true;
    }
    return false;
}

static bool is_size(const char *word, uint64_t *bytes)
{
    struct slate_ask ask = {.size = 0};

    if (!word_size(word, &ask) || ask.size_kind != SLATE_SIZE_BYTES)
        return false;
    *bytes = ask.size;
    return true;
}

static bool is_word(const char *word)
{
    enum slate_device_kind kind;
    uint64_t bytes;

    return is_kind(word, &kind) || is_size(word, &bytes);
}

bool expected_is_known(const char *list)
{
    return word_list(list, is_word);
}

/* Kinds and sizes that the list has; those of each are alternatives. */
struct expectation {
    bool any_kind, any_size, kind_fits, size_fits;
};

static void weigh(const char *word, const struct target *target,
                  struct expectation *expectation)
{
    enum slate_device_kind kind;
    uint64_t bytes;

    if (is_kind(word, &kind)) {
        expectation->any_kind = true;
        if (kind == slate_device_kind_of(&target->facts))
            expectation->kind_fits = true;
    } else if (is_size(word, &bytes)) {
        expectation->any_size = true;
        if (bytes ==
            slate_size_nominal(slate_geometry_bytes(&target->facts.geometry)))
            expectation->size_fits = true;
    }
}

bool expected_fits(const char *list, const struct target *target, char *why,
                   size_t room)
{
    uint64_t bytes = slate_geometry_bytes(&target->facts.geometry);
    uint64_t nominal = slate_size_nominal(bytes);
    struct expectation is = {false, false, false, false};
    char word[32];

    while (list != NULL && *list != '\0') {
        size_t length = strcspn(list, ",");

        snprintf(word, sizeof word, "%.*s", (int)length, list);
        weigh(word, target, &is);
        list += length + (list[length] == ',' ? 1 : 0);
    }
    if (!is.any_kind) {
        weigh("stick", target, &is);
        weigh("card", target, &is);
    }
    snprintf(why, room, "it is a %s of %s, and not what is expected",
             slate_device_name(slate_device_kind_of(&target->facts)),
             in_decimal(nominal == 0 ? bytes : nominal).words);
    return is.kind_fits && (!is.any_size || is.size_fits);
}
