/* SPDX-License-Identifier: MIT */
/* What the readings of FAT and exFAT folders share. */
#include "tree.h"

#include <stdlib.h>

#include "check.h"

void tree_bytes(const struct tree *tree, uint32_t cluster, uint64_t at,
                uint32_t count, uint8_t *data)
{
    uint32_t size = tree->block_bytes;
    uint64_t from = (uint64_t)(cluster - 2) * tree->cluster_bytes + at;
    uint8_t block[4096];

    while (count > 0) {
        uint32_t within = (uint32_t)(from % size);
        uint32_t part = size - within < count ? size - within : count;

        assert_true(tree->clusters_at + from / size < tree->blocks);
        tree->read(tree->context, tree->clusters_at + from / size, block);
        memcpy(data, block + within, part);
        data += part;
        from += part;
        count -= part;
    }
}

static void add(char *path, size_t *used, uint32_t byte)
{
    assert_true(*used + 1 < TREE_PATH);
    path[(*used)++] = (char)byte;
    path[*used] = '\0';
}

void tree_add_name(char *path, const uint16_t *unit, uint32_t count)
{
    size_t used = strlen(path);

    add(path, &used, '/');
    for (uint32_t i = 0; i < count; i++) {
        uint32_t point = unit[i];

        if (point >= 0xD800 && point < 0xDC00) {
            assert_true(i + 1 < count && unit[i + 1] >= 0xDC00);
            point = 0x10000 + ((point - 0xD800) << 10) + unit[++i] - 0xDC00;
        }
        if (point < 0x80) {
            add(path, &used, point);
        } else if (point < 0x800) {
            add(path, &used, 0xC0 | point >> 6);
            add(path, &used, 0x80 | (point & 0x3F));
        } else if (point < 0x10000) {
            add(path, &used, 0xE0 | point >> 12);
            add(path, &used, 0x80 | (point >> 6 & 0x3F));
            add(path, &used, 0x80 | (point & 0x3F));
        } else {
            add(path, &used, 0xF0 | point >> 18);
            add(path, &used, 0x80 | (point >> 12 & 0x3F));
            add(path, &used, 0x80 | (point >> 6 & 0x3F));
            add(path, &used, 0x80 | (point & 0x3F));
        }
    }
}

const struct tree_entry *tree_find(const struct tree *tree, const char *path)
{
    for (uint32_t i = 0; i < tree->count; i++) {
        if (strcmp(tree->entry[i].path, path) == 0)
            return &tree->entry[i];
    }
    fail_msg("%s is not on the volume", path);
    abort();
}
