/* SPDX-License-Identifier: MIT */
/* The words behind options, as values. */
#include "base/base.h"

#include <errno.h>

bool word_use(const char *word, enum slate_use *use)
{
    for (int i = 0; i < SLATE_USE_COUNT; i++) {
        if (strcmp(word, slate_use_name((enum slate_use)i)) == 0) {
            *use = (enum slate_use)i;
            return true;
        }
    }
    return false;
}

/* 1 to 255 heads, 1 to 63 sectors of a track. */
bool word_cylinders(const char *word, struct slate_goal *goal)
{
    unsigned long heads, sectors;
    char *end;

    goal->cylinders = true;
    goal->heads = goal->track_sectors = 0;
    if (strcmp(word, "fit") == 0)
        return true;
    heads = strtoul(word, &end, 10);
    if (end == word || *end != 'x' || heads < 1 || heads > 255)
        return false;
    word = end + 1;
    sectors = strtoul(word, &end, 10);
    if (end == word || *end != '\0' || sectors < 1 || sectors > 63)
        return false;
    goal->heads = (uint16_t)heads;
    goal->track_sectors = (uint16_t)sectors;
    return true;
}

bool word_from(const char *word, enum from *from)
{
    bool second = strcmp(word, "second") == 0;

    *from = second ? FROM_SECOND : FROM_FIRST;
    return second || strcmp(word, "first") == 0;
}

bool word_table(const char *word, struct slate_goal *goal)
{
    for (int i = 0; i <= SLATE_TABLE_GPT; i++) {
        if (strcmp(word, slate_table_name((enum slate_table_kind)i)) == 0) {
            goal->table_given = true;
            goal->table = (enum slate_table_kind)i;
            return true;
        }
    }
    return false;
}

bool word_format(const char *word, enum slate_volume_kind *kind)
{
    const struct slate_format *format;

    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        if (strcmp(format->composer.name, word) == 0) {
            *kind = format->kind;
            return true;
        }
    }
    return false;
}

bool word_number(const char *word, uint32_t *bytes)
{
    char *end;
    unsigned long value;

    errno = 0;
    value = strtoul(word, &end, 10);
    if (word[0] < '0' || word[0] > '9' || errno != 0 || value > 16777216)
        return false;
    if (strcmp(end, "K") == 0 || strcmp(end, "KiB") == 0)
        value *= 1024;
    else if ((strcmp(end, "M") == 0 || strcmp(end, "MiB") == 0) && value < 4096)
        value *= 1048576;
    else if (*end != '\0')
        return false;
    *bytes = (uint32_t)value;
    return true;
}

bool word_number64(const char *word, uint64_t *number)
{
    char *end;

    errno = 0;
    *number = strtoull(word, &end, 10);
    return word[0] >= '0' && word[0] <= '9' && errno == 0 && *end == '\0' &&
           *number < INT64_MAX;
}

bool word_cluster(const char *word, uint32_t *cluster_bytes)
{
    uint32_t bytes;

    if (!word_number(word, &bytes) || bytes < 512 || bytes > 33554432 ||
        (bytes & (bytes - 1)) != 0)
        return false;
    *cluster_bytes = bytes;
    return true;
}

bool word_seed(const char *word, uint8_t seed[16])
{
    static const char digits[] = "0123456789abcdefABCDEF";

    if (strlen(word) != 32 || strspn(word, digits) != 32)
        return false;
    for (size_t i = 0; i < 16; i++) {
        char pair[3] = {word[2 * i], word[2 * i + 1], '\0'};

        seed[i] = (uint8_t)strtoul(pair, NULL, 16);
    }
    return true;
}

bool word_label(const char *word, struct slate_ask *ask)
{
    if (strlen(word) >= sizeof ask->label)
        return false;
    memcpy(ask->label, word, strlen(word) + 1);
    return true;
}

struct unit {
    const char *name;
    uint64_t bytes;
};

/* Written out, so that nobody has to guess which thousand is meant. */
static const struct unit units[] = {
    {"KB", 1000},        {"MB", 1000000},
    {"GB", 1000000000},  {"TB", 1000000000000},
    {"KiB", 1024},       {"MiB", 1048576},
    {"GiB", 1073741824}, {"TiB", (uint64_t)1 << 40}};

/* Digits with at most three behind a point, in thousandths. */
static bool take_thousandths(const char *word, uint64_t *thousandths,
                             const char **end)
{
    uint64_t value = 0, place = 1000;
    bool point = false, any = false;

    for (; *word != '\0'; word++) {
        if (*word == '.' && any && !point) {
            point = true;
            continue;
        }
        if (*word < '0' || *word > '9')
            break;
        if ((point && place == 1) || value > 1000000000)
            return false;
        place /= point ? 10 : 1;
        value = value * 10 + (uint64_t)(*word - '0');
        any = true;
    }
    *thousandths = value * place;
    *end = word;
    return any && word[-1] != '.';
}

bool word_size(const char *word, struct slate_ask *ask)
{
    uint64_t thousandths;

    if (strcmp(word, "rest") == 0) {
        ask->size_kind = SLATE_SIZE_REST;
        return true;
    }
    if (!take_thousandths(word, &thousandths, &word))
        return false;
    if (strcmp(word, "%") == 0) {
        ask->size_kind = SLATE_SIZE_SHARE;
        ask->size = thousandths / 100;
        return thousandths % 100 == 0 && ask->size > 0 && ask->size <= 1000;
    }
    ask->size_kind = SLATE_SIZE_BYTES;
    for (size_t i = 0; i < sizeof units / sizeof units[0]; i++) {
        if (strcmp(word, units[i].name) != 0)
            continue;
        if (thousandths > INT64_MAX / units[i].bytes)
            return false;
        ask->size = thousandths * units[i].bytes / 1000;
        return ask->size > 0;
    }
    return false;
}

bool word_distance(const char *word, uint64_t *bytes)
{
    struct slate_ask ask = {.size = 0};
    uint32_t number;

    if (word_number(word, &number)) {
        *bytes = number;
        return number > 0;
    }
    *bytes = word_size(word, &ask) && ask.size_kind == SLATE_SIZE_BYTES
                 ? ask.size
                 : 0;
    return *bytes > 0;
}

bool word_numbers(const char *word)
{
    if (strcmp(word, "all") == 0)
        return true;
    for (;; word++) {
        size_t digits = strspn(word, "0123456789");

        if (digits == 0 || strspn(word, "0") == digits)
            return false;
        word += digits;
        if (*word != ',')
            return *word == '\0';
    }
}

bool word_type(const char *word, struct slate_ask *ask)
{
    char *end;

    if (strlen(word) == 2 && strspn(word, "0123456789abcdefABCDEF") == 2) {
        ask->mbr_type = (uint8_t)strtoul(word, &end, 16);
        return ask->mbr_type != 0;
    }
    return slate_guid_parse(word, &ask->gpt_type) == SLATE_OK;
}

bool word_name(const char *word, struct slate_ask *ask)
{
    size_t length = strlen(word), characters = 0;

    for (size_t i = 0; i < length; i++)
        characters += ((uint8_t)word[i] & 0xC0) != 0x80 ? 1 : 0;
    if (length == 0 || characters > 36 || length >= sizeof ask->name)
        return false;
    memcpy(ask->name, word, length + 1);
    return true;
}

static uint64_t attribute_named(const char *word, size_t length)
{
    for (int i = 0; i < SLATE_ATTRIBUTE_KINDS; i++) {
        const char *name = slate_attribute_name((enum slate_attribute_kind)i);

        if (strlen(name) == length && memcmp(name, word, length) == 0)
            return slate_attribute_bits((enum slate_attribute_kind)i);
    }
    return 0;
}

bool word_attributes(const char *word, uint64_t *bits)
{
    for (const char *at = word; *at != '\0';) {
        size_t length = strcspn(at, ",");
        uint64_t bit = attribute_named(at, length);

        if (bit == 0)
            return false;
        *bits |= bit;
        at += length;
        at += *at == ',' ? 1 : 0;
    }
    return word[0] != '\0';
}

/* Names are shorter than this. */
#define NAME_ROOM 40

bool word_list(const char *list, bool (*is_name)(const char *name))
{
    for (const char *at = list; *at != '\0';) {
        size_t length = strcspn(at, ",");
        char name[NAME_ROOM];

        if (length >= sizeof name)
            return false;
        memcpy(name, at, length);
        name[length] = '\0';
        if (!is_name(name))
            return false;
        at += length;
        at += *at == ',' ? 1 : 0;
    }
    return list[0] != '\0';
}

bool word_is_in(const char *list, const char *name)
{
    size_t length = strlen(name);

    for (const char *at = list; *at != '\0';) {
        size_t here = strcspn(at, ",");

        if (here == length && memcmp(at, name, length) == 0)
            return true;
        at += here;
        at += *at == ',' ? 1 : 0;
    }
    return false;
}
