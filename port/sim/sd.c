/* SPDX-License-Identifier: MIT */
/* The card's side of SD: identification, registers, transfers, erase, on the
 * native bus and over SPI (Physical Layer Simplified Specification 6.00). */
#include <stdlib.h>
#include <string.h>

#include "sim.h"
#include "trueslate/base.h"

enum {
    STATE_OFF,
    STATE_IDLE,
    STATE_READY,
    STATE_IDENT,
    STATE_STANDBY,
    STATE_TRANSFER
};

#define ADDRESS 0x5A5Au
#define BLOCK 512u

/* Up to this size a card is of standard capacity and counts in bytes. */
#define STANDARD_MOST 2147483648u
#define HIGH_MOST 2199023255552u

#define STATUS_ECC_FAILED 0x00200000u
#define STATUS_ERROR 0x00080000u
#define STATUS_APP_COMMAND 0x00000020u

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
static void put_cid(const struct slate_sim *sim, uint8_t value[16])
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

/* 4.10.2: an allocation unit of 4 MiB, speed class 10 */
static void put_status(uint8_t value[64])
{
    memset(value, 0, 64);
    value[8] = 4;
    value[10] = 0x90;
}

/* Responses: R1, R3, R6, R7 as 32 bits; over SPI their shorter forms. */
static void respond(struct slate_sim *sim, struct slate_exchange *x,
                    uint32_t content, bool checked)
{
    uint8_t *a = x->answer;

    a[0] = checked ? x->command[0] & 0x3F : 0x3F;
    sim_put_be(a + 1, 4, content);
    a[5] = (uint8_t)(checked ? slate_crc7(a, 5) << 1 | 1 : 0xFF);
    x->answer_length = 6;
    if (sim_sd_is_spi(sim)) {
        a[0] = sim->sd_state == STATE_IDLE ? 1 : 0;
        x->answer_length = checked ? 1 : 5;
    }
}

void sim_sd_respond(struct slate_sim *sim, struct slate_exchange *x,
                    uint32_t content)
{
    respond(sim, x, content, true);
}

static uint32_t card_status(struct slate_sim *sim)
{
    uint32_t status = sim->sd_status |
                      (sim->sd_state > 0 ? sim->sd_state - 1 : 0) << 9 | 0x100;

    sim->sd_status = 0; /* told once */
    if (sim_guarded(sim, SIM_GUARD_PASSWORD))
        status |= SIM_SD_LOCKED;
    return status | (sim->sd_app ? STATUS_APP_COMMAND : 0);
}

static void respond_status(struct slate_sim *sim, struct slate_exchange *x)
{
    respond(sim, x, card_status(sim), true);
}

static void silence(struct slate_exchange *x)
{
    x->answer_length = 0;
    x->state = 1;
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

static void send_register(struct slate_sim *sim, struct slate_exchange *x,
                          const uint8_t value[16])
{
    if (sim_sd_is_spi(sim)) {
        respond_status(sim, x);
        sim_sd_send_data(sim, x, value, 16);
        return;
    }
    x->answer[0] = 0x3F;
    memcpy(x->answer + 1, value, 16);
    x->answer_length = 17;
}

uint64_t sim_sd_block_of(const struct slate_sim *sim, uint32_t argument)
{
    return sim_sd_is_standard(sim) ? argument / BLOCK : argument;
}

static void note(struct slate_sim *sim, enum sim_outcome outcome)
{
    if (outcome == SIM_OUT_OF_RANGE)
        sim->sd_status |= SIM_SD_OUT_OF_RANGE;
    if (outcome == SIM_PROTECTED)
        sim->sd_status |= SIM_SD_WP_VIOLATION;
    if (outcome == SIM_READ_ERROR)
        sim->sd_status |= STATUS_ECC_FAILED;
    if (outcome == SIM_WRITE_ERROR)
        sim->sd_status |= STATUS_ERROR;
}

static enum sim_outcome move_spi(struct slate_sim *sim,
                                 struct slate_exchange *x, uint64_t lba)
{
    uint8_t *data = x->data;
    enum sim_outcome outcome;

    if (x->data_length != BLOCK + 2)
        return SIM_WRITE_ERROR;
    if (x->direction == SLATE_DIRECTION_OUT)
        return sim_be(data + BLOCK, 2) == slate_crc16(data, BLOCK)
                   ? sim_write(sim, lba, 1, data)
                   : SIM_WRITE_ERROR;
    outcome = sim_read(sim, lba, 1, data);
    sim_put_be(data + BLOCK, 2, slate_crc16(data, BLOCK));
    return outcome;
}

static void transfer(struct slate_sim *sim, struct slate_exchange *x,
                     uint32_t argument)
{
    uint64_t lba = sim_sd_block_of(sim, argument),
             count = x->data_length / BLOCK;
    enum sim_outcome outcome;

    if (sim_sd_is_spi(sim))
        outcome = move_spi(sim, x, lba);
    else if (x->direction == SLATE_DIRECTION_IN)
        outcome = sim_read(sim, lba, count, x->data);
    else
        outcome = sim_write(sim, lba, count, x->data);
    note(sim, outcome);
    if (outcome == SIM_DONE)
        x->transferred = sim_moved(sim, x->data_length);
    if (x->direction == SLATE_DIRECTION_OUT)
        x->transferred = x->data_length; /* its errors are told by CMD13 */
    if (sim_sd_is_spi(sim)) {
        respond(sim, x, 0, true);
        if (outcome == SIM_OUT_OF_RANGE)
            x->answer[0] |= 0x40;
    } else if (x->direction == SLATE_DIRECTION_OUT) {
        respond(sim, x, 0x900, true);
    } else {
        respond_status(sim, x);
    }
}

static void erase(struct slate_sim *sim, struct slate_exchange *x)
{
    uint64_t first = sim->sd_erase[0], last = sim->sd_erase[1];

    note(sim, last < first ? SIM_WRITE_ERROR
                           : sim_clear(sim, first, last - first + 1));
    respond(sim, x, 0x900, true);
}

/* A locked card knows only its basic commands (4.3.7.2). */
static bool is_locked_out(const struct slate_sim *sim, uint8_t index)
{
    return sim_guarded(sim, SIM_GUARD_PASSWORD) &&
           (index == 17 || index == 18 || index == 24 || index == 25 ||
            (index >= 27 && index <= 30) || index == 38);
}

static void power_up(struct slate_sim *sim, struct slate_exchange *x,
                     uint32_t argument)
{
    uint32_t ocr = 0x00FF8000;

    if (sim->about.becoming_ready > 0) {
        sim->about.becoming_ready--;
    } else if (sim_sd_is_standard(sim) || (argument & 0x40000000) != 0) {
        sim->sd_state = STATE_READY;
        ocr |= 0x80000000u | (sim_sd_is_standard(sim) ? 0 : 0x40000000);
    }
    respond(sim, x, ocr, sim_sd_is_spi(sim));
}

static void app_command(struct slate_sim *sim, struct slate_exchange *x,
                        uint32_t argument)
{
    static const uint8_t scr[8] = {0x02, 0x35, 0x80, 0x00};
    uint8_t status[64];

    /* a locked card knows only ACMD41 of these (4.3.7.2) */
    if (sim_guarded(sim, SIM_GUARD_PASSWORD) && (x->command[0] & 0x3F) != 41) {
        silence(x);
        return;
    }
    switch (x->command[0] & 0x3F) {
    case 13:
        respond_status(sim, x);
        put_status(status);
        sim_sd_send_data(sim, x, status, sizeof status);
        return;
    case 41:
        power_up(sim, x, argument);
        return;
    case 51:
        respond_status(sim, x);
        sim_sd_send_data(sim, x, scr, sizeof scr);
        return;
    default:
        silence(x);
    }
}

static void status_command(struct slate_sim *sim, struct slate_exchange *x)
{
    uint32_t status = card_status(sim);

    respond(sim, x, status, true);
    if (sim_sd_is_spi(sim)) { /* R2 (7.3.2.3) */
        x->answer[1] = (uint8_t)(((status & SIM_SD_LOCKED) ? 0x01 : 0) |
                                 ((status & SIM_SD_LOCK_FAILED) ? 0x02 : 0) |
                                 ((status & SIM_SD_WP_VIOLATION) ? 0x20 : 0) |
                                 ((status & SIM_SD_CSD_OVERWRITE) ? 0x80 : 0) |
                                 ((status & STATUS_ERROR) ? 0x04 : 0));
        x->answer_length = 2;
    }
}

static void registers(struct slate_sim *sim, struct slate_exchange *x)
{
    uint8_t value[16];

    if ((x->command[0] & 0x3F) == 9)
        sim_sd_put_csd(sim, value);
    else
        put_cid(sim, value);
    send_register(sim, x, value);
}

static void identification(struct slate_sim *sim, struct slate_exchange *x,
                           uint32_t argument)
{
    switch (x->command[0] & 0x3F) {
    case 0:
        sim->sd_state = STATE_IDLE;
        respond(sim, x, 0, true);
        if (!sim_sd_is_spi(sim))
            x->answer_length = 0;
        return;
    case 2:
        sim->sd_state = STATE_IDENT;
        registers(sim, x);
        return;
    case 3:
        sim->sd_state = STATE_STANDBY;
        respond(sim, x, ADDRESS << 16 | 0x500, true);
        return;
    case 7:
        sim->sd_state = STATE_TRANSFER;
        respond_status(sim, x);
        return;
    case 8:
        respond(sim, x, argument & 0xFFF, !sim_sd_is_spi(sim));
        return;
    case 58:
        respond(sim, x, sim_sd_is_standard(sim) ? 0x80FF8000u : 0xC0FF8000u,
                false);
        return;
    default:
        silence(x);
    }
}

static void command(struct slate_sim *sim, struct slate_exchange *x,
                    uint32_t argument)
{
    uint8_t index = x->command[0] & 0x3F;

    if (is_locked_out(sim, index)) {
        silence(x);
        return;
    }
    if (sim_sd_guard_command(sim, x))
        return;
    switch (index) {
    case 9:
    case 10:
        registers(sim, x);
        return;
    case 13:
        status_command(sim, x);
        return;
    case 12: /* STOP_TRANSMISSION */
    case 16: /* SET_BLOCKLEN */
        respond_status(sim, x);
        return;
    case 17:
    case 18:
    case 24:
    case 25:
        transfer(sim, x, argument);
        return;
    case 32:
    case 33:
        sim->sd_erase[index - 32] = sim_sd_block_of(sim, argument);
        respond(sim, x, 0x900, true);
        return;
    case 38:
        erase(sim, x);
        return;
    case 55:
        sim->sd_app = true;
        respond_status(sim, x);
        return;
    default:
        identification(sim, x, argument);
    }
}

void sim_sd(struct slate_sim *sim, struct slate_exchange *x)
{
    uint32_t argument = (uint32_t)sim_be(x->command + 1, 4);
    bool app = sim->sd_app;

    x->state = 0;
    if (sim->unit->no_medium || x->command_length != 6 ||
        x->command[5] != (slate_crc7(x->command, 5) << 1 | 1)) {
        silence(x); /* a wrong checksum gets no response */
        return;
    }
    sim->sd_app = false;
    if (app)
        app_command(sim, x, argument);
    else
        command(sim, x, argument);
}
