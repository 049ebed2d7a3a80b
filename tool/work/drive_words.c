/* SPDX-License-Identifier: MIT */
/* A drive as people describe it. */
#include "work/work.h"

#include <errno.h>

#include "draft/draft.h"

#define STICKER_MOST 8191u
#define STICKER_BYTES_MOST 1048576u
#define STICKER_EXPECTED "cylinder/head/byte from index, as 31/2/1870,77/0/9020"

static bool is_number(const char *word)
{
    uint32_t number;

    return word_number(word, &number);
}

static bool is_number_or(const char *word, const char *other)
{
    return strcmp(word, other) == 0 || is_number(word);
}

/* Numbers with this letter between them; how many there are, 0 for anything
 * else. */
static int take_numbers(const char *word, char between, uint32_t *number,
                        int most)
{
    int count = 0;

    while (count < most) {
        char *end;
        unsigned long value;

        errno = 0;
        if (*word < '0' || *word > '9')
            return 0;
        value = strtoul(word, &end, 10);
        if (errno != 0 || value > UINT32_MAX)
            return 0;
        number[count++] = (uint32_t)value;
        if (*end == '\0')
            return count;
        if (*end != between)
            return 0;
        word = end + 1;
    }
    return 0;
}

static bool is_shape(const char *word)
{
    uint32_t numbers[3];

    return slate_drive_profile(word) != NULL ||
           take_numbers(word, 'x', numbers, 3) == 3;
}

static bool is_skew(const char *word)
{
    uint32_t numbers[2];

    return take_numbers(word, ',', numbers, 2) > 0;
}

static const char *expected_shape(void)
{
    static char words[400];
    uint32_t count;
    const struct slate_drive_profile *profile = slate_drive_profiles(&count);

    snprintf(words, sizeof words,
             "cylinders, heads and sectors as 615x4x17, or one of ");
    for (uint32_t i = 0; i < count; i++)
        snprintf(words + strlen(words), sizeof words - strlen(words), "%s%s",
                 i == 0           ? ""
                 : i + 1 == count ? " and "
                                  : ", ",
                 profile[i].name);
    return words;
}

const char *drive_word_name(enum drive_word which)
{
    static const char *const names[] = {
        "drive",           "interleave",      "skew",    "spares",
        "precompensation", "reduced-current", "burst",   "split",
        "sticker",         "blocks",          "reassign"};

    _Static_assert(sizeof names / sizeof names[0] == DRIVE_WORDS,
                   "a name for each");
    return names[which];
}

const char *drive_word_expected(enum drive_word which, const char *word)
{
    switch (which) {
    case DRIVE_SHAPE:
        return is_shape(word) ? NULL : expected_shape();
    case DRIVE_INTERLEAVE:
        return is_number_or(word, "measure") ? NULL : "a number, or measure";
    case DRIVE_SKEW:
        return is_skew(word) ? NULL : "a number of sectors, or two as 2,5";
    case DRIVE_PRECOMPENSATION:
    case DRIVE_CURRENT:
        return is_number_or(word, "none") ? NULL
                                          : "a number of a cylinder, or none";
    case DRIVE_REASSIGN:
        return bad_is_list(word) ? NULL : "block numbers, as 812,900-911";
    case DRIVE_STICKER:
        return word[0] != '\0' ? NULL : STICKER_EXPECTED;
    case DRIVE_SPARES:
    case DRIVE_BURST:
    case DRIVE_SPLIT:
    case DRIVE_BLOCKS:
    case DRIVE_WORDS:
    default:
        return is_number(word) ? NULL : "a number";
    }
}

bool drive_is_asked(const struct options *options)
{
    for (int i = 0; i < DRIVE_WORDS; i++) {
        if (options->drive[i] != NULL)
            return true;
    }
    return options->same || options->forget_grown;
}

static uint32_t number_or(const struct options *options, enum drive_word which,
                          uint32_t otherwise)
{
    uint32_t number = otherwise;

    if (options->drive[which] != NULL)
        (void)word_number(options->drive[which], &number);
    return number;
}

/* By hand: what is not said is as drives of that time have it. */
static void take_shape(const char *word, struct slate_drive *drive)
{
    const struct slate_drive_profile *profile = slate_drive_profile(word);
    const struct slate_drive before = *drive;
    uint32_t numbers[3];

    if (profile != NULL) {
        *drive = profile->drive;
        return;
    }
    (void)take_numbers(word, 'x', numbers, 3);
    *drive = (struct slate_drive){.cylinders = numbers[0],
                                  .heads = numbers[1],
                                  .sectors = numbers[2],
                                  .block_bytes = 512,
                                  .interleave = before.interleave,
                                  .precompensation = numbers[0],
                                  .reduced_current = numbers[0],
                                  .burst_bits = 11,
                                  .revolutions = before.revolutions};
}

static void take_skew(const char *word, struct slate_drive *drive)
{
    uint32_t numbers[2] = {0, 0};

    (void)take_numbers(word, ',', numbers, 2);
    drive->track_skew = numbers[0];
    drive->cylinder_skew = numbers[1];
}

static uint32_t cylinder_or(const struct options *options,
                            enum drive_word which, uint32_t otherwise,
                            const struct slate_drive *drive)
{
    const char *word = options->drive[which];

    return word != NULL && strcmp(word, "none") == 0
               ? drive->cylinders
               : number_or(options, which, otherwise);
}

int drive_take(const struct options *options, const struct slate_drive *now,
               struct slate_drive *drive, bool *measured)
{
    const char *interleave = options->drive[DRIVE_INTERLEAVE];
    enum slate_drive_wrong wrong;

    memset(drive, 0, sizeof *drive);
    if (now != NULL)
        *drive = *now;
    if (options->drive[DRIVE_SHAPE] != NULL)
        take_shape(options->drive[DRIVE_SHAPE], drive);
    *measured = interleave != NULL && strcmp(interleave, "measure") == 0;
    if (!*measured)
        drive->interleave =
            number_or(options, DRIVE_INTERLEAVE, drive->interleave);
    if (drive->interleave == 0 ||
        (*measured && drive->interleave >= drive->sectors))
        drive->interleave = 1;
    if (options->drive[DRIVE_SKEW] != NULL)
        take_skew(options->drive[DRIVE_SKEW], drive);
    drive->block_bytes = number_or(options, DRIVE_BLOCKS, drive->block_bytes);
    drive->spares = number_or(options, DRIVE_SPARES, drive->spares);
    drive->burst_bits = number_or(options, DRIVE_BURST, drive->burst_bits);
    drive->precompensation = cylinder_or(options, DRIVE_PRECOMPENSATION,
                                         drive->precompensation, drive);
    drive->reduced_current =
        cylinder_or(options, DRIVE_CURRENT, drive->reduced_current, drive);
    if (drive->track_bytes == 0)
        drive->track_bytes = slate_drive_track_bytes(drive);
    wrong = slate_drive_check(drive);
    return wrong == SLATE_DRIVE_GOOD
               ? 0
               : fail(SLATE_ERR_ARGUMENT, "the drive: expected %s",
                      slate_drive_expected(wrong));
}

int drive_take_split(const struct options *options,
                     const struct slate_drive *drive, uint64_t *blocks)
{
    uint32_t cylinder = number_or(options, DRIVE_SPLIT, 0);

    *blocks =
        (uint64_t)cylinder * drive->heads * (drive->sectors - drive->spares);
    if (options->drive[DRIVE_SPLIT] == NULL)
        return 0;
    return cylinder > 0 && cylinder < drive->cylinders && *blocks < 0xFFFFFF
               ? 0
               : fail(SLATE_ERR_ARGUMENT,
                      "--split %u: expected a cylinder from 1 to %u", cylinder,
                      drive->cylinders - 1);
}

/* "31/2/1870", or "31/2" and "31/2/" and a star for the track; moves on. */
static bool take_defect(const char **word, struct slate_defect *defect)
{
    static const char ends[] = ", \t\r\n#";
    uint32_t numbers[3];
    char one[40];
    size_t length = strcspn(*word, ends);
    int count;

    if (length == 0 || length >= sizeof one)
        return false;
    memcpy(one, *word, length);
    one[length] = '\0';
    count = take_numbers(one, '/', numbers, 3);
    if (count < 2)
        return false;
    *defect = (struct slate_defect){
        numbers[0], numbers[1], count == 3 ? numbers[2] : SLATE_DEFECT_TRACK};
    *word += length;
    return true;
}

/* Of one line; false for what is none. */
static bool take_line(const char *word, struct slate_defect *list,
                      uint32_t *count)
{
    static const char between[] = ", \t\r\n";

    word += strspn(word, between);
    while (*word != '\0' && *word != '#') {
        struct slate_defect one;

        if (*count == STICKER_MOST || !take_defect(&word, &one))
            return false;
        list[(*count)++] = one;
        word += strspn(word, between);
    }
    return true;
}

static int take_file(const char *path, struct slate_defect *list,
                     uint32_t *count)
{
    struct given given;
    unsigned at = 0;
    bool good = true;
    char *line, *next;

    if (!given_read(path, GIVEN_TEXT, STICKER_BYTES_MOST, &given))
        return fail(given.status,
                    "--sticker %s: %s; expected a file, or " STICKER_EXPECTED,
                    plain_word(path), given.why);
    next = given.bytes;
    while (good && (line = given_line(&next)) != NULL) {
        at++;
        good = take_line(line, list, count);
    }
    given_free(&given);
    return good ? 0
                : fail(SLATE_ERR_ARGUMENT,
                       "%s, line %u: expected " STICKER_EXPECTED,
                       plain_word(path), at);
}

static int check_sticker(const struct slate_drive *drive,
                         const struct slate_defect *list, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++) {
        struct slate_range range;

        if (!slate_defect_range(drive, &list[i], &range))
            return fail(SLATE_ERR_ARGUMENT,
                        "--sticker: %u/%u/%u is not on this drive; expected "
                        "cylinders 0 to %u, heads 0 to %u, bytes 0 to %u",
                        list[i].cylinder, list[i].head, list[i].at,
                        drive->cylinders - 1, drive->heads - 1,
                        drive->track_bytes - 1);
    }
    return 0;
}

int drive_take_sticker(const struct options *options,
                       const struct slate_drive *drive,
                       struct slate_defect **list, uint32_t *count)
{
    const char *word = options->drive[DRIVE_STICKER];
    int code = 0;

    *list = NULL;
    *count = 0;
    if (word == NULL)
        return 0;
    *list = calloc(STICKER_MOST, sizeof **list);
    if (*list == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    if (strspn(word, "0123456789/, ") == strlen(word))
        code = take_line(word, *list, count)
                   ? 0
                   : fail(SLATE_ERR_ARGUMENT,
                          "--sticker %s: expected " STICKER_EXPECTED,
                          plain_word(word));
    else
        code = take_file(word, *list, count);
    if (code == 0)
        slate_defects_sort(*list, count);
    return code == 0 ? check_sticker(drive, *list, *count) : code;
}
