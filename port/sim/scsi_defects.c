/* SPDX-License-Identifier: MIT */
/* Bad places on the wire: the list that FORMAT UNIT brings, READ DEFECT DATA
 * and REASSIGN BLOCKS (SCSI-2, 9.2.1; SBC-3, 5.3, 5.17, 5.18). */

#include "sim.h"

#define COMPLETE 0x08
#define FORM_BLOCK 0u
#define FORM_INDEX 4u
#define FORM_SECTOR 5u
#define WHOLE_TRACK 0xFFFFFFFFu
#define LIST_PRIMARY 0x10
#define LIST_GROWN 0x08

static const struct sim_sense no_spares = {0x3, 0x32, 0x00};

static uint32_t each_of(uint32_t form)
{
    return form == FORM_BLOCK ? 4 : 8;
}

/* The slots of the track that a descriptor means, in the shape to come. */
static bool flag(const struct slate_sim *sim, const struct sim_shape *shape,
                 uint32_t form, const uint8_t *data)
{
    uint64_t sectors = shape->field[SIM_SHAPE_SECTORS];
    uint64_t cylinder = sim_be(data, 3), head = data[3];
    uint64_t at = sim_be(data + 4, 4), first = 0, count = 1;

    if (form == FORM_BLOCK) {
        uint64_t place[3];

        sim_tracks_place(sim, sim_be(data, 4), place);
        return sim_tracks_flag(sim, place[0], place[1], place[2]);
    }
    if (cylinder >= shape->field[SIM_SHAPE_CYLINDERS] ||
        head >= shape->field[SIM_SHAPE_HEADS])
        return false;
    if (at == WHOLE_TRACK)
        count = sectors;
    else if (form == FORM_INDEX && at < sim->about.tracks.track_bytes)
        first = at * sectors / sim->about.tracks.track_bytes;
    else if (form == FORM_SECTOR && at < sectors)
        first = at;
    else
        return false;
    for (uint64_t i = 0; i < count; i++) {
        if (!sim_tracks_flag(sim, cylinder, head, first + i))
            return false;
    }
    return true;
}

/* Ascending, as the standard wants it. */
static bool is_sorted(const uint8_t *data, uint32_t each, uint32_t count)
{
    for (uint32_t i = 1; i < count; i++) {
        if (memcmp(data + (size_t)each * (i - 1), data + (size_t)each * i,
                   each) >= 0)
            return false;
    }
    return true;
}

static void flag_primary(const struct slate_sim *sim,
                         const struct sim_shape *shape)
{
    const struct sim_tracks *tracks = &sim->about.tracks;

    for (uint32_t i = 0; i < tracks->spot_count; i++) {
        const struct sim_spot *spot = &tracks->spot[i];

        if (spot->primary)
            sim_tracks_flag(sim, spot->cylinder, spot->head,
                            (uint64_t)spot->byte *
                                shape->field[SIM_SHAPE_SECTORS] /
                                tracks->track_bytes);
    }
}

/* The parameter list of FORMAT UNIT, behind its header. Without a complete list
 * what was flagged before stays. */
struct sim_sense sim_scsi_take_defects(struct slate_sim *sim,
                                       const struct slate_exchange *x)
{
    const uint8_t *list = x->data;
    uint32_t form = x->command[1] & 0x07, each = each_of(form);
    uint32_t bytes = x->data_length < 4 ? 0 : (uint32_t)sim_be(list + 2, 2);
    struct sim_shape shape;

    if (form != FORM_BLOCK && form != FORM_INDEX && form != FORM_SECTOR)
        return sim_invalid_field;
    if (bytes % each != 0 || (bytes > 0 && x->data_length < 4 + bytes) ||
        (bytes > 0 && !is_sorted(list + 4, each, bytes / each)))
        return sim_invalid_parameter;
    if (!sim->about.tracks.used)
        return bytes == 0 ? sim_none : sim_invalid_parameter;
    sim_shape_get(sim, true, &shape);
    if ((x->command[1] & COMPLETE) != 0)
        sim_tracks_flag_none(sim);
    flag_primary(sim, &shape);
    for (uint32_t i = 0; i < bytes; i += each) {
        if (!flag(sim, &shape, form, list + 4 + i))
            return sim_invalid_parameter;
    }
    return sim_none;
}

static bool is_primary(const struct slate_sim *sim, const uint64_t place[3])
{
    const struct sim_tracks *tracks = &sim->about.tracks;
    struct sim_shape shape;

    sim_shape_get(sim, false, &shape);
    for (uint32_t i = 0; i < tracks->spot_count; i++) {
        const struct sim_spot *spot = &tracks->spot[i];

        if (spot->primary && spot->cylinder == place[0] &&
            spot->head == place[1] &&
            (uint64_t)spot->byte * shape.field[SIM_SHAPE_SECTORS] /
                    tracks->track_bytes ==
                place[2])
            return true;
    }
    return false;
}

/* In the form of bytes from the index only: where the sector begins. */
struct sim_sense sim_scsi_read_defects(const struct slate_sim *sim,
                                       struct slate_exchange *x)
{
    static uint8_t data[8 + 8 * 4096];
    bool twelve = x->command[0] == 0xB7;
    uint8_t what = x->command[twelve ? 1 : 2];
    uint32_t header = twelve ? 8 : 4, length = header;
    uint64_t place[3];
    struct sim_shape shape;
    size_t at = 0;

    if (!sim->about.tracks.used)
        return sim_unknown_command;
    sim_shape_get(sim, false, &shape);
    memset(data, 0, header);
    while (sim_tracks_next(sim, &at, place) && length + 8 <= sizeof data) {
        bool primary = is_primary(sim, place);

        if ((what & (primary ? LIST_PRIMARY : LIST_GROWN)) == 0)
            continue;
        sim_put_be(data + length, 3, place[0]);
        data[length + 3] = (uint8_t)place[1];
        sim_put_be(data + length + 4, 4,
                   (place[2] * sim->about.tracks.track_bytes +
                    shape.field[SIM_SHAPE_SECTORS] - 1) /
                       shape.field[SIM_SHAPE_SECTORS]);
        length += 8;
    }
    data[1] = (uint8_t)((what & (LIST_PRIMARY | LIST_GROWN)) | FORM_INDEX);
    sim_put_be(data + (twelve ? 4 : 2), twelve ? 4 : 2, length - header);
    sim_answer(x, data, length,
               twelve ? sim_be(x->command + 6, 4) : sim_be(x->command + 7, 2));
    return sim_none;
}

/* One block at a time; a drive without spare sectors has nowhere to put it. */
struct sim_sense sim_scsi_reassign(struct slate_sim *sim,
                                   const struct slate_exchange *x)
{
    const uint8_t *list = x->data;
    bool longer = (x->command[1] & 0x02) != 0;
    struct sim_shape shape;
    uint64_t place[3], lba;

    if (!sim->about.tracks.used)
        return sim_unknown_command;
    if (x->data_length < (longer ? 12u : 8u))
        return sim_invalid_parameter;
    lba = sim_be(list + 4, longer ? 8 : 4);
    sim_shape_get(sim, false, &shape);
    if (lba >= sim->unit->blocks)
        return sim_invalid_parameter;
    if (shape.field[SIM_SHAPE_SPARES] == 0)
        return no_spares;
    sim_tracks_place(sim, lba, place);
    return sim_tracks_flag(sim, place[0], place[1], place[2]) ? sim_none
                                                              : no_spares;
}
