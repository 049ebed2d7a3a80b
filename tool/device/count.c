/* SPDX-License-Identifier: MIT */
/* What is free on large volumes: a look leaves it open. */
#include "device/device.h"

#include "term/term.h"

static void count_volume(struct target *target, struct slate_range range,
                         struct slate_volume *volume)
{
    struct slate_volume_count count;
    struct progress progress;
    const struct slate_fault before = target->media.fault;
    enum slate_status status;

    status = slate_volume_count_start(&count, &target->media, &range, volume,
                                      target->work, WORK_BYTES);
    if (status == SLATE_ERR_ARGUMENT)
        return; /* it was told, or cannot be */
    progress_begin(&progress, "Counting what is free");
    while (status == SLATE_OK && count.done < count.total) {
        status = slate_volume_count_step(&count);
        (void)progress_bytes(&progress, count.done, count.total);
    }
    progress_end(&progress);
    if (status != SLATE_OK)
        target->media.fault = before; /* it fails nothing */
}

void count_free(struct target *target)
{
    struct slate_facts *facts = &target->facts;

    if (facts->opened != SLATE_OK)
        return;
    for (uint32_t i = 0; i < facts->layout.count; i++)
        count_volume(target,
                     (struct slate_range){facts->partition[i].first,
                                          facts->partition[i].count},
                     &facts->volume[i]);
    if (facts->layout.kind == SLATE_TABLE_NONE)
        count_volume(target,
                     (struct slate_range){0, facts->geometry.block_count},
                     &facts->whole);
}
