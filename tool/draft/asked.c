/* SPDX-License-Identifier: MIT */
/* What is asked of a draft: by the command line, and by an earlier draft that
 * it revises. */
#include "draft/draft.h"

/* Local time; with SOURCE_DATE_EPOCH set, that moment in UTC, so that output
 * can be repeated byte for byte. */
static void take_stamp(struct slate_stamp *stamp)
{
    const char *epoch = getenv("SOURCE_DATE_EPOCH");
    time_t now = epoch == NULL ? time(NULL) : (time_t)strtoll(epoch, NULL, 10);
    struct tm parts;

    stamp_take(epoch == NULL ? localtime_r(&now, &parts)
                             : gmtime_r(&now, &parts),
               stamp);
}

static enum slate_status ask_to_keep(struct slate_draft *draft,
                                     unsigned long number)
{
    struct slate_ask ask = {.keep = number > UINT32_MAX ? UINT32_MAX
                                                        : (uint32_t)number};

    return slate_draft_ask(draft, &ask);
}

/* Logical partitions stay one by one, where they can: so there is room for
 * others between them. */
static enum slate_status keep_all(const struct slate_facts *facts,
                                  struct slate_draft *draft)
{
    enum slate_role within = slate_layout_chain_is_plain(&facts->layout)
                                 ? SLATE_ROLE_EXTENDED
                                 : SLATE_ROLE_LOGICAL;
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < facts->layout.count && status == SLATE_OK; i++) {
        if (facts->partition[i].role != within)
            status = ask_to_keep(draft, facts->partition[i].number);
    }
    return status;
}

static enum slate_status keep_listed(const char *list,
                                     struct slate_draft *draft)
{
    enum slate_status status = SLATE_OK;
    char *end = NULL;

    for (; *list != '\0' && status == SLATE_OK; list = end) {
        status = ask_to_keep(draft, strtoul(list, &end, 10));
        end += *end == ',' ? 1 : 0;
    }
    return status;
}

static enum slate_status keep_former(const struct slate_draft *former,
                                     struct slate_draft *draft)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < former->parts && status == SLATE_OK; i++) {
        if (former->part[i].ask.keep != 0)
            status = slate_draft_ask(draft, &former->part[i].ask);
    }
    return status;
}

static enum slate_status keep(const struct target *target,
                              const struct options *options,
                              const struct slate_draft *former,
                              struct slate_draft *draft)
{
    if (options->keep == NULL && options->empty == 0)
        return former == NULL ? SLATE_OK : keep_former(former, draft);
    return options->keep == NULL || strcmp(options->keep, "all") == 0
               ? keep_all(&target->facts, draft)
               : keep_listed(options->keep, draft);
}

static int add_former(const struct options *options,
                      const struct slate_draft *former,
                      struct slate_draft *draft)
{
    enum slate_status status = SLATE_OK;
    uint32_t fresh = 0;

    for (uint32_t i = 0; i < former->parts; i++)
        fresh += former->part[i].ask.keep == 0 ? 1 : 0;
    if (options->loose && fresh != 1)
        return fail(SLATE_ERR_ARGUMENT,
                    "draft: this draft makes %u partitions; expected --part "
                    "SIZE ahead of what is said of one of them",
                    fresh);
    for (uint32_t i = 0; i < former->parts && status == SLATE_OK; i++) {
        struct slate_ask ask = former->part[i].ask;

        if (ask.keep != 0)
            continue;
        if (former->switched) /* as it was chosen to fit */
            ask.standing = SLATE_STANDING_FITS;
        options_revise_ask(options, &ask);
        status = slate_draft_ask(draft, &ask);
    }
    return status == SLATE_OK ? 0 : fail_plainly(status, "draft");
}

/* New partitions; where others stay, none without being asked for. */
static int add(const struct options *options, const struct slate_draft *former,
               struct slate_draft *draft)
{
    bool stay = options->keep != NULL || options->empty != 0;
    uint32_t asks = stay && !options->divided ? 0 : options->asks;
    enum slate_status status = SLATE_OK;

    if (former != NULL && !options->divided)
        return add_former(options, former, draft);
    if (asks == 0 && options->loose)
        return fail(SLATE_ERR_ARGUMENT,
                    "draft: no new partition is asked for; expected --part "
                    "SIZE ahead of what is said of one");
    for (uint32_t i = 0; i < asks && status == SLATE_OK; i++)
        status = slate_draft_ask(draft, &options->ask[i]);
    return status == SLATE_OK ? 0 : fail_plainly(status, "draft");
}

/* Of this partition the entry alone stays. */
static int empty(const struct target *target, const struct options *options,
                 struct slate_draft *draft)
{
    bool found = options->empty == 0;

    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.keep != options->empty || options->empty == 0)
            continue;
        draft->part[i].ask.emptied = found = true;
    }
    return found
               ? 0
               : fail(SLATE_ERR_PARTS,
                      "%s: there is no partition %u that could be overwritten "
                      "by itself; 'trueslate assess %s%s' lists them",
                      target->address, options->empty, target->name,
                      target->also);
}

static int check_overwrite(const struct options *options,
                           const struct slate_overwrite *over)
{
    if (over->rounds > 0 ||
        (options->empty == 0 && over->discard == SLATE_DISCARD_NOT &&
         over->read_back == SLATE_READ_BACK_LAST))
        return 0;
    return fail(SLATE_ERR_ARGUMENT,
                "%s: expected --overwrite ROUNDS beside --empty, --read-back "
                "and --discard",
                options->verb->name);
}

/* A draft that is revised keeps its serial numbers and its date. */
static enum slate_status choose(struct target *target,
                                const struct options *options,
                                const struct slate_draft *former,
                                struct slate_choices *choices)
{
    if (former != NULL) {
        *choices = former->choices;
    } else {
        take_stamp(&choices->stamp);
        if (!options->has_seed)
            return slate_media_random(&target->media, choices->seed,
                                      sizeof choices->seed);
    }
    if (options->has_seed)
        memcpy(choices->seed, options->seed, sizeof choices->seed);
    return SLATE_OK;
}

static int fill_goal(struct target *target, const struct options *options,
                     const struct slate_draft *former,
                     struct slate_draft *draft)
{
    enum slate_status status;

    draft->parts = 0;
    draft->goal = former == NULL ? options->goal : former->goal;
    options_revise_goal(options, &draft->goal);
    TRY(check_overwrite(options, &draft->goal.overwrite));
    status = keep(target, options, former, draft);
    if (status == SLATE_OK)
        TRY(empty(target, options, draft));
    if (status == SLATE_OK)
        status = choose(target, options, former, &draft->choices);
    TRY(status == SLATE_OK ? add(options, former, draft)
                           : fail_plainly(status, target->address));
    return within_take(options, target, draft);
}

int asked_fill(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft)
{
    int code = fill_goal(target, options, former, draft);

    THEN(code, bad_take(options, former, draft));
    THEN(code, folder_take(target, options, former, draft));
    return code == 0 ? start_code_take(options, former, draft) : code;
}

/* Names and places of files are what is wanted; whether they are what they
 * were is looked at before they are written. */
static void take_content(const struct slate_files *from,
                         struct slate_files *files)
{
    for (uint32_t i = 0; i < files->count && i < from->count; i++) {
        uint32_t parent = files->item[i].parent, name = files->item[i].name;
        bool folder = files->item[i].folder;

        files->item[i] = from->item[i];
        files->item[i].parent = parent;
        files->item[i].name = name;
        files->item[i].folder = folder;
    }
}

/* Where partitions stay, a draft knows where they are. */
static int place(struct target *target, struct slate_draft *draft)
{
    enum slate_status status = slate_draft_base(draft, &target->facts);

    if (status == SLATE_OK)
        status = slate_draft_keep(draft, &target->facts, &target->media,
                                  target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(draft);
    return status == SLATE_OK ? 0 : exit_code(status);
}

int asked_compare(struct target *target, const struct options *options,
                  struct slate_draft *drafted, bool beside, bool *same)
{
    struct slate_draft *revised = drafted_new();
    int code = asked_fill(target, options, drafted, revised);

    if (code == 0)
        take_content(&drafted->files, &revised->files);
    *same = code == 0 && (!beside || place(target, revised) == 0) &&
            slate_draft_same_wish(drafted, revised);
    drafted_free(revised);
    return code;
}

int asked_choose(struct target *target, const struct options *options,
                 struct slate_draft *draft)
{
    enum slate_status status = choose(target, options, NULL, &draft->choices);

    draft->goal.use = options->goal.use;
    draft->goal.lift = options->goal.lift;
    draft->goal.lasting = options->goal.lasting;
    return status == SLATE_OK ? 0 : fail_plainly(status, target->address);
}

/* Start-up code for a volume, from a file. */

#define BLOCK 512u
#define FILE_MOST 1048576u /* what is longer by far is not read */

static bool is_asked_for(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.start)
            return true;
    }
    return false;
}

static int read_code(const char *path, struct slate_draft *draft)
{
    struct given given;
    bool taken;

    if (!given_read(path, GIVEN_BYTES, FILE_MOST, &given))
        return given_fail(&given, "--start-code", path);
    taken = (given.length == BLOCK || given.length == (size_t)3 * BLOCK) &&
            slate_draft_start(draft, (const uint8_t *)given.bytes,
                              (uint32_t)given.length) == SLATE_OK;
    given_free(&given);
    return taken ? 0
                 : fail(SLATE_ERR_ARGUMENT,
                        "--start-code %s: expected 512 bytes, or for FAT32 "
                        "perhaps 1536",
                        plain_word(path));
}

int start_code_take(const struct options *options,
                    const struct slate_draft *former, struct slate_draft *draft)
{
    if (!is_asked_for(draft))
        return 0;
    if (options->start_code != NULL)
        return read_code(options->start_code, draft);
    return slate_draft_start(draft, former->start.byte, former->start.count) ==
                   SLATE_OK
               ? 0
               : fail(SLATE_ERR_INTERNAL, "out of memory");
}

/* Of a device that claims more than it has, what is there. */

#define PROVED "proved"

bool within_is_known(const char *word)
{
    uint64_t bytes;

    return strcmp(word, PROVED) == 0 || word_distance(word, &bytes);
}

/* "ONLY-8GB": whoever sees the volume sees that. */
static void name_it(const struct target *target, struct slate_draft *draft)
{
    struct slate_ask *ask = &draft->part[0].ask;
    size_t at = 5;

    if (draft->parts != 1 || ask->label[0] != '\0' || ask->bare)
        return;
    memcpy(ask->label, "ONLY-", at);
    for (const char *from =
             in_decimal(draft->goal.within * target->media.geometry.block_bytes)
                 .words;
         *from != '\0' && at < 11; from++) {
        if (*from != ' ')
            ask->label[at++] = *from == '.' ? '-' : *from;
    }
    ask->label[at] = '\0';
}

int within_take(const struct options *options, const struct target *target,
                struct slate_draft *draft)
{
    uint64_t bytes = 0, block_bytes = target->media.geometry.block_bytes;

    if (options->within == NULL)
        return 0;
    draft->goal.within = target->facts.proved_blocks;
    if (strcmp(options->within, PROVED) == 0 && draft->goal.within == 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "--within proved: nothing is known of %s by its serial "
                    "number; expected a size, or 'trueslate probe %s%s' first",
                    target->address, target->name, target->also);
    if (word_distance(options->within, &bytes))
        draft->goal.within = bytes / block_bytes;
    if (draft->goal.within == 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "--within %s: expected a size of one block or more",
                    options->within);
    name_it(target, draft);
    return 0;
}
