/* SPDX-License-Identifier: MIT */
/* Journals are read: heads, all of them, and those of an older version. */
#include "work/work.h"

#include <sys/stat.h>

#include "draft/draft.h"
#include "view/view.h"

/* The draft of a journal of version 1, which stands in it. */
static enum slate_status restore(const struct journal_file *file,
                                 const struct slate_journal_one *one,
                                 struct slate_draft *draft)
{
    uint8_t *stored = malloc((size_t)one->draft_bytes + 1);
    enum slate_status status =
        stored == NULL ? SLATE_ERR_INTERNAL
                       : file->keeper.read(file->keeper.context, one->draft_at,
                                           stored, one->draft_bytes);

    THEN(status, slate_draft_restore(draft, stored, one->draft_bytes));
    /* what a sound one holds takes less; the counts of others may be anything
     */
    while (status == SLATE_ERR_ROOM &&
           draft->room.bytes / 8 <= one->draft_bytes) {
        drafted_enlarge(draft);
        status = slate_draft_restore(draft, stored, one->draft_bytes);
    }
    free(stored);
    return status == SLATE_ERR_ROOM ? SLATE_ERR_DRAFT_DAMAGED : status;
}

/* What is no journal, or a damaged one, can be anything. */
#define DRAFT_BYTES_MOST 67108864u

/* A sound head that is not the present one's: version 1, or one that nobody
 * knows here. */
static enum slate_status open_one(struct slate_journal_one *one,
                                  const struct slate_keeper *keeper)
{
    enum slate_status status = slate_journal_one_open(one, keeper);

    if (status == SLATE_ERR_JOURNAL)
        return SLATE_ERR_JOURNAL_VERSION;
    return status == SLATE_OK && one->draft_bytes > DRAFT_BYTES_MOST
               ? SLATE_ERR_JOURNAL
               : status;
}

static enum slate_status convert_to(struct journal_file *to,
                                    const struct slate_draft *draft,
                                    struct slate_journal_one *one)
{
    char gets[SLATE_JOURNAL_WORDS];
    const struct slate_journal_words words = {gets, ""};
    struct slate_saving saving;
    struct slate_media media;
    uint8_t *work = malloc(WORK_BYTES);
    enum slate_status status =
        work == NULL ? SLATE_ERR_INTERNAL : SLATE_ERR_KEEPER;

    draft_words(draft, gets, sizeof gets);
    if (work != NULL && journal_file_create_aside(to))
        status = slate_journal_one_convert(&saving, draft, &words, one, &media,
                                           &to->keeper, work, WORK_BYTES);
    THEN(status, slate_saving_run(&saving, NULL, NULL));
    free(work);
    return status;
}

enum slate_status journals_convert(struct journal_file *file,
                                   struct slate_journal *journal,
                                   const char *files)
{
    struct slate_draft *draft = drafted_new();
    struct journal_file *to = calloc(1, sizeof *to);
    struct slate_journal_one one;
    uint8_t work[SLATE_WORK_MIN];
    enum slate_status status =
        to == NULL ? SLATE_ERR_INTERNAL : open_one(&one, &file->keeper);

    THEN(status, restore(file, &one, draft));
    THEN(status, slate_journal_one_check(&one, draft, work));
    if (status == SLATE_OK && files != NULL)
        folder_at(draft, files);
    THEN(status, convert_to(to, draft, &one));
    if (status == SLATE_OK) {
        journal_file_close(file);
        *file = *to;
        status = journal_file_reopen(file)
                     ? slate_journal_open(journal, &file->keeper)
                     : SLATE_ERR_KEEPER;
    } else if (to != NULL) {
        journal_file_close(to);
    }
    free(to);
    drafted_free(draft);
    return status;
}

/* One of version 1 tells of itself by its draft. */
static enum slate_status take_words(struct loaded *loaded)
{
    struct slate_draft *draft = drafted_new();
    struct slate_journal_one one;
    enum slate_status status = open_one(&one, &loaded->file.keeper);

    THEN(status, restore(&loaded->file, &one, draft));
    if (status == SLATE_OK)
        draft_words(draft, loaded->journal.gets, sizeof loaded->journal.gets);
    drafted_free(draft);
    return status;
}

static enum slate_status load(struct loaded *loaded, bool whole,
                              const char *files)
{
    uint8_t work[SLATE_WORK_MIN];
    enum slate_status status;

    if (!journal_file_open(&loaded->file, loaded->path))
        return SLATE_ERR_KEEPER;
    status = slate_journal_open(&loaded->journal, &loaded->file.keeper);
    if (status == SLATE_ERR_JOURNAL_VERSION)
        status = whole
                     ? journals_convert(&loaded->file, &loaded->journal, files)
                     : take_words(loaded);
    return status == SLATE_OK && whole
               ? slate_journal_check(&loaded->journal, work)
               : status;
}

struct loaded *journals_load(const char *word, bool whole, const char *files)
{
    struct loaded *loaded = calloc(1, sizeof *loaded);
    struct stat about;

    if (loaded == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    if (!journals_find(word, loaded->path)) {
        loaded->status = SLATE_ERR_ARGUMENT;
        snprintf(loaded->why, sizeof loaded->why,
                 "there is no such journal; 'trueslate journals' lists them");
        return loaded;
    }
    if (stat(loaded->path, &about) == 0)
        loaded->kept = about.st_mtim;
    loaded->status = load(loaded, whole, files);
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
    free(loaded);
}

static uint64_t moment_of(const struct slate_stamp *stamp)
{
    uint64_t moment = stamp->year;

    moment = moment * 16 + stamp->month;
    moment = moment * 32 + stamp->day;
    moment = moment * 32 + stamp->hour;
    moment = moment * 64 + stamp->minute;
    return moment * 64 + stamp->second;
}

/* Changes in place have no stamp: there, when it was kept tells. */
static bool is_later(const struct loaded *one, const struct loaded *other)
{
    uint64_t a = moment_of(&one->journal.stamp);
    uint64_t b = moment_of(&other->journal.stamp);

    if (a != b && a != 0 && b != 0)
        return a > b;
    return one->kept.tv_sec != other->kept.tv_sec
               ? one->kept.tv_sec > other->kept.tv_sec
               : one->kept.tv_nsec > other->kept.tv_nsec;
}

static bool is_newer(const struct loaded *one, const struct loaded *other)
{
    return memcmp(one->journal.identity, other->journal.identity,
                  SLATE_DIGEST_BYTES) == 0 &&
           memcmp(one->journal.seal, other->journal.seal, SLATE_DIGEST_BYTES) !=
               0 &&
           is_later(one, other);
}

/* Does the device hold what was written then, and nothing else since? */
static bool is_in_force(const char *path, struct target *target)
{
    struct loaded *loaded = journals_load(path, true, NULL);
    struct slate_rewind rewind;
    enum slate_status status = loaded->status;

    THEN(status, slate_rewind_begin(&rewind, &loaded->journal, &target->media,
                                    target->work, WORK_BYTES));
    THEN(status, slate_rewind_find(&rewind, NULL, NULL));
    journals_unload(loaded);
    return status == SLATE_OK && rewind.replaced > 0 && rewind.changed == 0;
}

bool journals_newer(const struct loaded *loaded, struct target *target,
                    char newer[STATE_PATH_ROOM])
{
    struct loaded *found = NULL;
    struct state_files files = {0};

    if (!state_find(&files, target->media.tag, JOURNAL_ENDING))
        return false;
    for (uint32_t i = 0; i < files.count; i++) {
        struct loaded *one = journals_load(files.path[i], false, NULL);

        if (one->status == SLATE_OK && !journals_is_rewound(one->path) &&
            is_newer(one, found == NULL ? loaded : found) &&
            is_in_force(one->path, target)) {
            journals_unload(found);
            found = one;
        } else {
            journals_unload(one);
        }
    }
    state_forget(&files);
    if (found != NULL)
        snprintf(newer, STATE_PATH_ROOM, "%s", found->path);
    journals_unload(found);
    return found != NULL;
}
