/* SPDX-License-Identifier: MIT */
/* Groups of a card's blocks that are write-protected. */

#include "sim.h"

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
    state = sim_state_get(&sim->state, key);
    return state == 2 || (state == 0 && group < 64 &&
                          (sim->unit->protected_groups >> group & 1) != 0);
}

void sim_sd_set_group(struct slate_sim *sim, uint64_t group, bool on)
{
    char key[64];

    if (sim->unit->stubborn)
        return;
    group_key(sim, group, key);
    sim_state_set(&sim->state, key, on ? 2 : 1);
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
