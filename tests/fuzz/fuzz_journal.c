/* SPDX-License-Identifier: MIT */
/* Fuzz target: journals, which may come from anywhere. The first byte tells
 * whether the sums are made right first, so that more than they is tried; the
 * journal follows. */
#include "check.h"
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

/* By docs/formats.md, as far as it is there. */
static void make_sums_right(void)
{
    size_t at, block;

    if (journal_length < 132)
        return;
    put_sum(124, 0, 124);
    block = get32(12);
    at = (size_t)128 + get32(112);
    if (at > journal_length - 4)
        return;
    put_sum(at, 128, at - 128);
    for (at += 4; at + 24 <= journal_length;) {
        size_t content = journal_bytes[at] == 1 ? block * get32(at + 4) : 0;
        struct slate_sha256 sha;

        if (content > journal_length - at - 24)
            return;
        put_sum(at + 16, at + 24, content);
        put_sum(at + 20, at, 20);
        if (journal_bytes[at] == 4 && journal_length - at - 24 >= 32) {
            slate_sha256_start(&sha);
            slate_sha256_add(&sha, journal_bytes, at + 24);
            slate_sha256_end(&sha, journal_bytes + at + 24);
            return;
        }
        at += 24 + content;
    }
}

/* What was checked can be put back: each block is there. */
static void fill_all(struct slate_journal *journal, struct ram *ram)
{
    struct slate_rewind rewind;
    uint64_t blocks = s.draft.basis.geometry.block_count;

    if (blocks == 0 || blocks > 1048576)
        return;
    ram_open(ram, s.draft.basis.geometry.block_bytes, blocks, true);
    demand(slate_media_open(&s.media, &ram->port) == SLATE_OK);
    memcpy(s.media.digest, s.draft.basis.identity, SLATE_DIGEST_BYTES);
    if (slate_rewind_begin(&rewind, journal, &s.draft, &s.media, s.work,
                           sizeof s.work) == SLATE_OK)
        demand(slate_rewind_find(&rewind, NULL, NULL) == SLATE_OK);
    ram_close(ram);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    struct slate_journal journal;
    struct ram ram;

    if (length < 1 || length > sizeof journal_bytes)
        return 0;
    journal_length = length - 1;
    memcpy(journal_bytes, bytes + 1, journal_length);
    if (bytes[0] % 2 == 1)
        make_sums_right();
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    if (slate_journal_open(&journal, &keeper) != SLATE_OK ||
        journal.draft_bytes > journal_length - journal.draft_at)
        return 0;
    if (slate_draft_restore(&s.draft, journal_bytes + journal.draft_at,
                            journal.draft_bytes) == SLATE_OK &&
        slate_journal_check(&journal, &s.draft, s.work) == SLATE_OK)
        fill_all(&journal, &ram);
    return 0;
}
