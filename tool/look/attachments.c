/* SPDX-License-Identifier: MIT */
/* Devices that are attached, or named: looked at, and let go of. */

#include "device/device.h"
#include "look/look.h"

struct filling {
    struct attached *attached;
    const char *bench;
    enum slate_depth depth;
    attached_look also;
};

/* Takes a device that was tried, and lets go of it. */
static void keep(const struct filling *filling, struct target *target)
{
    struct attached *attached = filling->attached;

    target->known = target_take(target, filling->depth);
    if (target->known && filling->also != NULL)
        filling->also(target);
    if (target->status != SLATE_OK && target->why[0] == '\0') {
        struct slate_text text;

        slate_text_start(&text, target->why, sizeof target->why);
        slate_fault_words(&target->media.fault, &text);
    }
    target_release(target);
    attached->target[attached->count++] = target;
}

static void fill(void *context, const char *address)
{
    struct filling *filling = context;
    struct target *target;

    if (filling->attached->count == ATTACHED_MOST)
        return;
    target = malloc(sizeof *target);
    if (target == NULL)
        return;
    (void)target_at(target, address, filling->bench, 0);
    keep(filling, target);
}

void attached_named(struct attached *attached, const struct options *options,
                    attached_look also)
{
    const struct filling filling = {attached, NULL, SLATE_DEPTH_FULL, also};

    attached->count = 0;
    for (uint32_t i = 0; i < options->count; i++) {
        struct target *target = malloc(sizeof *target);

        if (target == NULL)
            return;
        (void)target_try(target, options->more[i], options->bench,
                         options->block_bytes);
        keep(&filling, target);
    }
}

/* Not every unit of a body knows of the others; the list does. */
static void count_units(struct attached *attached)
{
    for (uint32_t i = 0; i < attached->count; i++) {
        struct target *one = attached->target[i];
        uint32_t units = 0;

        for (uint32_t j = 0; j < attached->count; j++) {
            if (strcmp(one->body, attached->target[j]->body) == 0)
                units++;
        }
        if (one->media.units < units)
            one->media.units = units;
    }
}

bool attached_open(struct attached *attached, const char *bench,
                   enum slate_depth depth, attached_look also)
{
    struct filling filling = {attached, bench, depth, also};
    bool ok;

    attached->count = 0;
    ok = attached_each(bench, fill, &filling);
    count_units(attached);
    return ok;
}

void attached_close(struct attached *attached)
{
    for (uint32_t i = 0; i < attached->count; i++) {
        free(attached->target[i]->room);
        free(attached->target[i]);
    }
    attached->count = 0;
}

uint32_t attached_twins(const struct attached *attached, uint32_t index)
{
    const struct target *one = attached->target[index];
    uint32_t twins = 0;

    for (uint32_t i = 0; i < attached->count; i++) {
        if (i != index && one->media.tag[0] != '\0' &&
            memcmp(attached->target[i]->media.digest, one->media.digest,
                   SLATE_DIGEST_BYTES) == 0)
            twins++;
    }
    return twins;
}
