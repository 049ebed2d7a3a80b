/* SPDX-License-Identifier: MIT */
/* The fields of a draft's input as JSON, written and read back: two visitors of
 * the core's list of fields. */
#include "draft/draft.h"

#include "base/base.h"

#define DEPTH 8

/* Where a visit stands: the values that were entered. */
struct level {
    json_t *value;
    const char *name;
    size_t index; /* of a list: the element that comes next */
};

struct visit {
    struct level level[DEPTH];
    size_t depth;
};

static struct level *here(void *context)
{
    struct visit *visit = context;

    return &visit->level[visit->depth];
}

static void set(void *context, const char *name, json_t *value)
{
    json_object_set_new(here(context)->value, name, report_made(value));
}

static bool write_enter(void *context, const char *name)
{
    struct visit *visit = context;
    json_t *value = report_made(json_object());

    if (name == NULL)
        json_array_append_new(here(context)->value, value);
    else
        json_object_set_new(here(context)->value, name, value);
    if (++visit->depth == DEPTH)
        return false;
    *here(context) = (struct level){value, name, 0};
    return true;
}

static bool leave(void *context)
{
    ((struct visit *)context)->depth--;
    return true;
}

/* What was entered is a list: it takes the object's place. */
static bool write_size(void *context, const char *name, bool text,
                       uint64_t *size)
{
    (void)context;
    (void)name;
    (void)text;
    (void)size;
    return true;
}

static bool write_count(void *context, uint32_t *count)
{
    struct level *list = here(context);

    (void)count;
    list->value = report_made(json_array());
    json_object_set_new((list - 1)->value, list->name, list->value);
    return true;
}

static bool write_number(void *context, const char *name, uint64_t *value,
                         uint64_t most)
{
    (void)most;
    set(context, name, json_integer((json_int_t)*value));
    return true;
}

static bool write_flag(void *context, const char *name, bool *value)
{
    set(context, name, json_boolean(*value));
    return true;
}

static bool write_choice(void *context, const char *name, uint32_t *value,
                         slate_name_of name_of, uint32_t choices)
{
    (void)choices;
    set(context, name, json_string(name_of(*value)));
    return true;
}

static bool write_bits(void *context, const char *name, uint32_t *value,
                       slate_name_of name_of, uint32_t choices)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < choices; i++) {
        if ((*value >> i & 1) != 0)
            json_array_append_new(list, report_made(json_string(name_of(i))));
    }
    set(context, name, list);
    return true;
}

static bool write_text(void *context, const char *name, char *text, size_t room)
{
    (void)room;
    set(context, name, json_string(text));
    return true;
}

static bool write_bytes(void *context, const char *name, uint8_t *bytes,
                        size_t length)
{
    set(context, name, report_hex(bytes, length));
    return true;
}

static bool write_ranges(void *context, const char *name,
                         struct slate_ranges *ranges)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < ranges->count; i++)
        json_array_append_new(
            list,
            report_made(json_pack("[I, I]", (json_int_t)ranges->range[i].first,
                                  (json_int_t)ranges->range[i].count)));
    set(context, name, list);
    return true;
}

static bool write_evidence(void *context, const char *name,
                           struct slate_evidence *evidence)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < evidence->count; i++) {
        const struct slate_seen *seen = &evidence->seen[i];

        json_array_append_new(
            list,
            report_made(json_pack("[I, I, o]", (json_int_t)seen->first,
                                  (json_int_t)seen->count,
                                  report_hex(seen->check, SLATE_CHECK_BYTES))));
    }
    set(context, name, list);
    return true;
}

static bool write_blob(void *context, const char *name,
                       struct slate_bytes *bytes)
{
    size_t room = 2 * (size_t)bytes->count + 1;
    char *hex = malloc(room);
    struct slate_text text;

    if (hex == NULL)
        return false;
    slate_text_start(&text, hex, room);
    slate_text_bytes(&text, bytes->byte, bytes->count);
    set(context, name, json_string(hex));
    free(hex);
    return true;
}

void draft_json_add(json_t *object, struct slate_draft *draft)
{
    struct visit visit = {.level = {{.value = object}}};
    const struct slate_visitor writer = {
        write_enter,  leave,          write_count, write_size, write_number,
        write_flag,   write_choice,   write_bits,  write_text, write_bytes,
        write_ranges, write_evidence, write_blob,  &visit};

    (void)slate_draft_visit(draft, &writer);
}

static const json_t *get(void *context, const char *name)
{
    return json_object_get(here(context)->value, name);
}

static bool read_enter(void *context, const char *name)
{
    struct visit *visit = context;
    struct level *from = here(context);
    json_t *value = name == NULL ? json_array_get(from->value, from->index++)
                                 : json_object_get(from->value, name);

    if (value == NULL || ++visit->depth == DEPTH)
        return false;
    *here(context) = (struct level){value, name, 0};
    return true;
}

static bool read_count(void *context, uint32_t *count)
{
    const json_t *list = here(context)->value;

    if (!json_is_array(list) || json_array_size(list) > UINT32_MAX)
        return false;
    *count = (uint32_t)json_array_size(list);
    return true;
}

static bool read_size(void *context, const char *name, bool text,
                      uint64_t *size)
{
    const json_t *value = get(context, name);

    *size = json_is_array(value) ? json_array_size(value)
            : text               ? json_string_length(value) + 1
                                 : json_string_length(value) / 2;
    return json_is_array(value) || json_is_string(value);
}

static bool take_number(const json_t *number, uint64_t *value, uint64_t most)
{
    json_int_t n = json_integer_value(number);

    *value = (uint64_t)n;
    return json_is_integer(number) && n >= 0 && (uint64_t)n <= most;
}

static bool read_number(void *context, const char *name, uint64_t *value,
                        uint64_t most)
{
    return take_number(get(context, name), value, most);
}

static bool read_flag(void *context, const char *name, bool *value)
{
    const json_t *flag = get(context, name);

    *value = json_is_true(flag);
    return json_is_boolean(flag);
}

static bool find_name(const char *word, slate_name_of name_of, uint32_t choices,
                      uint32_t *value)
{
    for (*value = 0; word != NULL && *value < choices; ++*value) {
        const char *name = name_of(*value);

        if (name != NULL && strcmp(name, word) == 0)
            return true;
    }
    *value = 0;
    return false;
}

static bool read_choice(void *context, const char *name, uint32_t *value,
                        slate_name_of name_of, uint32_t choices)
{
    return find_name(json_string_value(get(context, name)), name_of, choices,
                     value);
}

static bool read_bits(void *context, const char *name, uint32_t *value,
                      slate_name_of name_of, uint32_t choices)
{
    const json_t *list = get(context, name), *word;
    uint32_t bit;
    size_t i;

    *value = 0;
    json_array_foreach(list, i, word)
    {
        if (!find_name(json_string_value(word), name_of, choices, &bit))
            return false;
        *value |= (uint32_t)1 << bit;
    }
    return json_is_array(list);
}

static bool read_text(void *context, const char *name, char *text, size_t room)
{
    const char *from = json_string_value(get(context, name));

    if (from == NULL || strlen(from) >= room)
        return false;
    memcpy(text, from, strlen(from) + 1);
    return true;
}

bool draft_json_hex(const char *hex, uint8_t *bytes, size_t length)
{
    if (hex == NULL || strlen(hex) != 2 * length ||
        strspn(hex, "0123456789abcdef") != 2 * length)
        return false;
    for (size_t i = 0; i < length; i++) {
        char pair[3] = {hex[2 * i], hex[2 * i + 1], '\0'};

        bytes[i] = (uint8_t)strtoul(pair, NULL, 16);
    }
    return true;
}

static bool read_bytes(void *context, const char *name, uint8_t *bytes,
                       size_t length)
{
    return draft_json_hex(json_string_value(get(context, name)), bytes, length);
}

static bool read_ranges(void *context, const char *name,
                        struct slate_ranges *ranges)
{
    const json_t *list = get(context, name);

    if (!json_is_array(list) || json_array_size(list) > ranges->room)
        return false;
    ranges->count = (uint32_t)json_array_size(list);
    for (uint32_t i = 0; i < ranges->count; i++) {
        const json_t *pair = json_array_get(list, i);

        if (!take_number(json_array_get(pair, 0), &ranges->range[i].first,
                         INT64_MAX) ||
            !take_number(json_array_get(pair, 1), &ranges->range[i].count,
                         INT64_MAX))
            return false;
    }
    return true;
}

static bool read_evidence(void *context, const char *name,
                          struct slate_evidence *evidence)
{
    const json_t *list = get(context, name);

    if (!json_is_array(list) || json_array_size(list) > evidence->room)
        return false;
    evidence->count = (uint32_t)json_array_size(list);
    for (uint32_t i = 0; i < evidence->count; i++) {
        struct slate_seen *seen = &evidence->seen[i];
        const json_t *one = json_array_get(list, i);

        if (!take_number(json_array_get(one, 0), &seen->first, INT64_MAX) ||
            !take_number(json_array_get(one, 1), &seen->count, INT64_MAX) ||
            !draft_json_hex(json_string_value(json_array_get(one, 2)),
                            seen->check, SLATE_CHECK_BYTES))
            return false;
    }
    return true;
}

static bool read_blob(void *context, const char *name,
                      struct slate_bytes *bytes)
{
    const char *hex = json_string_value(get(context, name));

    if (hex == NULL || strlen(hex) / 2 > bytes->room)
        return false;
    bytes->count = (uint32_t)(strlen(hex) / 2);
    return draft_json_hex(hex, bytes->byte, bytes->count);
}

bool draft_json_take(json_t *object, struct slate_draft *draft)
{
    struct visit visit = {.level = {{.value = object}}};
    const struct slate_visitor reader = {
        read_enter,  leave,         read_count, read_size, read_number,
        read_flag,   read_choice,   read_bits,  read_text, read_bytes,
        read_ranges, read_evidence, read_blob,  &visit};

    return slate_draft_visit(draft, &reader);
}
