/* SPDX-License-Identifier: MIT */
/* The fields of a draft's input as JSON, written and read back: two visitors of
 * the core's list of fields. */
#include "draft/draft.h"

#define DEPTH 8

/* Where a visit stands: the values that were entered. */
struct level {
    json_t *value;
    const char *name;
    size_t index; /* of a list: the element that comes next */
    size_t taken; /* of a group that is read: members */
};

struct visit {
    struct level level[DEPTH];
    size_t depth;
    bool later; /* there is something that is not known here */
};

static struct level *here(void *context)
{
    struct visit *visit = context;

    return &visit->level[visit->depth];
}

static void set(struct visit *visit, const char *name, json_t *value)
{
    json_object_set_new(here(visit)->value, name, report_made(value));
}

static bool enter(struct visit *visit, const char *name, json_t *value)
{
    if (value == NULL || ++visit->depth == DEPTH)
        return false;
    *here(visit) = (struct level){value, name, 0, 0};
    return true;
}

static bool write_enter(struct visit *visit, const char *name)
{
    json_t *value = report_made(json_object());

    if (name == NULL)
        json_array_append_new(here(visit)->value, value);
    else
        json_object_set_new(here(visit)->value, name, value);
    return enter(visit, name, value);
}

/* What was entered is a list: it takes the object's place. */
static void write_list(struct visit *visit)
{
    struct level *list = here(visit);

    list->value = report_made(json_array());
    json_object_set_new((list - 1)->value, list->name, list->value);
}

static json_t *json_of_bits(const struct slate_field *field)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < field->most; i++) {
        if ((*field->at.word >> i & 1) != 0)
            json_array_append_new(list,
                                  report_made(json_string(field->name_of(i))));
    }
    return list;
}

static json_t *json_of_ranges(const struct slate_ranges *ranges)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < ranges->count; i++)
        json_array_append_new(
            list, report_pack("[I, I]", (json_int_t)ranges->range[i].first,
                              (json_int_t)ranges->range[i].count));
    return list;
}

static json_t *json_of_evidence(const struct slate_evidence *evidence)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < evidence->count; i++) {
        const struct slate_seen *seen = &evidence->seen[i];

        json_array_append_new(
            list, report_pack("[I, I, o]", (json_int_t)seen->first,
                              (json_int_t)seen->count,
                              report_hex(seen->check, SLATE_CHECK_BYTES)));
    }
    return list;
}

static bool write_field(void *context, const struct slate_field *field)
{
    const char *name = field->name;

    switch (field->kind) {
    case SLATE_FIELD_ENTER:
        return write_enter(context, name);
    case SLATE_FIELD_LEAVE:
        ((struct visit *)context)->depth--;
        break;
    case SLATE_FIELD_COUNT:
        write_list(context);
        break;
    case SLATE_FIELD_NUMBER:
        set(context, name, json_integer((json_int_t)*field->at.number));
        break;
    case SLATE_FIELD_FLAG:
        set(context, name, json_boolean(*field->at.flag));
        break;
    case SLATE_FIELD_CHOICE:
        set(context, name, json_string(field->name_of(*field->at.word)));
        break;
    case SLATE_FIELD_BITS:
        set(context, name, json_of_bits(field));
        break;
    case SLATE_FIELD_TEXT:
        set(context, name, json_string(field->at.text));
        break;
    case SLATE_FIELD_BYTES:
        set(context, name, report_hex(field->at.bytes, (size_t)field->most));
        break;
    case SLATE_FIELD_RANGES:
        set(context, name, json_of_ranges(field->at.ranges));
        break;
    case SLATE_FIELD_EVIDENCE:
        set(context, name, json_of_evidence(field->at.evidence));
        break;
    case SLATE_FIELD_BLOB:
        set(context, name,
            report_hex(field->at.blob->byte, field->at.blob->count));
        break;
    case SLATE_FIELD_SIZE:
    case SLATE_FIELD_TEXT_SIZE:
    default:
        break;
    }
    return true;
}

void draft_json_add(json_t *object, struct slate_draft *draft)
{
    struct visit visit = {.level = {{.value = object}}};
    const struct slate_visitor writer = {write_field, &visit};

    (void)slate_draft_visit(draft, &writer);
}

/* A group or list that is missing is empty. */
static bool read_enter(struct visit *visit, const char *name)
{
    struct level *from = here(visit);
    json_t *value = name == NULL ? json_array_get(from->value, from->index++)
                                 : json_object_get(from->value, name);

    if (name != NULL && value != NULL)
        from->taken++;
    return enter(visit, name,
                 name != NULL && value == NULL ? json_null() : value);
}

/* Has all that is in a group been read? */
static bool is_known(struct visit *visit)
{
    const struct level *level = here(visit);

    if (json_is_object(level->value) &&
        level->taken < json_object_size(level->value))
        visit->later = true;
    return !visit->later;
}

static bool read_leave(struct visit *visit)
{
    bool known = is_known(visit);

    visit->depth--;
    return known;
}

static bool take_count(const json_t *list, uint32_t *count, uint32_t most)
{
    if (!json_is_array(list) || json_array_size(list) > most)
        return false;
    *count = (uint32_t)json_array_size(list);
    return true;
}

static bool take_size(const json_t *value, bool text, uint64_t *size)
{
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

static bool take_flag(const json_t *flag, bool *value)
{
    *value = json_is_true(flag);
    return json_is_boolean(flag);
}

static bool take_name(const json_t *word, const struct slate_field *field,
                      uint32_t *value)
{
    const char *wanted = json_string_value(word);

    for (*value = 0; wanted != NULL && *value < field->most; ++*value) {
        const char *name = field->name_of(*value);

        if (name != NULL && strcmp(name, wanted) == 0)
            return true;
    }
    *value = 0;
    return false;
}

static bool take_bits(const json_t *list, const struct slate_field *field)
{
    const json_t *word;
    uint32_t bit;
    size_t i;

    *field->at.word = 0;
    json_array_foreach (list, i, word) {
        if (!take_name(word, field, &bit))
            return false;
        *field->at.word |= (uint32_t)1 << bit;
    }
    return json_is_array(list);
}

static bool take_text(const json_t *value, char *text, uint64_t room)
{
    const char *from = json_string_value(value);

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

static bool take_ranges(const json_t *list, struct slate_ranges *ranges)
{
    bool read = take_count(list, &ranges->count, ranges->room);

    for (uint32_t i = 0; read && i < ranges->count; i++) {
        const json_t *pair = json_array_get(list, i);

        read = take_number(json_array_get(pair, 0), &ranges->range[i].first,
                           INT64_MAX) &&
               take_number(json_array_get(pair, 1), &ranges->range[i].count,
                           INT64_MAX);
    }
    return read;
}

static bool take_evidence(const json_t *list, struct slate_evidence *evidence)
{
    bool read = take_count(list, &evidence->count, evidence->room);

    for (uint32_t i = 0; read && i < evidence->count; i++) {
        struct slate_seen *seen = &evidence->seen[i];
        const json_t *one = json_array_get(list, i);

        read = take_number(json_array_get(one, 0), &seen->first, INT64_MAX) &&
               take_number(json_array_get(one, 1), &seen->count, INT64_MAX) &&
               draft_json_hex(json_string_value(json_array_get(one, 2)),
                              seen->check, SLATE_CHECK_BYTES);
    }
    return read;
}

static bool take_blob(const char *hex, struct slate_bytes *blob)
{
    if (hex == NULL || strlen(hex) / 2 > blob->room)
        return false;
    blob->count = (uint32_t)(strlen(hex) / 2);
    return draft_json_hex(hex, blob->byte, blob->count);
}

static bool take_value(struct visit *visit, const json_t *value,
                       const struct slate_field *field)
{
    bool known = true;

    switch (field->kind) {
    case SLATE_FIELD_NUMBER:
        return take_number(value, field->at.number, field->most);
    case SLATE_FIELD_FLAG:
        return take_flag(value, field->at.flag);
    case SLATE_FIELD_CHOICE:
        known = take_name(value, field, field->at.word);
        visit->later = visit->later || (!known && json_is_string(value));
        return known;
    case SLATE_FIELD_BITS:
        known = take_bits(value, field);
        visit->later = visit->later || (!known && json_is_array(value));
        return known;
    case SLATE_FIELD_TEXT:
        return take_text(value, field->at.text, field->most);
    case SLATE_FIELD_BYTES:
        return draft_json_hex(json_string_value(value), field->at.bytes,
                              (size_t)field->most);
    case SLATE_FIELD_RANGES:
        return take_ranges(value, field->at.ranges);
    case SLATE_FIELD_EVIDENCE:
        return take_evidence(value, field->at.evidence);
    case SLATE_FIELD_BLOB:
    default:
        return take_blob(json_string_value(value), field->at.blob);
    }
}

static bool read_size(const json_t *value, const struct slate_field *field)
{
    bool text = field->kind == SLATE_FIELD_TEXT_SIZE;

    *field->at.number = text ? 1 : 0;
    return value == NULL || take_size(value, text, field->at.number);
}

static bool read_field(void *context, const struct slate_field *field)
{
    struct level *level = here(context);
    const json_t *value = json_object_get(level->value, field->name);

    switch (field->kind) {
    case SLATE_FIELD_ENTER:
        return read_enter(context, field->name);
    case SLATE_FIELD_LEAVE:
        return read_leave(context);
    case SLATE_FIELD_COUNT:
        *field->at.word = 0;
        return json_is_null(level->value) ||
               take_count(level->value, field->at.word, UINT32_MAX);
    case SLATE_FIELD_SIZE:
    case SLATE_FIELD_TEXT_SIZE:
        return read_size(value, field);
    default:
        if (value == NULL)
            return slate_field_set_default(field);
        level->taken++;
        return take_value(context, value, field);
    }
}

/* Of the whole, what stands beside its input is there to be read. */
static size_t count_others(const json_t *object)
{
    static const char *const others[] = {
        "shape",  "version", "tag",        "device",           "before",
        "result", "seal",    "files_from", "files_from_bytes", "address_bytes"};
    size_t count = 0;

    for (size_t i = 0; i < sizeof others / sizeof others[0]; i++)
        count += json_object_get(object, others[i]) != NULL;
    return count;
}

enum slate_status draft_json_take(json_t *object, struct slate_draft *draft)
{
    struct visit visit = {
        .level = {{.value = object, .taken = count_others(object)}}};
    const struct slate_visitor reader = {read_field, &visit};

    if (slate_draft_visit(draft, &reader) && is_known(&visit))
        return SLATE_OK;
    return visit.later ? SLATE_ERR_DRAFT_VERSION : SLATE_ERR_DRAFT_DAMAGED;
}
