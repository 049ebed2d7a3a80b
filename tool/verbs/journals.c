/* SPDX-License-Identifier: MIT */
/* journals: what was kept ahead of writing, and letting go of it. */
#include <errno.h>
#include <sys/stat.h>

#include "device/device.h"
#include "draft/draft.h"
#include "work/work.h"
#include "verbs/verbs.h"
#include "term/term.h"
#include "view/view.h"

/* What a journal is still good for. */
enum use {
    USE_KEPT,      /* it was not compared */
    USE_REWOUND,   /* it has been rewound: no device is compared with it */
    USE_REWIND,    /* the device holds what the draft wrote */
    USE_AS_BEFORE, /* the device is as it was */
    USE_CHANGED,   /* it was used since */
    USE_AWAY,      /* it is not attached, or an image */
    USE_BUSY,      /* it cannot be looked at */
    USE_OTHER,     /* another version's draft is needed for it */
    USE_DAMAGED    /* the journal is */
};

static const struct {
    const char *name, *words;
    enum paint paint;
} uses[] = {
    {"kept", "kept; --compare tells whether it can be rewound still",
     PAINT_PLAIN},
    {"rewound", "has been rewound; it goes with the next change", PAINT_PLAIN},
    {"rewind", "can be rewound", PAINT_GOOD},
    {"as-before", "the device is as it was then", PAINT_PLAIN},
    {"changed", "the device has been used since", PAINT_BAD},
    {"away", "the device is not attached, or is an image", PAINT_PLAIN},
    {"busy", "the device cannot be looked at now", PAINT_PLAIN},
    {"other-version", "rewind it with the version that kept it", PAINT_BAD},
    {"damaged", "damaged", PAINT_BAD},
};

struct listed {
    struct loaded *loaded;
    enum use use;
    bool checked;     /* all of it was read */
    uint64_t changed; /* blocks */
    off_t bytes;
    char when[32]; /* "2031-05-07 14:21" */
};

static enum use compare(struct loaded *loaded, struct target *target,
                        struct listed *listed)
{
    struct slate_rewind rewind;
    struct progress progress;
    enum slate_status status = slate_rewind_begin(
        &rewind, &loaded->journal, &target->media, target->work, WORK_BYTES);

    progress_begin(&progress, "Comparing");
    if (status == SLATE_OK)
        status = slate_rewind_find(&rewind, progress_step, &progress);
    progress_end(&progress);
    if (status != SLATE_OK)
        return USE_BUSY;
    listed->changed = rewind.changed;
    if (rewind.changed > 0)
        return USE_CHANGED;
    return rewind.replaced > 0 ? USE_REWIND : USE_AS_BEFORE;
}

static enum use find_use(const struct options *options, struct listed *listed)
{
    struct loaded *loaded = listed->loaded;
    struct target target;
    enum use use = USE_AWAY;

    if (loaded->status != SLATE_OK)
        return loaded->status == SLATE_ERR_JOURNAL_VERSION ||
                       loaded->status == SLATE_ERR_DRAFT_VERSION ||
                       loaded->status == SLATE_ERR_DRAFT_REVISION
                   ? USE_OTHER
                   : USE_DAMAGED;
    if (journals_is_rewound(loaded->path))
        return USE_REWOUND;
    if (!options->compare)
        return USE_KEPT;
    if (target_try(&target, loaded->journal.tag, options->bench, 0) ==
            SLATE_OK &&
        memcmp(target.media.digest, loaded->journal.identity,
               SLATE_DIGEST_BYTES) == 0)
        use = compare(loaded, &target, listed);
    target_close(&target);
    return use;
}

static void list_one(const char *path, const struct options *options,
                     struct listed *listed)
{
    struct stat about = {0};
    struct tm when;

    listed->loaded = journals_load(path, options->compare, NULL);
    if (stat(path, &about) == 0 && localtime_r(&about.st_mtime, &when) != NULL)
        strftime(listed->when, sizeof listed->when, "%Y-%m-%d %H:%M", &when);
    listed->bytes = about.st_size;
    listed->checked = options->compare && listed->loaded->status == SLATE_OK;
    listed->use = find_use(options, listed);
}

static void tell_one(const struct listed *listed, const char *ahead)
{
    const struct loaded *loaded = listed->loaded;
    char name[STATE_PATH_ROOM], size[SLATE_SIZE_TEXT];

    journals_name(loaded->path, name);
    slate_size_decimal((uint64_t)listed->bytes, size);
    fputs(ahead, stdout);
    painted(PAINT_STRONG, "%s", plain_word(name));
    printf("  kept %s, %s\n", listed->when, size);
    if (loaded->status == SLATE_OK)
        print_line("Of", PAINT_PLAIN, "%s, before it got %s%s%s",
                   loaded->journal.tag, loaded->journal.gets,
                   loaded->journal.had[0] == '\0' ? "" : "; until then: ",
                   loaded->journal.had);
    if (listed->use == USE_DAMAGED)
        print_line("State", uses[listed->use].paint, "%s", loaded->why);
    else if (listed->use == USE_CHANGED)
        print_line("State", uses[listed->use].paint, "%s: %llu block%s",
                   uses[listed->use].words, (unsigned long long)listed->changed,
                   listed->changed == 1 ? " differs" : "s differ");
    else
        print_line("State", uses[listed->use].paint, "%s",
                   uses[listed->use].words);
}

static json_t *report_one(const struct listed *listed)
{
    const struct loaded *loaded = listed->loaded;
    char name[STATE_PATH_ROOM];
    bool good = loaded->status == SLATE_OK;

    journals_name(loaded->path, name);
    return report_pack(
        "{s:o, s:o, s:s, s:I, s:s, s:s, s:s, s:s, s:o, s:o}", "name",
        report_shown(name), "path", report_shown(loaded->path), "kept",
        listed->when, "bytes", (json_int_t)listed->bytes, "state",
        uses[listed->use].name, "tag", good ? loaded->journal.tag : "",
        "before", good ? loaded->journal.gets : "", "had",
        good ? loaded->journal.had : "", "seal",
        good ? report_hex(loaded->journal.seal, SLATE_DIGEST_BYTES)
             : json_null(),
        "blocks_unread",
        listed->checked ? json_integer((json_int_t)loaded->journal.lost)
                        : json_null());
}

/* Those that are named, or all of our own place; of a device by its tag. */
static int find_all(const struct options *options, struct state_files *files)
{
    char tag[SLATE_TAG_ROOM] = "", path[STATE_PATH_ROOM];

    if (options->count == 0 ||
        (options->count == 1 && !options->drop &&
         !journals_find(options->operand, path) &&
         address_tag(options->operand, tag) == strlen(options->operand)))
        return state_find(files, tag, JOURNAL_ENDING)
                   ? 0
                   : fail(
                         SLATE_ERR_ACCESS,
                         "there is no place where journals are kept; set HOME");
    files->path = calloc(options->count, sizeof *files->path);
    for (uint32_t i = 0; files->path != NULL && i < options->count; i++) {
        if (!journals_find(options->more[i], files->path[files->count++]))
            return fail(
                SLATE_ERR_ARGUMENT,
                "%s: there is no such journal; 'trueslate journals' lists them",
                plain_word(options->more[i]));
    }
    return files->path == NULL ? fail(SLATE_ERR_INTERNAL, "out of memory") : 0;
}

/* In our own place one may be damaged from its first byte on. */
static bool is_journal(const char *path)
{
    struct loaded *loaded = journals_load(path, false, NULL);
    char name[STATE_PATH_ROOM];
    bool is = loaded->journal.block_bytes > 0;

    journals_name(path, name);
    journals_unload(loaded);
    return is || strcmp(name, path) != 0;
}

/* Nothing but a journal is taken away. */
static int drop(const struct state_files *files, const struct options *options)
{
    if (options->count == 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "journals: expected the names of those to drop");
    for (uint32_t i = 0; i < files->count; i++) {
        if (!is_journal(files->path[i]))
            return fail(SLATE_ERR_JOURNAL, "%s: is no journal; it stays",
                        plain_word(options->more[i]));
        durable_remove(files->path[i]);
        if (durable_exists(files->path[i]))
            return fail(SLATE_ERR_ACCESS, "%s: cannot be taken away: %s",
                        plain_word(options->more[i]), strerror(errno));
        if (!options->json)
            printf("%s is gone.\n", plain_word(options->more[i]));
    }
    return 0;
}

/* What has to be put back first stands first. */
static int newest_first(const void *one, const void *other)
{
    const struct timespec *a = &((const struct listed *)one)->loaded->kept;
    const struct timespec *b = &((const struct listed *)other)->loaded->kept;

    return a->tv_sec != b->tv_sec
               ? (a->tv_sec < b->tv_sec) - (a->tv_sec > b->tv_sec)
               : (a->tv_nsec < b->tv_nsec) - (a->tv_nsec > b->tv_nsec);
}

static void tell_all(const struct listed *listed, size_t count)
{
    for (size_t i = 0; i < count; i++)
        tell_one(&listed[i], i == 0 ? "" : "\n");
    if (count == 0)
        puts("No journals are kept.");
}

static int report_all(const struct listed *listed, size_t count)
{
    json_t *reports = report_made(json_array());

    for (size_t i = 0; i < count; i++)
        json_array_append_new(reports, report_one(&listed[i]));
    return report_print(report_pack(
        "{s:s, s:o}", "shape", "trueslate.journals/2", "journals", reports));
}

static int list(const struct state_files *files, const struct options *options)
{
    struct listed *listed = calloc(files->count + 1, sizeof *listed);
    int code = 0;

    if (listed == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    progress_catch_interrupts();
    for (size_t i = 0; i < files->count; i++)
        list_one(files->path[i], options, &listed[i]);
    qsort(listed, files->count, sizeof *listed, newest_first);
    if (options->json)
        code = report_all(listed, files->count);
    else
        tell_all(listed, files->count);
    for (size_t i = 0; i < files->count; i++)
        journals_unload(listed[i].loaded);
    free(listed);
    return code;
}

int verb_journals(const struct options *options)
{
    struct state_files files = {0};
    int code = find_all(options, &files);

    THEN(code, options->drop ? drop(&files, options) : list(&files, options));
    state_forget(&files);
    return code;
}
