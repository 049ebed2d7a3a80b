/* SPDX-License-Identifier: MIT */
/* The card's side of SD: identification, registers, transfers, erase, on the
 * native bus and over SPI (Physical Layer Simplified Specification 6.00). */

#include "sim.h"
#include "trueslate/base.h"

#define ADDRESS 0x5A5Au
#define BLOCK 512u

#define STATUS_ECC_FAILED 0x00200000u
#define STATUS_ERROR 0x00080000u
#define STATUS_APP_COMMAND 0x00000020u

/* 4.10.2: an allocation unit of 4 MiB, speed class 10 */
static void put_status(uint8_t value[64])
{
    memset(value, 0, 64);
    value[8] = 4;
    value[10] = 0x90;
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
    sim_sd_respond_as(sim, x, card_status(sim), true);
}

static void silence(struct slate_exchange *x)
{
    x->answer_length = 0;
    x->state = 1;
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
        sim_sd_respond_as(sim, x, 0, true);
        if (outcome == SIM_OUT_OF_RANGE)
            x->answer[0] |= 0x40;
    } else if (x->direction == SLATE_DIRECTION_OUT) {
        sim_sd_respond_as(sim, x, 0x900, true);
    } else {
        respond_status(sim, x);
    }
}

static void erase(struct slate_sim *sim, struct slate_exchange *x)
{
    uint64_t first = sim->sd_erase[0], last = sim->sd_erase[1];

    note(sim, last < first ? SIM_WRITE_ERROR
                           : sim_clear(sim, first, last - first + 1));
    sim_sd_respond_as(sim, x, 0x900, true);
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
        sim->sd_state = SIM_SD_READY;
        ocr |= 0x80000000u | (sim_sd_is_standard(sim) ? 0 : 0x40000000);
    }
    sim_sd_respond_as(sim, x, ocr, sim_sd_is_spi(sim));
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

    sim_sd_respond_as(sim, x, status, true);
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
        sim_sd_put_cid(sim, value);
    send_register(sim, x, value);
}

static void identification(struct slate_sim *sim, struct slate_exchange *x,
                           uint32_t argument)
{
    switch (x->command[0] & 0x3F) {
    case 0:
        sim->sd_state = SIM_SD_IDLE;
        sim_sd_respond_as(sim, x, 0, true);
        if (!sim_sd_is_spi(sim))
            x->answer_length = 0;
        return;
    case 2:
        sim->sd_state = SIM_SD_IDENT;
        registers(sim, x);
        return;
    case 3:
        sim->sd_state = SIM_SD_STANDBY;
        sim_sd_respond_as(sim, x, ADDRESS << 16 | 0x500, true);
        return;
    case 7:
        sim->sd_state = SIM_SD_TRANSFER;
        respond_status(sim, x);
        return;
    case 8:
        sim_sd_respond_as(sim, x, argument & 0xFFF, !sim_sd_is_spi(sim));
        return;
    case 58:
        sim_sd_respond_as(
            sim, x, sim_sd_is_standard(sim) ? 0x80FF8000u : 0xC0FF8000u, false);
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
        sim_sd_respond_as(sim, x, 0x900, true);
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
