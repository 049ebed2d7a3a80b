/* SPDX-License-Identifier: MIT */
/* The stored form of version 13, in which fields stood one after the other
 * without names: read, and digested for its seal; no longer written. */
#include "draft/make/make.h"

#include "base/base.h"

static void put_u64(struct slate_sink *sink, uint64_t value)
{
    uint8_t bytes[8];

    slate_put_le64(bytes, value);
    slate_sink_put(sink, bytes, sizeof bytes);
}

static void put_u32(struct slate_sink *sink, uint32_t value)
{
    uint8_t bytes[4];

    slate_put_le32(bytes, value);
    slate_sink_put(sink, bytes, sizeof bytes);
}

static void put_ranges(struct slate_sink *sink,
                       const struct slate_ranges *ranges)
{
    put_u32(sink, ranges->count);
    for (uint32_t i = 0; i < ranges->count; i++) {
        put_u64(sink, ranges->range[i].first);
        put_u64(sink, ranges->range[i].count);
    }
}

static void put_evidence(struct slate_sink *sink,
                         const struct slate_evidence *evidence)
{
    put_u32(sink, evidence->count);
    for (uint32_t i = 0; i < evidence->count; i++) {
        put_u64(sink, evidence->seen[i].first);
        put_u64(sink, evidence->seen[i].count);
        slate_sink_put(sink, evidence->seen[i].check, SLATE_CHECK_BYTES);
    }
}

static bool put_field(void *context, const struct slate_field *field)
{
    struct slate_sink *sink = context;

    switch (field->kind) {
    case SLATE_FIELD_COUNT:
    case SLATE_FIELD_CHOICE:
    case SLATE_FIELD_BITS:
        put_u32(sink, *field->at.word);
        break;
    case SLATE_FIELD_NUMBER:
        put_u64(sink, *field->at.number);
        break;
    case SLATE_FIELD_FLAG:
        put_u32(sink, *field->at.flag ? 1 : 0);
        break;
    case SLATE_FIELD_TEXT: /* with its final zero */
        slate_sink_put(sink, field->at.text, strlen(field->at.text) + 1);
        break;
    case SLATE_FIELD_BYTES:
        slate_sink_put(sink, field->at.bytes, (size_t)field->most);
        break;
    case SLATE_FIELD_RANGES:
        put_ranges(sink, field->at.ranges);
        break;
    case SLATE_FIELD_EVIDENCE:
        put_evidence(sink, field->at.evidence);
        break;
    case SLATE_FIELD_BLOB:
        put_u32(sink, field->at.blob->count);
        slate_sink_put(sink, field->at.blob->byte, field->at.blob->count);
        break;
    default: /* follows from the others */
        break;
    }
    return true;
}

void slate_draft_put_thirteen(struct slate_draft *draft,
                              struct slate_sink *sink)
{
    const struct slate_visitor writer = {put_field, sink};

    put_u32(sink, 13);
    (void)slate_draft_visit(draft, &writer);
}

/* What is left of a stored form; too little of it, or a value that cannot be,
 * ends the visit. */
struct source {
    const uint8_t *bytes;
    size_t left;
};

static const uint8_t *take(struct source *source, size_t length)
{
    const uint8_t *bytes = source->bytes;

    if (length > source->left)
        return NULL;
    source->bytes += length;
    source->left -= length;
    return bytes;
}

static bool take_u64(struct source *source, uint64_t *value)
{
    const uint8_t *bytes = take(source, 8);

    if (bytes != NULL)
        *value = slate_le64(bytes);
    return bytes != NULL;
}

static bool take_u32(struct source *source, uint32_t *value)
{
    const uint8_t *bytes = take(source, 4);

    if (bytes != NULL)
        *value = slate_le32(bytes);
    return bytes != NULL;
}

static bool take_bytes(struct source *source, uint8_t *bytes, size_t length)
{
    const uint8_t *from = take(source, length);

    if (from != NULL && length > 0)
        memcpy(bytes, from, length);
    return from != NULL;
}

/* Whatever is counted takes some bytes, but for those of a blob. */
#define ELEMENT_BYTES 8u

static bool take_count(struct source *source, uint32_t *count)
{
    bool read = take_u32(source, count);

    if (read && *count <= source->left / ELEMENT_BYTES)
        return true;
    *count = 0;
    return false;
}

/* Of what comes next; it is not taken yet. */
static bool look_at_size(struct source ahead, uint64_t *size)
{
    uint32_t count;

    if (!take_u32(&ahead, &count) || count > ahead.left)
        return false;
    *size = count;
    return true;
}

static bool look_at_text(struct source ahead, uint64_t *size)
{
    const uint8_t *byte;

    for (*size = 1; (byte = take(&ahead, 1)) != NULL && *byte != 0;)
        ++*size;
    return byte != NULL;
}

static bool take_flag(struct source *source, bool *value)
{
    uint32_t number = 0;
    bool read = take_u32(source, &number);

    *value = number == 1;
    return read && number <= 1;
}

static bool take_text(struct source *source, char *text, uint64_t room)
{
    for (uint64_t i = 0; i < room; i++) {
        const uint8_t *byte = take(source, 1);

        if (byte == NULL)
            return false;
        text[i] = (char)*byte;
        if (*byte == 0)
            return true;
    }
    return false;
}

static bool take_ranges(struct source *source, struct slate_ranges *ranges)
{
    bool read =
        take_count(source, &ranges->count) && ranges->count <= ranges->room;

    for (uint32_t i = 0; read && i < ranges->count; i++)
        read = take_u64(source, &ranges->range[i].first) &&
               take_u64(source, &ranges->range[i].count);
    return read;
}

static bool take_evidence(struct source *source,
                          struct slate_evidence *evidence)
{
    bool read = take_count(source, &evidence->count) &&
                evidence->count <= evidence->room;

    for (uint32_t i = 0; read && i < evidence->count; i++)
        read = take_u64(source, &evidence->seen[i].first) &&
               take_u64(source, &evidence->seen[i].count) &&
               take_bytes(source, evidence->seen[i].check, SLATE_CHECK_BYTES);
    return read;
}

static bool take_blob(struct source *source, struct slate_bytes *blob)
{
    return take_u32(source, &blob->count) && blob->count <= blob->room &&
           take_bytes(source, blob->byte, blob->count);
}

static bool take_field(void *context, const struct slate_field *field)
{
    struct source *source = context;

    switch (field->kind) {
    case SLATE_FIELD_COUNT:
        return take_count(source, field->at.word);
    case SLATE_FIELD_SIZE:
        return look_at_size(*source, field->at.number);
    case SLATE_FIELD_TEXT_SIZE:
        return look_at_text(*source, field->at.number);
    case SLATE_FIELD_NUMBER:
        return take_u64(source, field->at.number) &&
               *field->at.number <= field->most;
    case SLATE_FIELD_FLAG:
        return take_flag(source, field->at.flag);
    case SLATE_FIELD_CHOICE:
        return take_u32(source, field->at.word) &&
               *field->at.word < field->most &&
               field->name_of(*field->at.word) != NULL;
    case SLATE_FIELD_BITS:
        return take_u32(source, field->at.word) &&
               *field->at.word >> field->most == 0;
    case SLATE_FIELD_TEXT:
        return take_text(source, field->at.text, field->most);
    case SLATE_FIELD_BYTES:
        return take_bytes(source, field->at.bytes, (size_t)field->most);
    case SLATE_FIELD_RANGES:
        return take_ranges(source, field->at.ranges);
    case SLATE_FIELD_EVIDENCE:
        return take_evidence(source, field->at.evidence);
    case SLATE_FIELD_BLOB:
        return take_blob(source, field->at.blob);
    case SLATE_FIELD_ENTER:
    case SLATE_FIELD_LEAVE:
    default:
        return true;
    }
}

enum slate_status slate_draft_take_thirteen(struct slate_draft *draft,
                                            const uint8_t *bytes, size_t length,
                                            size_t *used)
{
    struct source source = {bytes, length};
    const struct slate_visitor reader = {take_field, &source};
    bool read = slate_draft_visit(draft, &reader);

    *used = length - source.left;
    return read ? SLATE_OK : SLATE_ERR_DRAFT_DAMAGED;
}
