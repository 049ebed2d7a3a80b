/* SPDX-License-Identifier: MIT */
/* The device's side of SCSI: decodes command bytes as sticks, docks and disks
 * do (SPC-4, SBC-3) and answers with data, status and fixed-format sense. */

#include "sim.h"

#define GOOD 0x00
#define CHECK_CONDITION 0x02
#define BUSY 0x08
#define RESERVATION_CONFLICT 0x18

static const struct sim_sense becoming_ready = {0x2, 0x04, 0x01};
static const struct sim_sense no_medium = {0x2, 0x3A, 0x00};
static const struct sim_sense read_error = {0x3, 0x11, 0x00};
static const struct sim_sense id_error = {0x3, 0x10, 0x00};
static const struct sim_sense no_address_mark = {0x3, 0x12, 0x00};
static const struct sim_sense write_error = {0x3, 0x0C, 0x00};
static const struct sim_sense out_of_range = {0x5, 0x21, 0x00};
static const struct sim_sense removal_prevented = {0x5, 0x53, 0x02};
static const struct sim_sense powered_on = {0x6, 0x29, 0x00};
static const struct sim_sense medium_changed = {0x6, 0x28, 0x00};
static const struct sim_sense mode_changed = {0x6, 0x2A, 0x01};
static const struct sim_sense aborted = {0xB, 0x00, 0x00};

static struct sim_sense sense_of(enum sim_outcome outcome)
{
    const struct sim_sense senses[] = {[SIM_DONE] = sim_none,
                                       [SIM_OUT_OF_RANGE] = out_of_range,
                                       [SIM_PROTECTED] = sim_write_protected,
                                       [SIM_READ_ERROR] = read_error,
                                       [SIM_WRITE_ERROR] = write_error,
                                       [SIM_NO_SECTORS] = no_address_mark,
                                       [SIM_OTHER_SECTORS] = id_error};

    return senses[outcome];
}

static struct sim_sense inquiry(const struct slate_sim *sim,
                                struct slate_exchange *x)
{
    uint8_t data[600];
    uint32_t length =
        sim_inquiry(sim, (x->command[1] & 0x01) != 0, x->command[2], data);

    if (length == 0)
        return sim_invalid_field;
    sim_answer(x, data, length, sim_be(x->command + 3, 2));
    return sim_none;
}

static void put_sense(const struct sim_sense *sense, uint8_t data[18])
{
    memset(data, 0, 18);
    data[0] = 0x70;
    data[2] = sense->key;
    data[7] = 10;
    data[12] = sense->asc;
    data[13] = sense->ascq;
}

static struct sim_sense request_sense(struct slate_sim *sim,
                                      struct slate_exchange *x)
{
    uint8_t data[18];
    bool attention = sim->about.attentions > 0;
    struct sim_sense now;

    put_sense(attention ? &powered_on : &sim->sense, data);
    if (attention) {
        sim->about.attentions--;
    } else if (sim_erase_is_working(sim)) {
        now = sim_scsi_working(sim);
        put_sense(&now, data);
        sim_scsi_put_progress(sim, data);
    }
    sim_answer(x, data, sizeof data, x->command[4]);
    return sim_none;
}

static struct sim_sense report_luns(const struct slate_sim *sim,
                                    struct slate_exchange *x)
{
    uint8_t data[8 + 8 * SIM_UNITS] = {0};

    sim_put_be(data, 4, 8 * (uint64_t)sim->about.units);
    for (uint32_t i = 0; i < sim->about.units; i++)
        data[8 + 8 * i + 1] = (uint8_t)i;
    sim_answer(x, data, 8 + 8 * (uint64_t)sim->about.units,
               sim_be(x->command + 6, 4));
    return sim_none;
}

static struct sim_sense read_capacity_10(const struct slate_sim *sim,
                                         struct slate_exchange *x)
{
    uint64_t last = sim->unit->blocks - 1;
    uint8_t data[8] = {0};

    if (!sim->unit->unknown_capacity) {
        sim_put_be(data, 4, last < UINT32_MAX ? last : UINT32_MAX);
        sim_put_be(data + 4, 4, sim->unit->block_bytes);
    }
    sim_answer(x, data, sizeof data, sizeof data);
    return sim_none;
}

static uint8_t physical_exponent(const struct sim_unit *unit)
{
    uint8_t exponent = 0;

    while (unit->block_bytes << exponent < unit->physical_bytes)
        exponent++;
    return exponent;
}

static struct sim_sense service_action_in(const struct slate_sim *sim,
                                          struct slate_exchange *x)
{
    uint8_t data[32] = {0};

    if ((x->command[1] & 0x1F) != 0x10) /* READ CAPACITY (16) */
        return sim_invalid_field;
    sim_put_be(data, 8, sim->unit->blocks - 1);
    sim_put_be(data + 8, 4, sim->unit->block_bytes);
    data[12] = sim->about.protection ? 0x01 : 0x00;
    data[13] = physical_exponent(sim->unit);
    data[14] = sim->about.discard ? 0xC0 : 0x00; /* LBPME, LBPRZ */
    sim_answer(x, data, sizeof data, sim_be(x->command + 10, 4));
    return sim_none;
}

static struct sim_sense transfer(struct slate_sim *sim,
                                 struct slate_exchange *x)
{
    bool sixteen = x->command_length == 16;
    bool in = (x->command[0] & 0x0F) == 0x08;
    uint64_t lba = sim_be(x->command + 2, sixteen ? 8 : 4);
    uint64_t count = sim_be(x->command + (sixteen ? 10 : 7), sixteen ? 4 : 2);
    uint64_t bytes = count * sim->unit->block_bytes;
    enum sim_outcome outcome;

    if (bytes > x->data_length ||
        x->direction != (in ? SLATE_DIRECTION_IN : SLATE_DIRECTION_OUT))
        return sim_invalid_field;
    outcome = in ? sim_read(sim, lba, count, x->data)
                 : sim_write(sim, lba, count, x->data);
    if (outcome == SIM_DONE)
        x->transferred = sim_moved(sim, bytes);
    return sense_of(outcome);
}

static struct sim_sense unmap(struct slate_sim *sim, struct slate_exchange *x)
{
    const uint8_t *list = x->data;

    if (!sim->about.discard)
        return sim_unknown_command;
    if (x->data_length < 24 || sim_be(list + 2, 2) != 16)
        return sim_invalid_field;
    x->transferred = x->data_length;
    return sense_of(sim_clear(sim, sim_be(list + 8, 8), sim_be(list + 16, 4)));
}

static struct sim_sense write_same(struct slate_sim *sim,
                                   struct slate_exchange *x)
{
    uint64_t lba = sim_be(x->command + 2, 8);
    uint64_t count = sim_be(x->command + 10, 4);
    enum sim_outcome outcome = SIM_DONE;

    if (!sim->about.discard)
        return sim_unknown_command;
    if (x->data_length != sim->unit->block_bytes)
        return sim_invalid_field;
    for (uint64_t i = 0; i < count && outcome == SIM_DONE; i++)
        outcome = sim_write(sim, lba + i, 1, x->data);
    x->transferred = x->data_length;
    return sense_of(outcome);
}

#define CK_COND 0x20

/* The registers after the command, as descriptor-format sense with the status
 * return descriptor (SAT-3, 12.2.2.6). */
static void return_registers(struct slate_exchange *x, const uint8_t *answer)
{
    static const uint8_t lba_at[6] = {15, 17, 19, 14, 16, 18};
    uint8_t *sense = x->answer;

    memset(sense, 0, sizeof x->answer);
    sense[0] = 0x72;
    sense[1] = answer[0] == 0 ? 0x1 : 0xB;
    sense[3] = 0x1D;
    sense[7] = 14;
    sense[8] = 0x09;
    sense[9] = 12;
    sense[10] = 1;
    sense[11] = answer[0];
    sense[12] = answer[3];
    sense[13] = answer[2];
    for (int i = 0; i < 6; i++)
        sense[lba_at[i]] = answer[4 + i];
    sense[20] = answer[10];
    sense[21] = answer[11];
    x->answer_length = 22;
    x->state = CHECK_CONDITION;
}

/* Each byte of the 48-bit LBA in its place in the CDB, the lowest first. */
static void take_task(const struct slate_exchange *x, struct slate_exchange *to)
{
    static const uint8_t lba_at[6] = {8, 10, 12, 7, 9, 11};
    const uint8_t *cdb = x->command;

    *to = *x;
    memset(to->command, 0, sizeof to->command);
    to->command_length = 12;
    if (x->command_length == 12) {
        to->command[11] = cdb[9];
        return;
    }
    to->command[0] = cdb[4];
    to->command[1] = cdb[3];
    to->command[2] = cdb[6];
    to->command[3] = cdb[5];
    for (int i = 0; i < 6; i++)
        to->command[4 + i] = cdb[lba_at[i]];
    to->command[10] = cdb[13];
    to->command[11] = cdb[14];
}

/* ATA PASS-THROUGH, in both forms (SAT-3, 12.2); false where there is no
 * dock. */
static bool ata(struct slate_sim *sim, struct slate_exchange *x)
{
    struct slate_exchange task;
    bool wanted = (x->command[2] & CK_COND) != 0;

    if (!sim->about.dock)
        return false;
    take_task(x, &task);
    sim_ata(sim, &task);
    x->transferred = task.transferred;
    x->state = GOOD;
    x->answer_length = 0;
    if (task.state != 0 && sim->about.erasing.mute) {
        put_sense(&aborted, x->answer);
        x->answer_length = 18;
        x->state = CHECK_CONDITION;
    } else if (!sim->about.erasing.mute && (task.state != 0 || wanted)) {
        return_registers(x, task.answer);
    }
    return true;
}

#define OTHERS_KEY 0x0B0EA11Bu /* of the host that has reserved the device */

/* Service actions READ KEYS and READ RESERVATION (SPC-4, 6.15). */
static struct sim_sense reserve_in(const struct slate_sim *sim,
                                   struct slate_exchange *x)
{
    bool held = sim_guarded(sim, SIM_GUARD_RESERVED);
    uint8_t action = x->command[1] & 0x1F;
    uint8_t data[24] = {0};

    if (sim->about.few_commands || action > 1)
        return sim_invalid_field;
    sim_put_be(data + 4, 4, !held ? 0 : action == 0 ? 8 : 16);
    if (held)
        sim_put_be(data + 8, 8, OTHERS_KEY);
    data[21] = 0x05; /* write exclusive, registrants only */
    sim_answer(x, data, held ? (action == 0 ? 16 : 24) : 8,
               sim_be(x->command + 7, 2));
    return sim_none;
}

/* REGISTER AND IGNORE EXISTING KEY, then CLEAR (SPC-4, 6.16). */
static struct sim_sense reserve_out(struct slate_sim *sim,
                                    struct slate_exchange *x)
{
    uint8_t action = x->command[1] & 0x1F;

    if (x->data_length != 24 || (action != 0x06 && action != 0x03) ||
        sim->unit->refuses_lifts)
        return sim_invalid_field;
    x->transferred = 24;
    if (action == 0x03)
        sim_guard_set(sim, SIM_GUARD_RESERVED, false);
    return sim_none;
}

/* Who is not registered may not write (SPC-4, table 66). */
static bool conflicts(const struct slate_sim *sim, uint8_t operation)
{
    return (operation == 0x2A || operation == 0x8A || operation == 0x42 ||
            operation == 0x93 || operation == 0x15 || operation == 0x55) &&
           sim_guarded(sim, SIM_GUARD_RESERVED);
}

static struct sim_sense flush(const struct slate_sim *sim)
{
    return sim_store_flush(sim->store) ? sim_none : write_error;
}

/* PREVENT ALLOW MEDIUM REMOVAL holds for each host on its own: another one's
 * keeps the medium in (SPC-4, 6.13). */
static struct sim_sense start_stop(const struct slate_sim *sim,
                                   const struct slate_exchange *x)
{
    bool eject = (x->command[4] & 0x03) == 0x02;

    return eject && sim->unit->removal_held ? removal_prevented : sim_none;
}

/* What the simplest sticks know. */
static bool is_basic(uint8_t operation)
{
    return operation == 0x00 || operation == 0x03 || operation == 0x12 ||
           operation == 0x25 || operation == 0x28 || operation == 0x2A;
}

static bool needs_medium(uint8_t operation)
{
    return operation != 0x03 && operation != 0x12 && operation != 0xA0;
}

static struct sim_sense decode(struct slate_sim *sim, struct slate_exchange *x)
{
    uint8_t operation = x->command[0];

    if (sim->about.few_commands && !is_basic(operation))
        return sim_unknown_command;
    if (sim->unit->no_medium && needs_medium(operation))
        return no_medium;
    switch (operation) {
    case 0x1B: /* START STOP UNIT */
        return start_stop(sim, x);
    case 0x00: /* TEST UNIT READY */
    case 0x1E: /* PREVENT ALLOW MEDIUM REMOVAL */
        return sim_none;
    case 0x03:
        return request_sense(sim, x);
    case 0x04: /* FORMAT UNIT */
    case 0x48: /* SANITIZE */
    case 0xA3: /* MAINTENANCE IN */
        return sim_scsi_erase(sim, x);
    case 0x07: /* REASSIGN BLOCKS */
        return sim_scsi_reassign(sim, x);
    case 0x37: /* READ DEFECT DATA (10) */
    case 0xB7: /* READ DEFECT DATA (12) */
        return sim_scsi_read_defects(sim, x);
    case 0x12:
        return inquiry(sim, x);
    case 0x15: /* MODE SELECT (6) */
    case 0x55: /* MODE SELECT (10) */
        return sim_mode_select(sim, x);
    case 0x1A: /* MODE SENSE (6) */
    case 0x5A: /* MODE SENSE (10) */
        return sim_mode_sense(sim, x);
    case 0x25:
        return read_capacity_10(sim, x);
    case 0x28: /* READ (10) */
    case 0x2A: /* WRITE (10) */
    case 0x88: /* READ (16) */
    case 0x8A: /* WRITE (16) */
        return transfer(sim, x);
    case 0x35: /* SYNCHRONIZE CACHE (10) */
    case 0x91: /* SYNCHRONIZE CACHE (16) */
        return flush(sim);
    case 0x42:
        return unmap(sim, x);
    case 0x5E: /* PERSISTENT RESERVE IN */
        return reserve_in(sim, x);
    case 0x5F: /* PERSISTENT RESERVE OUT */
        return reserve_out(sim, x);
    case 0x93:
        return write_same(sim, x);
    case 0x9E:
        return service_action_in(sim, x);
    case 0xA0:
        return report_luns(sim, x);
    default:
        return sim_unknown_command;
    }
}

/* What a device may say ahead of any answer (SAM-5, 5.14). */
static bool has_other_worries(struct slate_sim *sim, struct slate_exchange *x)
{
    if (x->command[0] == 0x03 || x->command[0] == 0x12)
        return false;
    if (sim->about.busy > 0) {
        sim->about.busy--;
        x->state = BUSY;
        return true;
    }
    sim->sense = sim_none;
    if (sim->about.attentions > 0) {
        sim->about.attentions--;
        sim->sense = powered_on;
    } else if (sim->medium_changed) {
        sim->medium_changed = false;
        sim->sense = medium_changed;
    } else if (sim->mode_changed) {
        sim->mode_changed = false;
        sim->sense = mode_changed;
    } else if (sim->about.becoming_ready > 0) {
        sim->about.becoming_ready--;
        sim->sense = becoming_ready;
    } else {
        sim->sense = sim_scsi_erasing(sim, x->command[0]);
    }
    x->state = CHECK_CONDITION;
    return sim->sense.key != 0;
}

void sim_scsi(struct slate_sim *sim, struct slate_exchange *x)
{
    if (conflicts(sim, x->command[0])) {
        x->state = RESERVATION_CONFLICT;
    } else if ((x->command[0] == 0x85 || x->command[0] == 0xA1) &&
               ata(sim, x)) {
        return; /* answered by the disk behind the dock */
    } else if (!has_other_worries(sim, x)) {
        sim->sense = decode(sim, x);
        x->state = sim->sense.key == 0 ? GOOD : CHECK_CONDITION;
    }
    if (x->state == CHECK_CONDITION) {
        put_sense(&sim->sense, x->answer);
        if (sim->sense.key == 0x2 && sim_erase_is_working(sim))
            sim_scsi_put_progress(sim, x->answer);
        x->answer_length = 18;
        sim->sense = sim_none; /* handed over with the status */
    }
}
