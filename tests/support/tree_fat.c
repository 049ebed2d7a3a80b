/* SPDX-License-Identifier: MIT */
/* An own reading of FAT folders, apart from the library's. */
#include <stdlib.h>

#include "check.h"
#include "tree.h"

/* Of a volume that is read. */
struct fat {
    struct tree *tree;
    uint64_t table_at, table_blocks, root_at;
    uint32_t root_entries;
    uint8_t *table;
    uint8_t *taken; /* one byte for each cluster */
};

/* A folder that is read: a run of blocks, or clusters in a row. */
struct folder {
    uint64_t block; /* of the volume */
    uint32_t entries;
    uint32_t cluster, parent; /* 0: the root */
    const char *path;
};

static uint32_t entry_of(const struct fat *f, uint32_t cluster)
{
    uint32_t bits = f->tree->bits;
    size_t at = (size_t)cluster * bits / 8;
    uint32_t value;

    if (bits == 32)
        return (uint32_t)number_at(f->table, at, 4) & 0x0FFFFFFF;
    value = (uint32_t)number_at(f->table, at, 2);
    if (bits == 16)
        return value;
    return cluster % 2 != 0 ? value >> 4 : value & 0xFFF;
}

static uint32_t last_value(const struct fat *f)
{
    return f->tree->bits == 12   ? 0xFFF
           : f->tree->bits == 16 ? 0xFFFF
                                 : 0x0FFFFFFF;
}

/* Follows a chain, each cluster behind the one ahead. */
static uint32_t chain_length(struct fat *f, uint32_t cluster)
{
    uint32_t length = 0, next;

    do {
        assert_true(cluster >= 2 && cluster < f->tree->clusters + 2);
        assert_int_equal(f->taken[cluster], 0);
        f->taken[cluster] = 1;
        length++;
        next = entry_of(f, cluster);
        assert_true(next == last_value(f) || next == cluster + 1);
        cluster = next;
    } while (next != last_value(f));
    return length;
}

/* Both tables are one and the same. */
static void read_tables(struct fat *f)
{
    uint32_t size = f->tree->block_bytes;
    uint8_t other[4096];

    f->table = malloc((size_t)f->table_blocks * size + 4);
    f->taken = calloc((size_t)f->tree->clusters + 2, 1);
    for (uint64_t i = 0; i < f->table_blocks; i++) {
        f->tree->read(f->tree->context, f->table_at + i,
                      f->table + (size_t)i * size);
        f->tree->read(f->tree->context, f->table_at + f->table_blocks + i,
                      other);
        assert_memory_equal(f->table + (size_t)i * size, other, size);
    }
    assert_int_equal(entry_of(f, 0), (last_value(f) & ~0xFFu) | 0xF8);
    assert_int_equal(entry_of(f, 1), last_value(f));
}

static void read_boot(struct fat *f)
{
    struct tree *t = f->tree;
    uint64_t blocks, data;
    uint8_t b[4096];

    t->read(t->context, 0, b);
    assert_int_equal(number_at(b, 510, 2), 0xAA55);
    assert_int_equal(number_at(b, 11, 2), t->block_bytes);
    assert_int_equal(b[16], 2);
    f->table_at = number_at(b, 14, 2);
    f->table_blocks = number_at(b, 22, 2);
    if (f->table_blocks == 0)
        f->table_blocks = number_at(b, 36, 4);
    f->root_entries = (uint32_t)number_at(b, 17, 2);
    f->root_at = f->table_at + 2 * f->table_blocks;
    data = f->root_at + (uint64_t)f->root_entries * 32 / t->block_bytes;
    blocks = number_at(b, 19, 2);
    blocks = blocks == 0 ? number_at(b, 32, 4) : blocks;
    t->cluster_bytes = b[13] * t->block_bytes;
    t->clusters_at = data;
    t->clusters = (uint32_t)((blocks - data) / b[13]);
    t->bits = t->clusters < 4085 ? 12 : t->clusters < 65525 ? 16 : 32;
    t->root_cluster = t->bits == 32 ? (uint32_t)number_at(b, 44, 4) : 0;
    assert_true((t->root_cluster == 0) == (f->root_entries > 0));
}

static uint8_t sum_of(const uint8_t *name)
{
    uint32_t sum = 0;

    for (int i = 0; i < 11; i++)
        sum = ((sum & 1) * 0x80 + sum / 2 + name[i]) & 0xFF;
    return (uint8_t)sum;
}

static bool is_short_character(uint8_t c)
{
    return (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
           (c != 0 && strchr("$%'-_@~`!(){}^#&", c) != NULL);
}

/* "NAME.EXT" */
static void take_short(const uint8_t *e, char *name)
{
    bool ended = false;

    for (int i = 0; i < 11; i++) {
        if (i == 8)
            ended = false;
        if (e[i] == ' ') {
            ended = true;
            continue;
        }
        assert_true(!ended && is_short_character(e[i]));
        if (i == 8)
            *name++ = '.';
        *name++ = (char)e[i];
    }
    assert_int_not_equal(e[0], ' ');
    *name = '\0';
}

/* Long names: pieces from the last to the first, ahead of the short entry. */
struct long_name {
    uint16_t unit[260];
    uint32_t pieces, next;
    uint8_t sum;
};

static void take_piece(const uint8_t *e, struct long_name *name)
{
    static const int at[] = {1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30};
    uint32_t number = e[0] & 0x3F;

    assert_true(number >= 1 && number <= 20);
    if ((e[0] & 0x40) != 0) {
        assert_int_equal(name->next, 0);
        name->pieces = name->next = number;
        name->sum = e[13];
    }
    assert_int_equal(number, name->next);
    assert_int_equal(e[13], name->sum);
    assert_int_equal(e[12], 0);
    assert_int_equal(number_at(e, 26, 2), 0);
    for (uint32_t i = 0; i < 13; i++)
        name->unit[(number - 1) * 13 + i] =
            (uint16_t)number_at(e, (size_t)at[i], 2);
    name->next--;
}

/* Behind its end: a zero, then ones. */
static uint32_t long_length(const struct long_name *name)
{
    uint32_t room = name->pieces * 13, length = 0;

    while (length < room && name->unit[length] != 0)
        length++;
    assert_true(length > room - 13 && length <= 255);
    for (uint32_t i = length + 1; i < room; i++)
        assert_int_equal(name->unit[i], 0xFFFF);
    return length;
}

static void take_fields(struct fat *f, const uint8_t *e,
                        struct tree_entry *found)
{
    uint32_t size = f->tree->cluster_bytes;

    found->attributes = e[11];
    found->folder = (e[11] & 0x10) != 0;
    found->rest = e[13];
    found->time = (uint16_t)number_at(e, 22, 2);
    found->date = (uint16_t)number_at(e, 24, 2);
    assert_int_equal(number_at(e, 14, 2), found->time);
    assert_int_equal(number_at(e, 16, 2), found->date);
    assert_int_equal(number_at(e, 18, 2), found->date);
    found->bytes = number_at(e, 28, 4);
    found->cluster =
        (uint32_t)(number_at(e, 26, 2) | number_at(e, 20, 2) << 16);
    if (found->cluster != 0)
        found->clusters = chain_length(f, found->cluster);
    if (found->folder)
        assert_true(found->bytes == 0 && found->clusters > 0);
    else
        assert_int_equal(found->clusters, (found->bytes + size - 1) / size);
}

/* No other item of the folder has either of its names, whatever the case. */
static void check_alone(const struct tree *t, uint32_t from)
{
    const struct tree_entry *last = &t->entry[t->count - 1];

    for (uint32_t i = from; i + 1 < t->count; i++) {
        assert_string_not_equal(t->entry[i].short_name, last->short_name);
        assert_string_not_equal(t->entry[i].path, last->path);
    }
}

static void take_entry(struct fat *f, const struct folder *folder,
                       const uint8_t *e, struct long_name *name, uint32_t from)
{
    struct tree *t = f->tree;
    struct tree_entry *found = &t->entry[t->count++];
    uint16_t unit[13];
    uint32_t length = 0;

    assert_true(t->count <= TREE_MOST);
    memset(found, 0, sizeof *found);
    take_short(e, found->short_name);
    strcpy(found->path, folder->path);
    if (name->pieces > 0) {
        assert_int_equal(name->next, 0);
        assert_int_equal(name->sum, sum_of(e));
        tree_add_name(found->path, name->unit, long_length(name));
    } else {
        for (; found->short_name[length] != '\0'; length++)
            unit[length] = (uint8_t)found->short_name[length];
        tree_add_name(found->path, unit, length);
    }
    memset(name, 0, sizeof *name);
    take_fields(f, e, found);
    check_alone(t, from);
}

static void check_dots(const struct folder *folder, uint32_t i,
                       const uint8_t *e)
{
    assert_memory_equal(e, i == 0 ? ".          " : "..         ", 11);
    assert_int_equal(e[11], 0x10);
    assert_int_equal(number_at(e, 26, 2) | number_at(e, 20, 2) << 16,
                     i == 0 ? folder->cluster : folder->parent);
    assert_int_equal(number_at(e, 28, 4), 0);
}

/* Entries end at the first zero, and zeros is all that is behind it. */
static void read_folder(struct fat *f, const struct folder *folder)
{
    struct tree *t = f->tree;
    struct long_name name = {0};
    uint32_t per = t->block_bytes / 32, from = t->count;
    uint8_t block[4096];
    bool ended = false;

    for (uint32_t i = 0; i < folder->entries; i++) {
        const uint8_t *e = block + (size_t)(i % per) * 32;

        if (i % per == 0)
            t->read(t->context, folder->block + i / per, block);
        ended = ended || e[0] == 0;
        if (ended) {
            for (int byte = 0; byte < 32; byte++)
                assert_int_equal(e[byte], 0);
        } else if (folder->cluster != 0 && folder->path[0] != '\0' && i < 2) {
            check_dots(folder, i, e);
        } else if (e[11] == 0x0F) {
            take_piece(e, &name);
        } else if (e[11] == 0x08) {
            assert_true(folder->path[0] == '\0' && !t->labelled);
            t->labelled = true;
            t->label_at = i;
        } else {
            take_entry(f, folder, e, &name, from);
        }
    }
    assert_int_equal(name.pieces, 0);
}

/* The cluster that the folder of an entry has; 0: the root. */
static uint32_t parent_cluster(const struct tree *t, uint32_t entry)
{
    const char *path = t->entry[entry].path;
    size_t length = (size_t)(strrchr(path, '/') - path);

    for (uint32_t i = 0; i < entry; i++) {
        if (strlen(t->entry[i].path) == length &&
            memcmp(t->entry[i].path, path, length) == 0)
            return t->entry[i].cluster;
    }
    return 0;
}

static void read_all(struct fat *f)
{
    struct tree *t = f->tree;
    uint32_t per = t->cluster_bytes / 32;
    struct folder root = {f->root_at, f->root_entries, 0, 0, ""};

    if (t->bits == 32) {
        root.block = t->clusters_at + (uint64_t)(t->root_cluster - 2) *
                                          (t->cluster_bytes / t->block_bytes);
        root.entries = chain_length(f, t->root_cluster) * per;
    }
    read_folder(f, &root);
    for (uint32_t i = 0; i < t->count; i++) {
        struct folder folder = {t->clusters_at +
                                    (uint64_t)(t->entry[i].cluster - 2) *
                                        (t->cluster_bytes / t->block_bytes),
                                t->entry[i].clusters * per, t->entry[i].cluster,
                                parent_cluster(t, i), t->entry[i].path};

        if (t->entry[i].folder)
            read_folder(f, &folder);
    }
}

/* What no chain has is free or bad; FAT32 tells how much is free, and where to
 * look for it. */
static void count_rest(struct fat *f)
{
    struct tree *t = f->tree;
    uint32_t marked = last_value(f) & ~0x08u;
    uint8_t b[4096];

    t->used = t->bad = t->free = 0;
    for (uint32_t i = 2; i < t->clusters + 2; i++) {
        uint32_t entry = entry_of(f, i);

        t->used += f->taken[i];
        t->bad += entry == marked ? 1u : 0u;
        t->free += entry == 0 ? 1u : 0u;
        assert_true(f->taken[i] != 0 || entry == 0 || entry == marked);
    }
    if (t->bits != 32)
        return;
    t->read(t->context, 1, b);
    assert_int_equal(number_at(b, 488, 4), t->free);
    if (t->free > 0)
        assert_int_equal(
            entry_of(f, (uint32_t)number_at(b, 492, 4)) == 0 || t->bad > 0, 1);
}

void tree_read_fat(struct tree *tree)
{
    struct fat f = {.tree = tree};

    tree->count = 0;
    tree->labelled = false;
    read_boot(&f);
    read_tables(&f);
    read_all(&f);
    count_rest(&f);
    free(f.table);
    free(f.taken);
}
