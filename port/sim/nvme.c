/* SPDX-License-Identifier: MIT */
/* The drive's side of NVMe: Identify, Read, Write, Flush, Write Zeroes,
 * Dataset Management, and the features and logs that concern write protection
 * (NVM Express 1.4). */

#include "sim.h"

/* Status codes: generic, unless a type stands in bits 8 to 10. */
enum nvme_status {
    STATUS_DONE = 0x00,
    STATUS_INVALID_OPERATION = 0x01,
    STATUS_INVALID_FIELD = 0x02,
    STATUS_INVALID_NAMESPACE = 0x0B,
    STATUS_SANITIZE_FAILED = 0x1C,
    STATUS_SANITIZING = 0x1D,
    STATUS_PROTECTED = 0x20,
    STATUS_OUT_OF_RANGE = 0x80,
    STATUS_INVALID_FORMAT = 0x10A,
    STATUS_NOT_CHANGEABLE = 0x10E,
    STATUS_WRITE_FAULT = 0x280,
    STATUS_UNREADABLE = 0x281
};

static void put_controller(const struct slate_sim *sim, uint8_t *data)
{
    sim_put_padded(data + 4, 20, sim->about.serial);
    sim_put_padded(data + 24, 40, sim->about.model);
    sim_put_padded(data + 64, 8, sim->about.revision);
    data[77] = 5; /* 32 pages a transfer */
    sim_put_le(data + 516, 4, sim->about.units);
    sim_put_le(data + 520, 2, sim->about.discard ? 0x0C : 0x00);
    data[525] = 1; /* volatile write cache */
    data[256] = sim_erase_has(sim, SIM_ERASE_FORMAT) ? 0x02 : 0x00;
    data[524] =
        (uint8_t)((sim->about.erasing.formats_all ? 0x03 : 0x00) |
                  (sim_erase_has(sim, SIM_ERASE_FORMAT_CRYPTO) ? 0x04 : 0x00));
    data[328] = (uint8_t)((sim_erase_has(sim, SIM_ERASE_CRYPTO) ? 1 : 0) |
                          (sim_erase_has(sim, SIM_ERASE_BLOCK) ? 2 : 0) |
                          (sim_erase_has(sim, SIM_ERASE_OVERWRITE) ? 4 : 0));
    data[531] = 1; /* namespace write protection */
    if (sim->unit->native_blocks != 0)
        sim_put_le(data + 296, 8,
                   (sim->unit->native_blocks - sim->unit->blocks) *
                       sim->unit->block_bytes);
}

static uint8_t shift_of(uint32_t bytes)
{
    uint8_t shift = 0;

    while ((uint32_t)2 << shift <= bytes)
        shift++;
    return shift;
}

/* Figures 245 and 246: what goes beyond a power of two is metadata, which
 * stands behind each block. The smallest blocks are the slowest ones. */
static bool put_format(const struct slate_sim *sim, uint32_t index,
                       uint8_t *data)
{
    uint8_t shift, *entry = data + 128 + 4 * (size_t)index;
    uint32_t bytes;

    if (index == sim->about.formats)
        return false;
    bytes = sim->about.format[index];
    shift = shift_of(bytes);
    sim_put_le(entry, 2, bytes - ((uint32_t)1 << shift));
    entry[2] = shift;
    entry[3] = bytes < 4096 ? 2 : 0;
    data[25] = (uint8_t)(sim->about.formats - 1);
    if (bytes == sim->unit->block_bytes)
        data[26] = (uint8_t)(0x10 | index);
    return true;
}

static void put_namespace(const struct slate_sim *sim, uint8_t *data)
{
    uint8_t shift = shift_of(sim->unit->block_bytes);
    uint32_t i = 0;

    while (sim->about.formats > 0 && put_format(sim, i, data))
        i++;
    sim_put_le(data, 8, sim->unit->blocks);
    sim_put_le(data + 8, 8, sim->unit->blocks);
    sim_put_le(data + 16, 8, sim->unit->blocks);
    data[29] = sim->about.protection ? 1 : 0;
    data[99] = sim_is_protected(sim, 0, 0) ? 1 : 0;
    if (sim->about.formats == 0)
        data[130] = shift;
}

static void put_active(const struct slate_sim *sim, uint8_t *data)
{
    for (uint32_t i = 0; i < sim->about.units; i++)
        sim_put_le(data + 4 * (size_t)i, 4, i + 1);
}

static enum nvme_status identify(const struct slate_sim *sim,
                                 struct slate_exchange *x)
{
    uint64_t which = sim_le(x->command + 40, 1);
    uint8_t data[4096] = {0};

    if (which == 1)
        put_controller(sim, data);
    else if (which == 2)
        put_active(sim, data);
    else if (which == 0 && sim_le(x->command + 4, 4) == sim->unit_number + 1)
        put_namespace(sim, data);
    else
        return which == 0 ? STATUS_INVALID_NAMESPACE : STATUS_INVALID_FIELD;
    sim_answer(x, data, sizeof data, sizeof data);
    return STATUS_DONE;
}

static enum nvme_status status_of(enum sim_outcome outcome)
{
    static const enum nvme_status statuses[] = {
        [SIM_DONE] = STATUS_DONE,
        [SIM_OUT_OF_RANGE] = STATUS_OUT_OF_RANGE,
        [SIM_PROTECTED] = STATUS_PROTECTED,
        [SIM_READ_ERROR] = STATUS_UNREADABLE,
        [SIM_WRITE_ERROR] = STATUS_WRITE_FAULT};

    return statuses[outcome];
}

static enum nvme_status transfer(struct slate_sim *sim,
                                 struct slate_exchange *x)
{
    bool in = x->command[0] == 0x02;
    uint64_t lba = sim_le(x->command + 40, 8);
    uint64_t count = sim_le(x->command + 48, 2) + 1;
    uint64_t bytes = count * sim->unit->block_bytes;
    enum sim_outcome outcome;

    if (x->command[0] == 0x08)
        return status_of(sim_clear(sim, lba, count));
    if (bytes > x->data_length ||
        x->direction != (in ? SLATE_DIRECTION_IN : SLATE_DIRECTION_OUT))
        return STATUS_INVALID_FIELD;
    outcome = in ? sim_read(sim, lba, count, x->data)
                 : sim_write(sim, lba, count, x->data);
    if (outcome == SIM_DONE)
        x->transferred = sim_moved(sim, bytes);
    return status_of(outcome);
}

/* The first range alone: more are never sent. */
static enum nvme_status deallocate(struct slate_sim *sim,
                                   struct slate_exchange *x)
{
    const uint8_t *range = x->data;

    if (!sim->about.discard)
        return STATUS_INVALID_OPERATION;
    if (x->data_length < 16 || x->command[40] != 0)
        return STATUS_INVALID_FIELD;
    x->transferred = x->data_length;
    if ((x->command[44] & 0x04) == 0)
        return STATUS_DONE;
    return status_of(
        sim_clear(sim, sim_le(range + 8, 8), sim_le(range + 4, 4)));
}

static uint64_t protection_of(const struct slate_sim *sim)
{
    if (sim_guarded(sim, SIM_GUARD_FOR_EVER))
        return 3;
    if (sim_guarded(sim, SIM_GUARD_UNTIL_POWER))
        return 2;
    return sim_guarded(sim, SIM_GUARD_PROTECTED) ? 1 : 0;
}

#define FEATURE_PROTECTION 0x84 /* 5.21.1.25 */

static enum nvme_status features(struct slate_sim *sim,
                                 const struct slate_exchange *x)
{
    uint64_t state = protection_of(sim);

    if (x->command[40] != FEATURE_PROTECTION)
        return STATUS_INVALID_FIELD;
    if (x->command[0] == 0x0A) { /* Get Features */
        sim->nvme_result = (uint32_t)state;
        return STATUS_DONE;
    }
    if (state > 1 || sim_le(x->command + 44, 4) > 1 || sim->unit->refuses_lifts)
        return STATUS_NOT_CHANGEABLE;
    sim_guard_set(sim, SIM_GUARD_PROTECTED, sim_le(x->command + 44, 4) == 1);
    return STATUS_DONE;
}

/* Sanitize Status (5.14.1.16.2): each question brings it on. */
static enum nvme_status sanitize_log(struct slate_sim *sim,
                                     struct slate_exchange *x)
{
    uint32_t seconds = sim->about.erasing.minutes * 60;
    uint8_t data[512] = {0};
    enum sim_erase_way way;

    sim_erase_step(sim);
    sim_put_le(data, 2,
               sim_erase_is_working(sim) ? sim_erase_progress(sim) : 0xFFFF);
    data[2] = sim_erase_is_working(sim)         ? 2
              : sim_erase_has_failed(sim, &way) ? 3
              : sim_erase_is_done(sim)          ? 1
                                                : 0;
    for (size_t i = 8; i <= 16; i += 4)
        sim_put_le(data + i, 4, seconds == 0 ? UINT32_MAX : seconds);
    sim_answer(x, data, sizeof data, sizeof data);
    return STATUS_DONE;
}

/* Sanitize (5.24): returns at once. */
static enum nvme_status sanitize(struct slate_sim *sim,
                                 const struct slate_exchange *x)
{
    static const enum sim_erase_way ways[8] = {
        SIM_ERASE_WAYS,   SIM_ERASE_WAYS, SIM_ERASE_BLOCK, SIM_ERASE_OVERWRITE,
        SIM_ERASE_CRYPTO, SIM_ERASE_WAYS, SIM_ERASE_WAYS,  SIM_ERASE_WAYS};
    enum sim_erase_way way = ways[x->command[40] & 7];

    if (sim_is_protected(sim, 0, 0))
        return STATUS_PROTECTED;
    if (sim_erase_is_working(sim))
        return STATUS_SANITIZING;
    if (way == SIM_ERASE_WAYS)
        return STATUS_INVALID_FIELD;
    return sim_erase_begin(sim, way) ? STATUS_DONE : STATUS_INVALID_OPERATION;
}

static uint32_t index_now(const struct slate_sim *sim)
{
    uint32_t index = 0;

    while (index < sim->about.formats &&
           sim->about.format[index] != sim->unit->block_bytes)
        index++;
    return index;
}

/* Another block format, or the same without protection information; what the
 * namespace held is gone. */
static enum nvme_status reformat(struct slate_sim *sim, uint64_t word)
{
    uint64_t index = word & 0x0F;
    struct sim_shape shape;

    if (index >= sim->about.formats || (word >> 5 & 7) != 0)
        return STATUS_INVALID_FORMAT;
    sim_shape_get(sim, true, &shape);
    shape.field[SIM_SHAPE_BLOCK_BYTES] = sim->about.format[index];
    sim_shape_set(sim, &shape);
    return sim_erase_at_once(sim, SIM_ERASE_FORMAT) ? STATUS_DONE
                                                    : STATUS_INVALID_OPERATION;
}

/* Format NVM (5.23); when it is done. */
static enum nvme_status format(struct slate_sim *sim,
                               const struct slate_exchange *x)
{
    uint64_t word = sim_le(x->command + 40, 4);
    uint64_t protection = sim->about.protection ? 1 : 0;
    uint64_t erase = word >> 9 & 7;

    if (sim_le(x->command + 4, 4) != sim->unit_number + 1)
        return STATUS_INVALID_NAMESPACE;
    if (sim_is_protected(sim, 0, 0))
        return STATUS_PROTECTED;
    if (sim->about.formats > 0 && erase == 0)
        return reformat(sim, word);
    if ((word & 0x0F) != index_now(sim) || (word >> 5 & 7) != protection)
        return STATUS_INVALID_FORMAT;
    if (erase < 1 || erase > 2)
        return STATUS_INVALID_FIELD;
    return sim_erase_at_once(sim, erase == 2 ? SIM_ERASE_FORMAT_CRYPTO
                                             : SIM_ERASE_FORMAT)
               ? STATUS_DONE
               : STATUS_INVALID_OPERATION;
}

/* SMART and health (5.14.1.2): the first byte warns. */
static enum nvme_status log_page(struct slate_sim *sim,
                                 struct slate_exchange *x)
{
    uint8_t data[512] = {0};

    if (x->command[40] == 0x81)
        return sanitize_log(sim, x);
    if (x->command[40] != 0x02)
        return STATUS_INVALID_FIELD;
    data[0] = sim_guarded(sim, SIM_GUARD_WORN_OUT) ? 0x08 : 0x00;
    sim_answer(x, data, sizeof data, sizeof data);
    return STATUS_DONE;
}

static enum nvme_status admin(struct slate_sim *sim, struct slate_exchange *x)
{
    switch (x->command[0]) {
    case 0x02:
        return log_page(sim, x);
    case 0x06:
        return identify(sim, x);
    case 0x09:
    case 0x0A:
        return features(sim, x);
    case 0x80:
        return format(sim, x);
    case 0x84:
        return sanitize(sim, x);
    default:
        return STATUS_INVALID_OPERATION;
    }
}

static enum nvme_status decode(struct slate_sim *sim, struct slate_exchange *x)
{
    bool here = sim_le(x->command + 4, 4) == sim->unit_number + 1;
    enum sim_erase_way way;

    if (x->admin)
        return admin(sim, x);
    if (!here)
        return STATUS_INVALID_NAMESPACE;
    if (sim_erase_is_working(sim))
        return STATUS_SANITIZING;
    if (sim_erase_has_failed(sim, &way))
        return STATUS_SANITIZE_FAILED;
    switch (x->command[0]) {
    case 0x00: /* Flush */
        return sim_store_flush(sim->store) ? STATUS_DONE : STATUS_WRITE_FAULT;
    case 0x01: /* Write */
    case 0x02: /* Read */
        return transfer(sim, x);
    case 0x08: /* Write Zeroes */
        return sim->about.discard ? transfer(sim, x) : STATUS_INVALID_OPERATION;
    case 0x09:
        return deallocate(sim, x);
    default:
        return STATUS_INVALID_OPERATION;
    }
}

void sim_nvme(struct slate_sim *sim, struct slate_exchange *x)
{
    enum nvme_status status =
        x->command_length == 64 ? decode(sim, x) : STATUS_INVALID_FIELD;

    memset(x->answer, 0, 16);
    sim_put_le(x->answer, 4, sim->nvme_result);
    sim->nvme_result = 0;
    x->answer_length = 16;
    sim_put_le(x->answer + 14, 2, (uint64_t)status << 1);
    x->state = status == STATUS_DONE ? 0 : 1;
}
