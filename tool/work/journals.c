/* SPDX-License-Identifier: MIT */
/* The journals that the tool keeps ahead of writing: where, when, which. */
#include "work/work.h"

#include "draft/draft.h"
#include "term/term.h"
#include "device/device.h"

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
    bool same = file != NULL && journal_file_open(file, path) &&
                slate_journal_open(&journal, &file->keeper) == SLATE_OK &&
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

static int save_to(const char *path, struct target *target,
                   struct slate_draft *draft, const struct slate_bytes *stored)
{
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
        status = slate_saving_start(&saving, draft, stored, &target->media,
                                    &file->keeper, target->work, WORK_BYTES);
    if (status == SLATE_OK)
        status = slate_saving_run(&saving, progress_step, &progress);
    progress_end(&progress);
    code = status == SLATE_OK ? 0 : fail_keeping(file, path, &saving, status);
    journal_file_close(file);
    free(file);
    return code;
}

int journals_keep(const struct options *options, struct target *target,
                  struct slate_draft *draft, bool resumed,
                  char path[STATE_PATH_ROOM])
{
    struct slate_bytes stored = {NULL, 0, 0};
    size_t used = 0;
    int code;

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
    if (slate_draft_store(draft, NULL, 0, &used) == SLATE_ERR_BUFFER)
        stored.byte = malloc(used);
    if (stored.byte == NULL ||
        slate_draft_store(draft, stored.byte, used, &used) != SLATE_OK) {
        free(stored.byte);
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    }
    stored.count = stored.room = (uint32_t)used;
    code = save_to(path, target, draft, &stored);
    free(stored.byte);
    return code;
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
}

void journals_tell(const char *path, const struct target *target,
                   const char *files)
{
    char name[STATE_PATH_ROOM];

    if (path[0] == '\0')
        return;
    journals_name(path, name);
    printf("\nTo put back what was there before:\n  trueslate rewind "
           "%s%s%s%s%s%s\n",
           plain_word(name), target->is_file ? " " : "",
           target->is_file ? target->name : "",
           files[0] == '\0' ? "" : " --files ",
           files[0] == '\0' ? "" : plain_word(files), target->also);
}

bool journals_find(const char *word, char path[STATE_PATH_ROOM])
{
    char folder[4000];

    snprintf(path, STATE_PATH_ROOM, "%s", word);
    if (durable_exists(path))
        return true;
    return strchr(word, '/') == NULL && state_folder(folder, sizeof folder) &&
           snprintf(path, STATE_PATH_ROOM, "%s/%s" JOURNAL_ENDING, folder,
                    word) < STATE_PATH_ROOM &&
           durable_exists(path);
}

static enum slate_status restore(struct loaded *loaded)
{
    const struct slate_journal *journal = &loaded->journal;
    uint8_t *stored = malloc((size_t)journal->draft_bytes + 1);
    enum slate_status status =
        stored == NULL
            ? SLATE_ERR_INTERNAL
            : loaded->file.keeper.read(&loaded->file, journal->draft_at, stored,
                                       journal->draft_bytes);

    if (status == SLATE_OK)
        status =
            slate_draft_restore(loaded->draft, stored, journal->draft_bytes);
    /* what a sound one holds takes less; the counts of others may be anything
     */
    while (status == SLATE_ERR_ROOM &&
           loaded->draft->room.bytes / 8 <= journal->draft_bytes) {
        drafted_enlarge(loaded->draft);
        status =
            slate_draft_restore(loaded->draft, stored, journal->draft_bytes);
    }
    free(stored);
    return status == SLATE_ERR_ROOM ? SLATE_ERR_DRAFT_DAMAGED : status;
}

/* What is no journal, or a damaged one, can be anything. */
#define DRAFT_BYTES_MOST 67108864u

static enum slate_status check(struct loaded *loaded)
{
    struct slate_journal *journal = &loaded->journal;
    uint8_t work[SLATE_WORK_MIN];
    enum slate_status status;

    if (!journal_file_open(&loaded->file, loaded->path))
        return SLATE_ERR_KEEPER;
    status = slate_journal_open(journal, &loaded->file.keeper);
    if (status == SLATE_OK && journal->draft_bytes > DRAFT_BYTES_MOST)
        status = SLATE_ERR_JOURNAL;
    if (status == SLATE_OK)
        status = restore(loaded);
    return status == SLATE_OK
               ? slate_journal_check(journal, loaded->draft, work)
               : status;
}

struct loaded *journals_load(const char *word)
{
    struct loaded *loaded = calloc(1, sizeof *loaded);

    if (loaded == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    loaded->draft = drafted_new();
    if (!journals_find(word, loaded->path)) {
        loaded->status = SLATE_ERR_ARGUMENT;
        snprintf(loaded->why, sizeof loaded->why,
                 "there is no such journal; 'trueslate journals' lists them");
        return loaded;
    }
    loaded->status = check(loaded);
    if (loaded->status == SLATE_OK)
        return loaded;
    if (loaded->status == SLATE_ERR_KEEPER && loaded->file.why[0] != '\0')
        snprintf(loaded->why, sizeof loaded->why, "%s", loaded->file.why);
    else
        snprintf(loaded->why, sizeof loaded->why, "%s%s%s",
                 slate_status_sentence(loaded->status),
                 loaded->file.why[0] == '\0' ? "" : ": ", loaded->file.why);
    return loaded;
}

void journals_unload(struct loaded *loaded)
{
    if (loaded == NULL)
        return;
    journal_file_close(&loaded->file);
    drafted_free(loaded->draft);
    free(loaded);
}
