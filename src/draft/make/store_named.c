/* SPDX-License-Identifier: MIT */
/* The stored form of a draft: its fields by their names, as CBOR (RFC 8949).
 * What has its default is left out, so that fields may come in later versions.
 */
#include "draft/make/make.h"

#include "base/base.h"

#define DEPTH 8u

/* Where a visit stands: the groups that were entered. */
enum state {
    PENDING, /* nothing of it was written so far */
    MAP,
    ELEMENTS
};

struct level {
    enum state state;
    const char *name; /* to be written once it is not empty; NULL: an element */
};

struct writer {
    struct slate_sink *sink;
    struct level level[DEPTH];
    uint32_t depth;
};

static void put_head(struct writer *writer, uint8_t type, uint64_t value)
{
    uint8_t head[9], info = (uint8_t)value;
    uint32_t width = 0;

    if (value >= 24) { /* 1, 2, 4 or 8 bytes follow */
        info = 24;
        for (width = 1; width < 8 && value >> 8 * width != 0; width *= 2)
            info++;
    }
    head[0] = (uint8_t)(type << 5 | info);
    for (uint32_t i = 0; i < width; i++)
        head[1 + i] = (uint8_t)(value >> 8 * (width - 1 - i));
    slate_sink_put(writer->sink, head, 1 + width);
}

static void put_text(struct writer *writer, const char *text)
{
    put_head(writer, SLATE_CBOR_TEXT, strlen(text));
    slate_sink_put(writer->sink, text, strlen(text));
}

static void put_bytes(struct writer *writer, const uint8_t *bytes,
                      size_t length)
{
    put_head(writer, SLATE_CBOR_BYTES, length);
    slate_sink_put(writer->sink, bytes, length);
}

static void put_byte(struct writer *writer, uint8_t byte)
{
    slate_sink_put(writer->sink, &byte, 1);
}

/* Groups that are open, and not written so far. */
static void open_groups(struct writer *writer)
{
    for (uint32_t i = 0; i < writer->depth; i++) {
        struct level *level = &writer->level[i];

        if (level->state != PENDING)
            continue;
        if (level->name != NULL)
            put_text(writer, level->name);
        level->state = MAP;
        put_byte(writer, SLATE_CBOR_MAP);
    }
}

static void put_key(struct writer *writer, const struct slate_field *field)
{
    open_groups(writer);
    put_text(writer, field->name);
}

/* A list that is empty is left out. */
static void put_count(struct writer *writer, uint32_t count)
{
    struct level *level = &writer->level[writer->depth - 1];
    const char *name = level->name;

    if (count == 0)
        return;
    level->state = ELEMENTS; /* it is no map */
    open_groups(writer);
    put_text(writer, name);
    put_head(writer, SLATE_CBOR_LIST, count);
}

/* Elements are there, even if all in them has its default. */
static bool put_enter(struct writer *writer, const char *name)
{
    if (writer->depth == DEPTH)
        return false;
    writer->level[writer->depth++] = (struct level){PENDING, name};
    if (name == NULL)
        open_groups(writer);
    return true;
}

static void put_leave(struct writer *writer)
{
    if (writer->level[--writer->depth].state == MAP)
        put_byte(writer, SLATE_CBOR_END);
}

static void put_bits(struct writer *writer, const struct slate_field *field)
{
    uint32_t bits = *field->at.word, count = 0;

    for (uint32_t i = 0; i < field->most; i++)
        count += bits >> i & 1;
    put_key(writer, field);
    put_head(writer, SLATE_CBOR_LIST, count);
    for (uint32_t i = 0; i < field->most; i++) {
        if ((bits >> i & 1) != 0)
            put_text(writer, field->name_of(i));
    }
}

static void put_ranges(struct writer *writer, const struct slate_field *field)
{
    const struct slate_ranges *ranges = field->at.ranges;

    put_key(writer, field);
    put_head(writer, SLATE_CBOR_LIST, ranges->count);
    for (uint32_t i = 0; i < ranges->count; i++) {
        put_head(writer, SLATE_CBOR_LIST, 2);
        put_head(writer, SLATE_CBOR_NUMBER, ranges->range[i].first);
        put_head(writer, SLATE_CBOR_NUMBER, ranges->range[i].count);
    }
}

static void put_evidence(struct writer *writer, const struct slate_field *field)
{
    const struct slate_evidence *evidence = field->at.evidence;

    put_key(writer, field);
    put_head(writer, SLATE_CBOR_LIST, evidence->count);
    for (uint32_t i = 0; i < evidence->count; i++) {
        const struct slate_seen *seen = &evidence->seen[i];

        put_head(writer, SLATE_CBOR_LIST, 3);
        put_head(writer, SLATE_CBOR_NUMBER, seen->first);
        put_head(writer, SLATE_CBOR_NUMBER, seen->count);
        put_bytes(writer, seen->check, SLATE_CHECK_BYTES);
    }
}

/* What is zero, empty, or the first of its choices. */
static bool has_default(const struct slate_field *field)
{
    switch (field->kind) {
    case SLATE_FIELD_NUMBER:
        return *field->at.number == 0;
    case SLATE_FIELD_FLAG:
        return !*field->at.flag;
    case SLATE_FIELD_CHOICE:
        return *field->at.word == 0 && field->name_of(0) != NULL;
    case SLATE_FIELD_BITS:
        return *field->at.word == 0;
    case SLATE_FIELD_TEXT:
        return field->at.text[0] == '\0';
    case SLATE_FIELD_BYTES:
        return slate_is_zero(field->at.bytes, (size_t)field->most);
    case SLATE_FIELD_RANGES:
        return field->at.ranges->count == 0;
    case SLATE_FIELD_EVIDENCE:
        return field->at.evidence->count == 0;
    default:
        return field->at.blob->count == 0;
    }
}

static void put_value(struct writer *writer, const struct slate_field *field)
{
    switch (field->kind) {
    case SLATE_FIELD_NUMBER:
        put_key(writer, field);
        put_head(writer, SLATE_CBOR_NUMBER, *field->at.number);
        break;
    case SLATE_FIELD_FLAG:
        put_key(writer, field);
        put_byte(writer, SLATE_CBOR_TRUE);
        break;
    case SLATE_FIELD_CHOICE:
        put_key(writer, field);
        put_text(writer, field->name_of(*field->at.word));
        break;
    case SLATE_FIELD_BITS:
        put_bits(writer, field);
        break;
    case SLATE_FIELD_TEXT:
        put_key(writer, field);
        put_text(writer, field->at.text);
        break;
    case SLATE_FIELD_BYTES:
        put_key(writer, field);
        put_bytes(writer, field->at.bytes, (size_t)field->most);
        break;
    case SLATE_FIELD_RANGES:
        put_ranges(writer, field);
        break;
    case SLATE_FIELD_EVIDENCE:
        put_evidence(writer, field);
        break;
    default:
        put_key(writer, field);
        put_bytes(writer, field->at.blob->byte, field->at.blob->count);
    }
}

static bool put_field(void *context, const struct slate_field *field)
{
    struct writer *writer = context;

    switch (field->kind) {
    case SLATE_FIELD_ENTER:
        return put_enter(writer, field->name);
    case SLATE_FIELD_LEAVE:
        put_leave(writer);
        break;
    case SLATE_FIELD_COUNT:
        put_count(writer, *field->at.word);
        break;
    case SLATE_FIELD_SIZE: /* follows from the others */
    case SLATE_FIELD_TEXT_SIZE:
        break;
    default:
        if (!has_default(field))
            put_value(writer, field);
    }
    return true;
}

/* All of it is a map. */
static void put_all(struct slate_draft *draft, struct slate_sink *sink,
                    bool (*visit)(struct slate_draft *draft,
                                  const struct slate_visitor *visitor))
{
    struct writer writer = {.sink = sink, .depth = 0};
    const struct slate_visitor visitor = {put_field, &writer};

    (void)put_enter(&writer, NULL);
    (void)visit(draft, &visitor);
    put_leave(&writer);
}

void slate_draft_put_named(struct slate_draft *draft, struct slate_sink *sink)
{
    put_all(draft, sink, slate_draft_visit);
}

void slate_draft_put_wish(struct slate_draft *draft, struct slate_sink *sink)
{
    put_all(draft, sink, slate_draft_visit_wish);
}
