/* SPDX-License-Identifier: MIT */
/* Overwriting, as people and programs are told of it. */
#include "draft/draft.h"

#include "term/term.h"

#define NAMED 12u /* ranges that are told one by one */

/* "zero", "random", or two hexadecimal digits. */
static bool take_round(const char *word, size_t length,
                       struct slate_round *round)
{
    static const char digits[] = "0123456789abcdefABCDEF";

    *round = (struct slate_round){SLATE_ROUND_ZERO, 0};
    if (length == 4 && memcmp(word, "zero", 4) == 0)
        return true;
    round->kind = SLATE_ROUND_RANDOM;
    if (length == 6 && memcmp(word, "random", 6) == 0)
        return true;
    round->kind = SLATE_ROUND_BYTE;
    round->byte = (uint8_t)strtoul(word, NULL, 16);
    return length == 2 && strspn(word, digits) >= 2;
}

bool overwriting_rounds(const char *word, struct slate_overwrite *over)
{
    over->rounds = 0;
    while (*word != '\0') {
        size_t length = strcspn(word, ",");
        unsigned long times = 1;
        const char *x = memchr(word, 'x', length);
        struct slate_round round;

        if (x != NULL) {
            char *end;

            times = strtoul(word, &end, 10);
            if (end != x || *word < '0' || *word > '9')
                return false;
            length -= (size_t)(x + 1 - word);
            word = x + 1;
        }
        if (!take_round(word, length, &round) || times == 0 ||
            times > SLATE_ROUNDS_MOST - over->rounds)
            return false;
        while (times-- > 0)
            over->round[over->rounds++] = round;
        word += length;
        if (*word == ',' && *++word == '\0')
            return false;
    }
    return over->rounds > 0;
}

/* The index of a word among names; UINT32_MAX: it is none of them. */
static uint32_t index_of(const char *word, const char *(*name)(uint32_t index))
{
    for (uint32_t i = 0; name(i) != NULL; i++) {
        if (strcmp(word, name(i)) == 0)
            return i;
    }
    return UINT32_MAX;
}

bool overwriting_read_back(const char *word, enum slate_read_back *read_back)
{
    uint32_t index = index_of(word, slate_read_back_name);

    if (index != UINT32_MAX)
        *read_back = (enum slate_read_back)index;
    return index != UINT32_MAX;
}

/* Not to discard is not asked for by a word. */
const char *overwriting_discard_name(uint32_t index)
{
    return slate_discard_name(index + 1);
}

bool overwriting_discard(const char *word, enum slate_discard *discard)
{
    uint32_t index = index_of(word, overwriting_discard_name);

    if (index != UINT32_MAX)
        *discard = (enum slate_discard)(index + 1);
    return index != UINT32_MAX;
}

uint32_t overwriting_emptied(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.emptied)
            return draft->part[i].ask.keep;
    }
    return 0;
}

bool overwriting_words(const struct slate_draft *draft, char *words,
                       size_t room)
{
    const char *tag = draft->basis.tag;
    uint64_t blocks = bad_blocks(drafted_failed(draft));
    char but[60] = "";

    if (draft->goal.overwrite.rounds == 0 ||
        (!draft->table_stays && !draft->part[0].ask.bare))
        return false;
    if (blocks > 0)
        snprintf(but, sizeof but, " but for %llu block%s",
                 (unsigned long long)blocks, blocks == 1 ? "" : "s");
    if (overwriting_emptied(draft) != 0)
        snprintf(words, room,
                 "what was in partition %u of %s is overwritten%s; its entry "
                 "stays, and hosts will ask to format it",
                 overwriting_emptied(draft), tag, but);
    else if (draft->table_stays)
        snprintf(words, room,
                 "what no partition of %s holds is overwritten%s; the "
                 "partitions are as they were",
                 tag, but);
    else if (draft->table.kind == SLATE_TABLE_NONE)
        snprintf(words, room,
                 "%s is overwritten%s, and holds neither table nor volume: "
                 "hosts will ask to set it up",
                 tag, but);
    return draft->table_stays || draft->table.kind == SLATE_TABLE_NONE;
}

static void add_round(const struct slate_round *round, struct slate_text *text)
{
    char byte[8];

    if (round->kind == SLATE_ROUND_BYTE)
        snprintf(byte, sizeof byte, "%02Xh", round->byte);
    slate_text_add(text, round->kind == SLATE_ROUND_ZERO     ? "zeros"
                         : round->kind == SLATE_ROUND_RANDOM ? "random data"
                                                             : byte);
}

/* "with random data, then zeros" */
static void add_rounds(const struct slate_overwrite *over,
                       struct slate_text *text)
{
    slate_text_add(text, "with ");
    for (uint32_t i = 0; i < over->rounds && i < NAMED; i++) {
        slate_text_add(text, i == 0 ? "" : ", then ");
        add_round(&over->round[i], text);
    }
    if (over->rounds <= NAMED)
        return;
    slate_text_add(text, " and so on, ");
    slate_text_number(text, over->rounds);
    slate_text_add(text, " rounds in all");
}

void overwriting_view(const struct slate_draft *draft)
{
    static const char *const read[] = {
        "the last round is read back and compared",
        "each round is read back and compared", "nothing is read back"};
    static const char *const discards[] = {
        "", "; ahead of that the device may forget all of it",
        "; in the end the device may forget it"};
    const struct slate_overwrite *over = &draft->goal.overwrite;
    uint32_t emptied = overwriting_emptied(draft);
    struct slate_text text;
    char words[600];

    if (over->rounds == 0)
        return;
    slate_text_start(&text, words, sizeof words);
    if (emptied != 0) {
        slate_text_add(&text, "what is in partition ");
        slate_text_number(&text, emptied);
        slate_text_add(&text, ", ");
    } else {
        slate_text_add(&text, draft->switched
                                  ? "what no partition that stays holds, "
                                  : "all of the device, ");
    }
    add_rounds(over, &text);
    slate_text_add(&text, "; ");
    slate_text_add(&text, read[over->read_back]);
    slate_text_add(&text, discards[over->discard]);
    print_line("Overwrites", PAINT_BAD, "%s", words);
}

/* Blocks that failed: of writing, of reading back. */
struct tally {
    uint64_t unwritable, unreadable, altered;
};

static struct tally tally_of(const struct slate_enact *enact,
                             const struct slate_prove *prove)
{
    struct tally tally = {0, 0, 0};

    if (enact != NULL)
        tally = (struct tally){enact->unwritable, enact->unreadable,
                               enact->altered};
    if (prove != NULL) {
        tally.unreadable += prove->unreadable;
        tally.altered += prove->altered;
    }
    return tally;
}

static void tell_failed(const struct slate_draft *draft,
                        const struct slate_enact *enact,
                        const struct slate_prove *prove)
{
    const struct slate_ranges *failed = drafted_failed(draft);
    struct tally tally = tally_of(enact, prove);
    uint64_t blocks = bad_blocks(failed);
    uint64_t told = tally.unwritable + tally.unreadable + tally.altered;
    char ranges[500], earlier[48] = "";

    if (blocks > told) /* of that, the list alone is kept */
        snprintf(earlier, sizeof earlier, ", %llu in an earlier run",
                 (unsigned long long)(blocks - told));
    bad_words(failed, ", ", NAMED, ranges, sizeof ranges);
    print_line("Verdict", PAINT_BAD,
               "%llu block%s failed (%llu not written, %llu not read back, "
               "%llu with other content%s): %s. What was on %s may still be "
               "there, and more will fail: do not trust this device with "
               "anything, and destroy it where that matters",
               (unsigned long long)blocks, blocks == 1 ? "" : "s",
               (unsigned long long)tally.unwritable,
               (unsigned long long)tally.unreadable,
               (unsigned long long)tally.altered, earlier, ranges,
               blocks == 1 ? "it" : "them");
}

void overwriting_tell(const struct slate_overwrite *over,
                      const struct slate_draft *draft,
                      const struct slate_enact *enact,
                      const struct slate_prove *prove)
{
    bool read = over->read_back != SLATE_READ_BACK_NONE;

    if (over->rounds == 0)
        return;
    if (drafted_failed(draft)->count > 0) {
        tell_failed(draft, enact, prove);
        return;
    }
    if (prove == NULL && over->discard != SLATE_DISCARD_LAST)
        return; /* that is yet to be told */
    print_line("Verdict", PAINT_GOOD, "no block failed in %u round%s, and %s",
               over->rounds, over->rounds == 1 ? "" : "s",
               read ? "what was read back is as it was written"
                    : "nothing was read back to tell whether it is so");
}

json_t *overwriting_report(const struct slate_overwrite *over,
                           const struct slate_draft *draft,
                           const struct slate_enact *enact,
                           const struct slate_prove *prove)
{
    const struct slate_ranges *failed = drafted_failed(draft);
    struct tally tally = tally_of(enact, prove);

    if (over->rounds == 0)
        return NULL;
    return report_pack(
        "{s:i, s:b, s:I, s:I, s:I, s:I, s:I, s:o}", "rounds", (int)over->rounds,
        "read_back", over->read_back != SLATE_READ_BACK_NONE, "failed_blocks",
        (json_int_t)bad_blocks(failed), "unwritable",
        (json_int_t)tally.unwritable, "unreadable",
        (json_int_t)tally.unreadable, "altered", (json_int_t)tally.altered,
        "blocks_discarded", (json_int_t)(enact == NULL ? 0 : enact->discarded),
        "failed", report_ranges(failed));
}

int overwriting_end(const struct options *options, const struct target *target,
                    const struct slate_draft *draft)
{
    const struct slate_ranges *failed = drafted_failed(draft);
    uint64_t blocks = bad_blocks(failed);
    int code = 0;

    if (options->failed_list != NULL)
        code = bad_write(options->failed_list, target, failed);
    if (blocks == 0)
        return code;
    return fail(SLATE_ERR_UNPROVED,
                "%s: %llu block%s could not be overwritten, or %s not read "
                "back as written: do not trust this device",
                target->address, (unsigned long long)blocks,
                blocks == 1 ? "" : "s", blocks == 1 ? "does" : "do");
}
