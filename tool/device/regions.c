/* SPDX-License-Identifier: MIT */
/* How fast a device was, region by region, while it was worked on. */
#include "device/device.h"

#include "term/term.h"

#define NAMED 6u /* slow regions that are told one by one */

struct slate_surface *regions_begin(struct target *target,
                                    enum target_regions which)
{
    struct slate_surface *surface = &target->regions[which];
    struct slate_cell *cell = surface->cell;

    if (cell == NULL)
        cell = calloc(REGIONS, sizeof *cell);
    if (cell == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    slate_surface_place(surface, &target->media.geometry, cell, REGIONS);
    return surface;
}

void regions_fail(struct slate_surface *surface,
                  const struct slate_ranges *failed)
{
    for (uint32_t i = 0; i < failed->count; i++)
        slate_surface_fail(surface, failed->range[i].first,
                           failed->range[i].count);
}

/* Were regions timed at all? */
static bool is_known(const struct slate_surface *surface)
{
    return surface->cell != NULL && slate_surface_median(surface) > 0;
}

static void tell_slow(const struct slate_surface *surface, const char *doing)
{
    struct slate_slow slow;
    uint32_t at = 0, count = 0;
    char words[200];

    while (slate_surface_next_slow(surface, &at, &slow)) {
        snprintf(words, sizeof words, "blocks %llu to %llu: %s at %s/s",
                 (unsigned long long)slow.range.first,
                 (unsigned long long)(slow.range.first + slow.range.count - 1),
                 doing, in_decimal(slow.bytes_per_second).words);
        if (count++ < NAMED)
            print_line(count == 1 ? "Slow" : "", PAINT_BAD, "%s", words);
    }
    if (count > NAMED)
        print_line("", PAINT_BAD, "and %u more region%s", count - NAMED,
                   count - NAMED == 1 ? "" : "s");
}

void regions_tell(const struct target *target, enum target_regions which)
{
    const struct slate_surface *surface = &target->regions[which];
    const char *doing = which == TARGET_WRITTEN ? "written" : "read";

    if (!is_known(surface))
        return;
    print_line("Pace", PAINT_PLAIN,
               "half of its %u regions were %s at %s/s or more", surface->count,
               doing, in_decimal(slate_surface_median(surface)).words);
    tell_slow(surface, doing);
}

json_t *regions_report(const struct target *target, enum target_regions which)
{
    const struct slate_surface *surface = &target->regions[which];
    json_t *list = report_made(json_array());
    struct slate_slow slow;
    uint32_t at = 0;

    if (!is_known(surface)) {
        json_decref(list);
        return NULL;
    }
    while (slate_surface_next_slow(surface, &at, &slow))
        json_array_append_new(
            list, report_pack("{s:I, s:I, s:I}", "first",
                              (json_int_t)slow.range.first, "blocks",
                              (json_int_t)slow.range.count, "bytes_per_second",
                              (json_int_t)slow.bytes_per_second));
    return report_pack("{s:I, s:I, s:o}", "region_blocks",
                       (json_int_t)surface->cell_blocks,
                       "median_bytes_per_second",
                       (json_int_t)slate_surface_median(surface), "slow", list);
}
