/* SPDX-License-Identifier: MIT */
/* The stored form of a draft, and the seal, which is the digest of it. */
#include "draft/make/make.h"

#include "base/base.h"

#define MAGIC "TRUE SLATE DRAFT"
#define MAGIC_BYTES 16u
#define HEAD_BYTES (MAGIC_BYTES + 4u)

void slate_sink_put(struct slate_sink *sink, const void *bytes, size_t length)
{
    slate_sha256_add(&sink->sha, bytes, length);
    if (length > 0 && sink->used < sink->room &&
        length <= sink->room - sink->used)
        memcpy(sink->bytes + sink->used, bytes, length);
    sink->used += length;
}

/* In the form that it has, so that the seal stays what it was. */
static void write_all(struct slate_draft *draft, struct slate_sink *sink)
{
    uint8_t version[4];

    slate_sha256_start(&sink->sha);
    slate_sink_put(sink, MAGIC, MAGIC_BYTES);
    if (draft->form == 13) {
        slate_draft_put_thirteen(draft, sink);
        return;
    }
    slate_put_le32(version, SLATE_DRAFT_VERSION);
    slate_sink_put(sink, version, sizeof version);
    slate_draft_put_named(draft, sink);
}

void slate_draft_seal(struct slate_draft *draft,
                      uint8_t seal[SLATE_DIGEST_BYTES])
{
    struct slate_sink sink = {.bytes = NULL};

    write_all(draft, &sink);
    slate_sha256_end(&sink.sha, seal);
}

static void digest_wish(struct slate_draft *draft,
                        uint8_t digest[SLATE_DIGEST_BYTES])
{
    struct slate_sink sink = {.bytes = NULL};

    slate_sha256_start(&sink.sha);
    slate_draft_put_wish(draft, &sink);
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
    struct slate_sink sink = {.bytes = bytes, .room = room};

    write_all(draft, &sink);
    slate_sink_put(&sink, draft->seal, SLATE_DIGEST_BYTES);
    *used = sink.used;
    return sink.used <= room ? SLATE_OK : SLATE_ERR_BUFFER;
}

static enum slate_status read_fields(struct slate_draft *draft,
                                     const uint8_t *bytes, size_t length,
                                     size_t *used)
{
    draft->shortage.of = NULL;
    return draft->form == 13
               ? slate_draft_take_thirteen(draft, bytes, length, used)
               : slate_draft_take_named(draft, bytes, length, used);
}

static enum slate_status read_all(struct slate_draft *draft,
                                  const uint8_t *bytes, size_t length)
{
    size_t used = 0;
    enum slate_status status = read_fields(draft, bytes, length, &used);

    if (status != SLATE_OK)
        return draft->shortage.of != NULL ? SLATE_ERR_ROOM : status;
    if (length - used != SLATE_DIGEST_BYTES)
        return SLATE_ERR_DRAFT_DAMAGED;
    status = slate_draft_make_again(draft);
    if (status == SLATE_ERR_ROOM || status == SLATE_ERR_DRAFT_REVISION)
        return status;
    if (status != SLATE_OK ||
        memcmp(draft->seal, bytes + used, SLATE_DIGEST_BYTES) != 0)
        return SLATE_ERR_DRAFT_DAMAGED;
    return SLATE_OK;
}

enum slate_status slate_draft_restore(struct slate_draft *draft,
                                      const uint8_t *bytes, size_t length)
{
    if (length < HEAD_BYTES || memcmp(bytes, MAGIC, MAGIC_BYTES) != 0)
        return SLATE_ERR_DRAFT_DAMAGED;
    SLATE_TRY(slate_draft_take_form(draft, slate_le32(bytes + MAGIC_BYTES)));
    return read_all(draft, bytes + HEAD_BYTES, length - HEAD_BYTES);
}
