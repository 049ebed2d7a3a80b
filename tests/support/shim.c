/* SPDX-License-Identifier: MIT */
/* A port over another one that goes wrong at the moment which a test sets. */
#include <stdlib.h>
#include <string.h>

#include "shim.h"

/* A write that was not flushed: what was there, and what came. */
struct shim_write {
    struct shim_write *before;
    uint64_t lba;
    uint32_t count;
    uint8_t *old, *new;
};

/* Counts a call; SLATE_ERR_TAKEN_OUT when it tells of another medium. */
static enum slate_status count_call(struct shim *shim, bool reads)
{
    bool due = shim->swap_at != 0 && ++shim->calls >= shim->swap_at;

    if (shim->gone)
        return SLATE_ERR_NO_DEVICE;
    if (!due || shim->swapped || (!reads && !shim->swap_told))
        return SLATE_OK;
    shim->swapped = true;
    return shim->swap_told ? SLATE_ERR_TAKEN_OUT : SLATE_OK;
}

static const struct slate_port *medium(const struct shim *shim)
{
    return shim->swapped ? shim->other : shim->under;
}

static enum slate_status facts(void *context, struct slate_port_facts *out)
{
    const struct shim *shim = context;

    return shim->under->ops->facts(shim->under->context, out);
}

static enum slate_status read_blocks(void *context, uint64_t lba,
                                     uint32_t count, void *data)
{
    struct shim *shim = context;
    enum slate_status status = count_call(shim, true);
    const struct slate_port *port = medium(shim);

    if (status != SLATE_OK)
        return status;
    if (shim->unreadable >= lba && shim->unreadable - lba < count)
        return SLATE_ERR_READ;
    return port->ops->read(port->context, lba, count, data);
}

static void put(const struct shim *shim, uint64_t lba, uint32_t count,
                const uint8_t *data)
{
    if (shim->under->ops->write(shim->under->context, lba, count, data) !=
        SLATE_OK)
        abort();
}

static uint8_t *get(const struct shim *shim, uint64_t lba, uint32_t count)
{
    uint8_t *data = malloc((size_t)count * shim->block_bytes);

    if (shim->under->ops->read(shim->under->context, lba, count, data) !=
        SLATE_OK)
        abort();
    return data;
}

static void forget(struct shim *shim)
{
    while (shim->log != NULL) {
        struct shim_write *write = shim->log;

        shim->log = write->before;
        free(write->old);
        free(write->new);
        free(write);
    }
}

static void remember(struct shim *shim, uint64_t lba, uint32_t count,
                     const void *data)
{
    struct shim_write *write = malloc(sizeof *write);

    write->before = shim->log;
    write->lba = lba;
    write->count = count;
    write->old = get(shim, lba, count);
    write->new = malloc((size_t)count * shim->block_bytes);
    memcpy(write->new, data, (size_t)count * shim->block_bytes);
    shim->log = write;
}

/* Takes everything back that was not flushed, then lets some of it through:
 * so that later writes may be there, and earlier ones not. */
static void lose_cache(struct shim *shim)
{
    struct shim_write *write;
    uint32_t chance = shim->seed;

    if (shim->way.cache == SHIM_KEPT)
        return;
    for (write = shim->log; write != NULL; write = write->before)
        put(shim, write->lba, write->count, write->old);
    for (write = shim->log; write != NULL && shim->way.cache >= SHIM_SOME;
         write = write->before) {
        bool by_mask = shim->way.cache == SHIM_MASK;

        chance = by_mask ? chance : chance * 1664525u + 1013904223u;
        if ((chance & (by_mask ? 1u : 0x10000u)) != 0)
            put(shim, write->lba, write->count, write->new);
        chance = by_mask ? chance >> 1 : chance;
    }
}

/* Stores a part of the write in which the power goes. */
static void tear(struct shim *shim, uint64_t lba, uint32_t count,
                 const uint8_t *data)
{
    size_t all = (size_t)count * shim->block_bytes, from = 0;
    size_t bytes = shim->way.torn_bytes < all ? shim->way.torn_bytes : all;
    uint8_t *mixed = get(shim, lba, count);

    if (shim->way.torn_end)
        from = all - bytes;
    memcpy(mixed + from, data + from, bytes);
    put(shim, lba, count, mixed);
    free(mixed);
    if (shim->way.unreadable && bytes < all)
        shim->unreadable =
            lba + (shim->way.torn_end && from > 0 ? from - 1 : bytes) /
                      shim->block_bytes;
}

static enum slate_status write_blocks(void *context, uint64_t lba,
                                      uint32_t count, const void *data)
{
    struct shim *shim = context;
    enum slate_status status = count_call(shim, false);
    const struct slate_port *port = medium(shim);

    if (status != SLATE_OK)
        return status;
    shim->writes++;
    if (shim->cut_at != 0 && shim->writes == shim->cut_at) {
        lose_cache(shim);
        tear(shim, lba, count, data);
        forget(shim);
        shim->gone = true;
        return SLATE_ERR_NO_DEVICE;
    }
    if (shim->refuse_after != 0 && shim->writes > shim->refuse_after)
        return SLATE_ERR_WRITE;
    for (uint32_t i = 0; shim->counted != NULL && i < count; i++)
        shim->counted[lba + i]++;
    if (shim->deaf_after != 0 && shim->writes > shim->deaf_after)
        return SLATE_OK;
    if (shim->unreadable >= lba && shim->unreadable - lba < count)
        shim->unreadable = UINT64_MAX; /* written anew, it is sound again */
    if (shim->cut_at != 0)
        remember(shim, lba, count, data);
    return port->ops->write(port->context, lba, count, data);
}

/* A write of zeros, which may be torn and lost as any other. */
static enum slate_status clear(void *context, uint64_t lba, uint64_t count,
                               enum slate_clear how)
{
    const struct shim *shim = context;
    uint8_t *zeros = calloc((size_t)count, shim->block_bytes);
    enum slate_status status =
        write_blocks(context, lba, (uint32_t)count, zeros);

    (void)how;
    free(zeros);
    return status;
}

static enum slate_status flush(void *context)
{
    struct shim *shim = context;

    if (shim->gone)
        return SLATE_ERR_NO_DEVICE;
    forget(shim);
    return SLATE_OK;
}

static enum slate_status claim(void *context)
{
    const struct shim *shim = context;

    return shim->gone ? SLATE_ERR_NO_DEVICE : SLATE_OK;
}

static enum slate_status release(void *context)
{
    const struct shim *shim = context;

    return shim->gone ? SLATE_ERR_NO_DEVICE : SLATE_OK;
}

static enum slate_status random_bytes(void *context, void *bytes, size_t length)
{
    const struct shim *shim = context;

    for (size_t i = 0; i < length; i++)
        ((uint8_t *)bytes)[i] = (uint8_t)(shim->seed * 31u + i * 7u + 1u);
    return SLATE_OK;
}

static const struct slate_port_ops ops = {.size = sizeof ops,
                                          .facts = facts,
                                          .read = read_blocks,
                                          .write = write_blocks,
                                          .flush = flush,
                                          .claim = claim,
                                          .release = release,
                                          .random = random_bytes};

static const struct slate_port_ops clearing_ops = {.size = sizeof clearing_ops,
                                                   .facts = facts,
                                                   .read = read_blocks,
                                                   .write = write_blocks,
                                                   .flush = flush,
                                                   .clear = clear,
                                                   .claim = claim,
                                                   .release = release,
                                                   .random = random_bytes};

void shim_open(struct shim *shim, const struct slate_port *under)
{
    struct slate_port_facts about;

    memset(shim, 0, sizeof *shim);
    memset(&about, 0, sizeof about);
    if (under->ops->facts(under->context, &about) != SLATE_OK)
        abort();
    shim->under = under;
    shim->block_bytes = about.block_bytes;
    shim->unreadable = UINT64_MAX;
    shim->port.ops = under->ops->clear == NULL ? &ops : &clearing_ops;
    shim->port.context = shim;
}

void shim_power(struct shim *shim)
{
    forget(shim);
    shim->gone = shim->swapped = false;
    shim->cut_at = shim->refuse_after = shim->deaf_after = shim->swap_at = 0;
}

void shim_close(struct shim *shim)
{
    forget(shim);
}
