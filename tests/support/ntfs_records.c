/* SPDX-License-Identifier: MIT */
/* An own reading of NTFS: records and attributes. */
#include "check.h"
#include "ntfs_check.h"

uint64_t ntfs_number(const uint8_t *at, uint32_t bytes)
{
    uint64_t value = 0;

    while (bytes-- > 0)
        value = value * 256 + at[bytes];
    return value;
}

void ntfs_bytes(const struct ntfs *n, uint64_t at, uint32_t count,
                uint8_t *data)
{
    uint32_t size = n->blocks->block_bytes;
    uint8_t block[4096];

    while (count > 0) {
        uint32_t within = (uint32_t)(at % size), part = size - within;

        assert_true(at / size < n->blocks->blocks);
        n->blocks->read(n->blocks->context, at / size, block);
        part = part < count ? part : count;
        memcpy(data, block + within, part);
        data += part;
        at += part;
        count -= part;
    }
}

void ntfs_undo(uint8_t *data, uint32_t bytes, const char *magic)
{
    uint32_t at = (uint32_t)ntfs_number(data + 4, 2);
    uint32_t count = (uint32_t)ntfs_number(data + 6, 2);

    assert_memory_equal(data, magic, 4);
    assert_int_equal(count, bytes / 512 + 1);
    assert_true(at >= 40 && at % 2 == 0 && at + 2 * count <= 510);
    assert_int_not_equal(ntfs_number(data + at, 2), 0);
    for (uint32_t i = 1; i < count; i++) {
        assert_memory_equal(data + 512 * i - 2, data + at, 2);
        memcpy(data + 512 * i - 2, data + at + 2 * i, 2);
    }
}

void ntfs_record(const struct ntfs *n, uint32_t number, uint8_t record[4096])
{
    uint32_t size = n->seen->record_bytes, used, at;

    ntfs_bytes(n, n->table + (uint64_t)number * size, size, record);
    ntfs_undo(record, size, "FILE");
    used = (uint32_t)ntfs_number(record + 24, 4);
    at = (uint32_t)ntfs_number(record + 20, 2);
    assert_int_equal(ntfs_number(record + 4, 2), 48);
    assert_true(at >= 48 + 2 * (size / 512 + 1) && at % 8 == 0);
    assert_int_equal(ntfs_number(record + 28, 4), size);
    assert_int_equal(ntfs_number(record + 44, 4), number);
    assert_true(used <= size && used % 8 == 0 && used >= at + 8);
    assert_int_equal(ntfs_number(record + used - 8, 4), 0xFFFFFFFF);
    for (uint32_t i = used - 4; i < size; i++)
        assert_int_equal(record[i], 0);
    assert_int_not_equal(ntfs_number(record + 16, 2), 0);
}

bool ntfs_next(const uint8_t *record, uint32_t *at,
               struct ntfs_attribute *attribute)
{
    uint32_t used = (uint32_t)ntfs_number(record + 24, 4), length, units, from;
    const uint8_t *head;

    *at = *at == 0 ? (uint32_t)ntfs_number(record + 20, 2)
                   : *at + (uint32_t)ntfs_number(record + *at + 4, 4);
    head = record + *at;
    if (ntfs_number(head, 4) == 0xFFFFFFFF) {
        assert_int_equal(*at, used - 8);
        return false;
    }
    length = (uint32_t)ntfs_number(head + 4, 4);
    units = head[9];
    from = (uint32_t)ntfs_number(head + 10, 2);
    assert_true(length % 8 == 0 && length >= 24 && *at + length <= used - 8);
    memset(attribute, 0, sizeof *attribute);
    attribute->type = (uint32_t)ntfs_number(head, 4);
    attribute->id = (uint32_t)ntfs_number(head + 14, 2);
    attribute->outside = head[8] == 1;
    assert_true(head[8] <= 1 && units < sizeof attribute->name);
    assert_int_equal(ntfs_number(head + 12, 2), 0); /* neither packed nor so */
    assert_true(attribute->id < ntfs_number(record + 40, 2));
    for (uint32_t i = 0; i < units; i++)
        attribute->name[i] = (char)ntfs_number(head + from + 2 * i, 2);
    from = (uint32_t)ntfs_number(head + (attribute->outside ? 32 : 20), 2);
    assert_true(from % 8 == 0 && from <= length);
    attribute->value = head + from;
    attribute->length = attribute->outside
                            ? length - from
                            : (uint32_t)ntfs_number(head + 16, 4);
    assert_true(from + attribute->length <= length);
    if (attribute->outside) {
        attribute->first = ntfs_number(head + 16, 8);
        attribute->last = ntfs_number(head + 24, 8);
        attribute->allocated = ntfs_number(head + 40, 8);
        attribute->bytes = ntfs_number(head + 48, 8);
        attribute->valid = ntfs_number(head + 56, 8);
    } else {
        assert_true(length - from - attribute->length < 8);
        assert_int_equal(head[22], attribute->type == 0x30);
    }
    return true;
}

bool ntfs_find(const uint8_t *record, uint32_t type, const char *name,
               struct ntfs_attribute *attribute)
{
    uint32_t at = 0;

    while (ntfs_next(record, &at, attribute)) {
        if (attribute->type == type && strcmp(attribute->name, name) == 0)
            return true;
    }
    return false;
}

uint64_t ntfs_one_run(const struct ntfs *n,
                      const struct ntfs_attribute *attribute)
{
    uint32_t length = attribute->value[0] & 15,
             moved = attribute->value[0] >> 4;
    uint64_t count, at;

    assert_true(attribute->outside && length > 0 && moved > 0 && moved <= 5);
    count = ntfs_number(attribute->value + 1, length);
    at = ntfs_number(attribute->value + 1 + length, moved);
    assert_int_equal(attribute->value[1 + length + moved], 0);
    assert_true(attribute->value[length + moved] < 0x80); /* not negative */
    assert_true(attribute->value[length] < 0x80);
    assert_int_equal(attribute->first, 0);
    assert_int_equal(attribute->last, count - 1);
    assert_int_equal(attribute->allocated, count * n->seen->cluster_bytes);
    assert_true(attribute->bytes <= attribute->allocated &&
                attribute->allocated - attribute->bytes <
                    n->seen->cluster_bytes);
    assert_int_equal(attribute->valid, attribute->bytes);
    assert_true(at + count <= n->seen->clusters);
    return at * n->seen->cluster_bytes;
}
