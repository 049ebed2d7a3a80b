/* SPDX-License-Identifier: MIT */
/* Setters of options: a word becomes a value. */
#include "main/main.h"

#include "draft/draft.h"
#include "work/work.h"
#include "look/look.h"
#include "view/view.h"

static void *field_of(const struct option_row *row,
                      const struct setting *setting)
{
    char *base = (char *)setting->options;

    if (row->place == OPTION_GOAL)
        base = (char *)setting->goal;
    if (row->place == OPTION_ASK)
        base = (char *)setting->ask;
    return base + row->at;
}

/* One that sets a field of some type, by what a word makes of it. */
// NOLINTBEGIN(bugprone-macro-parentheses): a type takes none
#define SETTER(kind, type, takes_it, expected)                                 \
    const char *option_##kind(const struct option_row *row,                    \
                              const struct setting *setting, const char *word) \
    {                                                                          \
        type *field = field_of(row, setting);                                  \
        (void)word;                                                            \
        return (takes_it) ? NULL : (expected);                                 \
    }

// NOLINTEND(bugprone-macro-parentheses)

/* One that keeps a word which makes sense. */
#define CHECKED(kind, makes_sense, expected)                                   \
    SETTER(kind, const char *, (*field = word, makes_sense), expected)

/* One that sets several fields of what it is said of. */
#define WHOLE(kind, takes_it, expected)                                        \
    const char *option_##kind(const struct option_row *row,                    \
                              const struct setting *setting, const char *word) \
    {                                                                          \
        (void)row;                                                             \
        return (takes_it) ? NULL : (expected);                                 \
    }

/* "...words..., with what stands behind": of a list. */
static const char *and_so_on(char text[400], const char *list,
                             const char *behind)
{
    snprintf(text, 400, "%s%s", list, behind);
    return text;
}

static const char *expect_mends(void)
{
    static char text[400];

    return and_so_on(text, list_mends(), ", with commas between them, or all");
}

static const char *expect_attributes(void)
{
    static char text[400];

    return and_so_on(text, list_gpt_attributes(), ", with commas between them");
}

static bool is_text_for_files(const char *word)
{
    return word[0] != '\0';
}

static bool is_block_size(uint32_t bytes)
{
    return bytes == 512 || bytes == 1024 || bytes == 2048 || bytes == 4096;
}

SETTER(flag, bool, (*field = true), NULL)
SETTER(text, const char *, (*field = word) != NULL, NULL)
SETTER(from, enum from, word_from(word, field), "first or second")
SETTER(use, enum slate_use, word_use(word, field), list_uses())
WHOLE(table, word_table(word, setting->goal), list_tables())
WHOLE(cylinders, word_cylinders(word, setting->goal),
      "heads and sectors like 16x63, or fit")
SETTER(volume, enum slate_volume_kind, word_format(word, field), list_formats())
WHOLE(label, word_label(word, setting->ask), "at most 63 bytes")
SETTER(cluster, uint32_t, word_cluster(word, field),
       "a power of two from 512 to 64K, or for exFAT to 32M")
WHOLE(part, word_size(word, setting->ask),
      "a size like 8GB, 512MiB or 25%, or rest")
CHECKED(keep, word_numbers(word),
        "numbers of partitions from 1, with commas between them, or all")
SETTER(rounds, struct slate_overwrite, overwriting_rounds(word, field),
       "zero, random, two hexadecimal digits or 3xrandom, with commas between "
       "them, 64 rounds at most")
SETTER(read_back, struct slate_overwrite,
       overwriting_read_back(word, &field->read_back), list_read_backs())
SETTER(discard, struct slate_overwrite,
       overwriting_discard(word, &field->discard), list_discards())
SETTER(index, uint32_t, word_number(word, field) && *field > 0,
       "a number, from 1")
SETTER(entries, uint32_t,
       word_number(word, field) && *field >= SLATE_GPT_ENTRIES_LEAST &&
           *field <= SLATE_GPT_ENTRIES_MOST,
       "a number from 4 to 1024")
WHOLE(type, word_type(word, setting->ask), "two hexadecimal digits, or a GUID")
WHOLE(name, word_name(word, setting->ask), "at most 36 characters")
SETTER(attributes, uint64_t, word_attributes(word, field), expect_attributes())
SETTER(logical, enum slate_standing,
       (*field = SLATE_STANDING_LOGICAL) == SLATE_STANDING_LOGICAL, NULL)
WHOLE(files, (setting->ask->files = true, setting->options->files = word) != 0,
      NULL)
WHOLE(start_code,
      (setting->ask->start = true, setting->options->start_code = word) != 0,
      NULL)
CHECKED(bad, bad_is_list(word),
        "block numbers and ranges of them, as 812,900-911")
SETTER(block, uint64_t, word_number64(word, field), "the number of a block")
WHOLE(seed,
      (setting->options->has_seed = true,
       word_seed(word, setting->options->seed)),
      "32 hexadecimal digits")
CHECKED(clear, attributes_are_known(word),
        "kinds of attributes as 'guards DEVICE' names them")
CHECKED(mend, mending_is_known(word), expect_mends())
CHECKED(put_back, searching_is_list(word),
        "numbers of blocks, with commas between them")
SETTER(every, uint64_t, word_distance(word, field),
       "a size, as 4096, 1M or 64MiB")
CHECKED(relabel, strlen(word) < SLATE_LABEL_ROOM, "at most 63 bytes")
SETTER(block_size, uint32_t, word_number(word, field) && is_block_size(*field),
       "512, 1024, 2048 or 4096")
CHECKED(picture, picture_kind(word) != PICTURE_NONE,
        "a file name that ends in .svg, .png or .pdf")
CHECKED(within, within_is_known(word), "a size, as 8GB, or proved")
CHECKED(then, then_is_known(word), list_thens())
CHECKED(evidence, is_text_for_files(word),
        "the name of files, without an ending")
CHECKED(expect, expected_is_known(word),
        "stick, card, disk, or a size as 32GB, with commas between them")
SETTER(seconds, uint32_t, word_number(word, field), "a number of seconds")

/* Guards that are lifted ahead of a draft are a part of its goal. */
const char *option_lift(const struct option_row *row,
                        const struct setting *setting, const char *word)
{
    (void)row;
    setting->options->lift = word;
    setting->goal->lift = lifts_named(word);
    return lifts_are_known(word)
               ? NULL
               : "all, or kinds as 'guards DEVICE' names them";
}

const char *option_drive(const struct option_row *row,
                         const struct setting *setting, const char *word)
{
    const char **field = field_of(row, setting);

    *field = word;
    return drive_word_expected(
        (enum drive_word)(field - setting->options->drive), word);
}
