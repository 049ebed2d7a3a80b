/* SPDX-License-Identifier: MIT */
/* Drafts that the tool keeps of its own accord while they are unfinished. */
#include "draft/draft.h"

#define ENDING ".draft.json"

bool unfinished_path(const struct target *target,
                     const uint8_t seal[SLATE_DIGEST_BYTES], char *path,
                     size_t room)
{
    return state_path(target->media.tag, seal, ENDING, path, room);
}

void unfinished_drop(const struct target *target,
                     const uint8_t seal[SLATE_DIGEST_BYTES])
{
    char path[STATE_PATH_ROOM];

    if (unfinished_path(target, seal, path, sizeof path) &&
        durable_exists(path))
        durable_remove(path);
}

/* Block 0 comes first, so it is noted first. */
static bool is_first_unread(const struct slate_facts *facts)
{
    return !facts->marked && facts->unread.count > 0 &&
           facts->unread.lba[0] == 0;
}

#define JOURNAL ".journal"

static bool has_journal(struct target *target, const struct slate_draft *draft)
{
    if (state_path(target->media.tag, draft->seal, JOURNAL, target->undoing,
                   sizeof target->undoing) &&
        durable_exists(target->undoing))
        return true;
    target->undoing[0] = '\0';
    return false;
}

/* Of one that cannot be gone on with here, the journal beside it is the way
 * back: it comes ahead of the first write, and the draft goes with the last. */
static bool is_only_undone(struct target *target, const char *path,
                           enum slate_status status)
{
    size_t stem = strlen(path) - strlen(ENDING);

    if (status != SLATE_ERR_DRAFT_VERSION && status != SLATE_ERR_DRAFT_REVISION)
        return false;
    if (snprintf(target->undoing, sizeof target->undoing, "%.*s" JOURNAL,
                 (int)stem, path) < (int)sizeof target->undoing &&
        durable_exists(target->undoing))
        return true;
    target->undoing[0] = '\0';
    return false;
}

/* Is a kept draft half-way on the device? New partitions beside what stays are
 * nothing that anybody looks at until they get their entries: there the journal
 * tells, which comes ahead of the first write. */
static bool fits(struct target *target, const char *path,
                 const struct slate_draft *draft)
{
    struct slate_enact enact;
    enum slate_status status;

    if ((draft->switched ? draft->goal.overwrite.rounds > 0
                         : !is_first_unread(&target->facts)))
        return false;
    status = slate_enact_check(&enact, draft, &target->media, target->media.tag,
                               target->work, WORK_BYTES);
    if (status == SLATE_ERR_ALREADY && draft->switched)
        snprintf(target->written, sizeof target->written, "%s", path);
    /* its files may be away meanwhile */
    return (status == SLATE_OK || status == SLATE_ERR_SOURCE) &&
           (enact.resumed || (draft->switched && has_journal(target, draft)));
}

/* A change in place that was cut leaves no mark; its draft tells. */
static void take_halfway(struct target *target, const char *path,
                         const struct slate_draft *draft)
{
    target->facts.halfway = true;
    snprintf(target->halfway, sizeof target->halfway, "%s", path);
    (void)has_journal(target, draft);
}

void unfinished_take_note(struct target *target)
{
    struct state_files kept = {0};
    struct slate_draft *draft;
    char address[ADDRESS_ROOM];
    enum slate_status status;
    bool found = false;

    target->halfway[0] = target->undoing[0] = target->written[0] = '\0';
    if (target->facts.marked || !state_find(&kept, target->media.tag, ENDING))
        return;
    draft = drafted_new();
    for (uint32_t i = 0; i < kept.count && !found; i++) {
        status = draft_file_read(kept.path[i], draft, address);
        if (status != SLATE_OK) {
            found = is_only_undone(target, kept.path[i], status);
            target->facts.halfway = found;
            continue;
        }
        found = fits(target, kept.path[i], draft);
        if (found && draft->switched)
            take_halfway(target, kept.path[i], draft);
        else if (found)
            slate_facts_take_draft(&target->facts, draft->seal);
    }
    drafted_free(draft);
    state_forget(&kept);
}

bool unfinished_written(struct target *target, struct slate_draft *draft)
{
    char address[ADDRESS_ROOM];

    return target->written[0] != '\0' &&
           draft_file_read(target->written, draft, address) == SLATE_OK;
}

bool unfinished_is(const struct target *target,
                   const uint8_t seal[SLATE_DIGEST_BYTES])
{
    char path[STATE_PATH_ROOM];

    return (unfinished_path(target, seal, path, sizeof path) &&
            strcmp(path, target->halfway) == 0) ||
           (target->facts.halfway &&
            state_path(target->media.tag, seal, JOURNAL, path, sizeof path) &&
            strcmp(path, target->undoing) == 0);
}

int unfinished_refuse(const struct target *target)
{
    if (!target->facts.halfway)
        return 0;
    return fail(SLATE_ERR_CHANGED,
                "%s: an earlier change of it was cut half-way%s; 'trueslate "
                "assess %s%s' tells how to %sput back what was there",
                target->address,
                target->halfway[0] == '\0'
                    ? ", and cannot be gone on with by this version"
                    : "",
                target->name, target->also,
                target->halfway[0] == '\0' ? "" : "go on with it, or to ");
}

static int fail_unknown(const struct target *target)
{
    char seal[13] = "";
    struct slate_text text = SLATE_TEXT(seal);

    slate_text_bytes(&text, target->facts.mark.seal, 6);
    return fail(
        SLATE_ERR_CHANGED,
        "%s: a renewal by draft %s is unfinished there, and that draft is not "
        "kept here: enact it from where it is, or begin anew with --afresh",
        target->address, seal);
}

/* One of the two ways out is left: back, by what was kept. */
static int fail_other_version(const struct target *target,
                              enum slate_status status)
{
    char journal[STATE_PATH_ROOM], seal[17] = "";
    struct slate_text text = SLATE_TEXT(seal);
    bool kept = state_path(target->media.tag, target->facts.mark.seal, JOURNAL,
                           journal, sizeof journal) &&
                durable_exists(journal);

    slate_text_bytes(&text, target->facts.mark.seal, 8);
    if (kept)
        return fail(status,
                    "%s: what is unfinished there was drafted by another "
                    "version of True Slate, and cannot be gone on with here: "
                    "'trueslate rewind %s-%s%s%s%s' puts back what was there",
                    target->address, target->media.tag, seal,
                    target->is_file ? " " : "",
                    target->is_file ? target->name : "", target->also);
    return fail(
        status,
        "%s: what is unfinished there was drafted by another version of "
        "True Slate: go on with that one, or begin anew with --afresh",
        target->address);
}

int unfinished_load(struct target *target, const struct options *options,
                    struct slate_draft *draft, char *path, size_t room)
{
    const struct slate_mark *mark = &target->facts.mark;
    char address[ADDRESS_ROOM];
    enum slate_status status;
    bool same;
    int code;

    if (options->output != NULL)
        snprintf(path, room, "%s", options->output);
    else if (!unfinished_path(target, mark->seal, path, room))
        return fail_unknown(target);
    if (!durable_exists(path))
        return fail_unknown(target);
    status = draft_file_read(path, draft, address);
    if (status == SLATE_ERR_DRAFT_VERSION || status == SLATE_ERR_DRAFT_REVISION)
        return fail_other_version(target, status);
    TRY(draft_file_load(path, draft, address));
    if (memcmp(draft->seal, mark->seal, sizeof mark->seal) != 0)
        return fail_unknown(target);
    code = asked_compare(target, options, draft, false, &same);
    /* what bears the mark is set up anew: nothing of it is kept */
    if (code == 0 && (!same || options->keep != NULL))
        return fail(
            SLATE_ERR_CHANGED,
            "%s: a renewal with another goal is unfinished there: finish that "
            "one first by naming no goal, or begin anew with --afresh",
            target->address);
    if (code == 0 && options->files != NULL)
        folder_at(draft, options->files);
    return code;
}

/* Is it what is in the same partition, or what none holds, in the same way? */
static bool is_beside(struct target *target, const struct options *options,
                      struct slate_draft *draft)
{
    bool same;

    return draft->table_stays &&
           asked_compare(target, options, draft, true, &same) == 0 && same;
}

static bool goes_on_beside(struct target *target, const struct options *options,
                           const char *path)
{
    struct slate_draft *draft = drafted_new();
    char address[ADDRESS_ROOM];
    struct slate_enact enact;
    bool goes_on =
        draft_file_read(path, draft, address) == SLATE_OK &&
        is_beside(target, options, draft) &&
        slate_enact_check(&enact, draft, &target->media, target->media.tag,
                          target->work, WORK_BYTES) == SLATE_OK;

    drafted_free(draft);
    return goes_on;
}

/* A renewal beside what stays that was cut, asked for once more. */
static bool is_same_halfway(struct target *target,
                            const struct options *options,
                            struct slate_draft *draft, char *path, size_t room)
{
    char address[ADDRESS_ROOM];
    bool same = false;

    if (draft_file_read(target->halfway, draft, address) != SLATE_OK ||
        slate_draft_is_change(draft) ||
        asked_compare(target, options, draft, true, &same) != 0 || !same)
        return false;
    snprintf(path, room, "%s", target->halfway);
    return true;
}

bool unfinished_beside(struct target *target, const struct options *options,
                       struct slate_draft *draft, char *path, size_t room)
{
    struct state_files kept = {0};
    char address[ADDRESS_ROOM];
    bool found = false;

    if (target->facts.halfway)
        return is_same_halfway(target, options, draft, path, room);
    if (options->goal.overwrite.rounds == 0 ||
        (options->empty == 0 && !options->unheld) ||
        !state_find(&kept, target->media.tag, ENDING))
        return false;
    for (uint32_t i = 0; i < kept.count && !found; i++) {
        found = goes_on_beside(target, options, kept.path[i]) &&
                draft_file_read(kept.path[i], draft, address) == SLATE_OK;
        if (found)
            snprintf(path, room, "%s", kept.path[i]);
    }
    state_forget(&kept);
    return found;
}
