/* SPDX-License-Identifier: MIT */
/* The device's side of ATA: IDENTIFY DEVICE, transfers, flush, trim (ACS-3). */

#include "sim.h"

#define ERROR_ABORTED 0x04
#define ERROR_NOT_FOUND 0x10
#define ERROR_UNREADABLE 0x40

#define SANITIZES                                                              \
    (1u << SIM_ERASE_OVERWRITE | 1u << SIM_ERASE_BLOCK | 1u << SIM_ERASE_CRYPTO)

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

/* Word 59 (ACS-3, 7.12.7.24) */
static uint64_t sanitize_word(const struct slate_sim *sim)
{
    uint32_t ways = sim->about.erasing.ways;

    return ((ways & SANITIZES) != 0 ? 0x1000u : 0u) |
           (sim_erase_has(sim, SIM_ERASE_CRYPTO) ? 0x2000u : 0u) |
           (sim_erase_has(sim, SIM_ERASE_OVERWRITE) ? 0x4000u : 0u) |
           (sim_erase_has(sim, SIM_ERASE_BLOCK) ? 0x8000u : 0u);
}

void sim_ata_identity(const struct slate_sim *sim, uint8_t data[512])
{
    const struct sim_unit *unit = sim->unit;
    bool dock = sim->about.dock;
    uint64_t blocks = sim_ata_blocks(sim);
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
    put_word(data, 59, sanitize_word(sim));
    put_word(data, 83, 0x7400); /* LBA48, flush */
    put_word(data, 86, 0x3400);
    sim_ata_put_guards(sim, data);
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

/* SANITIZE DEVICE (ACS-3, 7.33): each subcommand with its signature. */
static uint8_t sanitize(struct slate_sim *sim, struct slate_exchange *x)
{
    uint64_t feature = sim_le(x->command, 2), lba = sim_le(x->command + 4, 6);
    enum sim_erase_way way = SIM_ERASE_WAYS;

    if (feature == 0x0011 && lba == 0x43727970)
        way = SIM_ERASE_CRYPTO;
    if (feature == 0x0012 && lba == 0x426B4572)
        way = SIM_ERASE_BLOCK;
    if (feature == 0x0014 && lba >> 32 == 0x4F57)
        way = SIM_ERASE_OVERWRITE;
    if (way == SIM_ERASE_WAYS || sim_guarded(sim, SIM_GUARD_LOCKED) ||
        sim_erase_is_working(sim))
        return ERROR_ABORTED;
    return sim_erase_begin(sim, way) ? 0 : ERROR_ABORTED;
}

/* SANITIZE STATUS EXT: bits of the count, progress in the LBA. */
static uint8_t sanitize_status(struct slate_sim *sim, struct slate_exchange *x)
{
    enum sim_erase_way way;
    uint64_t bits;

    if ((sim->about.erasing.ways & SANITIZES) == 0)
        return ERROR_ABORTED;
    sim_erase_step(sim);
    if (sim_erase_has_failed(sim, &way))
        return ERROR_ABORTED;
    bits = (sim_erase_is_done(sim) ? 0x8000u : 0u) |
           (sim_erase_is_working(sim) ? 0x4000u : 0u);
    sim_put_le(x->command + 2, 2, bits);
    sim_put_le(x->command + 4, 6,
               sim_erase_is_working(sim) ? sim_erase_progress(sim) : 0);
    return 0;
}

/* While it sanitizes, or has failed to, nothing else is taken but these. */
static bool is_barred(const struct slate_sim *sim, uint8_t operation)
{
    enum sim_erase_way way;

    return operation != 0xB4 && operation != 0xEC &&
           (sim_erase_is_working(sim) || sim_erase_has_failed(sim, &way));
}

/* Each configuration has a word of its own, which the command repeats. */
static uint16_t check_word(uint32_t index)
{
    return (uint16_t)(0xC0A5u + 0x0111u * index);
}

/* READ LOG EXT (ACS-4): the directory, and the sector configurations (2Fh). */
static uint8_t read_log(const struct slate_sim *sim, struct slate_exchange *x)
{
    uint64_t log = x->command[4];
    uint8_t data[512] = {0};

    if (sim->about.formats == 0 || (log != 0 && log != 0x2F))
        return ERROR_ABORTED;
    if (log == 0) {
        sim_put_le(data, 2, 1); /* version */
        sim_put_le(data + (size_t)2 * 0x2F, 2, 1);
    }
    for (uint32_t i = 0; log != 0 && i < sim->about.formats; i++) {
        uint8_t *entry = data + 16 * (size_t)i;

        entry[0] = 0x80;
        sim_put_le(entry + 2, 2, check_word(i));
        sim_put_le(entry + 4, 4, sim->about.format[i] / 2);
    }
    sim_answer(x, data, sizeof data, sizeof data);
    return 0;
}

/* SET SECTOR CONFIGURATION EXT (B2h): what the disk held is gone. */
static uint8_t set_sectors(struct slate_sim *sim,
                           const struct slate_exchange *x)
{
    uint32_t index = x->command[2] & 0x07;
    struct sim_shape shape;

    if (index >= sim->about.formats ||
        sim_le(x->command, 2) != check_word(index) ||
        sim_guarded(sim, SIM_GUARD_LOCKED))
        return ERROR_ABORTED;
    sim_shape_get(sim, true, &shape);
    shape.field[SIM_SHAPE_BLOCK_BYTES] = sim->about.format[index];
    sim_shape_set(sim, &shape);
    sim_shape_format(sim);
    return sim_store_erase(sim->store, 0, sim->raw_bytes, false)
               ? 0
               : ERROR_ABORTED;
}

static uint8_t decode(struct slate_sim *sim, struct slate_exchange *x)
{
    switch (x->command[11]) {
    case 0x06: /* DATA SET MANAGEMENT */
        return trim(sim, x);
    case 0x25: /* READ DMA EXT */
    case 0x35: /* WRITE DMA EXT */
        return transfer(sim, x);
    case 0x2F: /* READ LOG EXT */
        return read_log(sim, x);
    case 0xB2: /* SET SECTOR CONFIGURATION EXT */
        return set_sectors(sim, x);
    case 0xB4: /* SANITIZE DEVICE */
        return sim_le(x->command, 2) == 0 ? sanitize_status(sim, x)
                                          : sanitize(sim, x);
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
    int error = is_barred(sim, operation) ? ERROR_ABORTED
                                          : sim_ata_guard_command(sim, x);

    finish(x, error < 0 ? decode(sim, x) : (uint8_t)error);
    sim->last_operation = operation;
}
