/* SPDX-License-Identifier: MIT */
/* The device's side of SCSI: decodes command bytes as a USB stick does
 * (SPC-4, SBC-3) and answers with data, status and fixed-format sense. */
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../host.h"
#include "sim.h"

#define GOOD 0x00
#define CHECK_CONDITION 0x02

static const struct sim_sense none = {0x0, 0x00, 0x00};
static const struct sim_sense read_error = {0x3, 0x11, 0x00};
static const struct sim_sense write_error = {0x3, 0x0C, 0x00};
static const struct sim_sense unknown_command = {0x5, 0x20, 0x00};
static const struct sim_sense out_of_range = {0x5, 0x21, 0x00};
static const struct sim_sense invalid_field = {0x5, 0x24, 0x00};
static const struct sim_sense powered_on = {0x6, 0x29, 0x00};
static const struct sim_sense write_protected = {0x7, 0x27, 0x00};

static uint64_t be(const uint8_t *bytes, int length)
{
    uint64_t value = 0;

    for (int i = 0; i < length; i++)
        value = value << 8 | bytes[i];
    return value;
}

static void put_be(uint8_t *bytes, int length, uint64_t value)
{
    for (int i = length; i-- > 0; value >>= 8)
        bytes[i] = (uint8_t)value;
}

/* Gives an answer, cut to what the command allows and the host has room for. */
static struct sim_sense answer(struct slate_exchange *x, const uint8_t *data,
                               uint32_t length, uint64_t allowed)
{
    if (length > allowed)
        length = (uint32_t)allowed;
    if (length > x->data_length)
        length = x->data_length;
    if (x->direction == SLATE_DIRECTION_IN && length > 0)
        memcpy(x->data, data, length);
    x->transferred = length;
    return none;
}

static void put_padded(uint8_t *field, size_t length, const char *text)
{
    size_t have = strlen(text);

    memset(field, ' ', length);
    memcpy(field, text, have < length ? have : length);
}

static struct sim_sense inquiry_page(const struct slate_sim *sim,
                                     struct slate_exchange *x, uint8_t page)
{
    uint8_t data[64] = {0};
    size_t length = strlen(sim->about.serial);

    data[1] = page;
    if (page == 0x00) {
        data[3] = length > 0 ? 2 : 1;
        data[5] = 0x80;
        return answer(x, data, 4u + data[3], x->command[4]);
    }
    if (page != 0x80 || length == 0)
        return invalid_field;
    data[3] = (uint8_t)length;
    memcpy(data + 4, sim->about.serial, length);
    return answer(x, data, 4u + data[3], x->command[4]);
}

static struct sim_sense inquiry(const struct slate_sim *sim,
                                struct slate_exchange *x)
{
    uint8_t data[36] = {0};

    if ((x->command[1] & 0x01) != 0)
        return inquiry_page(sim, x, x->command[2]);
    if (x->command[2] != 0)
        return invalid_field;
    data[1] = sim->about.removable ? 0x80 : 0x00;
    data[2] = 0x06; /* SPC-4 */
    data[3] = 0x02; /* response data format */
    data[4] = sizeof data - 5;
    put_padded(data + 8, 8, sim->about.maker);
    put_padded(data + 16, 16, sim->about.model);
    put_padded(data + 32, 4, sim->about.revision);
    return answer(x, data, sizeof data, x->command[4]);
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

    put_sense(sim->attention ? &powered_on : &sim->sense, data);
    sim->attention = false;
    return answer(x, data, sizeof data, x->command[4]);
}

static struct sim_sense read_capacity_10(const struct slate_sim *sim,
                                         struct slate_exchange *x)
{
    uint64_t last = sim->about.blocks - 1;
    uint8_t data[8];

    put_be(data, 4, last < UINT32_MAX ? last : UINT32_MAX);
    put_be(data + 4, 4, sim->about.block_bytes);
    return answer(x, data, sizeof data, sizeof data);
}

static struct sim_sense service_action_in(const struct slate_sim *sim,
                                          struct slate_exchange *x)
{
    uint8_t data[32] = {0};

    if ((x->command[1] & 0x1F) != 0x10) /* READ CAPACITY (16) */
        return invalid_field;
    put_be(data, 8, sim->about.blocks - 1);
    put_be(data + 8, 4, sim->about.block_bytes);
    return answer(x, data, sizeof data, be(x->command + 10, 4));
}

/* The caching page alone; the header's bit 7 tells of write protection. */
static struct sim_sense mode_sense(const struct slate_sim *sim,
                                   struct slate_exchange *x)
{
    bool ten = x->command[0] == 0x5A;
    uint32_t header = ten ? 8 : 4;
    uint8_t page = x->command[2] & 0x3F;
    uint8_t data[28] = {0};

    if (page != 0x08 && page != 0x3F)
        return invalid_field;
    data[ten ? 3 : 2] = sim->about.write_protected ? 0x80 : 0x00;
    data[header] = 0x08;
    data[header + 1] = 0x12;
    data[header + 2] = 0x04; /* write cache enabled */
    put_be(data, ten ? 2 : 1, header + 20 - (ten ? 2u : 1u));
    return answer(x, data, header + 20,
                  ten ? be(x->command + 7, 2) : x->command[4]);
}

static void take_time(const struct slate_sim *sim, uint64_t bytes)
{
    uint64_t rate = sim->about.bytes_per_second;
    uint64_t nanoseconds = rate == 0 ? 0 : bytes * 1000000000u / rate;
    struct timespec pause = {(time_t)(nanoseconds / 1000000000u),
                             (long)(nanoseconds % 1000000000u)};

    if (nanoseconds > 0)
        nanosleep(&pause, NULL);
}

static struct sim_sense transfer(const struct slate_sim *sim,
                                 struct slate_exchange *x)
{
    bool sixteen = x->command_length == 16;
    bool in = (x->command[0] & 0x0F) == 0x08;
    uint64_t lba = be(x->command + 2, sixteen ? 8 : 4);
    uint64_t count = be(x->command + (sixteen ? 10 : 7), sixteen ? 4 : 2);
    uint64_t bytes = count * sim->about.block_bytes;
    off_t at;

    if (lba > sim->about.blocks || count > sim->about.blocks - lba)
        return out_of_range;
    if (!in && sim->about.write_protected)
        return write_protected;
    if (bytes > x->data_length ||
        x->direction != (in ? SLATE_DIRECTION_IN : SLATE_DIRECTION_OUT))
        return invalid_field;
    at = (off_t)(lba * sim->about.block_bytes);
    if (in && !port_read_all(sim->blocks, x->data, bytes, at))
        return read_error;
    if (!in && !port_write_sparse(sim->blocks, x->data, bytes, at))
        return write_error;
    take_time(sim, bytes);
    x->transferred = (uint32_t)bytes;
    return none;
}

static struct sim_sense decode(struct slate_sim *sim, struct slate_exchange *x)
{
    switch (x->command[0]) {
    case 0x00: /* TEST UNIT READY */
        return none;
    case 0x03:
        return request_sense(sim, x);
    case 0x12:
        return inquiry(sim, x);
    case 0x1A: /* MODE SENSE (6) */
    case 0x5A: /* MODE SENSE (10) */
        return mode_sense(sim, x);
    case 0x25:
        return read_capacity_10(sim, x);
    case 0x28: /* READ (10) */
    case 0x2A: /* WRITE (10) */
    case 0x88: /* READ (16) */
    case 0x8A: /* WRITE (16) */
        return transfer(sim, x);
    case 0x35: /* SYNCHRONIZE CACHE (10) */
    case 0x91: /* SYNCHRONIZE CACHE (16) */
        return fsync(sim->blocks) == 0 ? none : write_error;
    case 0x9E:
        return service_action_in(sim, x);
    default:
        return unknown_command;
    }
}

void sim_scsi(struct slate_sim *sim, struct slate_exchange *x)
{
    bool waits = x->command[0] != 0x03 && x->command[0] != 0x12;

    x->transferred = 0;
    if (sim->attention && waits) { /* SAM-5, 5.14 */
        sim->attention = false;
        sim->sense = powered_on;
    } else {
        sim->sense = decode(sim, x);
    }
    x->state = sim->sense.key == 0 ? GOOD : CHECK_CONDITION;
    x->sense_length = 0;
    if (x->state == CHECK_CONDITION) {
        put_sense(&sim->sense, x->sense);
        x->sense_length = 18;
        sim->sense = none; /* handed over with the status */
    }
}
