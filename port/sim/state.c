/* SPDX-License-Identifier: MIT */
/* What a simulated device remembers from run to run beside its blocks. */
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
