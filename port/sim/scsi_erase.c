/* SPDX-License-Identifier: MIT */
/* SCSI devices that erase themselves: SANITIZE, FORMAT UNIT, and what they say
 * meanwhile (SBC-3, 4.11, 5.3, 5.27). */
#include "sim.h"

static const struct sim_sense formatting = {0x2, 0x04, 0x04};
static const struct sim_sense sanitizing = {0x2, 0x04, 0x1B};
static const struct sim_sense format_corrupted = {0x3, 0x31, 0x00};
static const struct sim_sense sanitize_failed = {0x3, 0x31, 0x03};

/* Progress stands behind the sense-key specific bit (SPC-4, 4.5.2.4.4). */
void sim_scsi_put_progress(const struct slate_sim *sim, uint8_t data[18])
{
    if (sim->about.erasing.mute)
        return;
    data[15] = 0x80;
    sim_put_be(data + 16, 2, sim_erase_progress(sim));
}

struct sim_sense sim_scsi_working(const struct slate_sim *sim)
{
    return sim_get(sim, "erase way") == 1u + SIM_ERASE_FORMAT ? formatting
                                                              : sanitizing;
}

/* SANITIZE by its service action (SBC-3, 5.27). */
static struct sim_sense sanitize(struct slate_sim *sim,
                                 const struct slate_exchange *x)
{
    const uint8_t *list = x->data;
    uint8_t action = x->command[1] & 0x1F;

    if (action < 1 || action > 3 || (x->command[1] & 0x80) == 0)
        return sim_invalid_field;
    if (action == 1 && (x->data_length < 8 || (list[0] & 0x1F) == 0 ||
                        sim_be(list + 2, 2) == 0 ||
                        sim_be(x->command + 7, 2) != 4 + sim_be(list + 2, 2)))
        return sim_invalid_parameter;
    if (sim_is_protected(sim, 0, 0))
        return sim_write_protected;
    return sim_erase_begin(sim, (enum sim_erase_way)(action - 1))
               ? sim_none
               : sim_invalid_field;
}

/* Bytes 3 and 4 go before what page 03h says (SCSI-2, 9.2.1). */
static void set_interleave(const struct slate_sim *sim,
                           const struct slate_exchange *x)
{
    uint64_t interleave = sim_be(x->command + 3, 2);
    struct sim_shape shape;

    sim_shape_get(sim, true, &shape);
    if (interleave == 0 || interleave >= shape.field[SIM_SHAPE_SECTORS])
        return;
    shape.field[SIM_SHAPE_INTERLEAVE] = interleave;
    sim_shape_set(sim, &shape);
}

/* FORMAT UNIT with the short header or without; at once, or when it is done. */
static struct sim_sense format(struct slate_sim *sim,
                               const struct slate_exchange *x)
{
    const uint8_t *header = x->data;
    bool has_header = (x->command[1] & 0x10) != 0;
    struct sim_sense sense;

    if (has_header && sim->about.erasing.plain)
        return sim_invalid_field;
    if (has_header && x->data_length < 4)
        return sim_invalid_parameter;
    if (has_header && (header[1] & 0x02) != 0 && sim->about.erasing.waits)
        return sim_invalid_parameter;
    if (sim_is_protected(sim, 0, 0))
        return sim_write_protected;
    if (sim->about.tracks.used && sim->unit_number != 0)
        return sim_invalid_field;
    if (sim->about.tracks.used)
        set_interleave(sim, x);
    sense = sim_scsi_take_defects(sim, x);
    if (sense.key != 0)
        return sense;
    if (has_header && (header[1] & 0x02) != 0)
        return sim_erase_begin(sim, SIM_ERASE_FORMAT) ? sim_none
                                                      : sim_invalid_field;
    return sim_erase_at_once(sim, SIM_ERASE_FORMAT) ? sim_none
                                                    : sim_invalid_field;
}

/* REPORT SUPPORTED OPERATION CODES, one command (SPC-4, 6.34). */
static struct sim_sense maintenance_in(const struct slate_sim *sim,
                                       struct slate_exchange *x)
{
    uint8_t data[4] = {0, 1, 0, 0}; /* not supported */
    uint8_t action = x->command[5];
    bool known = false;

    if ((x->command[1] & 0x1F) != 0x0C || sim->about.erasing.ways == 0)
        return sim_invalid_field;
    if (x->command[3] == 0x48 && (x->command[2] & 7) == 2 && action >= 1 &&
        action <= 3)
        known = sim_erase_has(sim, (enum sim_erase_way)(action - 1));
    if (x->command[3] == 0x04 && (x->command[2] & 7) == 1)
        known = sim_erase_has(sim, SIM_ERASE_FORMAT);
    data[1] = known ? 3 : 1;
    sim_answer(x, data, sizeof data, sim_be(x->command + 6, 4));
    return sim_none;
}

/* What is answered while it erases itself, or cannot be used (SBC-3, 4.11). */
static bool is_answered(uint8_t operation)
{
    return operation == 0x03 || operation == 0x12 || operation == 0x25 ||
           operation == 0x9E || operation == 0xA0 || operation == 0xA3;
}

/* What sets up a format is taken by a device that needs one. */
static bool is_for_format(uint8_t operation)
{
    return operation == 0x04 || operation == 0x15 || operation == 0x1A ||
           operation == 0x37 || operation == 0x48 || operation == 0x55 ||
           operation == 0x5A || operation == 0xB7;
}

/* Each question brings it on. */
struct sim_sense sim_scsi_erasing(struct slate_sim *sim, uint8_t operation)
{
    enum sim_erase_way way;

    if (operation == 0x00)
        sim_erase_step(sim);
    if (is_answered(operation))
        return sim_none;
    if (sim_erase_is_working(sim))
        return sim_scsi_working(sim);
    if (!sim_erase_has_failed(sim, &way) || is_for_format(operation))
        return sim_none;
    return way == SIM_ERASE_FORMAT ? format_corrupted : sanitize_failed;
}

struct sim_sense sim_scsi_erase(struct slate_sim *sim, struct slate_exchange *x)
{
    if (x->command[0] == 0x04)
        return format(sim, x);
    return x->command[0] == 0x48 ? sanitize(sim, x) : maintenance_in(sim, x);
}
