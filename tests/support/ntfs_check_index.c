/* SPDX-License-Identifier: MIT */
/* An own reading of NTFS: indexes of names and of rights. */
#include "check.h"
#include "ntfs_check.h"

static const struct {
    uint32_t record, folder;
    const char *name;
} files[] = {{0, 5, "$MFT"},     {1, 5, "$MFTMirr"}, {2, 5, "$LogFile"},
             {3, 5, "$Volume"},  {4, 5, "$AttrDef"}, {5, 5, "."},
             {6, 5, "$Bitmap"},  {7, 5, "$Boot"},    {8, 5, "$BadClus"},
             {9, 5, "$Secure"},  {10, 5, "$UpCase"}, {11, 5, "$Extend"},
             {24, 11, "$Quota"}, {25, 11, "$ObjId"}, {26, 11, "$Reparse"}};
#define FILES (sizeof files / sizeof files[0])

/* The entries of a node: from its head on. */
struct node {
    const uint8_t *entry, *end;
    bool below; /* there are nodes below */
};

static struct node open_node(const uint8_t *head, uint32_t room)
{
    uint32_t first = (uint32_t)ntfs_number(head, 4);
    uint32_t used = (uint32_t)ntfs_number(head + 4, 4);

    assert_true(first % 8 == 0 && first >= 16 && used % 8 == 0);
    assert_true(used <= room && first + 16 <= used);
    assert_int_equal(ntfs_number(head + 8, 4), room);
    return (struct node){head + first, head + used, head[12] == 1};
}

/* The next entry of a node; NULL at its last one. */
static const uint8_t *next_entry(struct node *node)
{
    const uint8_t *entry = node->entry;
    uint32_t length = (uint32_t)ntfs_number(entry + 8, 2);
    uint32_t flags = (uint32_t)ntfs_number(entry + 12, 2);

    assert_true(length >= 16 && length % 8 == 0);
    node->entry += length;
    assert_true(node->entry <= node->end);
    assert_int_equal(flags & 1, node->below);
    if ((flags & 2) == 0)
        return entry;
    assert_int_equal(length, node->below ? 24 : 16);
    assert_true(node->entry == node->end);
    return NULL;
}

/* An index in its record: which values it is of, and how they are sorted. */
static struct node open_root(const uint8_t *record, const char *name,
                             uint32_t type, uint32_t order)
{
    struct ntfs_attribute a;

    assert_true(ntfs_find(record, 0x90, name, &a));
    assert_false(a.outside);
    assert_int_equal(ntfs_number(a.value, 4), type);
    assert_int_equal(ntfs_number(a.value + 4, 4), order);
    assert_int_equal(ntfs_number(a.value + 8, 4), 4096);
    return open_node(a.value + 16, a.length - 16);
}

/* What a name's attribute says, against the file that it is of. */
static void check_name(const struct ntfs *n, size_t file, const uint8_t *value,
                       uint32_t length)
{
    uint8_t record[4096], folder[4096];
    uint64_t bytes = 0, allocated = 0;
    size_t units = strlen(files[file].name);
    struct ntfs_attribute a;

    ntfs_record(n, files[file].folder, folder);
    ntfs_record(n, files[file].record, record);
    assert_int_equal(length, 66 + 2 * units);
    assert_int_equal(ntfs_number(value, 6), files[file].folder);
    assert_int_equal(ntfs_number(value + 6, 2), ntfs_number(folder + 16, 2));
    if (ntfs_find(record, 0x80, "", &a) && a.outside) {
        bytes = a.bytes;
        allocated = a.allocated;
    }
    assert_int_equal(ntfs_number(value + 40, 8), allocated);
    assert_int_equal(ntfs_number(value + 48, 8), bytes);
    assert_int_equal(ntfs_number(value + 56, 4) & 6, 6);
    assert_int_equal(ntfs_number(value + 56, 4) >> 28 & 1,
                     ntfs_number(record + 22, 2) >> 1 & 1);
    assert_int_equal(ntfs_number(record + 18, 2), 1);
    assert_int_equal(value[64], units);
    assert_int_equal(value[65], 3);
    for (size_t i = 0; i < units; i++)
        assert_int_equal(ntfs_number(value + 66 + 2 * i, 2),
                         files[file].name[i]);
    assert_true(ntfs_find(record, 0x30, "", &a));
    assert_int_equal(a.length, length);
    assert_memory_equal(a.value, value, length);
}

static size_t file_of(uint32_t record, uint32_t folder)
{
    for (size_t i = 0; i < FILES; i++)
        if (files[i].record == record && files[i].folder == folder)
            return i;
    fail_msg("record %u is in folder %u", record, folder);
    return 0;
}

/* The names in a folder: each once, in the order of its upper case. */
static void check_folder(const struct ntfs *n, struct node *node,
                         uint32_t folder)
{
    uint32_t seen = 0, wanted = 0;
    char last[16] = "";
    const uint8_t *entry;

    for (size_t i = 0; i < FILES; i++)
        wanted += files[i].folder == folder;
    for (; (entry = next_entry(node)) != NULL; seen++) {
        uint32_t record = (uint32_t)ntfs_number(entry, 4);
        char name[16] = "";
        size_t file = file_of(record, folder);

        check_name(n, file, entry + 16, (uint32_t)ntfs_number(entry + 10, 2));
        for (size_t i = 0; files[file].name[i] != '\0'; i++) {
            char c = files[file].name[i];

            name[i] = c >= 'a' && c <= 'z' ? (char)(c - 32) : c;
        }
        assert_true(strcmp(last, name) < 0);
        memcpy(last, name, sizeof last);
    }
    assert_int_equal(seen, wanted);
}

void ntfs_check_names(const struct ntfs *n)
{
    uint8_t record[4096], block[4096];
    struct ntfs_attribute a;
    struct node node;

    ntfs_record(n, 5, record);
    node = open_root(record, "$I30", 0x30, 1);
    assert_true(node.below && next_entry(&node) == NULL);
    assert_int_equal(ntfs_number(node.end - 8, 8), 0); /* the first block */
    assert_true(ntfs_find(record, 0xA0, "$I30", &a));
    assert_int_equal(a.bytes, 4096);
    ntfs_bytes(n, ntfs_one_run(n, &a), 4096, block);
    assert_true(ntfs_find(record, 0xB0, "$I30", &a));
    assert_true(a.length == 8 && ntfs_number(a.value, 8) == 1);
    ntfs_undo(block, 4096, "INDX");
    assert_int_equal(ntfs_number(block + 16, 8), 0);
    node = open_node(block + 24, 4096 - 24);
    assert_false(node.below);
    assert_true(node.entry >= block + 40 + 18);
    check_folder(n, &node, 5);
    ntfs_record(n, 11, record);
    node = open_root(record, "$I30", 0x30, 1);
    check_folder(n, &node, 11);
    ntfs_record(n, 24, record);
    node = open_root(record, "$O", 0, 0x11);
    assert_null(next_entry(&node));
    node = open_root(record, "$Q", 0, 0x10);
    assert_non_null(next_entry(&node));
    assert_null(next_entry(&node));
    ntfs_record(n, 25, record);
    node = open_root(record, "$O", 0, 0x13);
    assert_null(next_entry(&node));
    ntfs_record(n, 26, record);
    node = open_root(record, "$R", 0, 0x13);
    assert_null(next_entry(&node));
}

/* An account of so many parts, as a descriptor has it; its length. */
static uint32_t account(const uint8_t *at)
{
    assert_int_equal(at[0], 1);
    assert_true(at[1] >= 1 && at[1] <= 2);
    for (int i = 2; i < 7; i++)
        assert_int_equal(at[i], 0);
    return 8 + 4u * at[1];
}

static void check_descriptor(const uint8_t *at, uint32_t length, bool *everyone)
{
    const uint8_t *list = at + ntfs_number(at + 16, 4);
    uint32_t owner = (uint32_t)ntfs_number(at + 4, 4);
    uint32_t group = (uint32_t)ntfs_number(at + 8, 4), next = 8;

    assert_int_equal(ntfs_number(at, 4), 0x80040001);
    assert_int_equal(ntfs_number(at + 12, 4), 0);
    assert_int_equal(ntfs_number(at + 16, 4), 20);
    assert_int_equal(ntfs_number(list, 2), 2);
    *everyone = false;
    for (uint64_t i = 0; i < ntfs_number(list + 4, 2); i++) {
        const uint8_t *grant = list + next;
        uint32_t size = (uint32_t)ntfs_number(grant + 2, 2);

        assert_int_equal(grant[0], 0);
        assert_int_equal(size, 8 + account(grant + 8));
        if (memcmp(grant + 8, "\1\1\0\0\0\0\0\1\0\0\0\0", 12) == 0)
            *everyone = grant[1] == 3 && ntfs_number(grant + 4, 4) == 0x1F01FF;
        next += size;
    }
    assert_int_equal(next, ntfs_number(list + 2, 2));
    assert_int_equal(owner, 20 + next);
    assert_int_equal(group, owner + account(at + owner));
    assert_int_equal(length, group + account(at + group));
}

static uint32_t hash(const uint8_t *at, uint32_t length)
{
    uint32_t sum = 0;

    for (uint32_t i = 0; i + 4 <= length; i += 4)
        sum = (sum << 3 | sum >> 29) + (uint32_t)ntfs_number(at + i, 4);
    return sum;
}

/* Descriptors stand in the file twice, and once in each of two indexes; every
 * record names one of them. */
void ntfs_check_rights(const struct ntfs *n)
{
    uint8_t record[4096], file[4096] = {0}, copy[4096];
    uint32_t at = 0, number = 0, count = 0, used;
    const uint8_t *entry;
    struct ntfs_attribute a;
    struct node by_hash, by_number;
    uint64_t from, last = 0;

    ntfs_record(n, 9, record);
    assert_true(ntfs_find(record, 0x80, "$SDS", &a));
    from = ntfs_one_run(n, &a);
    used = (uint32_t)a.bytes - 262144;
    assert_true(a.bytes > 262144 && used <= sizeof file);
    ntfs_bytes(n, from, used, file);
    ntfs_bytes(n, from + 262144, used, copy);
    assert_memory_equal(file, copy, used);
    ntfs_bytes(n, from + 4096, sizeof copy, copy);
    for (uint32_t i = 0; i < sizeof copy; i++)
        assert_int_equal(copy[i], 0);
    by_number = open_root(record, "$SII", 0, 0x10);
    for (; at < used;
         at += (uint32_t)(ntfs_number(file + at + 16, 4) + 15) / 16 * 16) {
        uint32_t length = (uint32_t)ntfs_number(file + at + 16, 4) - 20;

        assert_int_equal(ntfs_number(file + at, 4),
                         hash(file + at + 20, length));
        assert_true(ntfs_number(file + at + 4, 4) > number);
        number = (uint32_t)ntfs_number(file + at + 4, 4);
        assert_int_equal(ntfs_number(file + at + 8, 8), at);
        check_descriptor(file + at + 20, length, &n->seen->everyone);
        entry = next_entry(&by_number);
        assert_non_null(entry);
        assert_int_equal(ntfs_number(entry + 16, 4), number);
        assert_memory_equal(entry + ntfs_number(entry, 2), file + at, 20);
        assert_int_equal(ntfs_number(entry + 2, 2), 20);
        count++;
    }
    assert_null(next_entry(&by_number));
    by_hash = open_root(record, "$SDH", 0, 0x12);
    for (; (entry = next_entry(&by_hash)) != NULL; count--) {
        uint64_t place = ntfs_number(entry + ntfs_number(entry, 2) + 8, 8);

        assert_true(place < used);
        assert_memory_equal(entry + ntfs_number(entry, 2), file + place, 20);
        assert_memory_equal(entry + 16, file + place, 8);
        assert_true(ntfs_number(entry + 16, 4) > last || last == 0);
        last = ntfs_number(entry + 16, 4);
    }
    assert_int_equal(count, 0);
    for (size_t i = 0; i < FILES; i++) {
        ntfs_record(n, files[i].record, record);
        assert_true(ntfs_find(record, 0x10, "", &a));
        assert_int_equal(a.length, 72);
        assert_true(ntfs_number(a.value + 52, 4) > 0xFF &&
                    ntfs_number(a.value + 52, 4) <= number);
        assert_int_equal(ntfs_number(a.value + 32, 4) & 6, 6);
        if (files[i].record == 5) /* the last one is the root folder's */
            assert_int_equal(ntfs_number(a.value + 52, 4), number);
    }
}
