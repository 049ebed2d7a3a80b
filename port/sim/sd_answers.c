/* SPDX-License-Identifier: MIT */
/* What a card answers with: registers, responses, data (Physical Layer
 * Simplified Specification 6.00). */

#include "sim.h"
#include "trueslate/base.h"

#define BLOCK 512u

/* Up to this size a card is of standard capacity and counts in bytes. */
#define STANDARD_MOST 2147483648u
#define HIGH_MOST 2199023255552u

bool sim_sd_is_spi(const struct slate_sim *sim)
{
    return sim->about.commands == SLATE_COMMANDS_SD_SPI;
}

static uint64_t capacity(const struct slate_sim *sim)
{
    return sim->unit->blocks * BLOCK;
}

bool sim_sd_is_standard(const struct slate_sim *sim)
{
    return capacity(sim) <= STANDARD_MOST;
}

/* Bits of a register, counted from its last one. */
static void put_bits(uint8_t *value, int high, int low, uint64_t number)
{
    for (int i = low; i <= high; i++, number >>= 1) {
        if ((number & 1) != 0)
            value[15 - i / 8] |= (uint8_t)(1u << i % 8);
    }
}

static void seal(uint8_t value[16])
{
    value[15] = (uint8_t)(slate_crc7(value, 15) << 1 | 1);
}

/* 5.3; version 1 counts (C_SIZE + 1) * 2^(C_SIZE_MULT + 2) blocks. */
void sim_sd_put_csd(const struct slate_sim *sim, uint8_t value[16])
{
    uint64_t bytes = capacity(sim);

    memset(value, 0, 16);
    put_bits(value, 103, 96, 0x32); /* 25 MHz */
    put_bits(value, 12, 12, sim_guarded(sim, SIM_GUARD_TEMPORARY) ? 1 : 0);
    put_bits(value, 13, 13, sim_guarded(sim, SIM_GUARD_PERMANENT) ? 1 : 0);
    if (sim_sd_is_standard(sim)) {
        uint32_t length = bytes > 1073741824 ? 10 : 9;

        put_bits(value, 83, 80, length);
        put_bits(value, 49, 47, 7);
        put_bits(value, 46, 46, 1);
        put_bits(value, 45, 39, 127); /* sectors of 128 blocks */
        put_bits(value, 38, 32, 31);  /* groups of 32 sectors */
        put_bits(value, 31, 31, sim->unit->groups ? 1 : 0);
        put_bits(value, 25, 22, length);
        put_bits(value, 73, 62, (bytes >> (9 + length)) - 1);
    } else {
        put_bits(value, 127, 126, bytes <= HIGH_MOST ? 1 : 2);
        put_bits(value, 83, 80, 9);
        put_bits(value, bytes <= HIGH_MOST ? 69 : 75, 48, bytes / 524288 - 1);
    }
    seal(value);
}

/* 5.2 */
void sim_sd_put_cid(const struct slate_sim *sim, uint8_t value[16])
{
    memset(value, 0, 16);
    value[0] = 0x7B;
    sim_put_padded(value + 1, 2, sim->about.maker);
    sim_put_padded(value + 3, 5, sim->about.model);
    value[8] = 0x10;
    sim_put_be(value + 9, 4, strtoul(sim->about.serial, NULL, 16));
    put_bits(value, 19, 8, 31 << 4 | 5); /* May 2031 */
    seal(value);
}

/* Responses: R1, R3, R6, R7 as 32 bits; over SPI their shorter forms. */
void sim_sd_respond_as(struct slate_sim *sim, struct slate_exchange *x,
                       uint32_t content, bool checked)
{
    uint8_t *a = x->answer;

    a[0] = checked ? x->command[0] & 0x3F : 0x3F;
    sim_put_be(a + 1, 4, content);
    a[5] = (uint8_t)(checked ? slate_crc7(a, 5) << 1 | 1 : 0xFF);
    x->answer_length = 6;
    if (sim_sd_is_spi(sim)) {
        a[0] = sim->sd_state == SIM_SD_IDLE ? 1 : 0;
        x->answer_length = checked ? 1 : 5;
    }
}

void sim_sd_respond(struct slate_sim *sim, struct slate_exchange *x,
                    uint32_t content)
{
    sim_sd_respond_as(sim, x, content, true);
}

/* Data with its CRC16 behind it over SPI. */
void sim_sd_send_data(struct slate_sim *sim, struct slate_exchange *x,
                      const uint8_t *data, uint32_t length)
{
    uint8_t room[64 + 2];

    memcpy(room, data, length);
    sim_put_be(room + length, 2, slate_crc16(room, length));
    sim_answer(x, room, length + (sim_sd_is_spi(sim) ? 2 : 0), UINT32_MAX);
}

uint64_t sim_sd_block_of(const struct slate_sim *sim, uint32_t argument)
{
    return sim_sd_is_standard(sim) ? argument / BLOCK : argument;
}
