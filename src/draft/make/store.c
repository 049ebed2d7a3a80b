/* SPDX-License-Identifier: MIT */
/* The stored form of a draft, and the seal, which is the digest of it. */
#include "draft/make/make.h"

#include "base/base.h"

#define MAGIC "TRUE SLATE DRAFT"
#define MAGIC_BYTES 16u
#define HEAD_BYTES (MAGIC_BYTES + 4u)

/* Where the bytes of a visit go: into a digest, and into a buffer as far as it
 * reaches. */
struct sink {
    struct slate_sha256 sha;
    uint8_t *bytes;
    size_t room, used;
};

static void put(struct sink *sink, const void *bytes, size_t length)
{
    slate_sha256_add(&sink->sha, bytes, length);
    if (length > 0 && sink->used < sink->room &&
        length <= sink->room - sink->used)
        memcpy(sink->bytes + sink->used, bytes, length);
    sink->used += length;
}

static void put_u64(struct sink *sink, uint64_t value)
{
    uint8_t bytes[8];

    slate_put_le64(bytes, value);
    put(sink, bytes, sizeof bytes);
}

static void put_u32(struct sink *sink, uint32_t value)
{
    uint8_t bytes[4];

    slate_put_le32(bytes, value);
    put(sink, bytes, sizeof bytes);
}

static void put_ranges(struct sink *sink, const struct slate_ranges *ranges)
{
    put_u32(sink, ranges->count);
    for (uint32_t i = 0; i < ranges->count; i++) {
        put_u64(sink, ranges->range[i].first);
        put_u64(sink, ranges->range[i].count);
    }
}

static void put_evidence(struct sink *sink,
                         const struct slate_evidence *evidence)
{
    put_u32(sink, evidence->count);
    for (uint32_t i = 0; i < evidence->count; i++) {
        put_u64(sink, evidence->seen[i].first);
        put_u64(sink, evidence->seen[i].count);
        put(sink, evidence->seen[i].check, SLATE_CHECK_BYTES);
    }
}

static bool put_field(void *context, const struct slate_field *field)
{
    struct sink *sink = context;

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
        put(sink, field->at.text, strlen(field->at.text) + 1);
        break;
    case SLATE_FIELD_BYTES:
        put(sink, field->at.bytes, (size_t)field->most);
        break;
    case SLATE_FIELD_RANGES:
        put_ranges(sink, field->at.ranges);
        break;
    case SLATE_FIELD_EVIDENCE:
        put_evidence(sink, field->at.evidence);
        break;
    case SLATE_FIELD_BLOB:
        put_u32(sink, field->at.blob->count);
        put(sink, field->at.blob->byte, field->at.blob->count);
        break;
    default: /* follows from the others */
        break;
    }
    return true;
}

static void write_all(struct slate_draft *draft, struct sink *sink)
{
    const struct slate_visitor writer = {put_field, sink};

    slate_sha256_start(&sink->sha);
    put(sink, MAGIC, MAGIC_BYTES);
    put_u32(sink, SLATE_DRAFT_VERSION);
    (void)slate_draft_visit(draft, &writer);
}

void slate_draft_seal(struct slate_draft *draft,
                      uint8_t seal[SLATE_DIGEST_BYTES])
{
    struct sink sink = {.bytes = NULL};

    write_all(draft, &sink);
    slate_sha256_end(&sink.sha, seal);
}

static void digest_wish(struct slate_draft *draft,
                        uint8_t digest[SLATE_DIGEST_BYTES])
{
    struct sink sink = {.bytes = NULL};
    const struct slate_visitor writer = {put_field, &sink};

    slate_sha256_start(&sink.sha);
    (void)slate_draft_visit_wish(draft, &writer);
    slate_sha256_end(&sink.sha, digest);
}

bool slate_draft_same_wish(struct slate_draft *one, struct slate_draft *other)
{
    uint8_t of_one[SLATE_DIGEST_BYTES], of_other[SLATE_DIGEST_BYTES];

    digest_wish(one, of_one);
    digest_wish(other, of_other);
    return memcmp(of_one, of_other, SLATE_DIGEST_BYTES) == 0;
}

enum slate_status slate_draft_store(struct slate_draft *draft, uint8_t *bytes,
                                    size_t room, size_t *used)
{
    struct sink sink = {.bytes = bytes, .room = room};

    write_all(draft, &sink);
    put(&sink, draft->seal, SLATE_DIGEST_BYTES);
    *used = sink.used;
    return sink.used <= room ? SLATE_OK : SLATE_ERR_BUFFER;
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

static enum slate_status read_all(struct slate_draft *draft,
                                  struct source *source)
{
    const struct slate_visitor reader = {take_field, source};
    enum slate_status status;

    draft->shortage.of = NULL;
    if (!slate_draft_visit(draft, &reader))
        return draft->shortage.of != NULL ? SLATE_ERR_ROOM
                                          : SLATE_ERR_DRAFT_DAMAGED;
    if (source->left != SLATE_DIGEST_BYTES)
        return SLATE_ERR_DRAFT_DAMAGED;
    status = slate_draft_make(draft);
    if (status == SLATE_ERR_ROOM)
        return status;
    if (status != SLATE_OK ||
        memcmp(draft->seal, source->bytes, SLATE_DIGEST_BYTES) != 0)
        return SLATE_ERR_DRAFT_DAMAGED;
    return SLATE_OK;
}

enum slate_status slate_draft_restore(struct slate_draft *draft,
                                      const uint8_t *bytes, size_t length)
{
    struct source source = {bytes, length};
    const uint8_t *head = take(&source, HEAD_BYTES);

    if (head == NULL || memcmp(head, MAGIC, MAGIC_BYTES) != 0)
        return SLATE_ERR_DRAFT_DAMAGED;
    if (slate_le32(head + MAGIC_BYTES) != SLATE_DRAFT_VERSION)
        return SLATE_ERR_DRAFT_VERSION;
    return read_all(draft, &source);
}
