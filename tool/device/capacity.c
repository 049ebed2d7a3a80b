/* SPDX-License-Identifier: MIT */
/* True capacities, a file for each device that claims more. */
#include "device/device.h"

#define SHAPE "trueslate.capacity/1"
#define ENDING ".capacity.json"

/* Two devices without serial numbers may not be told apart. */
static bool place(const struct target *target, char path[STATE_PATH_ROOM])
{
    return target->media.identity.serial[0] != '\0' && !target->is_file &&
           state_path(target->media.tag, target->media.digest, ENDING, path,
                      STATE_PATH_ROOM);
}

uint64_t capacity_of(const struct target *target)
{
    char path[STATE_PATH_ROOM];
    json_t *kept = place(target, path)
                       ? json_load_file(path, JSON_REJECT_DUPLICATES, NULL)
                       : NULL;
    const char *shape = json_string_value(json_object_get(kept, "shape"));
    json_int_t blocks = json_integer_value(json_object_get(kept, "blocks"));

    if (shape == NULL || strcmp(shape, SHAPE) != 0 || blocks < 1 ||
        (uint64_t)blocks >= target->media.geometry.block_count)
        blocks = 0;
    json_decref(kept);
    return (uint64_t)blocks;
}

bool capacity_keep(const struct target *target, uint64_t blocks)
{
    json_t *kept =
        report_pack("{s:s, s:I}", "shape", SHAPE, "blocks", (json_int_t)blocks);
    char path[STATE_PATH_ROOM], *text = json_dumps(kept, JSON_COMPACT);
    bool ok = text != NULL && place(target, path) &&
              durable_write(path, text, strlen(text));

    json_decref(kept);
    free(text);
    return ok;
}

void capacity_drop(const struct target *target)
{
    char path[STATE_PATH_ROOM];

    if (place(target, path) && durable_exists(path))
        durable_remove(path);
}
