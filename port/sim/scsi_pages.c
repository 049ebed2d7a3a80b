/* SPDX-License-Identifier: MIT */
/* What a simulated SCSI device says of itself: INQUIRY and its VPD pages
 * (SPC-4, 6.6 and 7.8; SBC-3, 6.6; SAT-3, 10.3.5). */

#include "sim.h"

static bool has_serial(const struct slate_sim *sim)
{
    return sim->about.serial[0] != '\0';
}

static uint32_t standard(const struct slate_sim *sim, uint8_t *data)
{
    data[0] = sim->about.zoned ? 0x14 : 0x00;
    data[1] = sim->about.removable ? 0x80 : 0x00;
    data[2] = 0x06; /* SPC-4 */
    data[3] = 0x02; /* response data format */
    data[4] = 36 - 5;
    sim_put_padded(data + 8, 8, sim->about.maker);
    sim_put_padded(data + 16, 16, sim->about.model);
    sim_put_padded(data + 32, 4, sim->about.revision);
    return 36;
}

static uint32_t page_list(const struct slate_sim *sim, uint8_t *data)
{
    uint32_t n = 4;

    data[n++] = 0x00;
    if (has_serial(sim))
        data[n++] = 0x80;
    data[n++] = 0x83;
    if (sim->about.dock)
        data[n++] = 0x89;
    data[n++] = 0xB0;
    data[n++] = 0xB1;
    if (sim->about.discard)
        data[n++] = 0xB2;
    data[3] = (uint8_t)(n - 4);
    return n;
}

/* One NAA designator, made of the serial number. */
static uint32_t identification(const struct slate_sim *sim, uint8_t *data)
{
    uint64_t name = 0x5000000000000000u;

    for (const char *p = sim->about.serial; *p != '\0'; p++)
        name = (name & 0xF000000000000000u) |
               ((name * 31 + (uint8_t)*p) & 0x0FFFFFFFFFFFFFFFu);
    if (!has_serial(sim))
        return 4;
    data[3] = 12;
    data[4] = 0x01;
    data[5] = 0x03;
    data[7] = 8;
    sim_put_be(data + 8, 8, name);
    return 16;
}

static uint32_t limits(const struct slate_sim *sim, uint8_t *data)
{
    data[3] = 60;
    sim_put_be(data + 8, 4, 65535);
    sim_put_be(data + 12, 4, sim->about.erase_bytes / sim->unit->block_bytes);
    if (sim->about.discard) {
        sim_put_be(data + 20, 4, 4194304);
        sim_put_be(data + 24, 4, 1);
    }
    return 64;
}

static uint32_t characteristics(const struct slate_sim *sim, uint8_t *data)
{
    data[3] = 60;
    sim_put_be(data + 4, 2, sim->about.rotating ? 5400 : 1);
    return 64;
}

static uint32_t provisioning(uint8_t *data)
{
    data[3] = 4;
    data[5] = 0xC0; /* UNMAP, WRITE SAME (16) */
    return 8;
}

/* The dock's own data, and IDENTIFY DEVICE from byte 60 on. */
static uint32_t ata_information(const struct slate_sim *sim, uint8_t *data)
{
    sim_put_be(data + 2, 2, 568);
    sim_put_padded(data + 8, 8, "Halyard");
    sim_put_padded(data + 16, 16, "Dock");
    data[56] = 0xEC;
    sim_ata_identity(sim, data + 60);
    return 572;
}

static uint32_t page_of(const struct slate_sim *sim, uint8_t number,
                        uint8_t *data)
{
    size_t length = strlen(sim->about.serial);

    switch (number) {
    case 0x00:
        return page_list(sim, data);
    case 0x80:
        data[3] = (uint8_t)length;
        memcpy(data + 4, sim->about.serial, length);
        return length == 0 ? 0 : 4 + (uint32_t)length;
    case 0x83:
        return identification(sim, data);
    case 0x89:
        return sim->about.dock ? ata_information(sim, data) : 0;
    case 0xB0:
        return limits(sim, data);
    case 0xB1:
        return characteristics(sim, data);
    case 0xB2:
        return sim->about.discard ? provisioning(data) : 0;
    default:
        return 0;
    }
}

uint32_t sim_inquiry(const struct slate_sim *sim, bool page, uint8_t number,
                     uint8_t data[600])
{
    memset(data, 0, 600);
    if (!page)
        return number == 0 ? standard(sim, data) : 0;
    if (sim->about.few_commands)
        return 0;
    data[1] = number;
    return page_of(sim, number, data);
}
