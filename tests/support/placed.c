/* SPDX-License-Identifier: MIT */
/* Files for tests to place. */
#include "placed.h"

uint8_t placed_byte(uint32_t item, uint64_t at)
{
    return (uint8_t)(at * 31 + (at >> 8) * 7 + (at >> 16) + item * 53 + 1);
}

static enum slate_status read_item(void *context, uint32_t item, uint64_t at,
                                   uint32_t count, void *data)
{
    struct placed *p = context;
    bool changed;
    uint8_t *to = data;

    p->reads++;
    changed = p->reads > p->change_after;
    if (p->reads == p->fail_read || (changed && item == p->shorter))
        return SLATE_ERR_SOURCE;
    for (uint32_t i = 0; i < count; i++)
        to[i] = (uint8_t)(placed_byte(item, at + i) ^
                          (changed && item == p->changed &&
                           at + i == p->changed_at));
    return SLATE_OK;
}

void placed_begin(struct placed *placed, struct slate_draft *draft)
{
    struct slate_files *files = &draft->files;
    const struct slate_item root = {.folder = true};

    memset(&placed->source, 0, sizeof placed->source);
    placed->source.read = read_item;
    placed->source.context = placed;
    placed->reads = placed->fail_read = placed->change_after = 0;
    placed->changed = placed->shorter = PLACED_NOBODY;
    files->count = 0;
    files->names.count = 0;
    files->source = &placed->source;
    placed->files = files;
    placed->draft = draft;
    draft->part[0].ask.files = true;
    assert_ok(slate_draft_file(draft, &root, ""));
}

static uint32_t add(struct placed *placed, const struct slate_item *item,
                    const char *name)
{
    assert_ok(slate_draft_file(placed->draft, item, name));
    return placed->files->count - 1;
}

uint32_t placed_add(struct placed *placed, uint32_t parent, const char *name,
                    uint64_t bytes)
{
    struct slate_item item = {
        .parent = parent,
        .bytes = bytes,
        .changed = {2026, 3, 4, 5, 6, (uint8_t)(placed->files->count % 60)}};

    return add(placed, &item, name);
}

uint32_t placed_add_folder(struct placed *placed, uint32_t parent,
                           const char *name)
{
    struct slate_item item = {.parent = parent,
                              .folder = true,
                              .changed = {2025, 12, 31, 23, 59, 58}};

    return add(placed, &item, name);
}

void placed_digest(struct placed *placed)
{
    static uint8_t work[65536];
    struct slate_files_reading reading;
    bool finished = false;

    slate_files_read_start(&reading, placed->files, false);
    while (!finished)
        assert_ok(
            slate_files_read_step(&reading, work, sizeof work, &finished));
    assert_int_equal(reading.done, reading.total);
    placed->reads = 0;
}

struct device {
    const struct ram *ram;
    uint64_t first;
    uint32_t block_bytes;
};

static void read_block(void *context, uint64_t block, uint8_t *data)
{
    const struct device *device = context;

    ram_get(device->ram, (device->first + block) * device->block_bytes, data,
            device->block_bytes);
}

static void path_of(const struct slate_files *files, uint32_t item, char *path)
{
    char ahead[TREE_PATH];

    path[0] = '\0';
    for (; item != 0; item = files->item[item].parent) {
        strcpy(ahead, path);
        strcpy(path, "/");
        strcat(path, slate_item_name(files, item));
        strcat(path, ahead);
    }
}

/* Two seconds, and what is left of them. */
static void check_stamp(const struct slate_stamp *stamp,
                        const struct tree_entry *found)
{
    assert_int_equal(found->date >> 9, stamp->year - 1980);
    assert_int_equal(found->date >> 5 & 15, stamp->month);
    assert_int_equal(found->date & 31, stamp->day);
    assert_int_equal(found->time >> 11, stamp->hour);
    assert_int_equal(found->time >> 5 & 63, stamp->minute);
    assert_int_equal((found->time & 31) * 2 + found->rest / 100, stamp->second);
}

static void check_content(const struct tree *tree, uint32_t item,
                          const struct tree_entry *found)
{
    static uint8_t bytes[65536], wanted[65536];

    for (uint64_t at = 0; at < found->bytes; at += sizeof bytes) {
        uint64_t left = found->bytes - at;
        uint32_t count = (uint32_t)(left < sizeof bytes ? left : sizeof bytes);

        tree_bytes(tree, found->cluster, at, count, bytes);
        for (uint32_t i = 0; i < count; i++)
            wanted[i] = placed_byte(item, at + i);
        assert_memory_equal(bytes, wanted, count);
    }
}

static void check_items(const struct placed *placed, const struct tree *tree)
{
    const struct slate_files *files = placed->files;
    char path[TREE_PATH];

    assert_int_equal(tree->count, files->count - 1);
    for (uint32_t i = 1; i < files->count; i++) {
        const struct slate_item *item = &files->item[i];
        const struct tree_entry *found = &tree->entry[i - 1];

        path_of(files, i, path);
        assert_string_equal(found->path, path); /* in the same order */
        assert_int_equal(found->folder, item->folder);
        assert_int_equal(found->attributes,
                         item->attributes | (item->folder ? 0x10 : 0x20));
        check_stamp(&item->changed, found);
        if (!item->folder) {
            assert_int_equal(found->bytes, item->bytes);
            check_content(tree, i, found);
        }
    }
}

void placed_check(const struct placed *placed, const struct slate_draft *draft,
                  const struct ram *ram, struct tree *tree)
{
    static struct exfat_seen seen;
    const struct slate_part *part = &draft->part[0];
    struct slate_figures figures;
    static struct device device;

    device = (struct device){ram, part->range.first,
                             draft->basis.geometry.block_bytes};
    tree->context = &device;
    tree->read = read_block;
    tree->block_bytes = device.block_bytes;
    tree->blocks = part->range.count;
    part->format->figures(&part->volume, &figures);
    if (part->format->kind == SLATE_VOLUME_EXFAT) {
        uint64_t bad[64];
        struct exfat_blocks blocks = {
            &device,      read_block, device.block_bytes, tree->blocks,
            device.first, bad,        draft->bad.count,   tree};

        assert_true(draft->bad.count <= 64);
        for (uint32_t i = 0; i < draft->bad.count; i++) {
            assert_int_equal(draft->bad.range[i].count, 1);
            bad[i] = draft->bad.range[i].first;
        }

        exfat_check(&blocks, &seen);
        tree->free = seen.clusters - seen.used - seen.bad;
    } else {
        tree_read_fat(tree);
    }
    check_items(placed, tree);
    assert_int_equal(figures.room_bytes,
                     (uint64_t)tree->free * tree->cluster_bytes);
}
