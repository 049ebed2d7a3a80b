/* SPDX-License-Identifier: MIT */
/* Fields of a description. */
#include "sim.h"

const char *sim_text_of(const json_t *object, const char *key)
{
    const char *text = json_string_value(json_object_get(object, key));

    return text == NULL ? "" : text;
}

uint64_t sim_number_of(const json_t *object, const char *key)
{
    json_int_t number = json_integer_value(json_object_get(object, key));

    return number < 0 ? 0 : (uint64_t)number;
}

bool sim_flag_of(const json_t *object, const char *key)
{
    return json_is_true(json_object_get(object, key));
}
