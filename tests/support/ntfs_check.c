/* SPDX-License-Identifier: MIT */
/* An own reading of NTFS: the volume, its file table and its clusters. */
#include "ntfs_check.h"

#include <stdio.h>

#include "check.h"

static uint32_t size_of(uint8_t code, uint32_t cluster_bytes)
{
    if (code >= 0xF4)
        return 1u << (256 - code);
    assert_true(code < 0x80);
    return code * cluster_bytes;
}

static void check_boot(struct ntfs *n)
{
    uint8_t boot[4096], copy[4096];
    uint32_t size = n->blocks->block_bytes, per;

    n->blocks->read(n->blocks->context, 0, boot);
    n->blocks->read(n->blocks->context, n->blocks->blocks - 1, copy);
    assert_memory_equal(boot, copy, size);
    assert_memory_equal(boot + 3, "NTFS    ", 8);
    assert_int_equal(boot[0], 0xEB);
    assert_true(boot[1] + 2 >= 84);
    assert_int_equal(boot[2], 0x90);
    assert_int_equal(ntfs_number(boot + 11, 2), size);
    per = boot[13] >= 0xF4 ? 1u << (256 - boot[13]) : boot[13];
    n->seen->cluster_bytes = per * size;
    assert_true(per != 0 && (per & (per - 1)) == 0 && per * size <= 2097152);
    for (int i = 14; i < 21; i++)
        assert_int_equal(boot[i], 0);
    assert_int_equal(boot[21], 0xF8);
    assert_int_equal(ntfs_number(boot + 22, 2), 0);
    assert_int_equal(ntfs_number(boot + 32, 4), 0);
    assert_int_equal(ntfs_number(boot + 40, 8), n->blocks->blocks - 1);
    n->seen->clusters = (n->blocks->blocks - 1) / per;
    assert_true(n->seen->clusters <= 0xFFFFFFFF);
    n->table = ntfs_number(boot + 48, 8) * n->seen->cluster_bytes;
    n->mirror = ntfs_number(boot + 56, 8) * n->seen->cluster_bytes;
    n->seen->record_bytes = size_of(boot[64], n->seen->cluster_bytes);
    assert_int_equal(n->seen->record_bytes, size > 1024 ? size : 1024);
    assert_int_equal(size_of(boot[68], n->seen->cluster_bytes), 4096);
    n->seen->serial = ntfs_number(boot + 72, 8);
    assert_int_not_equal(n->seen->serial, 0);
    assert_int_equal(ntfs_number(boot + 510, 2), 0xAA55);
}

static void own(struct ntfs *n, uint64_t first, uint64_t count, const char *who)
{
    struct ntfs_seen *seen = n->seen;

    assert_true(seen->runs < NTFS_RUNS_MOST);
    assert_true(count > 0 && first + count <= seen->clusters);
    for (uint32_t i = 0; i < seen->runs; i++) {
        if (first < seen->run[i].first + seen->run[i].count &&
            seen->run[i].first < first + count)
            fail_msg("cluster %llu is of %s and of %s",
                     (unsigned long long)first, seen->run[i].who, who);
    }
    seen->run[seen->runs].first = first;
    seen->run[seen->runs].count = count;
    snprintf(seen->run[seen->runs++].who, sizeof seen->run[0].who, "%s", who);
}

/* Holes and bad clusters of a part of the file of them. */
static void check_bad_map(struct ntfs *n, const struct ntfs_attribute *a)
{
    uint64_t at = a->first;
    int64_t cluster = 0;
    const uint8_t *run = a->value;

    assert_true(a->outside);
    assert_int_equal(a->valid, 0);
    assert_int_equal(a->bytes,
                     a->first > 0 ? 0
                                  : n->seen->clusters * n->seen->cluster_bytes);
    assert_int_equal(a->allocated, a->bytes);
    while (*run != 0) {
        uint32_t length = *run & 15, moved = *run >> 4;
        uint64_t count = ntfs_number(run + 1, length);
        uint64_t by = ntfs_number(run + 1 + length, moved);

        assert_true(length > 0 && length <= 5 && run[length] < 0x80);
        assert_true(count > 0);
        if (moved > 0) {
            if (run[length + moved] >= 0x80)
                by -= 1ull << 8 * moved;
            cluster += (int64_t)by;
            assert_int_equal(cluster, at); /* of the file, and of the volume */
            own(n, at, count, "bad");
            n->seen->bad += count;
            n->seen->bad_runs++;
        }
        at += count;
        run += 1 + length + moved;
        assert_true(run < a->value + a->length);
    }
    assert_int_equal(at, a->last + 1);
}

/* A list tells of each attribute where it is; parts follow one another. */
static void check_bad_list(struct ntfs *n, const struct ntfs_attribute *list)
{
    static uint8_t entries[262144];
    static const uint32_t types[] = {0x10, 0x30, 0x80, 0x80};
    uint64_t next = 0;
    uint32_t at = 0, i = 0;

    assert_true(list->bytes <= sizeof entries);
    ntfs_bytes(n, ntfs_one_run(n, list), (uint32_t)list->bytes, entries);
    for (; at < list->bytes; i++) {
        const uint8_t *entry = entries + at;
        uint32_t length = (uint32_t)ntfs_number(entry + 4, 2);
        uint64_t reference = ntfs_number(entry + 16, 8);
        uint8_t record[4096];
        struct ntfs_attribute a;

        assert_int_equal(ntfs_number(entry, 4), types[i < 3 ? i : 3]);
        assert_int_equal(entry[6], i < 3 ? 0 : 4);
        assert_int_equal(entry[7], 26);
        assert_true(length % 8 == 0 && length >= 26u + 2u * entry[6]);
        ntfs_record(n, (uint32_t)reference, record);
        assert_int_equal(reference >> 48, ntfs_number(record + 16, 2));
        assert_true(ntfs_find(record, (uint32_t)ntfs_number(entry, 4),
                              i < 3 ? "" : "$Bad", &a));
        assert_int_equal(a.id, ntfs_number(entry + 24, 2));
        assert_int_equal(a.first, ntfs_number(entry + 8, 8));
        if (i < 3) {
            assert_int_equal((uint32_t)reference, 8);
        } else {
            assert_int_equal(ntfs_number(record + 32, 8), 8ull << 48 | 8);
            assert_int_equal(a.first, next);
            check_bad_map(n, &a);
            next = a.last + 1;
            n->seen->parts++;
        }
        at += length;
    }
    assert_int_equal(at, list->bytes);
    assert_int_equal(next, n->seen->clusters);
}

static void check_bad(struct ntfs *n, const uint8_t *record)
{
    struct ntfs_attribute a;

    assert_true(ntfs_find(record, 0x80, "", &a));
    assert_true(!a.outside && a.length == 0);
    if (ntfs_find(record, 0x20, "", &a)) {
        check_bad_list(n, &a);
        assert_false(ntfs_find(record, 0x80, "$Bad", &a));
        return;
    }
    assert_true(ntfs_find(record, 0x80, "$Bad", &a));
    assert_int_equal(a.first, 0);
    assert_int_equal(a.last, n->seen->clusters - 1);
    check_bad_map(n, &a);
}

/* Every record: attributes in order, each with a number of its own; what is
 * outside has clusters of its own. */
static void check_record(struct ntfs *n, uint32_t number, const uint8_t *record)
{
    uint32_t at = 0, type = 0;
    uint64_t ids = 0;
    struct ntfs_attribute a;
    char who[20];

    while (ntfs_next(record, &at, &a)) {
        assert_true(a.type >= type && a.type % 16 == 0 && a.id < 64);
        assert_int_equal(ids >> a.id & 1, 0);
        ids |= 1ull << a.id;
        type = a.type;
        snprintf(who, sizeof who, "%u %s", number, a.name);
        if (a.outside && strcmp(a.name, "$Bad") != 0)
            own(n, ntfs_one_run(n, &a) / n->seen->cluster_bytes, a.last + 1,
                who);
    }
}

static void check_table(struct ntfs *n)
{
    uint8_t record[4096], copy[4096], bits[1024];
    struct ntfs_attribute a;
    uint64_t at;

    n->seen->records = 1;
    ntfs_record(n, 0, record);
    assert_true(ntfs_find(record, 0x80, "", &a));
    assert_int_equal(ntfs_one_run(n, &a), n->table);
    n->seen->records = (uint32_t)(a.bytes / n->seen->record_bytes);
    assert_true(n->seen->records >= 27);
    assert_int_equal(a.bytes % n->seen->record_bytes, 0);
    assert_true(ntfs_find(record, 0xB0, "", &a));
    at = ntfs_one_run(n, &a);
    assert_true(a.bytes >= (n->seen->records + 63) / 64 * 8 &&
                a.bytes <= sizeof bits);
    ntfs_bytes(n, at, (uint32_t)a.bytes, bits);
    for (uint32_t i = 0; i < n->seen->records; i++) {
        bool used = (bits[i / 8] >> i % 8 & 1) != 0;
        bool extends = i >= 27 && used; /* a part of the file of bad clusters */

        ntfs_record(n, i, record);
        assert_int_equal(ntfs_number(record + 22, 2) & 1, used);
        assert_int_equal(used, i < 16 || (i >= 24 && i < 27) || extends);
        assert_int_equal(ntfs_number(record + 32, 8) != 0, extends);
        check_record(n, i, record);
        if (i == 8)
            check_bad(n, record);
    }
    for (uint64_t i = n->seen->records; i < a.bytes * 8; i++)
        assert_int_equal(bits[i / 8] >> i % 8 & 1, 0);
    ntfs_record(n, 1, record);
    assert_true(ntfs_find(record, 0x80, "", &a));
    assert_int_equal(ntfs_one_run(n, &a), n->mirror);
    assert_int_equal(a.bytes, 4 * n->seen->record_bytes);
    for (uint32_t i = 0; i < 4; i++) {
        uint64_t from = (uint64_t)i * n->seen->record_bytes;

        ntfs_bytes(n, n->table + from, n->seen->record_bytes, record);
        ntfs_bytes(n, n->mirror + from, n->seen->record_bytes, copy);
        assert_memory_equal(record, copy, n->seen->record_bytes);
    }
}

static bool is_owned(const struct ntfs_seen *seen, uint64_t cluster)
{
    for (uint32_t i = 0; i < seen->runs; i++)
        if (cluster - seen->run[i].first < seen->run[i].count)
            return true;
    return cluster >= seen->clusters; /* there are none */
}

/* Does a run begin, or end, in these clusters? */
static bool has_edge(const struct ntfs_seen *seen, uint64_t first, uint64_t end)
{
    for (uint32_t i = 0; i < seen->runs; i++)
        if (seen->run[i].first < end &&
            seen->run[i].first + seen->run[i].count > first)
            return true;
    return end > seen->clusters;
}

static void check_bitmap(struct ntfs *n, uint32_t step)
{
    uint8_t record[4096], bits[512];
    struct ntfs_attribute a;
    uint64_t at;

    ntfs_record(n, 6, record);
    assert_true(ntfs_find(record, 0x80, "", &a));
    at = ntfs_one_run(n, &a);
    assert_int_equal(a.bytes, (n->seen->clusters + 63) / 64 * 8);
    n->seen->free = n->seen->clusters;
    for (uint32_t i = 0; i < n->seen->runs; i++)
        n->seen->free -= n->seen->run[i].count;
    for (uint64_t done = 0; done < a.bytes; done += sizeof bits) {
        uint64_t left = a.bytes - done, first = done * 8;
        uint32_t count = left < sizeof bits ? (uint32_t)left : sizeof bits;
        bool edge = has_edge(n->seen, first, first + 8ull * count);

        if (!edge && done / sizeof bits % step != 0)
            continue;
        ntfs_bytes(n, at + done, count, bits);
        for (uint32_t i = 0; i < 8 * count; i++)
            if ((bits[i / 8] >> i % 8 & 1) !=
                (edge && is_owned(n->seen, first + i)))
                fail_msg("bit of cluster %llu", (unsigned long long)first + i);
    }
}

static void check_state(struct ntfs *n)
{
    uint8_t record[4096], log[4096];
    struct ntfs_attribute a;
    uint64_t at;

    ntfs_record(n, 3, record);
    assert_true(ntfs_find(record, 0x60, "", &a));
    assert_true(!a.outside && a.length <= 64 && a.length % 2 == 0);
    for (uint32_t i = 0; i < a.length / 2; i++)
        n->seen->label[i] = a.value[2 * i + 1] == 0 && a.value[2 * i] < 0x80
                                ? (char)a.value[2 * i]
                                : '?';
    assert_true(ntfs_find(record, 0x70, "", &a));
    assert_int_equal(a.length, 12);
    assert_memory_equal(a.value + 8, "\3\1\0\0", 4);
    ntfs_record(n, 2, record);
    assert_true(ntfs_find(record, 0x80, "", &a));
    at = ntfs_one_run(n, &a);
    n->seen->log_bytes = (uint32_t)a.bytes;
    assert_true(a.bytes >= 48 * 4096 && a.bytes % 4096 == 0);
    for (uint64_t done = 0; done < a.bytes; done += sizeof log) {
        ntfs_bytes(n, at + done, sizeof log, log);
        for (uint32_t i = 0; i < sizeof log; i++)
            if (log[i] != 0xFF)
                fail_msg("the log has something at %llu",
                         (unsigned long long)done + i);
    }
}

static void check_definitions(struct ntfs *n)
{
    uint8_t record[4096], table[2560];
    struct ntfs_attribute a;
    uint64_t type = 0;

    ntfs_record(n, 4, record);
    assert_true(ntfs_find(record, 0x80, "", &a));
    assert_int_equal(a.bytes, sizeof table);
    ntfs_bytes(n, ntfs_one_run(n, &a), sizeof table, table);
    for (uint32_t i = 0; i < 15; i++) {
        const uint8_t *row = table + (size_t)160 * i;

        assert_int_equal(row[0], '$');
        assert_true(ntfs_number(row + 128, 4) > type);
        type = ntfs_number(row + 128, 4);
        assert_true(ntfs_number(row + 144, 8) <= ntfs_number(row + 152, 8));
    }
    assert_int_equal(type, 0x100);
    for (uint32_t i = 15 * 160; i < sizeof table; i++)
        assert_int_equal(table[i], 0);
}

/* Upper case is upper case once more; a few letters of several alphabets. */
static void check_upcase(struct ntfs *n)
{
    static const uint16_t pairs[][2] = {
        {'a', 'A'},       {'z', 'Z'},       {'0', '0'},       {'$', '$'},
        {0xE9, 0xC9},     {0xFF, 0x178},    {0xDF, 0xDF},     {0xF7, 0xF7},
        {0x3B1, 0x391},   {0x44F, 0x42F},   {0x1E01, 0x1E00}, {0xFF41, 0xFF21},
        {0xFFFF, 0xFFFF}, {0x4E00, 0x4E00}, {0xD800, 0xD800}};
    static uint8_t table[131072];
    uint8_t record[4096];
    struct ntfs_attribute a;

    ntfs_record(n, 10, record);
    assert_true(ntfs_find(record, 0x80, "", &a));
    assert_int_equal(a.bytes, sizeof table);
    ntfs_bytes(n, ntfs_one_run(n, &a), sizeof table, table);
    for (uint32_t i = 0; i < 65536; i++) {
        uint32_t upper = (uint32_t)ntfs_number(table + (size_t)2 * i, 2);

        assert_int_equal(ntfs_number(table + (size_t)2 * upper, 2), upper);
    }
    for (size_t i = 0; i < sizeof pairs / sizeof pairs[0]; i++)
        assert_int_equal(ntfs_number(table + (size_t)2 * pairs[i][0], 2),
                         pairs[i][1]);
}

void ntfs_check(const struct volume_blocks *blocks, uint32_t step,
                struct ntfs_seen *seen)
{
    struct ntfs n = {blocks, seen, 0, 0};

    memset(seen, 0, sizeof *seen);
    check_boot(&n);
    check_table(&n);
    check_bitmap(&n, step);
    check_state(&n);
    check_definitions(&n);
    check_upcase(&n);
    ntfs_check_names(&n);
    ntfs_check_rights(&n);
}
