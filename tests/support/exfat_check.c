/* SPDX-License-Identifier: MIT */
/* An own reading of exFAT, apart from the library's. */
#include "exfat_check.h"

#include <stdlib.h>

#include "check.h"

#define CHAIN_MOST 70000u

struct volume {
    const struct exfat_blocks *blocks;
    struct exfat_seen *seen;
    uint32_t table_at, table_blocks, cluster_blocks;
    uint32_t cluster[CHAIN_MOST]; /* in use, as the chains have them */
    uint32_t used, chained;       /* the rest of them are in no chain */
    uint64_t table_block;         /* in the buffer below */
    uint8_t table[4096], block[4096];
};

static void read_block(const struct volume *v, uint64_t block, uint8_t *data)
{
    assert_true(block < v->blocks->blocks);
    v->blocks->read(v->blocks->context, block, data);
}

static uint32_t table_entry(struct volume *v, uint64_t entry)
{
    uint32_t entries = v->blocks->block_bytes / 4;

    assert_true(entry / entries < v->table_blocks);
    if (v->table_block != entry / entries) {
        v->table_block = entry / entries;
        read_block(v, v->table_at + v->table_block, v->table);
    }
    return (uint32_t)number_at(v->table, entry % entries * 4, 4);
}

/* A chain of so many clusters: notes them. @return where they begin */
static uint32_t follow(struct volume *v, uint32_t cluster, uint64_t length)
{
    uint32_t at = v->used;

    for (uint64_t i = 0; i < length; i++) {
        uint32_t next;

        assert_true(cluster >= 2 && cluster < v->seen->clusters + 2);
        assert_true(v->used < CHAIN_MOST);
        v->cluster[v->used++] = cluster;
        next = table_entry(v, cluster);
        assert_true((next == 0xFFFFFFFF) == (i + 1 == length));
        cluster = next;
    }
    return at;
}

/* A byte of what stands in a chain. */
static uint8_t byte_of(struct volume *v, uint32_t chain, uint64_t at,
                       uint64_t *held)
{
    uint32_t size = v->seen->cluster_bytes, block = v->blocks->block_bytes;
    uint64_t lba =
        v->seen->clusters_at +
        (uint64_t)(v->cluster[chain + at / size] - 2) * v->cluster_blocks +
        at % size / block;

    if (*held != lba) {
        read_block(v, lba, v->block);
        *held = lba;
    }
    return v->block[at % block];
}

static uint32_t turned(uint32_t sum, uint8_t byte)
{
    return ((sum & 1) != 0 ? 0x80000000u : 0) + (sum >> 1) + byte;
}

/* Twelve blocks: the last one repeats the sum of the others. */
static void check_region(struct volume *v, uint64_t at)
{
    uint32_t size = v->blocks->block_bytes, sum = 0;

    for (uint32_t i = 0; i < 11; i++) {
        read_block(v, at + i, v->block);
        for (uint32_t byte = 0; byte < size; byte++)
            if (i > 0 || (byte != 106 && byte != 107 && byte != 112))
                sum = turned(sum, v->block[byte]);
        if (i > 0 && i < 9)
            assert_int_equal(number_at(v->block, size - 4, 4), 0xAA550000);
        for (uint32_t byte = 0; i > 0 && byte < size - 4; byte++)
            assert_int_equal(v->block[byte], 0);
    }
    read_block(v, at + 11, v->block);
    for (uint32_t byte = 0; byte < size; byte += 4)
        assert_int_equal(number_at(v->block, byte, 4), sum);
}

static void check_boot(struct volume *v, uint8_t *boot)
{
    struct exfat_seen *seen = v->seen;
    uint64_t end;

    read_block(v, 0, boot);
    assert_memory_equal(boot,
                        "\xEB\x76\x90"
                        "EXFAT   ",
                        11);
    for (int i = 11; i < 64; i++)
        assert_int_equal(boot[i], 0);
    assert_int_equal(number_at(boot, 64, 8), v->blocks->first);
    assert_int_equal(number_at(boot, 72, 8), v->blocks->blocks);
    v->table_at = (uint32_t)number_at(boot, 80, 4);
    v->table_blocks = (uint32_t)number_at(boot, 84, 4);
    seen->clusters_at = number_at(boot, 88, 4);
    seen->clusters = (uint32_t)number_at(boot, 92, 4);
    seen->serial = (uint32_t)number_at(boot, 100, 4);
    assert_int_equal(number_at(boot, 104, 2), 0x0100);
    assert_int_equal(number_at(boot, 106, 2), 0); /* clean, first table */
    assert_int_equal(1u << boot[108], v->blocks->block_bytes);
    assert_true(boot[108] + boot[109] <= 25);
    v->cluster_blocks = 1u << boot[109];
    seen->cluster_bytes = v->cluster_blocks << boot[108];
    assert_int_equal(boot[110], 1);
    assert_int_equal(boot[111], 0x80);
    assert_int_equal(number_at(boot, 510, 2), 0xAA55);
    assert_true(v->table_at >= 24);
    assert_true((uint64_t)v->table_at + v->table_blocks <= seen->clusters_at);
    assert_true((uint64_t)v->table_blocks * v->blocks->block_bytes / 4 >=
                (uint64_t)seen->clusters + 2);
    assert_true(seen->clusters >= 1 && seen->clusters <= 0xFFFFFFF5);
    end = seen->clusters_at + (uint64_t)seen->clusters * v->cluster_blocks;
    assert_true(end <= v->blocks->blocks); /* and as many as fit */
    assert_true(v->blocks->blocks - end < v->cluster_blocks);
}

#define SCANNED 32768u

/* The cluster that a bad block is in, counted from 2; 0: none. */
static uint32_t bad_cluster(const struct volume *v, uint32_t i)
{
    uint64_t at = v->blocks->bad[i] - v->blocks->first - v->seen->clusters_at;
    uint64_t index = at / v->cluster_blocks;

    return v->blocks->bad[i] < v->blocks->first + v->seen->clusters_at ||
                   index >= v->seen->clusters
               ? 0
               : (uint32_t)index + 2;
}

static bool is_bad(const struct volume *v, uint64_t cluster)
{
    for (uint32_t i = 0; i < v->blocks->bad_count; i++) {
        if (bad_cluster(v, i) == cluster)
            return true;
    }
    return false;
}

/* Each bad cluster once: marked, and not in any chain. */
static void check_bad(struct volume *v)
{
    v->seen->bad = 0;
    for (uint32_t i = 0; i < v->blocks->bad_count; i++) {
        uint32_t cluster = bad_cluster(v, i);

        if (cluster == 0 || (i > 0 && cluster == bad_cluster(v, i - 1)))
            continue;
        v->seen->bad++;
        assert_int_equal(table_entry(v, cluster), 0xFFFFFFF7);
        for (uint32_t j = 0; j < v->used; j++)
            assert_true(v->cluster[j] != cluster);
    }
}

/* Each bit of a cluster that is in use is set, and no other; of long bitmaps
 * both ends are scanned. */
static void check_bitmap(struct volume *v, uint32_t chain, uint64_t length)
{
    uint64_t held = 0, set = 0;

    for (uint64_t at = 0; at < length; at++) {
        if (at == SCANNED && length > 2 * SCANNED)
            at = length - SCANNED;
        for (uint8_t byte = byte_of(v, chain, at, &held); byte != 0;
             byte &= (uint8_t)(byte - 1))
            set++;
    }
    check_bad(v);
    assert_int_equal(set, v->used + v->seen->bad);
    for (uint32_t i = 0; i < v->blocks->bad_count; i++) {
        uint32_t bit = bad_cluster(v, i);

        assert_true(bit == 0 ||
                    byte_of(v, chain, (bit - 2) / 8, &held) >> (bit - 2) % 8 &
                        1);
    }
    for (uint32_t i = 0; i < v->used; i++) {
        uint32_t bit = v->cluster[i] - 2;

        assert_true(byte_of(v, chain, bit / 8, &held) >> bit % 8 & 1);
        for (uint32_t j = i > 0 ? i - 1 : 0; j < i; j++)
            assert_true(v->cluster[i] != v->cluster[j]);
    }
}

static void read_upcase(struct volume *v, uint32_t chain, uint64_t length,
                        uint32_t wanted)
{
    uint64_t held = 0;
    uint32_t sum = 0, unit = 0;

    for (uint64_t at = 0; at < length; at++)
        sum = turned(sum, byte_of(v, chain, at, &held));
    assert_int_equal(sum, wanted);
    for (uint64_t at = 0; at + 1 < length; at += 2) {
        uint16_t value = byte_of(v, chain, at, &held);

        value |= (uint16_t)(byte_of(v, chain, at + 1, &held) << 8);
        if (value != 0xFFFF) {
            assert_true(unit < 65536);
            v->seen->upper[unit++] = value;
            continue;
        }
        at += 2;
        value = byte_of(v, chain, at, &held);
        value |= (uint16_t)(byte_of(v, chain, at + 1, &held) << 8);
        for (; value > 0; value--, unit++) {
            assert_true(unit < 65536);
            v->seen->upper[unit] = (uint16_t)unit;
        }
    }
    assert_int_equal(unit, 65536);
}

static uint64_t clusters_for(const struct volume *v, uint64_t bytes)
{
    return (bytes + v->seen->cluster_bytes - 1) / v->seen->cluster_bytes;
}

/* The chain of the root directory, as long as it is. */
static uint32_t follow_root(struct volume *v, uint32_t cluster,
                            uint32_t *clusters)
{
    uint32_t last = cluster;

    while (v->blocks->tree != NULL && table_entry(v, last) == last + 1)
        last++;
    *clusters = last + 1 - cluster;
    return follow(v, cluster, *clusters);
}

/* Clusters in a row, of which the table says nothing. */
static void take_placed(struct volume *v, const struct tree *tree)
{
    for (uint32_t i = 0; i < tree->count; i++) {
        for (uint32_t j = 0; j < tree->entry[i].clusters; j++) {
            assert_true(v->used < CHAIN_MOST);
            v->cluster[v->used++] = tree->entry[i].cluster + j;
        }
    }
}

static void read_tree(struct volume *v, uint32_t root, uint32_t clusters)
{
    struct tree *tree = v->blocks->tree;

    tree->cluster_bytes = v->seen->cluster_bytes;
    tree->clusters = v->seen->clusters;
    tree->clusters_at = v->seen->clusters_at;
    tree->root_cluster = v->cluster[root];
    tree_read_exfat(tree, v->seen->upper, clusters);
    take_placed(v, tree);
}

/* The root's entries; a bitmap and an up-case table are among them. */
static void read_root(struct volume *v, uint32_t cluster)
{
    uint32_t clusters, root = follow_root(v, cluster, &clusters), bitmap = 0;
    uint64_t held = 0, bits = 0;
    bool cased = false;
    uint8_t entry[32];

    memset(v->seen->label, 0, sizeof v->seen->label);
    for (uint64_t at = 0; at < v->seen->cluster_bytes; at += 32) {
        for (uint32_t i = 0; i < 32; i++)
            entry[i] = byte_of(v, root, at + i, &held);
        if (entry[0] == 0 || (at == 96 && v->blocks->tree != NULL))
            break;
        if (entry[0] == 0x83) {
            assert_true(entry[1] >= 1 && entry[1] <= 11);
            for (uint32_t i = 0; i < entry[1]; i++)
                v->seen->label[i] = (uint16_t)number_at(entry, 2 + 2 * i, 2);
        } else if (entry[0] == 0x81) {
            bits = number_at(entry, 24, 8);
            assert_int_equal(entry[1], 0);
            assert_int_equal(bits, ((uint64_t)v->seen->clusters + 7) / 8);
            bitmap = follow(v, (uint32_t)number_at(entry, 20, 4),
                            clusters_for(v, bits));
        } else if (entry[0] == 0x82) {
            uint64_t length = number_at(entry, 24, 8);
            uint32_t chain = follow(v, (uint32_t)number_at(entry, 20, 4),
                                    clusters_for(v, length));

            cased = true;
            read_upcase(v, chain, length, (uint32_t)number_at(entry, 4, 4));
            held = 0;
        } else {
            assert_int_equal(entry[0], 0x03); /* a label that is not there */
        }
    }
    for (uint64_t at = 96;
         at < v->seen->cluster_bytes && v->blocks->tree == NULL; at++) {
        if (at == SCANNED && v->seen->cluster_bytes > 2 * SCANNED)
            at = v->seen->cluster_bytes - SCANNED;
        assert_int_equal(byte_of(v, root, at, &held), 0);
    }
    assert_true(bits > 0 && cased);
    v->chained = v->used;
    if (v->blocks->tree != NULL)
        read_tree(v, root, clusters);
    v->seen->placed = v->used - v->chained;
    check_bitmap(v, bitmap, bits);
}

void exfat_check(const struct exfat_blocks *blocks, struct exfat_seen *seen)
{
    static struct volume volume;
    struct volume *v = &volume;
    static uint8_t boot[4096], copy[4096];

    v->blocks = blocks;
    v->seen = seen;
    v->used = 0;
    v->table_block = UINT64_MAX;
    check_boot(v, boot);
    check_region(v, 0);
    check_region(v, 12);
    read_block(v, 12, copy);
    assert_memory_equal(boot, copy, blocks->block_bytes);
    assert_int_equal(table_entry(v, 0), 0xFFFFFFF8);
    assert_int_equal(table_entry(v, 1), 0xFFFFFFFF);
    read_root(v, (uint32_t)number_at(boot, 96, 4));
    seen->used = v->used;
    assert_int_equal(boot[112],
                     ((uint64_t)v->used + seen->bad) * 100 / seen->clusters);
    /* nothing beyond is chained */
    for (uint64_t i = 2; i < (uint64_t)v->used + 2000; i++) {
        bool own = false;

        if (i >= (uint64_t)seen->clusters + 2)
            continue;
        for (uint32_t j = 0; j < v->chained; j++)
            own = own || v->cluster[j] == i;
        if (!own)
            assert_int_equal(table_entry(v, i), is_bad(v, i) ? 0xFFFFFFF7 : 0);
    }
}
