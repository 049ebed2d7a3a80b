/* SPDX-License-Identifier: MIT */
/* Fuzz target: journals, which may come from anywhere. The first byte tells
 * whether the sums are made right first, so that more than they is tried; the
 * journal follows. */
#include "check.h"
#include "memory_keeper.h"
#include "target.h"

static struct session s;
static uint8_t journal_bytes[1048576];
static size_t journal_length;

static enum slate_status read_bytes(void *context, uint64_t at, void *bytes,
                                    uint32_t count)
{
    (void)context;
    if (at > journal_length || count > journal_length - at)
        return SLATE_ERR_KEEPER;
    memcpy(bytes, journal_bytes + at, count);
    return SLATE_OK;
}

static const struct slate_keeper keeper = {.read = read_bytes};

static uint32_t get32(size_t at)
{
    const uint8_t *b = journal_bytes + at;

    return b[0] | (uint32_t)b[1] << 8 | (uint32_t)b[2] << 16 |
           (uint32_t)b[3] << 24;
}

static void put_sum(size_t at, size_t from, size_t count)
{
    uint32_t sum = slate_crc32c(UINT32_MAX, journal_bytes + from, count);

    for (int i = 0; i < 4; i++)
        journal_bytes[at + (size_t)i] = (uint8_t)(sum >> 8 * i);
}

/* By docs/formats.md, as far as it is there: of a record of version 1, and of
 * the present one. */
static size_t content_one(size_t at, size_t block)
{
    return journal_bytes[at] == 4   ? 32
           : journal_bytes[at] == 1 ? block * get32(at + 4)
                                    : 0;
}

static size_t content_two(size_t at, size_t block)
{
    const uint8_t *head = journal_bytes + at;
    size_t blocks = block * get32(at + 16);

    if (head[0] != 2)
        return head[0] == 3 ? 56 : blocks;
    return (head[2] == 1 ? blocks / 16 : 0) + (head[3] != 0 ? blocks / 16 : 0) +
           (head[1] == 0 ? blocks : 0);
}

/* The digest at the end: of version 1 over all ahead of it, else over heads. */
static void put_end(struct slate_sha256 *heads, size_t at, bool one)
{
    struct slate_sha256 sha;

    if (!one) {
        slate_sha256_end(heads, journal_bytes + at + 32 + 24);
        return;
    }
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, journal_bytes, at);
    slate_sha256_end(&sha, journal_bytes + at + 24);
}

static void make_records_right(size_t at, bool one, struct slate_sha256 *heads)
{
    size_t head = one ? 24 : 32, block = get32(12);

    while (at + head <= journal_length) {
        size_t content = one ? content_one(at, block) : content_two(at, block);
        bool end = journal_bytes[at] == (one ? 4 : 3);

        if (content > journal_length - at - head)
            return;
        if (end)
            put_end(heads, at, one);
        if (!one || !end)
            put_sum(at + (one ? 16 : 20), at + head, content);
        put_sum(at + head - 4, at, head - 4);
        if (end)
            return;
        slate_sha256_add(heads, journal_bytes + at, head);
        at += head + content;
    }
}

static void make_sums_right(void)
{
    struct slate_sha256 heads;
    bool one;
    size_t at = 128;

    if (journal_length < 136)
        return;
    one = get32(8) == 1;
    put_sum(124, 0, 124);
    for (size_t text = 112; text < (one ? 116u : 120u); text += 4) {
        size_t length = get32(text);

        if (length > journal_length - at - 4 || journal_length < at + 8)
            return;
        put_sum(at + length, at, length);
        at += length + 4;
    }
    slate_sha256_start(&heads);
    slate_sha256_add(&heads, journal_bytes, at);
    make_records_right(at, one, &heads);
}

/* What was checked can be put back: each block is there. */
static void fill_all(struct slate_journal *journal)
{
    struct slate_rewind rewind;
    struct ram ram;

    if (journal->block_count == 0 || journal->block_count > 1048576)
        return;
    ram_open(&ram, journal->block_bytes, journal->block_count, true);
    demand(slate_media_open(&s.media, &ram.port) == SLATE_OK);
    memcpy(s.media.digest, journal->identity, SLATE_DIGEST_BYTES);
    if (slate_rewind_begin(&rewind, journal, &s.media, s.work, sizeof s.work) ==
        SLATE_OK)
        demand(slate_rewind_find(&rewind, NULL, NULL) == SLATE_OK);
    ram_close(&ram);
}

/* What was checked of version 1 makes a sound one. */
static void try_one(void)
{
    static struct slate_saving saving;
    const struct slate_journal_words words = {"something", ""};
    struct slate_journal_one one;
    struct slate_journal journal;

    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    if (slate_journal_one_open(&one, &keeper) != SLATE_OK ||
        one.draft_bytes > journal_length - one.draft_at ||
        slate_draft_restore(&s.draft, journal_bytes + one.draft_at,
                            one.draft_bytes) != SLATE_OK ||
        slate_journal_one_check(&one, &s.draft, s.work) != SLATE_OK)
        return;
    memory.length = 0;
    demand(slate_journal_one_convert(&saving, &s.draft, &words, &one, &s.media,
                                     &memory_keeper, s.work,
                                     sizeof s.work) == SLATE_OK);
    demand(slate_saving_run(&saving, NULL, NULL) == SLATE_OK);
    demand(slate_journal_open(&journal, &memory_keeper) == SLATE_OK &&
           slate_journal_check(&journal, s.work) == SLATE_OK);
    fill_all(&journal);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    struct slate_journal journal;
    enum slate_status status;

    if (length < 1 || length > sizeof journal_bytes)
        return 0;
    journal_length = length - 1;
    memcpy(journal_bytes, bytes + 1, journal_length);
    if (bytes[0] % 2 == 1)
        make_sums_right();
    status = slate_journal_open(&journal, &keeper);
    if (status == SLATE_ERR_JOURNAL_VERSION)
        try_one();
    else if (status == SLATE_OK &&
             slate_journal_check(&journal, s.work) == SLATE_OK)
        fill_all(&journal);
    return 0;
}
