/* SPDX-License-Identifier: MIT */
/* Entries for volumes that were found. */
#include "draft/draft.h"

#include "term/term.h"

#define LOST_MOST 64u

/* Those of one command line. */
static struct slate_lost lost[LOST_MOST];
static uint32_t count;

static bool is_block(const char *word)
{
    return word[0] != '\0' && strspn(word, "0123456789") == strlen(word) &&
           strlen(word) < 20;
}

bool searching_is_list(const char *list)
{
    return word_list(list, is_block);
}

/* What begins at each of the blocks. */
static int read_named(struct target *target, const char *list)
{
    char *end = NULL;

    for (count = 0; *list != '\0'; list = end + (*end == ',' ? 1 : 0)) {
        unsigned long long block = strtoull(list, &end, 10);
        enum slate_status status;

        if (count == LOST_MOST)
            return fail(SLATE_ERR_ROOM,
                        "%s: more than %u volumes are named at once",
                        target->address, (unsigned)LOST_MOST);
        status = slate_lost_read(&target->media, &target->facts, block,
                                 target->work, &lost[count]);
        if (status == SLATE_ERR_FORMAT)
            return fail(SLATE_ERR_CHANGED,
                        "%s: no volume that could be put back begins at block "
                        "%llu; 'trueslate search %s%s' looks for some",
                        target->address, block, target->name, target->also);
        if (status == SLATE_ERR_ARGUMENT)
            return fail(SLATE_ERR_CHANGED,
                        "%s: block %llu is in a partition already, or beyond "
                        "the device",
                        target->address, block);
        if (status != SLATE_OK)
            return fail_with_fault(status, &target->media, target->address);
        count++;
    }
    return 0;
}

/* Without a table: an MBR as far as that goes, since more hosts read it. */
static enum slate_table_kind choose_table(const struct target *target,
                                          const struct options *options)
{
    struct slate_range reach;

    if (options->goal.table_given)
        return options->goal.table;
    slate_table_usable(SLATE_TABLE_MBR, 0, &target->facts.geometry, &reach);
    for (uint32_t i = 0; i < count; i++) {
        if (lost[i].first + lost[i].count > reach.first + reach.count)
            return SLATE_TABLE_GPT;
    }
    return count > 4 ? SLATE_TABLE_GPT : SLATE_TABLE_MBR;
}

static int refuse(const struct target *target, const struct slate_draft *draft,
                  enum slate_status status)
{
    const struct slate_obstacle *obstacle = &draft->obstacle;

    if (status != SLATE_ERR_IN_THE_WAY)
        return fail_with_fault(status, &target->media, target->address);
    if (obstacle->number == 0)
        return fail(status, "%s: nothing can be put back: %s", target->address,
                    obstacle->why);
    return fail(status, "%s: the volume at block %llu cannot be put back: %s",
                target->address,
                (unsigned long long)lost[obstacle->number - 1].first,
                obstacle->why);
}

int searching_draft(struct target *target, const struct options *options,
                    struct slate_draft *draft)
{
    enum slate_table_kind table;
    enum slate_status status;
    int code = unfinished_refuse(target);

    THEN(code, asked_choose(target, options, draft));
    THEN(code, read_named(target, options->put_back));
    TRY(code);
    table = choose_table(target, options);
    if (options->goal.table_given &&
        (table == SLATE_TABLE_NONE ||
         (target->facts.layout.kind != SLATE_TABLE_NONE &&
          target->facts.layout.kind != table)))
        return fail(SLATE_ERR_ARGUMENT,
                    "%s: expected --table gpt or --table mbr, and only where "
                    "there is no table: else they go into that",
                    target->address);
    status = slate_draft_base(draft, &target->facts);
    if (status == SLATE_OK)
        status = slate_draft_put_back(draft, &target->facts, lost, count, table,
                                      &target->media, target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(draft);
    return status == SLATE_OK ? ledger_make(target, options, draft)
                              : refuse(target, draft, status);
}

void searching_tell(const struct target *target)
{
    for (uint32_t i = 0; i < count; i++) {
        const struct slate_volume *volume = &lost[i].volume;

        print_line(
            i == 0 ? "Put back" : "", PAINT_GOOD, "%s%s%s%s, %s, at block %llu",
            slate_volume_words(volume->kind),
            volume->label[0] == '\0' ? "" : " \"", volume->label,
            volume->label[0] == '\0' ? "" : "\"",
            in_both(lost[i].count * target->media.geometry.block_bytes).words,
            (unsigned long long)lost[i].first);
    }
}
