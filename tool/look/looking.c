/* SPDX-License-Identifier: MIT */
/* A device is looked at, with what is known of it beside. */
#include "device/device.h"
#include "draft/draft.h"
#include "look/look.h"

/* The room of an earlier look goes with its facts. */
static enum slate_status look(struct target *target, enum slate_depth depth)
{
    struct slate_facts_room room;
    enum slate_status status;

    free(target->room);
    target->room = malloc(sizeof *target->room);
    if (target->room == NULL)
        return SLATE_ERR_INTERNAL;
    room = (struct slate_facts_room){target->room->partition,
                                     target->room->volume, TARGET_PARTITIONS,
                                     target->room->seen, SLATE_EVIDENCE_RANGES};
    slate_facts_place(&target->facts, &room);
    target->facts.layout.second = target->from == FROM_SECOND;
    status = slate_assess_look(&target->media, depth, target->work, WORK_BYTES,
                               &target->facts);
    if (status == SLATE_OK) {
        unfinished_take_note(target);
        target->facts.proved_blocks = capacity_of(target);
        target->weighed = false;
        target->findings = slate_assess_judge(&target->facts, target->finding);
    }
    return status;
}

int target_look_again(struct target *target, bool *changed)
{
    struct slate_facts *shown = malloc(sizeof *shown);
    struct target_room *room = target->room;
    bool same;
    int code;

    if (shown == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    *shown = target->facts; /* refers to the room, which stays for a while */
    target->room = NULL;
    code = target_look(target);
    same = code != 0 || slate_facts_same_medium(shown, &target->facts);
    *changed = code == 0 && !slate_facts_unchanged(shown, &target->facts);
    free(shown);
    free(room);
    return same ? code
                : fail(SLATE_ERR_SWAPPED,
                       "%s: what is in it is not what was shown; nothing was "
                       "written",
                       target->address);
}

/* A device that is there, but not as it should be; else there is no device. */
static bool answers(const struct target *target)
{
    return target->status == SLATE_ERR_NO_MEDIUM ||
           (target->media.port != NULL &&
            (target->status == SLATE_ERR_GEOMETRY ||
             target->status == SLATE_ERR_COMMAND));
}

bool target_take(struct target *target, enum slate_depth depth)
{
    if (target->status == SLATE_OK)
        target->status = look(target, depth);
    if (target->status == SLATE_OK)
        return true;
    if (!answers(target))
        return false;
    slate_assess_unopened(&target->media, target->status, &target->facts);
    target->weighed = false;
    target->findings = slate_assess_judge(&target->facts, target->finding);
    return true;
}

int target_assess(struct target *target)
{
    if (target->status == SLATE_OK)
        return target_look(target);
    return target_take(target, SLATE_DEPTH_FULL)
               ? 0
               : fail(target->status, "%s", target->why);
}

int target_look(struct target *target)
{
    enum slate_status status = look(target, SLATE_DEPTH_FULL);

    if (status == SLATE_OK)
        return 0;
    target_note_fault(target, status);
    return fail(status, "%s", target->why);
}

/* Which devices were attached when the tool was told to remember them. */

static bool memory_path(char *path, size_t room)
{
    char folder[4000];

    return state_folder(folder, sizeof folder) &&
           snprintf(path, room, "%s/attached.json", folder) < (int)room;
}

int state_remember(const struct attached *attached)
{
    json_t *list = report_made(json_array());
    char path[4096];
    bool ok = memory_path(path, sizeof path);
    char *text;

    for (uint32_t i = 0; i < attached->count; i++)
        json_array_append_new(
            list,
            report_hex(attached->target[i]->media.digest, SLATE_DIGEST_BYTES));
    text = json_dumps(list, JSON_INDENT(2));
    ok = ok && text != NULL && durable_write(path, text, strlen(text));
    free(text);
    json_decref(list);
    return ok ? 0
              : fail(SLATE_ERR_ACCESS, "what is attached cannot be remembered: "
                                       "its file cannot be written");
}

json_t *state_remembered(void)
{
    char path[4096];
    json_t *list = NULL;

    if (memory_path(path, sizeof path))
        list = json_load_file(path, 0, NULL);
    return json_is_array(list) ? list : NULL;
}

bool state_forget_one(json_t *list, const struct target *target)
{
    json_t *one = report_hex(target->media.digest, SLATE_DIGEST_BYTES);
    bool found = false;

    for (size_t i = 0; i < json_array_size(list) && !found; i++) {
        if (json_equal(json_array_get(list, i), one)) {
            json_array_remove(list, i);
            found = true;
        }
    }
    json_decref(one);
    return found;
}
