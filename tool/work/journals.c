/* SPDX-License-Identifier: MIT */
/* The journals that the tool keeps ahead of writing: where, when, which. */
#include "work/work.h"

#include "draft/draft.h"
#include "term/term.h"
#include "device/device.h"
#include "view/view.h"

static uint64_t replaced_bytes(const struct slate_draft *draft)
{
    return slate_draft_blocks(draft, true) * draft->basis.geometry.block_bytes;
}

/* Why nothing is kept; NULL: it is. */
static const char *why_not(const struct options *options,
                           const struct slate_draft *draft)
{
    if (draft->goal.overwrite.rounds > 0)
        return "what is overwritten shall not be kept";
    if (options->scan_writes)
        return "the scan writes over all of it first";
    if (options->no_rewind)
        return "--no-rewind keeps nothing";
    if (options->journal == NULL && replaced_bytes(draft) > JOURNAL_MOST)
        return "so much is kept only where --journal FILE says";
    return NULL;
}

void journals_announce(const struct options *options,
                       const struct slate_draft *draft)
{
    const char *why = why_not(options, draft);
    char size[SLATE_SIZE_TEXT];

    slate_size_decimal(replaced_bytes(draft), size);
    if (why == NULL)
        print_line(
            "Rewind", why == NULL ? PAINT_GOOD : PAINT_BAD,
            "what is replaced, %s before it is compressed, is kept first, "
            "so that 'trueslate rewind' can put it back",
            size);
    else
        print_line("Rewind", why == NULL ? PAINT_GOOD : PAINT_BAD,
                   "is not possible: %s would be replaced, and %s", size, why);
}

/* A journal of the same draft is made anew; another may be needed still. */
static bool is_of(const char *path, const struct slate_draft *draft)
{
    struct journal_file *file = malloc(sizeof *file);
    struct slate_journal journal;
    enum slate_status status = file != NULL && journal_file_open(file, path)
                                   ? slate_journal_open(&journal, &file->keeper)
                                   : SLATE_ERR_KEEPER;
    bool same = (status == SLATE_OK || status == SLATE_ERR_JOURNAL_VERSION) &&
                memcmp(journal.seal, draft->seal, SLATE_DIGEST_BYTES) == 0;

    if (file != NULL)
        journal_file_close(file);
    free(file);
    return same;
}

static int find_place(const struct options *options,
                      const struct target *target,
                      const struct slate_draft *draft,
                      char path[STATE_PATH_ROOM])
{
    if (options->journal == NULL)
        return state_path(target->media.tag, draft->seal, JOURNAL_ENDING, path,
                          STATE_PATH_ROOM)
                   ? 0
                   : fail(
                         SLATE_ERR_KEEPER,
                         "there is no place to keep what is replaced; name one "
                         "with --journal FILE, or do without by --no-rewind");
    snprintf(path, STATE_PATH_ROOM, "%s", options->journal);
    if (durable_exists(path) && !options->replace &&
        !durable_is_precious(path, target) && !is_of(path, draft))
        return fail(SLATE_ERR_ARGUMENT,
                    "%s: is there already, and is not the journal of this "
                    "draft; name another file, or add --replace",
                    plain_word(path));
    return durable_may_write(path, target, true, "journal", false);
}

static int fail_keeping(const struct journal_file *file, const char *path,
                        const struct slate_saving *saving,
                        enum slate_status status)
{
    const struct slate_media *media = saving->pass.media;

    if (status == SLATE_ERR_STOPPED)
        return fail(
            status,
            "interrupted ahead of the first write; nothing was written");
    if (is_pulled(status, media))
        return fail(status, SAY_PULLED "; nothing was written");
    if (status == SLATE_ERR_SOURCE)
        return folder_fail(saving->pass.draft, status);
    if (file->why[0] == '\0')
        return fail_with_fault(status, media,
                               "what will be replaced cannot be read, nothing "
                               "was written; --no-rewind does without");
    return fail(
        SLATE_ERR_KEEPER,
        "%s: what is replaced cannot be kept there: %s; nothing was written; "
        "name another place with --journal FILE, or do without by --no-rewind",
        plain_word(path), file->why);
}

/* What it gets, and what it had. */
struct kept_words {
    char gets[SLATE_JOURNAL_WORDS], had[SLATE_JOURNAL_WORDS];
};

static struct slate_journal_words words_for(const struct target *target,
                                            const struct slate_draft *draft,
                                            struct kept_words *told)
{
    struct slate_text text = SLATE_TEXT(told->had);

    draft_words(draft, told->gets, sizeof told->gets);
    content_words(target, &text);
    return (struct slate_journal_words){told->gets, told->had};
}

static int save_to(const char *path, struct target *target,
                   const struct slate_draft *draft)
{
    struct kept_words told;
    const struct slate_journal_words words = words_for(target, draft, &told);
    struct journal_file *file = malloc(sizeof *file);
    struct slate_saving saving = {.pass = {.media = &target->media}};
    enum slate_status status = SLATE_ERR_KEEPER;
    struct progress progress;
    int code;

    if (file == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    progress_catch_interrupts();
    progress_begin(&progress, "Keeping what is there");
    if (journal_file_create(file, path))
        status = slate_saving_start(&saving, draft, &words, &target->media,
                                    &file->keeper, target->work, WORK_BYTES);
    if (status == SLATE_OK)
        status = slate_saving_run(&saving, progress_step, &progress);
    progress_end(&progress);
    code = status == SLATE_OK ? 0 : fail_keeping(file, path, &saving, status);
    journal_file_close(file);
    free(file);
    return code;
}

/* What was rewound is needed by nobody once something new is begun. */
static void tidy(const struct target *target)
{
    struct state_files files = {0};

    if (state_find(&files, target->media.tag, REWOUND_ENDING)) {
        for (uint32_t i = 0; i < files.count; i++)
            durable_remove(files.path[i]);
    }
    state_forget(&files);
}

int journals_keep(const struct options *options, struct target *target,
                  struct slate_draft *draft, bool resumed,
                  char path[STATE_PATH_ROOM])
{
    path[0] = '\0';
    if (why_not(options, draft) != NULL)
        return 0;
    if (resumed) { /* it was kept then, or not at all */
        if (options->journal != NULL)
            snprintf(path, STATE_PATH_ROOM, "%s", options->journal);
        else if (!state_path(target->media.tag, draft->seal, JOURNAL_ENDING,
                             path, STATE_PATH_ROOM))
            path[0] = '\0';
        if (!is_of(path, draft))
            path[0] = '\0';
        return 0;
    }
    TRY(find_place(options, target, draft, path));
    tidy(target);
    return save_to(path, target, draft);
}

void journals_name(const char *path, char name[STATE_PATH_ROOM])
{
    char folder[4000];
    size_t length = strlen(path), front, tail = strlen(JOURNAL_ENDING);

    snprintf(name, STATE_PATH_ROOM, "%s", path);
    if (!state_folder(folder, sizeof folder))
        return;
    front = strlen(folder) + 1;
    if (length > front + tail && strncmp(path, folder, front - 1) == 0 &&
        strchr(path + front, '/') == NULL &&
        strcmp(path + length - tail, JOURNAL_ENDING) == 0)
        snprintf(name, STATE_PATH_ROOM, "%.*s", (int)(length - front - tail),
                 path + front);
    if (journals_is_rewound(path) && name[0] != '/')
        name[strlen(name) - (strlen(REWOUND_ENDING) - tail)] = '\0';
}

void journals_tell(const char *path, const struct target *target)
{
    char name[STATE_PATH_ROOM];

    if (path[0] == '\0')
        return;
    journals_name(path, name);
    printf("\nTo put back what was there before:\n  trueslate rewind "
           "%s%s%s%s\n",
           plain_word(name), target->is_file ? " " : "",
           target->is_file ? target->name : "", target->also);
}

bool journals_find(const char *word, char path[STATE_PATH_ROOM])
{
    static const char *const endings[] = {JOURNAL_ENDING, REWOUND_ENDING};
    char folder[4000];

    snprintf(path, STATE_PATH_ROOM, "%s", word);
    if (durable_exists(path))
        return true;
    if (strchr(word, '/') != NULL || !state_folder(folder, sizeof folder))
        return false;
    for (uint32_t i = 0; i < sizeof endings / sizeof endings[0]; i++) {
        if (snprintf(path, STATE_PATH_ROOM, "%s/%s%s", folder, word,
                     endings[i]) < STATE_PATH_ROOM &&
            durable_exists(path))
            return true;
    }
    return false;
}

bool journals_is_rewound(const char *path)
{
    size_t length = strlen(path), tail = strlen(REWOUND_ENDING);

    return length > tail && strcmp(path + length - tail, REWOUND_ENDING) == 0;
}

void journals_rest(const char *path)
{
    char name[STATE_PATH_ROOM], rested[STATE_PATH_ROOM];

    journals_name(path, name);
    if (strcmp(name, path) == 0 || journals_is_rewound(path))
        return; /* it is not in our own place, or rests */
    if (snprintf(rested, sizeof rested, "%.*s" REWOUND_ENDING,
                 (int)(strlen(path) - strlen(JOURNAL_ENDING)),
                 path) < (int)sizeof rested)
        durable_rename(path, rested);
}
