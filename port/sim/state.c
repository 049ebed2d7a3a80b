/* SPDX-License-Identifier: MIT */
/* What a simulated device remembers from run to run beside its blocks. */
#include <stdio.h>

#include "sim.h"

uint64_t sim_state_get(const char *state_path, const char *key)
{
    json_t *state = json_load_file(state_path, 0, NULL);
    json_int_t value = json_integer_value(json_object_get(state, key));

    json_decref(state);
    return value < 0 ? 0 : (uint64_t)value;
}

void sim_state_set(const char *state_path, const char *key, uint64_t value)
{
    json_t *state = json_load_file(state_path, 0, NULL);

    if (state == NULL)
        state = json_object();
    json_object_set_new(state, key, json_integer((json_int_t)value));
    (void)json_dump_file(state, state_path, JSON_INDENT(2));
    json_decref(state);
}

bool sim_state_text(const char *state_path, const char *key, char *text,
                    size_t room)
{
    json_t *state = json_load_file(state_path, 0, NULL);
    const char *value = json_string_value(json_object_get(state, key));

    if (value != NULL)
        snprintf(text, room, "%s", value);
    json_decref(state);
    return value != NULL;
}

void sim_state_set_text(const char *state_path, const char *key,
                        const char *text, size_t length)
{
    json_t *state = json_load_file(state_path, 0, NULL);

    if (state == NULL)
        state = json_object();
    json_object_set_new(state, key, json_stringn(text, length));
    (void)json_dump_file(state, state_path, JSON_INDENT(2));
    json_decref(state);
}
