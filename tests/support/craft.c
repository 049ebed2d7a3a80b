/* SPDX-License-Identifier: MIT */
/* Tables for the corpus, byte by byte (UEFI 2.10, 5). */
#include "craft.h"

#include <stdlib.h>
#include <string.h>

const struct slate_guid craft_basic = {{0xA2, 0xA0, 0xD0, 0xEB, 0xE5, 0xB9,
                                        0x33, 0x44, 0x87, 0xC0, 0x68, 0xB6,
                                        0xB7, 0x26, 0x99, 0xC7}};
const struct slate_guid craft_linux = {{0xAF, 0x3D, 0xC6, 0x0F, 0x83, 0x84,
                                        0x72, 0x47, 0x8E, 0x79, 0x3D, 0x69,
                                        0xD8, 0x47, 0x7D, 0xE4}};
const struct slate_guid craft_swap = {{0x6D, 0xFD, 0x57, 0x06, 0xAB, 0xA4, 0xC4,
                                       0x43, 0x84, 0xE5, 0x09, 0x33, 0xC8, 0x4B,
                                       0x4F, 0x4F}};

static void put_le(uint8_t *at, uint64_t value, int length)
{
    for (int i = 0; i < length; i++, value >>= 8)
        at[i] = (uint8_t)value;
}

void craft_le(struct ram *ram, uint64_t byte, uint64_t value, int length)
{
    uint8_t bytes[8];

    put_le(bytes, value, length);
    ram_put(ram, byte, bytes, (size_t)length);
}

void craft_be(struct ram *ram, uint64_t byte, uint64_t value, int length)
{
    for (int i = 0; i < length; i++)
        craft_le(ram, byte + (uint64_t)i, value >> 8 * (length - 1 - i) & 255,
                 1);
}

void craft_text(struct ram *ram, uint64_t byte, const char *text)
{
    ram_put(ram, byte, text, strlen(text));
}

void craft_flip(struct ram *ram, uint64_t byte)
{
    uint8_t one;

    ram_get(ram, byte, &one, 1);
    one = (uint8_t)~one;
    ram_put(ram, byte, &one, 1);
}

void craft_erase(struct ram *ram, uint64_t byte, size_t length)
{
    uint8_t *zeros = calloc(1, length);

    ram_put(ram, byte, zeros, length);
    free(zeros);
}

void craft_noise(struct ram *ram, uint64_t byte, size_t length)
{
    uint32_t state = 2463534242u;
    uint8_t noise[4096];

    while (length > 0) {
        size_t count = length < sizeof noise ? length : sizeof noise;

        for (size_t i = 0; i < count; i++) {
            state ^= state << 13;
            state ^= state >> 17;
            state ^= state << 5;
            noise[i] = (uint8_t)(state >> 11);
        }
        ram_put(ram, byte, noise, count);
        byte += count;
        length -= count;
    }
}

static void put_entry(struct ram *ram, uint64_t byte, uint8_t type,
                      uint32_t first, uint32_t count)
{
    craft_le(ram, byte + 4, type, 1);
    craft_le(ram, byte + 8, first, 4);
    craft_le(ram, byte + 12, count, 4);
}

void craft_link(struct ram *ram, uint32_t lba, uint8_t type, uint32_t ahead,
                uint32_t count, uint32_t next)
{
    uint64_t byte = (uint64_t)lba * ram->facts.block_bytes;

    put_entry(ram, byte + 446, type, ahead, count);
    if (next != 0)
        put_entry(ram, byte + 462, 0x05, next, count + ahead);
    craft_le(ram, byte + 510, 0xAA55, 2);
}

static uint32_t or_usual(uint32_t value, uint32_t usual)
{
    return value == 0 ? usual : value;
}

static void put_array(const struct craft_gpt *gpt, uint32_t entry_bytes,
                      uint8_t *array)
{
    for (size_t i = 0; i < 4; i++) {
        uint8_t *entry = array + i * entry_bytes;

        if (gpt->partition[i].count == 0)
            continue;
        memcpy(entry,
               gpt->partition[i].type == NULL ? &craft_basic
                                              : gpt->partition[i].type,
               16);
        memset(entry + 16,
               gpt->partition[i].id == 0 ? (int)i + 1 : gpt->partition[i].id,
               16);
        put_le(entry + 32, gpt->partition[i].first, 8);
        put_le(entry + 40,
               gpt->partition[i].first + gpt->partition[i].count - 1, 8);
        put_le(entry + 48, gpt->partition[i].attributes, 8);
    }
}

static void put_header(struct ram *ram, const struct craft_gpt *gpt,
                       uint64_t lba, uint64_t other, uint64_t array_lba,
                       uint32_t array_crc)
{
    uint32_t block = or_usual(gpt->block_bytes, ram->facts.block_bytes);
    uint32_t header_bytes = or_usual(gpt->header_bytes, 92);
    uint32_t entry_bytes = or_usual(gpt->entry_bytes, 128);
    uint32_t entries = or_usual(gpt->entries, 128);
    uint64_t span = (entries * entry_bytes + block - 1) / block;
    uint8_t h[512] = "EFI PART";

    put_le(h + 8, 0x10000, 4);
    put_le(h + 12, header_bytes, 4);
    put_le(h + 24, lba, 8);
    put_le(h + 32, other, 8);
    put_le(h + 40, 2 + span, 8);
    put_le(h + 48, (lba == 1 ? other : lba) - span - 1, 8);
    memset(h + 56, 0x33, 16);
    put_le(h + 72, array_lba, 8);
    put_le(h + 80, entries, 4);
    put_le(h + 84, entry_bytes, 4);
    put_le(h + 88, array_crc, 4);
    put_le(h + 16, slate_crc32(0, h, header_bytes), 4);
    ram_put(ram, lba * block, h, sizeof h);
}

void craft_gpt(struct ram *ram, const struct craft_gpt *gpt)
{
    uint32_t block = or_usual(gpt->block_bytes, ram->facts.block_bytes);
    uint32_t entry_bytes = or_usual(gpt->entry_bytes, 128);
    size_t length = (size_t)or_usual(gpt->entries, 128) * entry_bytes;
    uint64_t span = (length + block - 1) / block;
    uint64_t blocks = gpt->blocks == 0 ? ram->facts.block_count : gpt->blocks;
    unsigned parts = gpt->parts == 0 ? CRAFT_ALL : gpt->parts;
    uint8_t *array = calloc(1, length < 4096 ? 4096 : length);
    uint32_t crc;

    put_array(gpt, entry_bytes, array);
    crc = slate_crc32(0, array, length);
    if ((parts & CRAFT_PRIMARY) != 0) {
        ram_put(ram, 2 * (uint64_t)block, array, length);
        put_header(ram, gpt, 1, blocks - 1, 2, crc);
    }
    if ((parts & CRAFT_BACKUP) != 0) {
        ram_put(ram, (blocks - 1 - span) * block, array, length);
        put_header(ram, gpt, blocks - 1, 1, blocks - 1 - span, crc);
    }
    if ((parts & CRAFT_PROTECTIVE) != 0)
        ram_put_entry(ram, 0, 0xEE, false, 1,
                      blocks - 1 > UINT32_MAX ? UINT32_MAX
                                              : (uint32_t)(blocks - 1));
    free(array);
}
