/* SPDX-License-Identifier: MIT */
/* A closer look at an APFS container: the names of its volumes. The container
 * lists object identifiers; a tree maps each to the block of a volume. Layout:
 * the published Apple File System Reference. */

#include "volume/known/known.h"

#define BLOCK_BYTES 4096u /* containers of other blocks keep their names */
#define VOLUMES 100u
#define NAMES 4u /* volumes whose names are read */
#define LEVELS 4u
#define NODE_ROOT 0x0001u
#define NODE_FIXED 0x0004u
#define NODE_HEAD 56u
#define NODE_TAIL 40u /* of a root node */

static const uint8_t *read_block(struct slate_reader *reader, uint64_t block)
{
    return block < UINT64_MAX / BLOCK_BYTES
               ? slate_reader_at(reader, block * BLOCK_BYTES, BLOCK_BYTES)
               : NULL;
}

/* Where things stand in a node. */
struct node {
    uint32_t count, keys, values_end;
    bool leaf;
};

static bool take_node(const uint8_t *bytes, struct node *node)
{
    uint32_t flags = slate_le16(bytes + 32);
    uint32_t at = slate_le16(bytes + 40), length = slate_le16(bytes + 42);

    node->count = slate_le32(bytes + 36);
    node->leaf = slate_le16(bytes + 34) == 0;
    node->keys = NODE_HEAD + at + length;
    node->values_end = BLOCK_BYTES - ((flags & NODE_ROOT) != 0 ? NODE_TAIL : 0);
    return (flags & NODE_FIXED) != 0 && at == 0 && node->count <= length / 4 &&
           node->keys <= BLOCK_BYTES;
}

/* The value of the last entry that is not behind the wanted object: the newest
 * one of it in a leaf, the way down to it elsewhere. 0: none. */
static uint64_t find_in(const uint8_t *bytes, const struct node *node,
                        uint64_t wanted)
{
    uint32_t value_bytes = node->leaf ? 16 : 8;
    uint64_t found = 0;

    for (uint32_t i = 0; i < node->count; i++) {
        const uint8_t *entry = bytes + NODE_HEAD + (size_t)i * 4;
        uint32_t key = node->keys + slate_le16(entry);
        uint32_t back = slate_le16(entry + 2);
        uint64_t object;

        if (key + 16 > BLOCK_BYTES || back < value_bytes ||
            back > node->values_end)
            return 0;
        object = slate_le64(bytes + key);
        if (object > wanted)
            break;
        if (!node->leaf || object == wanted)
            found = slate_le64(bytes + node->values_end - back +
                               (node->leaf ? 8 : 0));
    }
    return found;
}

/* The block of an object. */
static uint64_t look_up(struct slate_reader *reader, uint64_t tree,
                        uint64_t wanted)
{
    for (uint32_t level = 0; level < LEVELS && tree != 0; level++) {
        const uint8_t *bytes = read_block(reader, tree);
        struct node node;

        if (bytes == NULL || !take_node(bytes, &node))
            return 0;
        tree = find_in(bytes, &node, wanted);
        if (node.leaf)
            return tree;
    }
    return 0;
}

static void add_name(struct slate_reader *reader, uint64_t block,
                     struct slate_volume *volume)
{
    const uint8_t *bytes = block == 0 ? NULL : read_block(reader, block);
    struct slate_volume one = {.label = ""};
    size_t used = strlen(volume->label), length;

    if (bytes == NULL || memcmp(bytes + 32, "APSB", 4) != 0)
        return;
    slate_label_utf8(&one, bytes + 704, 256);
    length = strlen(one.label);
    if (length == 0 || used + 2 + length >= sizeof volume->label)
        return;
    if (used > 0) {
        memcpy(volume->label + used, ", ", 2);
        used += 2;
    }
    memcpy(volume->label + used, one.label, length + 1);
}

void slate_apfs_read(struct slate_reader *reader, const uint8_t *boot,
                     struct slate_volume *volume)
{
    uint64_t object[NAMES], map;
    uint32_t names = 0;
    const uint8_t *bytes;

    (void)boot;
    if (volume->cluster_bytes != BLOCK_BYTES)
        return;
    bytes = read_block(reader, 0);
    if (bytes == NULL)
        return;
    map = slate_le64(bytes + 160);
    for (uint32_t i = 0; i < VOLUMES && names < NAMES; i++) {
        uint64_t one = slate_le64(bytes + 184 + (size_t)i * 8);

        if (one != 0)
            object[names++] = one;
    }
    bytes = read_block(reader, map);
    if (bytes == NULL)
        return;
    map = slate_le64(bytes + 48);
    for (uint32_t i = 0; i < names; i++)
        add_name(reader, look_up(reader, map, object[i]), volume);
}
