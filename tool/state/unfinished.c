/* SPDX-License-Identifier: MIT */
/* Drafts that the tool keeps of its own accord while they are unfinished. */
#include "state/unfinished.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "report/draft_file.h"
#include "drafted.h"
#include "overwriting.h"
#include "state/durable.h"
#include "say.h"
#include "state/state.h"

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

static bool same_ask(const struct slate_ask *a, const struct slate_ask *b)
{
    return a->size_kind == b->size_kind && a->size == b->size &&
           a->bare == b->bare && a->files == b->files && a->start == b->start &&
           a->no_journal == b->no_journal && a->volume == b->volume &&
           a->cluster_bytes == b->cluster_bytes && a->active == b->active &&
           strcmp(a->label, b->label) == 0 && a->mbr_type == b->mbr_type &&
           a->attributes == b->attributes && strcmp(a->name, b->name) == 0 &&
           memcmp(a->gpt_type.bytes, b->gpt_type.bytes,
                  sizeof a->gpt_type.bytes) == 0;
}

static bool same_rounds(const struct slate_overwrite *asked,
                        const struct slate_overwrite *drafted)
{
    for (uint32_t i = 0; i < asked->rounds && i < drafted->rounds; i++) {
        if (asked->round[i].kind != drafted->round[i].kind ||
            asked->round[i].byte != drafted->round[i].byte)
            return false;
    }
    return asked->rounds == 0 || asked->rounds == drafted->rounds;
}

/* Was nothing asked for, or what the draft has? */
static bool is_goal(const struct options *options,
                    const struct slate_draft *drafted)
{
    const struct slate_goal *asked = &options->goal, *goal = &drafted->goal;

    if (!options->asked)
        return true;
    if (asked->use != goal->use || options->asks != drafted->parts ||
        (asked->table_given &&
         (!goal->table_given || asked->table != goal->table)) ||
        (asked->keep_code && !goal->keep_code) ||
        (asked->keep_id && !goal->keep_id) ||
        (asked->entries != 0 && asked->entries != goal->entries) ||
        (asked->cylinders && (!goal->cylinders || asked->heads != goal->heads ||
                              asked->track_sectors != goal->track_sectors)))
        return false;
    if (!same_rounds(&asked->overwrite, &goal->overwrite))
        return false;
    for (uint32_t i = 0; i < options->asks; i++) {
        if (!same_ask(&options->ask[i], &drafted->part[i].ask))
            return false;
    }
    return true;
}

static int fail_unknown(const struct target *target)
{
    char seal[13];
    struct slate_text text;

    slate_text_start(&text, seal, sizeof seal);
    slate_text_bytes(&text, target->facts.mark.seal, 6);
    return fail(SLATE_ERR_CHANGED,
                "%s: a renewal by draft %s is unfinished there, and that draft "
                "is not kept here: enact it from where it is, or begin anew "
                "with --afresh",
                target->address, seal);
}

int unfinished_load(const struct target *target, const struct options *options,
                    struct slate_draft *draft, char *path, size_t room)
{
    const struct slate_mark *mark = &target->facts.mark;
    char address[ADDRESS_ROOM];
    int code;

    if (options->output != NULL)
        snprintf(path, room, "%s", options->output);
    else if (!unfinished_path(target, mark->seal, path, room))
        return fail_unknown(target);
    if (!durable_exists(path))
        return fail_unknown(target);
    code = draft_file_load(path, draft, address);
    if (code != 0)
        return code;
    if (options->files != NULL)
        folder_at(draft, options->files);
    if (memcmp(draft->seal, mark->seal, sizeof mark->seal) != 0)
        return fail_unknown(target);
    if (!is_goal(options, draft))
        return fail(SLATE_ERR_CHANGED,
                    "%s: a renewal with another goal is unfinished there: "
                    "finish that one first by naming no goal, or begin anew "
                    "with --afresh",
                    target->address);
    return 0;
}

/* Is it what is in the same partition, or what none holds, by the same rounds?
 */
static bool is_beside(const struct options *options,
                      const struct slate_draft *draft)
{
    return draft->table_stays && overwriting_emptied(draft) == options->empty &&
           same_rounds(&options->goal.overwrite, &draft->goal.overwrite);
}

static bool goes_on_beside(struct target *target, const struct options *options,
                           const char *path)
{
    struct slate_draft *draft = drafted_new();
    char address[ADDRESS_ROOM];
    struct slate_enact enact;
    bool goes_on =
        draft_file_read(path, draft, address) == SLATE_OK &&
        is_beside(options, draft) &&
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
