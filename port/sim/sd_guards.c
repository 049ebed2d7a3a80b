/* SPDX-License-Identifier: MIT */
/* What protects a simulated card: bits of the CSD (CMD27), write-protect
 * groups (CMD28 to CMD30), the password (CMD42) (Physical Layer Simplified
 * Specification 6.00, 4.3.6, 4.3.7, 5.3). */
#include "sim.h"
#include "trueslate/base.h"

#define CSD_PROTECTION 14
#define PERMANENT 0x20
#define TEMPORARY 0x10

/* A sector to erase has 128 blocks of the length that the CSD tells, a group
 * 32 sectors; above 1 GiB that length is 1024 bytes. */
#define GROUPS_TOLD 32u

#define LOCK_ERASE 0x08
#define LOCK_LOCK 0x04
#define LOCK_CLEAR 0x02
#define LOCK_SET 0x01
#define PASSWORD_MOST 16u

static void respond_done(struct slate_sim *sim, struct slate_exchange *x)
{
    sim_sd_respond(sim, x, sim_sd_is_spi(sim) ? 0 : 0x900);
}

/* Only the last two bytes may change, one-time bits only be set, and the CRC7
 * has to be right (5.3). */
static void program_csd(struct slate_sim *sim, struct slate_exchange *x)
{
    const uint8_t *sent = x->data;
    uint8_t now[16];

    sim_sd_put_csd(sim, now);
    x->transferred = x->data_length;
    if (x->data_length != (sim_sd_is_spi(sim) ? 18 : 16) ||
        memcmp(sent, now, 14) != 0 ||
        sent[15] != (slate_crc7(sent, 15) << 1 | 1) ||
        (now[CSD_PROTECTION] & ~sent[CSD_PROTECTION] & PERMANENT) != 0 ||
        sim->unit->refuses_lifts)
        sim->sd_status |= SIM_SD_CSD_OVERWRITE;
    else if (((now[CSD_PROTECTION] ^ sent[CSD_PROTECTION]) & TEMPORARY) != 0)
        sim_guard_set(sim, SIM_GUARD_TEMPORARY,
                      (sent[CSD_PROTECTION] & TEMPORARY) != 0);
    respond_done(sim, x);
}

/* CMD28 sets, CMD29 clears the group of an address. */
static void change_group(struct slate_sim *sim, struct slate_exchange *x,
                         uint32_t argument)
{
    uint64_t lba = sim_sd_block_of(sim, argument);

    if (lba >= sim->unit->blocks)
        sim->sd_status |= SIM_SD_OUT_OF_RANGE;
    else if (sim->unit->refuses_lifts)
        sim->sd_status |= SIM_SD_WP_VIOLATION;
    else
        sim_sd_set_group(sim, lba / sim_sd_group_blocks(sim),
                         (x->command[0] & 0x3F) == 28);
    respond_done(sim, x);
}

/* CMD30: 32 groups from an address on; the last bit is the first group. */
static void tell_groups(struct slate_sim *sim, struct slate_exchange *x,
                        uint32_t argument)
{
    uint64_t first = sim_sd_block_of(sim, argument) / sim_sd_group_blocks(sim);
    uint32_t told = 0;
    uint8_t data[4];

    for (uint32_t i = 0; i < GROUPS_TOLD; i++)
        told |= sim_sd_is_group_on(sim, first + i) ? 1u << i : 0;
    sim_put_be(data, 4, told);
    sim_sd_respond(sim, x, sim_sd_is_spi(sim) ? 0 : 0x900);
    sim_sd_send_data(sim, x, data, sizeof data);
}

/* Content, password and all protection but the permanent one go (4.3.7). */
static bool erase_by_force(struct slate_sim *sim)
{
    if (!sim_guarded(sim, SIM_GUARD_PASSWORD) ||
        sim_guarded(sim, SIM_GUARD_PERMANENT))
        return false;
    sim_guard_set(sim, SIM_GUARD_PASSWORD, false);
    sim_guard_set(sim, SIM_GUARD_TEMPORARY, false);
    sim_password_set(sim, "", 0);
    for (uint64_t group = 0; sim->unit->groups && group < 64; group++) {
        if (sim_sd_is_group_on(sim, group))
            sim_sd_set_group(sim, group, false);
    }
    (void)sim_clear(sim, 0, sim->unit->blocks);
    return true;
}

/* The old password, and behind it a new one where it is to be replaced. */
static bool set_password(struct slate_sim *sim, const char *sent, size_t length,
                         size_t old_length)
{
    if (length <= old_length || length - old_length > PASSWORD_MOST)
        return false;
    sim_password_set(sim, sent + old_length, length - old_length);
    return true;
}

/* What the first byte of the block asks for; false when it is refused. */
static bool lock_unlock(struct slate_sim *sim, const uint8_t *data, size_t room)
{
    char password[SIM_PASSWORD_ROOM];
    const char *sent = (const char *)data + 2;
    bool locked = sim_guarded(sim, SIM_GUARD_PASSWORD);
    size_t length = room >= 2 ? data[1] : 0, old_length;

    if (room >= 1 && data[0] == LOCK_ERASE)
        return erase_by_force(sim);
    sim_password(sim, password);
    old_length = strlen(password);
    if (room < 2 || length > room - 2 || length < old_length ||
        memcmp(sent, password, old_length) != 0 || sim->unit->refuses_lifts)
        return false;
    if ((data[0] & LOCK_SET) != 0)
        if (!set_password(sim, sent, length, old_length))
            return false;
    if ((data[0] & (LOCK_SET | LOCK_CLEAR | LOCK_LOCK)) == 0 && !locked)
        return false; /* nothing to unlock */
    if ((data[0] & LOCK_SET) == 0 && length != old_length)
        return false;
    if ((data[0] & LOCK_CLEAR) != 0)
        sim_password_set(sim, "", 0);
    sim_guard_set(sim, SIM_GUARD_PASSWORD, (data[0] & LOCK_LOCK) != 0);
    return true;
}

static void lock_command(struct slate_sim *sim, struct slate_exchange *x)
{
    size_t behind = sim_sd_is_spi(sim) ? 2 : 0; /* its CRC16 */
    size_t room = x->data_length < behind ? 0 : x->data_length - behind;

    x->transferred = x->data_length;
    if (x->direction != SLATE_DIRECTION_OUT || !lock_unlock(sim, x->data, room))
        sim->sd_status |= SIM_SD_LOCK_FAILED;
    respond_done(sim, x);
}

bool sim_sd_guard_command(struct slate_sim *sim, struct slate_exchange *x)
{
    uint32_t argument = (uint32_t)sim_be(x->command + 1, 4);
    uint8_t index = x->command[0] & 0x3F;

    if (index >= 28 && index <= 30 && !sim->unit->groups)
        return false; /* an illegal command */
    switch (index) {
    case 27:
        program_csd(sim, x);
        return true;
    case 28:
    case 29:
        change_group(sim, x, argument);
        return true;
    case 30:
        tell_groups(sim, x, argument);
        return true;
    case 42:
        lock_command(sim, x);
        return true;
    default:
        return false;
    }
}

/* Groups of a card's blocks that are write-protected. */

#define GROUP_BLOCKS 4096u
#define SMALL_BLOCKS 2097152u

uint64_t sim_sd_group_blocks(const struct slate_sim *sim)
{
    return sim->unit->blocks > SMALL_BLOCKS ? 2 * GROUP_BLOCKS : GROUP_BLOCKS;
}

static void group_key(const struct slate_sim *sim, uint64_t group, char key[64])
{
    snprintf(key, 64, "unit %u group %llu", sim->unit_number,
             (unsigned long long)group);
}

/* State: 0 as described, 1 off, 2 on. */
bool sim_sd_is_group_on(const struct slate_sim *sim, uint64_t group)
{
    char key[64];
    uint64_t state;

    if (group * sim_sd_group_blocks(sim) >= sim->unit->blocks)
        return false;
    group_key(sim, group, key);
    state = sim_get(sim, key);
    return state == 2 || (state == 0 && group < 64 &&
                          (sim->unit->protected_groups >> group & 1) != 0);
}

void sim_sd_set_group(struct slate_sim *sim, uint64_t group, bool on)
{
    char key[64];

    if (sim->unit->stubborn)
        return;
    group_key(sim, group, key);
    sim_set(sim, key, on ? 2 : 1);
}

bool sim_sd_is_grouped(const struct slate_sim *sim, uint64_t lba,
                       uint64_t count)
{
    if (!sim->unit->groups || count == 0)
        return false;
    for (uint64_t group = lba / sim_sd_group_blocks(sim);
         group <= (lba + count - 1) / sim_sd_group_blocks(sim); group++) {
        if (sim_sd_is_group_on(sim, group))
            return true;
    }
    return false;
}
