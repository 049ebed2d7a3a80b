/* SPDX-License-Identifier: MIT */
/* What a simulated device remembers from run to run beside its blocks. */

#include "sim.h"

void sim_state_open(struct sim_state *state, const char *path)
{
    snprintf(state->path, sizeof state->path, "%s", path);
    state->values = json_load_file(path, 0, NULL);
    if (state->values == NULL)
        state->values = json_object();
}

void sim_state_close(struct sim_state *state)
{
    json_decref(state->values);
    state->values = NULL;
}

uint64_t sim_state_get(const struct sim_state *state, const char *key)
{
    json_int_t value = json_integer_value(json_object_get(state->values, key));

    return value < 0 ? 0 : (uint64_t)value;
}

bool sim_state_text(const struct sim_state *state, const char *key, char *text,
                    size_t room)
{
    const char *value = json_string_value(json_object_get(state->values, key));

    if (value != NULL)
        snprintf(text, room, "%s", value);
    return value != NULL;
}

/* Another unit of the body may be open as well. */
static void set(const struct sim_state *state, const char *key, json_t *value)
{
    json_t *others = json_load_file(state->path, 0, NULL);

    if (others != NULL)
        (void)json_object_update(state->values, others);
    json_decref(others);
    json_object_set_new(state->values, key, value);
    (void)json_dump_file(state->values, state->path, JSON_INDENT(2));
}

void sim_state_set(const struct sim_state *state, const char *key,
                   uint64_t value)
{
    set(state, key, json_integer((json_int_t)value));
}

void sim_state_set_text(const struct sim_state *state, const char *key,
                        const char *text, size_t length)
{
    set(state, key, json_stringn(text, length));
}

uint64_t sim_get(const struct slate_sim *sim, const char *key)
{
    return sim_state_get(&sim->state, key);
}

void sim_set(const struct slate_sim *sim, const char *key, uint64_t value)
{
    sim_state_set(&sim->state, key, value);
}
