/* SPDX-License-Identifier: MIT */
/* An own reading of ext4, apart from the library's. */
#include "ext_check.h"

#include <stdlib.h>

#include "check.h"

/* Units of the first groups have an owner each; the letters are this reading's
 * own. */
#define OWNED_MOST 8388608u

struct ext {
    const struct volume_blocks *blocks;
    struct ext_seen *seen;
    uint32_t seed, first_unit, descriptor_units, table_units, flex_groups;
    uint64_t owned; /* units that have an owner noted */
    uint8_t *owner;
};

/* A bit at a time, as the polynomial has it. */
static uint32_t crc(uint32_t sum, const uint8_t *bytes, size_t length)
{
    for (size_t i = 0; i < length; i++) {
        sum ^= bytes[i];
        for (int bit = 0; bit < 8; bit++)
            sum = sum >> 1 ^ ((sum & 1) != 0 ? 0x82F63B78u : 0);
    }
    return sum;
}

static void read_unit(const struct ext *e, uint64_t unit, uint8_t *data)
{
    uint32_t size = e->blocks->block_bytes, per = e->seen->unit_bytes / size;

    assert_true((unit + 1) * per <= e->blocks->blocks);
    for (uint32_t i = 0; i < per; i++)
        e->blocks->read(e->blocks->context, unit * per + i,
                        data + (size_t)i * size);
}

static bool has_copy(uint32_t group)
{
    static const uint32_t bases[] = {3, 5, 7};

    if (group <= 1)
        return true;
    for (int i = 0; i < 3; i++) {
        uint64_t power = bases[i];

        while (power < group)
            power *= bases[i];
        if (power == group)
            return true;
    }
    return false;
}

static uint64_t group_first(const struct ext *e, uint32_t group)
{
    return e->first_unit + (uint64_t)group * e->seen->group_units;
}

static uint64_t group_end(const struct ext *e, uint32_t group)
{
    uint64_t end = group_first(e, group) + e->seen->group_units;

    return end < e->seen->units ? end : e->seen->units;
}

static void own(struct ext *e, uint64_t first, uint64_t count, uint8_t who)
{
    assert_true(first >= e->first_unit && first + count <= e->seen->units);
    for (uint64_t unit = first; unit < first + count && unit < e->owned;
         unit++) {
        if (e->owner[unit] != 0)
            fail_msg("unit %llu is of '%c' and of '%c'",
                     (unsigned long long)unit, e->owner[unit], who);
        e->owner[unit] = who;
    }
}

static void read_super(struct ext *e, uint8_t *super)
{
    uint8_t block[4096];
    uint32_t size = e->blocks->block_bytes;

    for (uint32_t at = 0; at < 1024; at += 512) {
        e->blocks->read(e->blocks->context, (1024 + at) / size, block);
        memcpy(super + at, block + (1024 + at) % size, 512);
    }
}

static void check_super(struct ext *e, const uint8_t *s)
{
    struct ext_seen *seen = e->seen;

    assert_int_equal(number_at(s, 56, 2), 0xEF53);
    assert_int_equal(number_at(s, 1020, 4), crc(UINT32_MAX, s, 1020));
    seen->unit_bytes = 1024u << number_at(s, 24, 4);
    assert_int_equal(number_at(s, 24, 4), number_at(s, 28, 4));
    assert_true(seen->unit_bytes >= 1024 && seen->unit_bytes <= 4096);
    e->first_unit = (uint32_t)number_at(s, 20, 4);
    assert_int_equal(e->first_unit, seen->unit_bytes == 1024);
    seen->units = number_at(s, 4, 4) | number_at(s, 336, 4) << 32;
    seen->free = number_at(s, 12, 4) | number_at(s, 344, 4) << 32;
    seen->group_units = (uint32_t)number_at(s, 32, 4);
    assert_int_equal(seen->group_units, 8 * seen->unit_bytes);
    assert_int_equal(number_at(s, 36, 4), seen->group_units);
    seen->group_inodes = (uint32_t)number_at(s, 40, 4);
    seen->groups =
        (uint32_t)((seen->units - e->first_unit + seen->group_units - 1) /
                   seen->group_units);
    assert_int_equal(number_at(s, 0, 4),
                     (uint64_t)seen->groups * seen->group_inodes);
    assert_int_equal(number_at(s, 16, 4), number_at(s, 0, 4) - 11);
    assert_int_equal(seen->group_inodes % 8, 0);
    assert_true(seen->group_inodes <= seen->group_units);
    assert_int_equal(number_at(s, 58, 2), 1);  /* clean */
    assert_int_equal(number_at(s, 76, 4), 1);  /* revision */
    assert_int_equal(number_at(s, 84, 4), 11); /* first inode */
    assert_int_equal(number_at(s, 88, 2), 256);
    assert_int_equal(number_at(s, 90, 2), 0);
    assert_int_equal(number_at(s, 96, 4), 0x2C2);
    assert_int_equal(number_at(s, 100, 4), 0x46B);
    assert_int_equal(number_at(s, 92, 4) & ~4u, 0x28);
    seen->journal_units = (number_at(s, 92, 4) & 4) != 0;
    assert_int_equal(number_at(s, 224, 4), seen->journal_units ? 8 : 0);
    assert_int_equal(number_at(s, 254, 2), 64);
    assert_int_equal(s[373], 1); /* CRC-32C */
    assert_int_equal(s[252], 1);
    assert_true(number_at(s, 348, 2) == 32 && number_at(s, 350, 2) == 32);
    assert_true((number_at(s, 8, 4) | number_at(s, 340, 4) << 32) <=
                seen->units / 20);
    memcpy(seen->label, s + 120, 16);
    seen->label[16] = '\0';
    e->flex_groups = 1u << s[372];
    e->seed = crc(UINT32_MAX, s + 104, 16);
    e->descriptor_units =
        (uint32_t)(((uint64_t)seen->groups * 64 + seen->unit_bytes - 1) /
                   seen->unit_bytes);
    e->table_units = seen->group_inodes * 256 / seen->unit_bytes;
    assert_int_equal(seen->group_inodes * 256 % seen->unit_bytes, 0);
}

static void read_descriptor(const struct ext *e, uint32_t group, uint8_t *d)
{
    uint8_t unit[4096];
    uint32_t per = e->seen->unit_bytes / 64;

    read_unit(e, e->first_unit + 1 + group / per, unit);
    memcpy(d, unit + (size_t)(group % per) * 64, 64);
}

/* A copy tells its own group, and is the same else. */
static void check_copy(struct ext *e, uint32_t group, const uint8_t *super)
{
    uint8_t unit[4096], first[4096], expected[1024];

    memcpy(expected, super, 1024);
    expected[90] = (uint8_t)group;
    expected[91] = (uint8_t)(group >> 8);
    for (int i = 0; i < 4; i++)
        expected[1020 + i] =
            (uint8_t)(crc(UINT32_MAX, expected, 1020) >> 8 * i);
    read_unit(e, group_first(e, group), unit);
    assert_memory_equal(unit, expected, 1024);
    for (uint32_t i = 0; i < e->descriptor_units;
         i += e->descriptor_units < 64 ? 1 : e->descriptor_units - 1) {
        read_unit(e, group_first(e, group) + 1 + i, unit);
        read_unit(e, e->first_unit + 1 + i, first);
        assert_memory_equal(unit, first, e->seen->unit_bytes);
    }
}

static uint64_t wide(const uint8_t *d, size_t at)
{
    return number_at(d, at, 4) | number_at(d, at + 32, 4) << 32;
}

static uint32_t narrow(const uint8_t *d, size_t at)
{
    return (uint32_t)(number_at(d, at, 2) | number_at(d, at + 32, 2) << 16);
}

/* In its own flexible group, all of it. */
static void check_descriptor(struct ext *e, uint32_t group, const uint8_t *d)
{
    uint32_t head = group / e->flex_groups * e->flex_groups;
    uint32_t used = group == 0 ? 11 : 0;
    uint8_t bytes[64], number[4];

    for (int i = 0; i < 4; i++)
        number[i] = (uint8_t)(group >> 8 * i);
    memcpy(bytes, d, 64);
    bytes[30] = bytes[31] = 0;
    assert_int_equal(number_at(d, 30, 2),
                     crc(crc(e->seed, number, 4), bytes, 64) & 0xFFFF);
    for (size_t at = 0; at < 12; at += 4)
        assert_true(wide(d, at) >= group_first(e, head) &&
                    wide(d, at) < group_first(e, head + e->flex_groups));
    own(e, wide(d, 0), 1, 'b');
    own(e, wide(d, 4), 1, 'i');
    own(e, wide(d, 8), e->table_units, 't');
    assert_int_equal(narrow(d, 14), e->seen->group_inodes - used);
    assert_int_equal(narrow(d, 28), e->seen->group_inodes - used);
    assert_int_equal(narrow(d, 16), group == 0 ? 2 : 0);
    /* no table is told to be zeros, and only the first group has inodes */
    assert_int_equal(number_at(d, 18, 2) & ~2u, group == 0 ? 0 : 1);
}

/* The bits of a group's bitmap are its units' owners. */
static void check_bitmap(struct ext *e, uint32_t group, const uint8_t *d)
{
    uint64_t first = group_first(e, group), end = group_end(e, group);
    bool blank = (number_at(d, 18, 2) & 2) != 0;
    uint64_t spare = 0;
    uint8_t map[4096];

    e->seen->written += blank ? 0 : 1;
    if (!blank) {
        read_unit(e, wide(d, 0), map);
        assert_int_equal(narrow(d, 24), crc(e->seed, map, e->seen->unit_bytes));
    }
    for (uint32_t i = 0; i < e->seen->group_units; i++) {
        bool set = !blank && (map[i / 8] >> i % 8 & 1) != 0;

        if (blank) /* what a kernel makes of it: the copy, and its own */
            set = (has_copy(group) && i < 1 + e->descriptor_units) ||
                  first + i >= end || first + i == wide(d, 0) ||
                  first + i == wide(d, 4) ||
                  (first + i >= wide(d, 8) &&
                   first + i < wide(d, 8) + e->table_units);
        if (first + i < e->owned &&
            set != (first + i >= end || e->owner[first + i] != 0))
            fail_msg("unit %llu of group %u is %s",
                     (unsigned long long)first + i, group,
                     set ? "marked" : "not marked");
        spare += set ? 0 : 1;
    }
    assert_int_equal(narrow(d, 12), spare);
}

static void check_inode_bitmap(struct ext *e, const uint8_t *d)
{
    uint8_t map[4096];

    read_unit(e, wide(d, 4), map);
    assert_int_equal(narrow(d, 26),
                     crc(e->seed, map, e->seen->group_inodes / 8));
    for (uint32_t i = 0; i < e->seen->group_units; i++)
        assert_int_equal(map[i / 8] >> i % 8 & 1,
                         i < 11 || i >= e->seen->group_inodes);
}

static void read_inode(struct ext *e, uint64_t table, uint32_t number,
                       uint8_t *inode)
{
    uint8_t unit[4096], bytes[256], seed[8] = {0};
    uint32_t at = (number - 1) * 256, sum, extra;

    read_unit(e, table + at / e->seen->unit_bytes, unit);
    memcpy(inode, unit + at % e->seen->unit_bytes, 256);
    memcpy(bytes, inode, 256);
    extra = (uint32_t)number_at(inode, 128, 2);
    memset(bytes + 124, 0, 2);
    if (extra > 0)
        memset(bytes + 130, 0, 2);
    seed[0] = (uint8_t)number;
    sum = crc(crc(e->seed, seed, 8), bytes, 256);
    assert_int_equal(number_at(inode, 124, 2), sum & 0xFFFF);
    if (extra > 0)
        assert_int_equal(number_at(inode, 130, 2), sum >> 16);
}

/* The units of an inode, which are its own; in a row. */
static uint64_t check_map(struct ext *e, const uint8_t *inode, uint8_t who,
                          uint64_t *at)
{
    const uint8_t *map = inode + 40;
    uint64_t entries = number_at(map, 2, 2), units = 0;

    assert_int_equal(number_at(map, 0, 2), 0xF30A);
    assert_int_equal(number_at(map, 4, 2), 4);
    assert_int_equal(number_at(map, 6, 2), 0);
    assert_true(entries >= 1 && entries <= 4);
    for (uint64_t i = 0; i < entries; i++) {
        const uint8_t *extent = map + 12 + i * 12;
        uint64_t length = number_at(extent, 4, 2);
        uint64_t first = number_at(extent, 8, 4) | number_at(extent, 6, 2)
                                                       << 32;

        assert_int_equal(number_at(extent, 0, 4), units);
        assert_true(length >= 1 && length <= 32768);
        if (i == 0)
            *at = first;
        assert_int_equal(first, *at + units);
        units += length;
    }
    own(e, *at, units, who);
    assert_int_equal(number_at(inode, 4, 4) | number_at(inode, 108, 4) << 32,
                     units * e->seen->unit_bytes);
    assert_int_equal(number_at(inode, 28, 4),
                     units * e->seen->unit_bytes / 512);
    assert_int_equal(number_at(inode, 32, 4), 0x80000);
    return units;
}

/* Entries up to the tail, whose checksum is over all of it. */
static void check_folder_unit(struct ext *e, uint32_t number, uint64_t unit,
                              const char *names)
{
    uint32_t size = e->seen->unit_bytes, at = 0;
    uint8_t data[4096], seed[8] = {(uint8_t)number};

    read_unit(e, unit, data);
    assert_int_equal(number_at(data, size - 12, 4), 0);
    assert_int_equal(number_at(data, size - 8, 2), 12);
    assert_int_equal(data[size - 5], 0xDE);
    assert_int_equal(number_at(data, size - 4, 4),
                     crc(crc(e->seed, seed, 8), data, size - 12));
    while (at < size - 12) {
        uint32_t length = (uint32_t)number_at(data, at + 4, 2);
        uint32_t name = data[at + 6];

        assert_true(length >= 8 + name && length % 4 == 0);
        if (name > 0) {
            assert_int_equal(memcmp(data + at + 8, names, name), 0);
            names += name + 1;
            assert_int_equal(data[at + 7], 2);
        }
        at += length;
    }
    assert_int_equal(at, size - 12);
    assert_int_equal(names[0], '\0');
}

/* Extents of bad units, each with the number of units ahead of it; mine: those
 * of a unit of the map, or of the inode. */
static void check_bad_extents(struct ext *e, const uint8_t *map, uint32_t mine)
{
    struct ext_seen *seen = e->seen;

    assert_int_equal(number_at(map, 6, 2), 0);
    for (uint64_t i = 0; i < mine; i++) {
        const uint8_t *extent = map + 12 + i * 12;
        uint64_t first = number_at(extent, 8, 4) | number_at(extent, 6, 2)
                                                       << 32;
        uint64_t count = number_at(extent, 4, 2);

        assert_int_equal(number_at(extent, 0, 4), seen->bad);
        assert_true(count >= 1 && count <= 32768 && seen->bad_runs < 1400);
        own(e, first, count, 'x');
        seen->bad_first[seen->bad_runs] = first;
        seen->bad_count[seen->bad_runs++] = count;
        seen->bad += count;
    }
}

static void check_bad(struct ext *e, const uint8_t *inode)
{
    const uint8_t *map = inode + 40;
    uint64_t entries = number_at(map, 2, 2);
    uint8_t unit[4096], seed[8] = {1};

    for (int byte = 0; number_at(inode, 0, 2) == 0 && byte < 124; byte++)
        assert_int_equal(inode[byte], 0);
    if (number_at(inode, 0, 2) == 0)
        return;
    assert_int_equal(number_at(map, 0, 2), 0xF30A);
    assert_int_equal(number_at(map, 4, 2), 4);
    assert_true(entries >= 1 && entries <= 4);
    if (number_at(map, 6, 2) == 0)
        check_bad_extents(e, map, (uint32_t)entries);
    else
        for (uint64_t i = 0; i < entries; i++) {
            const uint8_t *index = map + 12 + i * 12;
            uint64_t at = number_at(index, 4, 4) | number_at(index, 8, 2) << 32;
            uint64_t most, end;

            own(e, at, 1, 'm');
            e->seen->map_units++;
            assert_int_equal(number_at(index, 0, 4), e->seen->bad);
            read_unit(e, at, unit);
            assert_int_equal(number_at(unit, 0, 2), 0xF30A);
            most = number_at(unit, 4, 2);
            assert_int_equal(most, (e->seen->unit_bytes - 16) / 12);
            assert_true(number_at(unit, 2, 2) >= 1 &&
                        number_at(unit, 2, 2) <= most);
            end = 12 + 12 * most;
            assert_int_equal(number_at(unit, end, 4),
                             crc(crc(e->seed, seed, 8), unit, end));
            check_bad_extents(e, unit, (uint32_t)number_at(unit, 2, 2));
        }
    assert_int_equal(number_at(inode, 4, 4) | number_at(inode, 108, 4) << 32,
                     e->seen->bad * e->seen->unit_bytes);
    assert_int_equal(number_at(inode, 28, 4) | number_at(inode, 116, 2) << 32,
                     (e->seen->bad + e->seen->map_units) *
                         (e->seen->unit_bytes / 512));
    assert_int_equal(number_at(inode, 32, 4), 0x80000);
}

static void check_inodes(struct ext *e, const uint8_t *d)
{
    uint64_t table = wide(d, 8), at, units;
    uint8_t inode[256], unit[4096];

    for (uint32_t i = 1; i <= 11; i++) {
        read_inode(e, table, i, inode);
        if (i != 1 && i != 2 && i != 8 && i != 11)
            for (int byte = 0; byte < 124; byte++)
                assert_int_equal(inode[byte], 0);
    }
    read_inode(e, table, 1, inode);
    check_bad(e, inode);
    read_inode(e, table, 2, inode);
    e->seen->root_mode = (uint32_t)number_at(inode, 0, 2);
    assert_int_equal(number_at(inode, 26, 2), 3);
    assert_int_equal(check_map(e, inode, 'r', &at), 1);
    check_folder_unit(e, 2, at, ".\0..\0lost+found\0");
    read_inode(e, table, 11, inode);
    assert_int_equal(number_at(inode, 0, 2), 0x41C0);
    units = check_map(e, inode, 'l', &at);
    for (uint64_t i = 0; i < units; i++)
        check_folder_unit(e, 11, at + i, i == 0 ? ".\0..\0" : "");
    read_inode(e, table, 8, inode);
    if (e->seen->journal_units == 0) {
        assert_int_equal(number_at(inode, 0, 2), 0);
        return;
    }
    e->seen->journal_units = (uint32_t)check_map(e, inode, 'j', &at);
    assert_true(e->seen->journal_units >= 1024);
    read_unit(e, at, unit);
    assert_memory_equal(unit, "\xC0\x3B\x39\x98\0\0\0\4\0\0\0\0", 12);
    assert_int_equal(unit[14] << 8 | unit[15], e->seen->unit_bytes);
    assert_int_equal(unit[17] << 16 | unit[18] << 8 | unit[19],
                     e->seen->journal_units);
    assert_memory_equal(unit + 20, "\0\0\0\1", 4);
    assert_memory_equal(unit + 28, "\0\0\0\0", 4); /* nothing to replay */
}

void ext_check(const struct volume_blocks *blocks, uint32_t step,
               struct ext_seen *seen)
{
    struct ext e = {.blocks = blocks, .seen = seen};
    uint8_t super[1024], d[64];
    uint64_t spare = 0;

    memset(seen, 0, sizeof *seen);
    read_super(&e, super);
    check_super(&e, super);
    e.owned = seen->units < OWNED_MOST ? seen->units : OWNED_MOST;
    if (step > 1) /* only what is seen has an owner */
        e.owned = 0;
    e.owner = calloc(e.owned + 1, 1);
    for (uint32_t group = 0; group < seen->groups; group++) {
        if (!has_copy(group))
            continue;
        own(&e, group_first(&e, group), 1 + e.descriptor_units, 'c');
        seen->copies++;
        if (group > 0)
            check_copy(&e, group, super);
    }
    for (uint32_t group = 0; group < seen->groups; group += step) {
        read_descriptor(&e, group, d);
        check_descriptor(&e, group, d);
        spare += narrow(d, 12);
    }
    read_descriptor(&e, 0, d);
    check_inodes(&e, d);
    check_inode_bitmap(&e, d);
    for (uint32_t group = 0; group < seen->groups; group += step) {
        read_descriptor(&e, group, d);
        check_bitmap(&e, group, d);
    }
    if (step == 1)
        assert_int_equal(seen->free, spare);
    spare = (uint64_t)seen->groups * (2 + e.table_units) + seen->free +
            (uint64_t)seen->copies * (1 + e.descriptor_units) + 1 +
            16384 / seen->unit_bytes + seen->journal_units + e.first_unit +
            seen->bad + seen->map_units;
    assert_int_equal(spare, seen->units); /* nothing is left over */
    free(e.owner);
}
