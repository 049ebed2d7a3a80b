/* SPDX-License-Identifier: MIT */
/* Raw commands that are carried while the next one is composed. The host's call
 * for them waits for the device, so a thread makes it, one at a time; it begins
 * with the first transfer. */
#include "aside.h"

#include <pthread.h>
#include <stdlib.h>

#include "linux.h"

enum stage {
    STAGE_IDLE,
    STAGE_ASKED,
    STAGE_DONE,
    STAGE_END
};

struct aside {
    pthread_mutex_t lock;
    pthread_cond_t turn;
    pthread_t thread;
    bool started;
    enum stage stage;
    /* As it is when a command is given, with a buffer of its own: the device is
     * asked for other things meanwhile. */
    struct slate_linux device;
    void *bounce;
    struct slate_exchange *exchange;
    enum slate_status status;
};

static void *work(void *context)
{
    struct aside *aside = context;

    pthread_mutex_lock(&aside->lock);
    while (aside->stage != STAGE_END) {
        if (aside->stage != STAGE_ASKED) {
            pthread_cond_wait(&aside->turn, &aside->lock);
            continue;
        }
        pthread_mutex_unlock(&aside->lock);
        aside->status = linux_exchange(&aside->device, aside->exchange);
        pthread_mutex_lock(&aside->lock);
        if (aside->stage == STAGE_ASKED) /* it may have been closed since */
            aside->stage = STAGE_DONE;
        pthread_cond_broadcast(&aside->turn);
    }
    pthread_mutex_unlock(&aside->lock);
    return NULL;
}

static void go_on_to(struct aside *aside, enum stage stage)
{
    pthread_mutex_lock(&aside->lock);
    aside->stage = stage;
    pthread_cond_broadcast(&aside->turn);
    pthread_mutex_unlock(&aside->lock);
}

static enum slate_status aside_submit(void *context,
                                      struct slate_request *request)
{
    struct slate_linux *device = context;
    struct aside *aside = device->aside;

    if (request->exchange == NULL)
        return SLATE_ERR_COMMAND;
    if (!aside->started)
        aside->started = pthread_create(&aside->thread, NULL, work, aside) == 0;
    if (!aside->started)
        return SLATE_ERR_COMMAND;
    aside->device = *device;
    aside->device.bounce = aside->bounce;
    aside->exchange = request->exchange;
    go_on_to(aside, STAGE_ASKED);
    return SLATE_OK;
}

static enum slate_status aside_wait(void *context,
                                    struct slate_request *request)
{
    const struct slate_linux *device = context;
    struct aside *aside = device->aside;

    (void)request;
    pthread_mutex_lock(&aside->lock);
    while (aside->stage != STAGE_DONE)
        pthread_cond_wait(&aside->turn, &aside->lock);
    aside->stage = STAGE_IDLE;
    pthread_mutex_unlock(&aside->lock);
    return aside->status;
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
        go_on_to(aside, STAGE_END);
        pthread_join(aside->thread, NULL);
    }
    pthread_cond_destroy(&aside->turn);
    pthread_mutex_destroy(&aside->lock);
    forget(aside);
    device->aside = NULL;
}
