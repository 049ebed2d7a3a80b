/* SPDX-License-Identifier: MIT */
/* Raw commands that are carried while the next one is composed. The host's call
 * for them waits for the device, so a thread makes it, one after the other; it
 * begins with the first transfer. */

#include <pthread.h>

#include "linux.h"

#define SLOTS 2u

enum stage {
    STAGE_IDLE,
    STAGE_ASKED,
    STAGE_DONE
};

/* A command that is under way. */
struct slot {
    enum stage stage;
    /* As it is when the command is given, with the thread's own buffer: the
     * device is asked for other things meanwhile. */
    struct slate_linux device;
    struct slate_exchange *exchange;
    enum slate_status status;
};

struct aside {
    pthread_mutex_t lock;
    pthread_cond_t turn;
    pthread_t thread;
    bool started, ends;
    struct slot slot[SLOTS];
    uint32_t given, carried; /* commands; their slots come in turns */
    void *bounce;
};

static void *work(void *context)
{
    struct aside *aside = context;

    pthread_mutex_lock(&aside->lock);
    while (!aside->ends) {
        struct slot *slot = &aside->slot[aside->carried % SLOTS];

        if (slot->stage != STAGE_ASKED) {
            pthread_cond_wait(&aside->turn, &aside->lock);
            continue;
        }
        pthread_mutex_unlock(&aside->lock);
        slot->status = linux_exchange(&slot->device, slot->exchange);
        pthread_mutex_lock(&aside->lock);
        slot->stage = STAGE_DONE;
        aside->carried++;
        pthread_cond_broadcast(&aside->turn);
    }
    pthread_mutex_unlock(&aside->lock);
    return NULL;
}

static enum slate_status aside_submit(void *context,
                                      struct slate_request *request)
{
    struct slate_linux *device = context;
    struct aside *aside = device->aside;
    struct slot *slot = &aside->slot[aside->given % SLOTS];
    enum slate_status status = SLATE_ERR_COMMAND;

    if (request->exchange == NULL)
        return SLATE_ERR_COMMAND;
    if (!aside->started)
        aside->started = pthread_create(&aside->thread, NULL, work, aside) == 0;
    if (!aside->started)
        return SLATE_ERR_COMMAND;
    pthread_mutex_lock(&aside->lock);
    if (slot->stage == STAGE_IDLE) {
        slot->device = *device;
        slot->device.bounce = aside->bounce;
        slot->exchange = request->exchange;
        slot->stage = STAGE_ASKED;
        request->mark = slot;
        aside->given++;
        status = SLATE_OK;
        pthread_cond_broadcast(&aside->turn);
    }
    pthread_mutex_unlock(&aside->lock);
    return status;
}

static enum slate_status aside_wait(void *context,
                                    struct slate_request *request)
{
    const struct slate_linux *device = context;
    struct aside *aside = device->aside;
    struct slot *slot = request->mark;

    pthread_mutex_lock(&aside->lock);
    while (slot->stage != STAGE_DONE)
        pthread_cond_wait(&aside->turn, &aside->lock);
    slot->stage = STAGE_IDLE;
    pthread_mutex_unlock(&aside->lock);
    return slot->status;
}

static void forget(struct aside *aside)
{
    free(aside->bounce);
    free(aside);
}

void linux_aside_open(struct slate_linux *device)
{
    struct aside *aside = calloc(1, sizeof *aside);

    if (aside == NULL)
        return;
    if (posix_memalign(&aside->bounce, BOUNCE_ALIGNMENT, BOUNCE_BYTES) != 0) {
        free(aside);
        return;
    }
    if (pthread_mutex_init(&aside->lock, NULL) != 0) {
        forget(aside);
        return;
    }
    if (pthread_cond_init(&aside->turn, NULL) != 0) {
        pthread_mutex_destroy(&aside->lock);
        forget(aside);
        return;
    }
    device->aside = aside;
    device->ops.submit = aside_submit;
    device->ops.wait = aside_wait;
}

void linux_aside_close(struct slate_linux *device)
{
    struct aside *aside = device->aside;

    if (aside == NULL)
        return;
    if (aside->started) {
        pthread_mutex_lock(&aside->lock);
        aside->ends = true;
        pthread_cond_broadcast(&aside->turn);
        pthread_mutex_unlock(&aside->lock);
        pthread_join(aside->thread, NULL);
    }
    pthread_cond_destroy(&aside->turn);
    pthread_mutex_destroy(&aside->lock);
    forget(aside);
    device->aside = NULL;
}
