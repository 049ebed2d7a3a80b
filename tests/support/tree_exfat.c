/* SPDX-License-Identifier: MIT */
/* An own reading of exFAT folders, apart from the library's. */
#include "check.h"
#include "tree.h"

/* A file's entries: up to 19. */
#define SET_MOST (19 * 32)

static uint16_t turned(uint16_t sum, uint8_t byte)
{
    return (uint16_t)(((sum & 1) != 0 ? 0x8000 : 0) + sum / 2 + byte);
}

static void check_sum(const uint8_t *set, uint32_t entries)
{
    uint16_t sum = 0;

    for (uint32_t i = 0; i < entries * 32; i++)
        if (i != 2 && i != 3)
            sum = turned(sum, set[i]);
    assert_int_equal(number_at(set, 2, 2), sum);
}

static void take_name(const uint8_t *set, uint32_t entries,
                      const uint16_t *upper, struct tree_entry *found)
{
    uint16_t unit[255 + 15], hash = 0;
    uint32_t length = set[32 + 3];

    assert_int_equal(entries, 2 + (length + 14) / 15);
    for (uint32_t i = 0; i < (entries - 2) * 15; i++) {
        uint32_t at = (2 + i / 15) * 32;

        assert_int_equal(set[at], 0xC1);
        assert_int_equal(set[at + 1], 0);
        unit[i] = (uint16_t)number_at(set, at + 2 + i % 15 * 2, 2);
        if (i >= length) {
            assert_int_equal(unit[i], 0);
            continue;
        }
        hash = turned(hash, (uint8_t)(upper[unit[i]] & 0xFF));
        hash = turned(hash, (uint8_t)(upper[unit[i]] >> 8));
    }
    assert_int_equal(number_at(set, 32 + 4, 2), hash);
    tree_add_name(found->path, unit, length);
}

static void take_stream(const struct tree *t, const uint8_t *stream,
                        struct tree_entry *found)
{
    assert_int_equal(stream[0], 0xC0);
    found->bytes = number_at(stream, 24, 8);
    assert_int_equal(number_at(stream, 8, 8), found->bytes);
    found->cluster = (uint32_t)number_at(stream, 20, 4);
    found->clusters =
        (uint32_t)((found->bytes + t->cluster_bytes - 1) / t->cluster_bytes);
    assert_int_equal(stream[1], found->clusters > 0 ? 3 : 1);
    assert_true((found->cluster == 0) == (found->clusters == 0));
    if (found->folder)
        assert_true(found->bytes > 0 && found->bytes % t->cluster_bytes == 0);
}

static void take_set(struct tree *t, const char *path, const uint8_t *set,
                     uint32_t entries, const uint16_t *upper)
{
    struct tree_entry *found = &t->entry[t->count++];

    assert_true(t->count <= TREE_MOST);
    memset(found, 0, sizeof *found);
    strcpy(found->path, path);
    check_sum(set, entries);
    found->attributes = set[4];
    assert_int_equal(set[5], 0);
    found->folder = (set[4] & 0x10) != 0;
    found->time = (uint16_t)number_at(set, 12, 2);
    found->date = (uint16_t)number_at(set, 14, 2);
    found->rest = set[21];
    assert_int_equal(number_at(set, 8, 4), number_at(set, 12, 4));
    assert_int_equal(number_at(set, 16, 4), number_at(set, 12, 4));
    assert_int_equal(set[20], set[21]);
    take_stream(t, set + 32, found);
    take_name(set, entries, upper, found);
}

static void read_folder(struct tree *t, const char *path, uint32_t cluster,
                        uint32_t clusters, const uint16_t *upper)
{
    uint64_t bytes = (uint64_t)clusters * t->cluster_bytes;
    uint8_t set[SET_MOST];
    bool ended = false;

    for (uint64_t at = 0; at < bytes; at += 32) {
        tree_bytes(t, cluster, at, 32, set);
        ended = ended || set[0] == 0;
        if (ended) {
            for (int i = 0; i < 32 && at < 65536; i++)
                assert_int_equal(set[i], 0);
            continue;
        }
        if (path[0] == '\0' && at < 96) {
            assert_int_equal(set[0] & 0x7F, (0x020103 >> at / 32 * 8 & 3));
            continue;
        }
        assert_int_equal(set[0], 0x85);
        assert_true(set[1] >= 2 && set[1] <= 18);
        tree_bytes(t, cluster, at, (set[1] + 1u) * 32, set);
        take_set(t, path, set, set[1] + 1u, upper);
        at += set[1] * 32u;
    }
}

void tree_read_exfat(struct tree *tree, const uint16_t *upper,
                     uint32_t root_clusters)
{
    tree->count = tree->bits = 0;
    read_folder(tree, "", tree->root_cluster, root_clusters, upper);
    for (uint32_t i = 0; i < tree->count; i++) {
        if (tree->entry[i].folder)
            read_folder(tree, tree->entry[i].path, tree->entry[i].cluster,
                        tree->entry[i].clusters, upper);
    }
}
