/* SPDX-License-Identifier: MIT */
/* The stored form of a draft is read: fields by their names, in their order;
 * what is not there has its default. A name that is not known is one of a later
 * version. */
#include "draft/make/make.h"

#include "base/base.h"

#define DEPTH 8u

/* Where a visit stands: the groups that were entered. */
enum state {
    PENDING, /* nothing of it was read so far */
    ABSENT,  /* it was left out: all in it has its default */
    MAP,
    ELEMENTS
};

struct reader {
    const uint8_t *bytes;
    size_t left;
    enum state state[DEPTH];
    uint32_t depth;
    bool later; /* it has fields that are not known here */
};

static const uint8_t *take(struct reader *reader, uint64_t length)
{
    const uint8_t *bytes = reader->bytes;

    if (length > reader->left)
        return NULL;
    reader->bytes += length;
    reader->left -= (size_t)length;
    return bytes;
}

/* The head of a value of a type. */
static bool take_head(struct reader *reader, uint8_t type, uint64_t *value)
{
    const uint8_t *head = take(reader, 1), *more;
    uint32_t info, width;

    if (head == NULL || head[0] >> 5 != type)
        return false;
    info = head[0] & 31u;
    *value = info;
    if (info < 24)
        return true;
    width = info < 28 ? 1u << (info - 24) : 9;
    more = width <= 8 ? take(reader, width) : NULL;
    *value = 0;
    for (uint32_t i = 0; more != NULL && i < width; i++)
        *value = *value << 8 | more[i];
    return more != NULL;
}

static bool take_byte(struct reader *reader, uint8_t wanted)
{
    const uint8_t *byte = take(reader, 1);

    return byte != NULL && *byte == wanted;
}

static bool is_next(const struct reader *reader, uint8_t byte)
{
    return reader->left > 0 && reader->bytes[0] == byte;
}

/* Text of these very words; else nothing is taken. */
static bool take_words(struct reader *reader, const char *words)
{
    struct reader ahead = *reader;
    uint64_t length;
    const uint8_t *text;

    if (!take_head(&ahead, SLATE_CBOR_TEXT, &length) ||
        length != strlen(words) || (text = take(&ahead, length)) == NULL ||
        memcmp(text, words, (size_t)length) != 0)
        return false;
    *reader = ahead;
    return true;
}

static enum state *here(struct reader *reader)
{
    return &reader->state[reader->depth - 1];
}

/* The first field of a group: it is a map. */
static bool begin_map(struct reader *reader)
{
    if (*here(reader) != PENDING)
        return true;
    *here(reader) = MAP;
    return take_byte(reader, SLATE_CBOR_MAP);
}

/* Is a field there? Its name is taken then. */
static bool is_there(struct reader *reader, const char *name)
{
    return *here(reader) == MAP && take_words(reader, name);
}

static bool enter(struct reader *reader, const char *name)
{
    enum state state = PENDING;

    if (reader->depth == DEPTH ||
        (name != NULL && reader->depth > 0 && !begin_map(reader)))
        return false;
    if (name != NULL && !is_there(reader, name))
        state = ABSENT;
    reader->state[reader->depth++] = state;
    return true;
}

static bool leave(struct reader *reader)
{
    bool ends = true;

    if (*here(reader) == PENDING && !begin_map(reader))
        return false;
    if (*here(reader) == MAP) {
        reader->later = reader->later ||
                        (reader->left > 0 && !is_next(reader, SLATE_CBOR_END));
        ends = take_byte(reader, SLATE_CBOR_END);
    }
    reader->depth--;
    return ends;
}

/* Whatever is counted takes some bytes. */
static bool take_count(struct reader *reader, uint32_t *count)
{
    uint64_t value = 0;
    bool read = true;

    if (*here(reader) == PENDING) {
        *here(reader) = ELEMENTS;
        read =
            take_head(reader, SLATE_CBOR_LIST, &value) && value <= reader->left;
    }
    *count = read ? (uint32_t)value : 0;
    return read;
}

/* Of what comes next; it is not taken yet. */
static bool look_at_size(const struct reader *reader,
                         const struct slate_field *field)
{
    struct reader ahead = *reader;
    uint64_t size = 0;

    *field->at.number = field->kind == SLATE_FIELD_TEXT_SIZE ? 1 : 0;
    if (!is_there(&ahead, field->name))
        return true;
    if (field->kind == SLATE_FIELD_TEXT_SIZE) {
        if (!take_head(&ahead, SLATE_CBOR_TEXT, &size))
            return false;
    } else if (ahead.left == 0 ||
               !take_head(&ahead, ahead.bytes[0] >> 5, &size)) {
        return false;
    }
    *field->at.number += size;
    return size <= ahead.left;
}

static bool take_number(struct reader *reader, uint64_t *value, uint64_t most)
{
    return take_head(reader, SLATE_CBOR_NUMBER, value) && *value <= most;
}

static bool take_name(struct reader *reader, const struct slate_field *field,
                      uint32_t *value)
{
    for (*value = 0; *value < field->most; ++*value) {
        const char *name = field->name_of(*value);

        if (name != NULL && take_words(reader, name))
            return true;
    }
    *value = 0;
    reader->later = true; /* a choice that came later, as far as can be told */
    return false;
}

static bool take_bits(struct reader *reader, const struct slate_field *field)
{
    uint64_t count;
    uint32_t bit;

    *field->at.word = 0;
    if (!take_head(reader, SLATE_CBOR_LIST, &count) || count > field->most)
        return false;
    while (count-- > 0) {
        if (!take_name(reader, field, &bit))
            return false;
        *field->at.word |= (uint32_t)1 << bit;
    }
    return true;
}

static bool take_text(struct reader *reader, char *text, uint64_t room)
{
    uint64_t length;
    const uint8_t *from;

    if (!take_head(reader, SLATE_CBOR_TEXT, &length) || length >= room ||
        (from = take(reader, length)) == NULL)
        return false;
    memcpy(text, from, (size_t)length);
    text[length] = '\0';
    return strlen(text) == length;
}

static bool take_bytes(struct reader *reader, uint8_t *bytes, uint64_t wanted)
{
    uint64_t length;
    const uint8_t *from;

    if (!take_head(reader, SLATE_CBOR_BYTES, &length) || length != wanted ||
        (from = take(reader, length)) == NULL)
        return false;
    if (length > 0)
        memcpy(bytes, from, (size_t)length);
    return true;
}

static bool take_list(struct reader *reader, uint32_t room, uint32_t *count)
{
    uint64_t value;
    bool read = take_head(reader, SLATE_CBOR_LIST, &value) && value <= room;

    *count = read ? (uint32_t)value : 0;
    return read;
}

static bool take_fixed(struct reader *reader, uint64_t wanted)
{
    uint64_t count;

    return take_head(reader, SLATE_CBOR_LIST, &count) && count == wanted;
}

static bool take_ranges(struct reader *reader, struct slate_ranges *ranges)
{
    bool read = take_list(reader, ranges->room, &ranges->count);

    for (uint32_t i = 0; read && i < ranges->count; i++)
        read = take_fixed(reader, 2) &&
               take_number(reader, &ranges->range[i].first, UINT64_MAX) &&
               take_number(reader, &ranges->range[i].count, UINT64_MAX);
    return read;
}

static bool take_evidence(struct reader *reader,
                          struct slate_evidence *evidence)
{
    bool read = take_list(reader, evidence->room, &evidence->count);

    for (uint32_t i = 0; read && i < evidence->count; i++) {
        struct slate_seen *seen = &evidence->seen[i];

        read = take_fixed(reader, 3) &&
               take_number(reader, &seen->first, UINT64_MAX) &&
               take_number(reader, &seen->count, UINT64_MAX) &&
               take_bytes(reader, seen->check, SLATE_CHECK_BYTES);
    }
    return read;
}

static bool take_blob(struct reader *reader, struct slate_bytes *blob)
{
    struct reader ahead = *reader;
    uint64_t length;

    if (!take_head(&ahead, SLATE_CBOR_BYTES, &length) || length > blob->room)
        return false;
    blob->count = (uint32_t)length;
    return take_bytes(reader, blob->byte, length);
}

bool slate_field_set_default(const struct slate_field *field)
{
    switch (field->kind) {
    case SLATE_FIELD_NUMBER:
        *field->at.number = 0;
        break;
    case SLATE_FIELD_FLAG:
        *field->at.flag = false;
        break;
    case SLATE_FIELD_CHOICE:
        *field->at.word = 0;
        return field->name_of(0) != NULL;
    case SLATE_FIELD_BITS:
        *field->at.word = 0;
        break;
    case SLATE_FIELD_TEXT:
        field->at.text[0] = '\0';
        break;
    case SLATE_FIELD_BYTES:
        memset(field->at.bytes, 0, (size_t)field->most);
        break;
    case SLATE_FIELD_RANGES:
        field->at.ranges->count = 0;
        break;
    case SLATE_FIELD_EVIDENCE:
        field->at.evidence->count = 0;
        break;
    default:
        field->at.blob->count = 0;
    }
    return true;
}

static bool take_value(struct reader *reader, const struct slate_field *field)
{
    switch (field->kind) {
    case SLATE_FIELD_NUMBER:
        return take_number(reader, field->at.number, field->most);
    case SLATE_FIELD_FLAG:
        *field->at.flag = true;
        return take_byte(reader, SLATE_CBOR_TRUE);
    case SLATE_FIELD_CHOICE:
        return take_name(reader, field, field->at.word);
    case SLATE_FIELD_BITS:
        return take_bits(reader, field);
    case SLATE_FIELD_TEXT:
        return take_text(reader, field->at.text, field->most);
    case SLATE_FIELD_BYTES:
        return take_bytes(reader, field->at.bytes, field->most);
    case SLATE_FIELD_RANGES:
        return take_ranges(reader, field->at.ranges);
    case SLATE_FIELD_EVIDENCE:
        return take_evidence(reader, field->at.evidence);
    default:
        return take_blob(reader, field->at.blob);
    }
}

static bool take_field(void *context, const struct slate_field *field)
{
    struct reader *reader = context;

    switch (field->kind) {
    case SLATE_FIELD_ENTER:
        return enter(reader, field->name);
    case SLATE_FIELD_LEAVE:
        return leave(reader);
    case SLATE_FIELD_COUNT:
        return take_count(reader, field->at.word);
    case SLATE_FIELD_SIZE:
    case SLATE_FIELD_TEXT_SIZE:
        return begin_map(reader) && look_at_size(reader, field);
    default:
        if (!begin_map(reader))
            return false;
        return is_there(reader, field->name) ? take_value(reader, field)
                                             : slate_field_set_default(field);
    }
}

enum slate_status slate_draft_take_named(struct slate_draft *draft,
                                         const uint8_t *bytes, size_t length,
                                         size_t *used)
{
    struct reader reader = {.bytes = bytes, .left = length};
    const struct slate_visitor visitor = {take_field, &reader};
    bool read = enter(&reader, NULL) && slate_draft_visit(draft, &visitor) &&
                leave(&reader);

    *used = length - reader.left;
    if (read)
        return SLATE_OK;
    return reader.later ? SLATE_ERR_DRAFT_VERSION : SLATE_ERR_DRAFT_DAMAGED;
}
