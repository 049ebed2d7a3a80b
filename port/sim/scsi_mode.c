/* SPDX-License-Identifier: MIT */
/* Mode pages of a simulated SCSI device: error recovery (01h), format device
 * (03h), rigid disk geometry (04h), flexible disk (05h), caching (08h) and
 * control (0Ah), with the block descriptor (SPC-4, 6.11 to 6.14; SCSI-2, 9.3.3;
 * SBC-3, 6.4). */

#include "sim.h"

#define SWP_BIT 0x08
#define ALL_PAGES 0x3F
#define CHANGEABLE 0x40
#define PAGE_ROOM 40

static const struct sim_sense rounded = {0x1, 0x37, 0x00};

/* A field of a page that a host may set. */
struct field {
    uint8_t at, bytes;
    enum sim_shape_field what;
};

static const struct field recovery_fields[] = {{4, 1, SIM_SHAPE_SPAN}};

static const struct field format_fields[] = {
    {4, 2, SIM_SHAPE_SPARES},       {10, 2, SIM_SHAPE_SECTORS},
    {12, 2, SIM_SHAPE_BLOCK_BYTES}, {14, 2, SIM_SHAPE_INTERLEAVE},
    {16, 2, SIM_SHAPE_TRACK_SKEW},  {18, 2, SIM_SHAPE_CYLINDER_SKEW}};

static const struct field rigid_fields[] = {{2, 3, SIM_SHAPE_CYLINDERS},
                                            {5, 1, SIM_SHAPE_HEADS},
                                            {6, 3, SIM_SHAPE_PRECOMPENSATION},
                                            {9, 3, SIM_SHAPE_CURRENT}};

static const struct field flexible_fields[] = {
    {4, 1, SIM_SHAPE_HEADS},
    {5, 1, SIM_SHAPE_SECTORS},
    {6, 2, SIM_SHAPE_BLOCK_BYTES},
    {8, 2, SIM_SHAPE_CYLINDERS},
    {10, 2, SIM_SHAPE_PRECOMPENSATION},
    {12, 2, SIM_SHAPE_CURRENT}};

struct page {
    const struct field *field;
    uint8_t number, length;
    bool of_tracks;
    uint8_t fields;
};

#define OF_TRACKS(number, length, list)                                        \
    {                                                                          \
        (list), (number), (length), true, sizeof(list) / sizeof(list)[0]       \
    }

static const struct page pages[] = {
    OF_TRACKS(0x01, 12, recovery_fields), OF_TRACKS(0x03, 24, format_fields),
    OF_TRACKS(0x04, 24, rigid_fields),    OF_TRACKS(0x05, 32, flexible_fields),
    {NULL, 0x08, 20, false, 0},           {NULL, 0x0A, 12, false, 0}};

#define PAGES (sizeof pages / sizeof pages[0])

static bool has_page(const struct slate_sim *sim, const struct page *page)
{
    const struct sim_tracks *tracks = &sim->about.tracks;

    if (page->number == 0x04)
        return tracks->used && !tracks->flexible;
    if (page->number == 0x05)
        return tracks->used && tracks->flexible;
    return !page->of_tracks || tracks->used;
}

static const struct page *page_of(const struct slate_sim *sim, uint8_t number)
{
    for (size_t i = 0; i < PAGES; i++) {
        if (pages[i].number == number)
            return has_page(sim, &pages[i]) ? &pages[i] : NULL;
    }
    return NULL;
}

/* What no host sets. */
static void put_constants(const struct slate_sim *sim, const struct page *page,
                          uint8_t *data)
{
    const struct sim_tracks *tracks = &sim->about.tracks;

    switch (page->number) {
    case 0x03:
        sim_put_be(data + 2, 2, 1); /* tracks in a zone */
        break;
    case 0x04:
        sim_put_be(data + 20, 2, tracks->revolutions);
        break;
    case 0x05:
        sim_put_be(data + 28, 2, tracks->revolutions);
        break;
    case 0x08:
        data[2] = 0x04; /* write cache enabled */
        break;
    case 0x0A:
        data[4] = sim->swp ? SWP_BIT : 0;
        break;
    default:
        break;
    }
}

static void put_masks(const struct slate_sim *sim, const struct page *page,
                      uint8_t *data)
{
    for (uint8_t i = 0; i < page->fields && !sim->about.tracks.fixed; i++)
        memset(data + page->field[i].at, 0xFF, page->field[i].bytes);
    if (page->number == 0x0A)
        data[4] = SWP_BIT;
}

static uint32_t put_page(const struct slate_sim *sim, const struct page *page,
                         bool changeable, uint8_t *data)
{
    struct sim_shape shape;

    data[0] = page->number;
    data[1] = (uint8_t)(page->length - 2);
    if (page->of_tracks)
        data[0] |= 0x80; /* can be saved */
    if (changeable) {
        put_masks(sim, page, data);
        return page->length;
    }
    put_constants(sim, page, data);
    sim_shape_get(sim, true, &shape);
    for (uint8_t i = 0; i < page->fields; i++)
        sim_put_be(data + page->field[i].at, page->field[i].bytes,
                   shape.field[page->field[i].what]);
    return page->length;
}

static uint32_t put_blocks(const struct slate_sim *sim, uint8_t *data)
{
    uint64_t blocks = sim->unit->blocks;

    sim_put_be(data + 1, 3, blocks < 0xFFFFFF ? blocks : 0xFFFFFF);
    sim_put_be(data + 5, 3, sim->unit->block_bytes);
    return 8;
}

struct sim_sense sim_mode_sense(const struct slate_sim *sim,
                                struct slate_exchange *x)
{
    bool ten = x->command[0] == 0x5A;
    uint32_t header = ten ? 8 : 4, length = header;
    uint8_t wanted = x->command[2] & 0x3F;
    bool changeable = (x->command[2] & 0xC0) == CHANGEABLE;
    uint8_t data[256] = {0};

    if (wanted != ALL_PAGES && page_of(sim, wanted) == NULL)
        return sim_invalid_field;
    data[ten ? 3 : 2] = sim->unit->write_protected || sim->swp ? 0x80 : 0x00;
    if ((x->command[1] & 0x08) == 0) { /* DBD */
        data[ten ? 7 : 3] = 8;
        length += put_blocks(sim, data + length);
    }
    for (size_t i = 0; i < PAGES; i++) {
        if (has_page(sim, &pages[i]) &&
            (wanted == ALL_PAGES || wanted == pages[i].number))
            length += put_page(sim, &pages[i], changeable, data + length);
    }
    sim_put_be(data, ten ? 2 : 1, length - (ten ? 2u : 1u));
    sim_answer(x, data, length,
               ten ? sim_be(x->command + 7, 2) : x->command[4]);
    return sim_none;
}

/* Another size is taken on with the next format. */
static bool take_blocks(struct slate_sim *sim, const uint8_t *data)
{
    uint64_t count = sim_be(data + 1, 3), bytes = sim_be(data + 5, 3);
    struct sim_shape shape;

    if (!sim_shape_takes(sim, (uint32_t)bytes) || sim->unit_number != 0)
        return false;
    sim_shape_get(sim, true, &shape);
    shape.field[SIM_SHAPE_BLOCK_BYTES] = bytes;
    if (sim->about.tracks.used)
        shape.field[SIM_SHAPE_FIRST_BLOCKS] = count;
    sim_shape_set(sim, &shape);
    return true;
}

static bool is_shape(const struct slate_sim *sim, const struct sim_shape *shape)
{
    uint64_t sectors = shape->field[SIM_SHAPE_SECTORS];

    return shape->field[SIM_SHAPE_CYLINDERS] > 0 &&
           shape->field[SIM_SHAPE_HEADS] > 0 && sectors > 0 && sectors < 256 &&
           shape->field[SIM_SHAPE_SPARES] < sectors &&
           sim_shape_takes(sim, (uint32_t)shape->field[SIM_SHAPE_BLOCK_BYTES]);
}

/* Nothing but what may be changed may differ from what there is (SPC-4, 6.11).
 */
static bool take_page(struct slate_sim *sim, const struct page *page,
                      const uint8_t *data, bool save)
{
    uint8_t now[PAGE_ROOM] = {0}, mask[PAGE_ROOM] = {0};
    struct sim_shape shape;

    put_page(sim, page, false, now);
    put_page(sim, page, true, mask);
    for (uint8_t i = 2; i < page->length; i++) {
        if (((data[i] ^ now[i]) & ~mask[i]) != 0)
            return false;
    }
    if (page->number == 0x0A) {
        if (!sim->unit->stubborn)
            sim->swp = (data[4] & SWP_BIT) != 0;
        if (save)
            sim_guard_set(sim, SIM_GUARD_SOFTWARE, (data[4] & SWP_BIT) != 0);
        return true;
    }
    sim_shape_get(sim, true, &shape);
    for (uint8_t i = 0; i < page->fields; i++)
        shape.field[page->field[i].what] =
            sim_be(data + page->field[i].at, page->field[i].bytes);
    if (!is_shape(sim, &shape))
        return false;
    sim_shape_set(sim, &shape);
    return true;
}

/* Takes a block descriptor and any pages; hosts are told (2A/01). */
struct sim_sense sim_mode_select(struct slate_sim *sim,
                                 const struct slate_exchange *x)
{
    bool ten = x->command[0] == 0x55;
    const uint8_t *data = x->data;
    uint32_t header = ten ? 8 : 4, at = header, blocks;

    if (x->data_length < header || sim->unit->refuses_lifts)
        return sim_invalid_parameter;
    blocks = data[ten ? 7 : 3];
    if ((blocks != 0 && blocks != 8) || x->data_length < at + blocks)
        return sim_invalid_parameter;
    if (blocks == 8 && !take_blocks(sim, data + at))
        return sim_invalid_parameter;
    at += blocks;
    while (at < x->data_length) {
        const struct page *page = page_of(sim, data[at]);

        if (page == NULL || at + page->length > x->data_length ||
            data[at + 1] != page->length - 2 ||
            !take_page(sim, page, data + at, (x->command[1] & 0x01) != 0))
            return sim_invalid_parameter;
        at += page->length;
    }
    sim->mode_changed = true;
    return sim->about.tracks.rounds ? rounded : sim_none;
}
