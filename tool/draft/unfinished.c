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

void unfinished_files(const struct target *target, char *path, size_t room)
{
    struct slate_draft *draft = drafted_new();
    char kept[STATE_PATH_ROOM], address[ADDRESS_ROOM];

    path[0] = '\0';
    if (unfinished_path(target, target->facts.mark.seal, kept, sizeof kept) &&
        draft_file_read(kept, draft, address) == SLATE_OK)
        snprintf(path, room, "%s", drafted_path(draft));
    drafted_free(draft);
}

/* Block 0 comes first, so it is noted first. */
static bool is_first_unread(const struct slate_facts *facts)
{
    return !facts->marked && facts->unread.count > 0 &&
           facts->unread.lba[0] == 0;
}

static bool fits(struct target *target, const char *path,
                 struct slate_draft *draft)
{
    char address[ADDRESS_ROOM];
    struct slate_enact enact;
    enum slate_status status;

    if (draft_file_read(path, draft, address) != SLATE_OK)
        return false;
    status = slate_enact_check(&enact, draft, &target->media, target->media.tag,
                               target->work, WORK_BYTES);
    /* its files may be away meanwhile */
    return (status == SLATE_OK || status == SLATE_ERR_SOURCE) && enact.resumed;
}

void unfinished_take_note(struct target *target)
{
    struct state_files kept = {0};
    struct slate_draft *draft;

    if (!is_first_unread(&target->facts) ||
        !state_find(&kept, target->media.tag, ENDING))
        return;
    draft = drafted_new();
    for (uint32_t i = 0; i < kept.count; i++) {
        if (!fits(target, kept.path[i], draft))
            continue;
        slate_facts_take_draft(&target->facts, draft->seal);
        break;
    }
    drafted_free(draft);
    state_forget(&kept);
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

int unfinished_load(struct target *target, const struct options *options,
                    struct slate_draft *draft, char *path, size_t room)
{
    const struct slate_mark *mark = &target->facts.mark;
    char address[ADDRESS_ROOM];
    bool same;
    int code;

    if (options->output != NULL)
        snprintf(path, room, "%s", options->output);
    else if (!unfinished_path(target, mark->seal, path, room))
        return fail_unknown(target);
    if (!durable_exists(path))
        return fail_unknown(target);
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

bool unfinished_beside(struct target *target, const struct options *options,
                       struct slate_draft *draft, char *path, size_t room)
{
    struct state_files kept = {0};
    char address[ADDRESS_ROOM];
    bool found = false;

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
