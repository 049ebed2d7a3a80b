/* SPDX-License-Identifier: MIT */
/* Which devices were attached when the tool was told to remember them. */
#include "look/look.h"

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
