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

static bool put_u64(struct sink *sink, uint64_t value)
{
    uint8_t bytes[8];

    slate_put_le64(bytes, value);
    put(sink, bytes, sizeof bytes);
    return true;
}

static bool put_u32(void *context, uint32_t value)
{
    uint8_t bytes[4];

    slate_put_le32(bytes, value);
    put(context, bytes, sizeof bytes);
    return true;
}

static bool enter(void *context, const char *name)
{
    (void)context;
    (void)name;
    return true;
}

static bool leave(void *context)
{
    (void)context;
    return true;
}

static bool put_size(void *context, const char *name, bool text, uint64_t *size)
{
    (void)context;
    (void)name;
    (void)text;
    (void)size;
    return true;
}

static bool put_count(void *context, uint32_t *count)
{
    return put_u32(context, *count);
}

static bool put_number(void *context, const char *name, uint64_t *value,
                       uint64_t most)
{
    (void)name;
    (void)most;
    return put_u64(context, *value);
}

static bool put_flag(void *context, const char *name, bool *value)
{
    (void)name;
    return put_u32(context, *value ? 1 : 0);
}

static bool put_choice(void *context, const char *name, uint32_t *value,
                       slate_name_of name_of, uint32_t choices)
{
    (void)name;
    (void)name_of;
    (void)choices;
    return put_u32(context, *value);
}

/* With its final zero. */
static bool put_text(void *context, const char *name, char *text, size_t room)
{
    (void)name;
    (void)room;
    put(context, text, strlen(text) + 1);
    return true;
}

static bool put_bytes(void *context, const char *name, uint8_t *bytes,
                      size_t length)
{
    (void)name;
    put(context, bytes, length);
    return true;
}

static bool put_ranges(void *context, const char *name,
                       struct slate_ranges *ranges)
{
    (void)name;
    (void)put_u32(context, ranges->count);
    for (uint32_t i = 0; i < ranges->count; i++) {
        (void)put_u64(context, ranges->range[i].first);
        (void)put_u64(context, ranges->range[i].count);
    }
    return true;
}

static bool put_evidence(void *context, const char *name,
                         struct slate_evidence *evidence)
{
    (void)name;
    (void)put_u32(context, evidence->count);
    for (uint32_t i = 0; i < evidence->count; i++) {
        (void)put_u64(context, evidence->seen[i].first);
        (void)put_u64(context, evidence->seen[i].count);
        put(context, evidence->seen[i].check, SLATE_CHECK_BYTES);
    }
    return true;
}

static bool put_blob(void *context, const char *name, struct slate_bytes *bytes)
{
    (void)name;
    (void)put_u32(context, bytes->count);
    put(context, bytes->byte, bytes->count);
    return true;
}

static struct slate_visitor writer_to(struct sink *sink)
{
    return (struct slate_visitor){
        enter,      leave,        put_count,  put_size, put_number,
        put_flag,   put_choice,   put_choice, put_text, put_bytes,
        put_ranges, put_evidence, put_blob,   sink};
}

static void write_all(struct slate_draft *draft, struct sink *sink)
{
    const struct slate_visitor writer = writer_to(sink);

    slate_sha256_start(&sink->sha);
    put(sink, MAGIC, MAGIC_BYTES);
    (void)put_u32(sink, SLATE_DRAFT_VERSION);
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
    const struct slate_visitor writer = writer_to(&sink);

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

static bool take_u32(void *context, uint32_t *value)
{
    const uint8_t *bytes = take(context, 4);

    if (bytes != NULL)
        *value = slate_le32(bytes);
    return bytes != NULL;
}

/* Whatever is counted takes some bytes, but for those of a blob. */
#define ELEMENT_BYTES 8u

static bool take_count(void *context, uint32_t *count)
{
    struct source *source = context;
    bool read = take_u32(source, count);

    if (read && *count <= source->left / ELEMENT_BYTES)
        return true;
    *count = 0;
    return false;
}

/* It is not taken yet. */
static bool take_size(void *context, const char *name, bool text,
                      uint64_t *size)
{
    struct source ahead = *(const struct source *)context;
    const uint8_t *byte;
    uint32_t count;

    (void)name;
    if (text) {
        for (*size = 0; (byte = take(&ahead, 1)) != NULL && *byte != 0;)
            ++*size;
        ++*size;
        return byte != NULL;
    }
    if (!take_u32(&ahead, &count) || count > ahead.left)
        return false;
    *size = count;
    return true;
}

static bool take_number(void *context, const char *name, uint64_t *value,
                        uint64_t most)
{
    (void)name;
    return take_u64(context, value) && *value <= most;
}

static bool take_flag(void *context, const char *name, bool *value)
{
    uint32_t number = 0;
    bool read = take_u32(context, &number);

    (void)name;
    *value = number == 1;
    return read && number <= 1;
}

static bool take_choice(void *context, const char *name, uint32_t *value,
                        slate_name_of name_of, uint32_t choices)
{
    (void)name;
    return take_u32(context, value) && *value < choices &&
           name_of(*value) != NULL;
}

static bool take_bits(void *context, const char *name, uint32_t *value,
                      slate_name_of name_of, uint32_t choices)
{
    (void)name;
    (void)name_of;
    return take_u32(context, value) && *value >> choices == 0;
}

static bool take_text(void *context, const char *name, char *text, size_t room)
{
    (void)name;
    for (size_t i = 0; i < room; i++) {
        const uint8_t *byte = take(context, 1);

        if (byte == NULL)
            return false;
        text[i] = (char)*byte;
        if (*byte == 0)
            return true;
    }
    return false;
}

static bool take_bytes(void *context, const char *name, uint8_t *bytes,
                       size_t length)
{
    const uint8_t *from = take(context, length);

    (void)name;
    if (from != NULL && length > 0)
        memcpy(bytes, from, length);
    return from != NULL;
}

static bool take_ranges(void *context, const char *name,
                        struct slate_ranges *ranges)
{
    bool read =
        take_count(context, &ranges->count) && ranges->count <= ranges->room;

    (void)name;
    for (uint32_t i = 0; read && i < ranges->count; i++)
        read = take_u64(context, &ranges->range[i].first) &&
               take_u64(context, &ranges->range[i].count);
    return read;
}

static bool take_evidence(void *context, const char *name,
                          struct slate_evidence *evidence)
{
    bool read = take_count(context, &evidence->count) &&
                evidence->count <= evidence->room;

    for (uint32_t i = 0; read && i < evidence->count; i++)
        read = take_u64(context, &evidence->seen[i].first) &&
               take_u64(context, &evidence->seen[i].count) &&
               take_bytes(context, name, evidence->seen[i].check,
                          SLATE_CHECK_BYTES);
    return read;
}

static bool take_blob(void *context, const char *name,
                      struct slate_bytes *bytes)
{
    return take_u32(context, &bytes->count) && bytes->count <= bytes->room &&
           take_bytes(context, name, bytes->byte, bytes->count);
}

static enum slate_status read_all(struct slate_draft *draft,
                                  struct source *source)
{
    const struct slate_visitor reader = {
        enter,       leave,         take_count, take_size, take_number,
        take_flag,   take_choice,   take_bits,  take_text, take_bytes,
        take_ranges, take_evidence, take_blob,  source};
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
