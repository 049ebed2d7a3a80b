/* SPDX-License-Identifier: MIT */
/* How far overwriting has come, kept while it goes on. */
#include "work/work.h"

#include "draft/draft.h"

#define SHAPE "trueslate.resume/1"
#define ENDING ".resume.json"

static bool place(const struct target *target, const struct slate_draft *draft,
                  char path[STATE_PATH_ROOM])
{
    return state_path(target->media.tag, draft->seal, ENDING, path,
                      STATE_PATH_ROOM);
}

/* Of a file that may have been changed since. */
static void take_failed(json_t *list, struct slate_ranges *failed)
{
    json_t *one;
    size_t i;

    json_array_foreach (list, i, one) {
        json_int_t first = json_integer_value(json_array_get(one, 0));
        json_int_t count = json_integer_value(json_array_get(one, 1));

        if (failed->count == failed->room || first < 0 || count < 1 ||
            (failed->count > 0 &&
             (uint64_t)first <= failed->range[failed->count - 1].first +
                                    failed->range[failed->count - 1].count))
            return;
        failed->range[failed->count++] =
            (struct slate_range){(uint64_t)first, (uint64_t)count};
    }
}

uint64_t resume_load(const struct target *target,
                     const struct slate_draft *draft)
{
    char path[STATE_PATH_ROOM];
    json_t *kept = place(target, draft, path)
                       ? json_load_file(path, JSON_REJECT_DUPLICATES, NULL)
                       : NULL;
    const char *shape = json_string_value(json_object_get(kept, "shape"));
    json_int_t done = json_integer_value(json_object_get(kept, "done"));

    if (shape == NULL || strcmp(shape, SHAPE) != 0 || done < 0)
        done = 0;
    if (done > 0)
        take_failed(json_object_get(kept, "failed"), drafted_failed(draft));
    json_decref(kept);
    return (uint64_t)done;
}

void resume_save(const struct target *target, const struct slate_draft *draft,
                 uint64_t done)
{
    const struct slate_ranges *failed = drafted_failed(draft);
    json_t *list = report_made(json_array()), *kept;
    char path[STATE_PATH_ROOM], *text;

    for (uint32_t i = 0; i < failed->count; i++)
        json_array_append_new(
            list, report_pack("[I, I]", (json_int_t)failed->range[i].first,
                              (json_int_t)failed->range[i].count));
    kept = report_pack("{s:s, s:I, s:o}", "shape", SHAPE, "done",
                       (json_int_t)done, "failed", list);
    text = json_dumps(kept, JSON_COMPACT);
    json_decref(kept);
    if (text != NULL && place(target, draft, path))
        (void)durable_write(path, text, strlen(text));
    free(text);
}

void resume_drop(const struct target *target, const struct slate_draft *draft)
{
    char path[STATE_PATH_ROOM];

    if (place(target, draft, path) && durable_exists(path))
        durable_remove(path);
}
