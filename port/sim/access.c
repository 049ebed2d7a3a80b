/* SPDX-License-Identifier: MIT */
/* Blocks as a simulated device gives and takes them: its speed, its bad
 * blocks, and what it pretends. */
#include <time.h>

#include "sim.h"

uint32_t sim_stride(const struct sim_unit *unit)
{
    return unit->stored_bytes == 0 ? unit->block_bytes : unit->stored_bytes;
}

static void pause_for(uint64_t bytes, uint64_t bytes_per_second)
{
    uint64_t ns =
        bytes_per_second == 0 ? 0 : bytes * 1000000000u / bytes_per_second;
    struct timespec pause = {(time_t)(ns / 1000000000u),
                             (long)(ns % 1000000000u)};

    if (ns > 0)
        nanosleep(&pause, NULL);
}

/* The time that a transfer takes, the slow regions' own. */
static void take_time(const struct slate_sim *sim, uint64_t lba, uint64_t count)
{
    const struct sim_unit *unit = sim->unit;
    uint64_t rate = sim->about.bytes_per_second;

    for (uint32_t i = 0; i < unit->fault_count; i++) {
        const struct sim_fault *fault = &unit->fault[i];

        if (fault->kind == SIM_FAULT_SLOW &&
            lba < fault->first + fault->count && fault->first < lba + count)
            rate = fault->bytes_per_second;
    }
    pause_for(count * unit->block_bytes, rate);
}

/* Does a bad block of this kind lie in the range? Those that fail only the
 * first times are counted in the device's state. */
static bool fails(const struct slate_sim *sim, enum sim_fault_kind kind,
                  uint64_t lba, uint64_t count)
{
    const struct sim_unit *unit = sim->unit;

    for (uint32_t i = 0; i < unit->fault_count; i++) {
        const struct sim_fault *fault = &unit->fault[i];
        char key[64];
        uint64_t before;

        if (fault->kind != kind || lba >= fault->first + fault->count ||
            fault->first >= lba + count)
            continue;
        if (fault->times == 0)
            return true;
        snprintf(key, sizeof key, "unit %u fault %u", sim->unit_number, i);
        before = sim_get(sim, key);
        if (before < fault->times) {
            sim_set(sim, key, before + 1);
            return true;
        }
    }
    return false;
}

/* Does the block lie in the range that a power cut tore beyond reading? */
static bool is_torn(const struct slate_sim *sim, uint64_t lba, uint64_t count)
{
    return sim->torn > lba && sim->torn - 1 - lba < count;
}

uint64_t sim_all_blocks(const struct sim_unit *unit)
{
    if (unit->factory_blocks != 0)
        return unit->factory_blocks;
    return unit->native_blocks != 0 ? unit->native_blocks : unit->blocks;
}

static bool in_range(const struct sim_unit *unit, uint64_t lba, uint64_t count)
{
    uint64_t blocks = sim_all_blocks(unit);

    return lba <= blocks && count <= blocks - lba;
}

/* Bytes of a block that have a place to be. */
static uint32_t kept(const struct sim_unit *unit)
{
    return unit->block_bytes < sim_stride(unit) ? unit->block_bytes
                                                : sim_stride(unit);
}

static void fill_beyond(const struct sim_unit *unit, uint64_t lba,
                        uint8_t *data)
{
    uint64_t noise = lba * 6364136223846793005u + 1442695040888963407u;

    if (unit->beyond == SIM_BEYOND_DROP) {
        memset(data, 0xFF, unit->block_bytes);
        return;
    }
    memset(data, 0, unit->block_bytes);
    for (uint32_t i = 0;
         unit->beyond == SIM_BEYOND_NOISE && i < unit->block_bytes; i++) {
        noise ^= noise << 13;
        noise ^= noise >> 7;
        noise ^= noise << 17;
        data[i] = (uint8_t)noise;
    }
}

static bool is_beyond(const struct sim_unit *unit, uint64_t lba)
{
    return unit->true_blocks != 0 && lba >= unit->true_blocks;
}

/* The block of the controller's memory that holds this one; NULL: none does. */
static struct sim_recent *recent_of(const struct slate_sim *sim, uint64_t lba)
{
    for (uint32_t i = 0; sim->recent != NULL && i < sim->unit->beyond_cache;
         i++) {
        if (sim->recent[i].used && sim->recent[i].lba == lba)
            return &sim->recent[i];
    }
    return NULL;
}

/* Every block that is written takes a place in it, the oldest one's. */
static void remember(struct slate_sim *sim, uint64_t lba, const uint8_t *data)
{
    struct sim_recent *recent = recent_of(sim, lba);
    uint32_t most = sim->unit->beyond_cache;

    if (most == 0)
        return;
    if (sim->recent == NULL)
        sim->recent = calloc(most, sizeof *sim->recent);
    if (sim->recent == NULL)
        return;
    if (recent == NULL)
        recent = &sim->recent[sim->recent_next++ % most];
    recent->used = true;
    recent->lba = lba;
    memcpy(recent->data, data, sim->unit->block_bytes);
}

/* One block at a time for devices that pretend. */
static bool read_strange(struct slate_sim *sim, uint64_t lba, uint8_t *data)
{
    const struct sim_unit *unit = sim->unit;
    const struct sim_recent *recent = recent_of(sim, lba);

    if (recent != NULL) {
        memcpy(data, recent->data, unit->block_bytes);
        return true;
    }
    if (is_beyond(unit, lba) && unit->beyond != SIM_BEYOND_WRAP) {
        fill_beyond(unit, lba, data);
        return true;
    }
    if (is_beyond(unit, lba))
        lba %= unit->true_blocks;
    memset(data, 0, unit->block_bytes);
    return sim_store_read(sim->store, lba * sim_stride(unit), data, kept(unit));
}

static bool write_strange(struct slate_sim *sim, uint64_t lba,
                          const uint8_t *data)
{
    const struct sim_unit *unit = sim->unit;

    remember(sim, lba, data);
    if (unit->ignore_writes ||
        (is_beyond(unit, lba) && unit->beyond != SIM_BEYOND_WRAP))
        return true;
    if (is_beyond(unit, lba))
        lba %= unit->true_blocks;
    return sim_store_write(sim->store, lba * sim_stride(unit), data,
                           kept(unit));
}

static bool is_strange(const struct sim_unit *unit)
{
    return unit->true_blocks != 0 || unit->stored_bytes != 0 ||
           unit->ignore_writes;
}

enum sim_outcome sim_read(struct slate_sim *sim, uint64_t lba, uint64_t count,
                          uint8_t *data)
{
    const struct sim_unit *unit = sim->unit;
    enum sim_outcome outcome;
    bool ok = true;

    if (!in_range(unit, lba, count))
        return SIM_OUT_OF_RANGE;
    sim_tracks_pass(sim, lba, count);
    outcome = sim_tracks_try(sim, false, lba, count);
    if (outcome != SIM_DONE)
        return outcome;
    if (fails(sim, SIM_FAULT_READ, lba, count) || is_torn(sim, lba, count))
        return SIM_READ_ERROR;
    take_time(sim, lba, count);
    lba += sim_tracks_ahead(sim);
    if (!is_strange(unit))
        ok = sim_store_read(sim->store, lba * unit->block_bytes, data,
                            (size_t)count * unit->block_bytes);
    for (uint64_t i = 0; is_strange(unit) && i < count && ok; i++)
        ok = read_strange(sim, lba + i, data + i * unit->block_bytes);
    return ok ? SIM_DONE : SIM_READ_ERROR;
}

static bool store(struct slate_sim *sim, uint64_t lba, uint64_t count,
                  const uint8_t *data)
{
    const struct sim_unit *unit = sim->unit;
    bool ok = true;

    if (is_torn(sim, lba, count)) { /* written anew, it can be read */
        sim->torn = 0;
        sim_set(sim, "torn block", 0);
    }
    if (!is_strange(unit))
        return sim_store_write(sim->store, lba * unit->block_bytes, data,
                               (size_t)count * unit->block_bytes);
    for (uint64_t i = 0; i < count && ok; i++)
        ok = write_strange(sim, lba + i, data + i * unit->block_bytes);
    return ok;
}

/* May these blocks be written, and do they take it? */
static enum sim_outcome admit(const struct slate_sim *sim, uint64_t lba,
                              uint64_t count)
{
    if (!in_range(sim->unit, lba, count))
        return SIM_OUT_OF_RANGE;
    if (sim_is_protected(sim, lba, count))
        return SIM_PROTECTED;
    if (sim->unit->refuses_writes || fails(sim, SIM_FAULT_WRITE, lba, count))
        return SIM_WRITE_ERROR;
    return SIM_DONE;
}

static bool is_over(uint64_t limit, uint64_t writes)
{
    return limit != 0 && writes > limit;
}

enum sim_outcome sim_write(struct slate_sim *sim, uint64_t lba, uint64_t count,
                           const uint8_t *data)
{
    enum sim_outcome outcome = admit(sim, lba, count);

    if (outcome != SIM_DONE)
        return outcome;
    sim->writes++;
    if (is_over(sim->about.refuse_after, sim->writes))
        return SIM_WRITE_ERROR;
    sim_tracks_pass(sim, lba, count);
    outcome = sim_tracks_try(sim, true, lba, count);
    if (outcome != SIM_DONE)
        return outcome;
    take_time(sim, lba, count);
    if (is_over(sim->about.forget_after, sim->writes))
        return SIM_DONE;
    return store(sim, lba + sim_tracks_ahead(sim), count, data)
               ? SIM_DONE
               : SIM_WRITE_ERROR;
}

/* All or nothing; no data goes over, so it takes no time. */
enum sim_outcome sim_clear(struct slate_sim *sim, uint64_t lba, uint64_t count)
{
    static const uint8_t zeros[65536];
    uint32_t run = (uint32_t)sizeof zeros / sim->unit->block_bytes;
    enum sim_outcome outcome = admit(sim, lba, count);

    while (count > 0 && outcome == SIM_DONE) {
        uint64_t n = count < run ? count : run;

        if (!store(sim, lba, n, zeros))
            outcome = SIM_WRITE_ERROR;
        lba += n;
        count -= n;
    }
    return outcome;
}

uint32_t sim_moved(struct slate_sim *sim, uint64_t bytes)
{
    uint64_t every = sim->about.short_transfer_every;

    return (uint32_t)(every != 0 && sim->commands % every == 0 ? bytes / 2
                                                               : bytes);
}

/* Once in the life of a device. */
bool sim_lose_power(struct slate_sim *sim)
{
    uint64_t byte;

    if (sim_get(sim, "power cuts") > 0)
        return false;
    sim_set(sim, "power cuts", 1);
    byte = sim_store_lose(sim->store, sim->about.torn);
    if (sim->about.torn_unreadable && byte != UINT64_MAX)
        sim_set(sim, "torn block", 1 + byte / sim_stride(sim->unit));
    return true;
}
