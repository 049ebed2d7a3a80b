/* SPDX-License-Identifier: MIT */
/* The device's side of ATA: IDENTIFY DEVICE, transfers, flush, trim (ACS-3). */
#include <string.h>

#include "sim.h"

#define ERROR_ABORTED 0x04
#define ERROR_NOT_FOUND 0x10
#define ERROR_UNREADABLE 0x40

/* Text with the bytes of each word swapped, as IDENTIFY has it. */
static void put_swapped(uint8_t *field, size_t length, const char *text)
{
    uint8_t plain[40];

    sim_put_padded(plain, length, text);
    for (size_t i = 0; i < length; i += 2) {
        field[i] = plain[i + 1];
        field[i + 1] = plain[i];
    }
}

static void put_word(uint8_t *data, uint32_t word, uint64_t value)
{
    sim_put_le(data + 2 * (size_t)word, 2, value);
}

static void put_block_sizes(const struct sim_unit *unit, uint8_t *data)
{
    uint64_t sizes = 0x4000;

    for (uint32_t n = unit->block_bytes; n < unit->physical_bytes; n *= 2)
        sizes = (sizes | 0x2000) + 1;
    if (unit->block_bytes > 512) {
        sizes |= 0x1000;
        sim_put_le(data + 234, 4, unit->block_bytes / 2);
    }
    put_word(data, 106, sizes);
}

/* Words 82 and 128 (ACS-3, 7.12.7.68): supported, enabled, locked, frozen. */
static void put_security(const struct slate_sim *sim, uint8_t *data)
{
    bool locked = sim_guarded(sim, SIM_GUARD_LOCKED);
    bool frozen = sim_guarded(sim, SIM_GUARD_FROZEN);

    if (sim->unit->password[0] == '\0' && !locked && !frozen)
        return;
    put_word(data, 82, sim_le(data + 164, 2) | 0x0002);
    put_word(data, 128,
             0x0001 | (sim->unit->password[0] != '\0' ? 2 : 0) |
                 (locked ? 4 : 0) | (frozen ? 8 : 0));
}

/* The capacity as it stands after SET MAX ADDRESS EXT. */
static uint64_t blocks_of(const struct slate_sim *sim)
{
    uint64_t now = sim_state_get(sim->state_path, "volatile max");

    if (now == 0)
        now = sim_state_get(sim->state_path, "max");
    return now == 0 ? sim->unit->blocks : now;
}

void sim_ata_identity(const struct slate_sim *sim, uint8_t data[512])
{
    const struct sim_unit *unit = sim->unit;
    bool dock = sim->about.dock;
    uint64_t blocks = blocks_of(sim);
    uint64_t small = blocks < 0x0FFFFFFF ? blocks : 0x0FFFFFFF;
    uint8_t sum = 0;

    memset(data, 0, 512);
    put_word(data, 0, 0x0040);
    put_swapped(data + 20, 20,
                dock ? sim->about.disk_serial : sim->about.serial);
    put_swapped(data + 46, 8, sim->about.revision);
    put_swapped(data + 54, 40, dock ? sim->about.disk_model : sim->about.model);
    put_word(data, 49, 0x0300); /* LBA, DMA */
    sim_put_le(data + 120, 4, small);
    if (unit->native_blocks != 0)
        put_word(data, 82, 0x0400); /* host protected area */
    put_word(data, 83, 0x7400);     /* LBA48, flush */
    put_word(data, 86, 0x3400);
    put_security(sim, data);
    sim_put_le(data + 200, 8, blocks);
    put_block_sizes(unit, data);
    put_word(data, 169, sim->about.discard ? 1 : 0);
    put_word(data, 217, sim->about.rotating ? 7200 : 1);
    data[510] = 0xA5;
    for (size_t i = 0; i < 511; i++)
        sum = (uint8_t)(sum + data[i]);
    data[511] = (uint8_t)(0x100 - sum);
}

/* The task file as it stands after the command; error ahead, status last. */
static void finish(struct slate_exchange *x, uint8_t error)
{
    memcpy(x->answer, x->command, 12);
    x->answer_length = 12;
    x->answer[0] = error;
    x->answer[11] = error == 0 ? 0x50 : 0x51;
    x->state = error == 0 ? 0 : 1;
}

static uint8_t error_of(enum sim_outcome outcome)
{
    switch (outcome) {
    case SIM_DONE:
        return 0;
    case SIM_OUT_OF_RANGE:
        return ERROR_NOT_FOUND;
    case SIM_READ_ERROR:
        return ERROR_UNREADABLE;
    case SIM_PROTECTED:
    case SIM_WRITE_ERROR:
    default:
        return ERROR_ABORTED;
    }
}

static uint8_t transfer(struct slate_sim *sim, struct slate_exchange *x)
{
    bool in = x->command[11] == 0x25;
    bool locked = sim_guarded(sim, SIM_GUARD_LOCKED);
    uint64_t count = sim_le(x->command + 2, 2);
    uint64_t lba = sim_le(x->command + 4, 6);
    uint64_t bytes;
    enum sim_outcome outcome;

    if (count == 0)
        count = 65536;
    bytes = count * sim->unit->block_bytes;
    if (locked || bytes > x->data_length || (x->command[10] & 0x40) == 0 ||
        x->direction != (in ? SLATE_DIRECTION_IN : SLATE_DIRECTION_OUT))
        return ERROR_ABORTED;
    outcome = in ? sim_read(sim, lba, count, x->data)
                 : sim_write(sim, lba, count, x->data);
    if (outcome == SIM_DONE)
        x->transferred = sim_moved(sim, bytes);
    return error_of(outcome);
}

static uint8_t trim(struct slate_sim *sim, struct slate_exchange *x)
{
    const uint8_t *ranges = x->data;
    enum sim_outcome outcome = SIM_DONE;

    if (!sim->about.discard || (x->command[0] & 1) == 0 || x->data_length < 512)
        return ERROR_ABORTED;
    for (size_t i = 0; i < 512 && outcome == SIM_DONE; i += 8)
        outcome =
            sim_clear(sim, sim_le(ranges + i, 6), sim_le(ranges + i + 6, 2));
    x->transferred = x->data_length;
    return error_of(outcome);
}

static uint8_t identify(const struct slate_sim *sim, struct slate_exchange *x)
{
    uint8_t data[512];

    sim_ata_identity(sim, data);
    sim_answer(x, data, sizeof data, sizeof data);
    return 0;
}

/* The address goes into the task file, in the place of the one sent. */
static uint8_t native_max(const struct slate_sim *sim, struct slate_exchange *x)
{
    if (sim->unit->native_blocks == 0)
        return ERROR_ABORTED;
    sim_put_le(x->command + 4, 6, sim->unit->native_blocks - 1);
    return 0;
}

/* Right after READ NATIVE MAX ADDRESS EXT only (ATA8-ACS, 7.57); bit 0 of the
 * count tells whether it shall outlive a power cycle. */
static uint8_t set_max(struct slate_sim *sim, const struct slate_exchange *x)
{
    uint64_t blocks = sim_le(x->command + 4, 6) + 1;

    if (sim->unit->native_blocks == 0 || blocks > sim->unit->native_blocks ||
        sim->last_operation != 0x27)
        return ERROR_ABORTED;
    if (!sim->unit->stubborn)
        sim_state_set(sim->state_path,
                      (x->command[2] & 1) != 0 ? "max" : "volatile max",
                      blocks);
    return 0;
}

/* SECURITY UNLOCK (7.46): the password stands from word 1 on. */
static uint8_t unlock(struct slate_sim *sim, struct slate_exchange *x)
{
    const char *sent = (const char *)x->data + 2;
    char padded[33] = {0};

    memcpy(padded, sim->unit->password, strlen(sim->unit->password));
    if (x->data_length != 512 || sim_guarded(sim, SIM_GUARD_FROZEN) ||
        memcmp(sent, padded, 32) != 0)
        return ERROR_ABORTED;
    x->transferred = 512;
    sim_guard_set(sim, SIM_GUARD_LOCKED, false);
    return 0;
}

static uint8_t decode(struct slate_sim *sim, struct slate_exchange *x)
{
    switch (x->command[11]) {
    case 0x06: /* DATA SET MANAGEMENT */
        return trim(sim, x);
    case 0x25: /* READ DMA EXT */
    case 0x35: /* WRITE DMA EXT */
        return transfer(sim, x);
    case 0x37: /* SET MAX ADDRESS EXT */
        return set_max(sim, x);
    case 0xF2: /* SECURITY UNLOCK */
        return unlock(sim, x);
    case 0x27: /* READ NATIVE MAX ADDRESS EXT */
        return native_max(sim, x);
    case 0xE0: /* STANDBY IMMEDIATE */
        return 0;
    case 0xEA: /* FLUSH CACHE EXT */
        return sim_store_flush(sim->store) ? 0 : ERROR_ABORTED;
    case 0xEC: /* IDENTIFY DEVICE */
        return identify(sim, x);
    default:
        return ERROR_ABORTED;
    }
}

void sim_ata(struct slate_sim *sim, struct slate_exchange *x)
{
    uint8_t operation = x->command[11];

    finish(x, decode(sim, x));
    sim->last_operation = operation;
}
