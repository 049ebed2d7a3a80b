/* SPDX-License-Identifier: MIT */
/* A device put together out of patches at each read. */
#include "sparse.h"

#include <string.h>

#include "seed.h"

static uint64_t take_le(const uint8_t *at, int length)
{
    uint64_t value = 0;

    for (int i = length - 1; i >= 0; i--)
        value = value << 8 | at[i];
    return value;
}

static void put_le(uint8_t *at, uint64_t value, int length)
{
    for (int i = 0; i < length; i++, value >>= 8)
        at[i] = (uint8_t)value;
}

static void get(const struct sparse *sparse, uint64_t byte, uint8_t *data,
                uint64_t length)
{
    memset(data, 0, (size_t)length);
    for (uint32_t i = 0; i < sparse->count; i++) {
        uint64_t from = sparse->patch[i].byte;
        uint64_t end = from + sparse->patch[i].length;
        uint64_t first = from > byte ? from : byte;
        uint64_t last = end < byte + length ? end : byte + length;

        if (first < last)
            memcpy(data + (first - byte),
                   sparse->patch[i].data + (first - from),
                   (size_t)(last - first));
    }
}

static enum slate_status facts(void *context, struct slate_port_facts *out)
{
    const struct sparse *sparse = context;

    out->identity.transport = SLATE_TRANSPORT_USB;
    out->block_bytes = sparse->block_bytes;
    out->block_count = sparse->blocks;
    return SLATE_OK;
}

static enum slate_status read_blocks(void *context, uint64_t lba,
                                     uint32_t count, void *data)
{
    const struct sparse *sparse = context;

    get(sparse, lba * sparse->block_bytes, data,
        (uint64_t)count * sparse->block_bytes);
    return SLATE_OK;
}

static enum slate_status write_blocks(void *context, uint64_t lba,
                                      uint32_t count, const void *data)
{
    (void)context;
    (void)lba;
    (void)count;
    (void)data;
    __builtin_trap(); /* looking never writes */
}

static const struct slate_port_ops ops = {.size = sizeof ops,
                                          .facts = facts,
                                          .read = read_blocks,
                                          .write = write_blocks};

static void add_patch(struct sparse *sparse, uint64_t byte, const uint8_t *data,
                      uint32_t length)
{
    sparse->patch[sparse->count].byte = byte;
    sparse->patch[sparse->count].data = data;
    sparse->patch[sparse->count].length = length;
    sparse->count++;
}

/* Without this, a fuzzer would never come past a checksum. */
static void mend(struct sparse *sparse, uint64_t lba, uint8_t *header)
{
    static uint8_t array[131072];
    uint32_t block = sparse->block_bytes;
    uint64_t first, length;

    get(sparse, lba * block, header, block);
    if (memcmp(header, "EFI PART", 8) != 0 || sparse->count == SPARSE_PATCHES)
        return;
    put_le(header + 24, lba, 8);
    first = take_le(header + 72, 8);
    length = take_le(header + 80, 4) * take_le(header + 84, 4);
    if (first < sparse->blocks && length <= sizeof array &&
        length <= (sparse->blocks - first) * block) {
        get(sparse, first * block, array, length);
        put_le(header + 88, slate_crc32(0, array, (size_t)length), 4);
    }
    put_le(header + 16, 0, 4);
    length = take_le(header + 12, 4);
    if (length <= block)
        put_le(header + 16, slate_crc32(0, header, (size_t)length), 4);
    add_patch(sparse, lba * block, header, block);
}

bool sparse_open(struct sparse *sparse, const uint8_t *bytes, size_t length)
{
    size_t at = SEED_HEAD;
    uint64_t end;

    if (length < SEED_HEAD)
        return false;
    memset(sparse, 0, sizeof *sparse);
    sparse->port.ops = &ops;
    sparse->port.context = sparse;
    sparse->block_bytes = 512u << (bytes[0] & 3);
    sparse->blocks = take_le(bytes + 2, 8);
    if (sparse->blocks == 0 ||
        sparse->blocks > UINT64_MAX / sparse->block_bytes)
        return false;
    end = sparse->blocks * sparse->block_bytes;
    while (at + 9 < length && sparse->count < SPARSE_PATCHES - 2) {
        uint64_t byte = take_le(bytes + at, 8) % end;
        uint64_t count = bytes[at + 8] + 1u;

        at += 9;
        if (count > length - at)
            count = length - at;
        if (count > end - byte)
            count = end - byte;
        add_patch(sparse, byte, bytes + at, (uint32_t)count);
        at += (size_t)count;
    }
    if ((bytes[1] & 1) != 0 && sparse->blocks > 2) {
        mend(sparse, 1, sparse->header[0]);
        mend(sparse, sparse->blocks - 1, sparse->header[1]);
    }
    return true;
}
