/* SPDX-License-Identifier: MIT */
/* Where things stand on an ext4 volume: by arithmetic over groups, and a few
 * runs at the start of each flexible group. */
#include "volume/ext/ext.h"

uint32_t slate_ext_group_units(const struct slate_ext *ext)
{
    return 8 * ext->unit_bytes;
}

uint32_t slate_ext_first_unit(const struct slate_ext *ext)
{
    return ext->unit_bytes == 1024 ? 1 : 0;
}

uint64_t slate_ext_group_first(const struct slate_ext *ext, uint32_t group)
{
    return slate_ext_first_unit(ext) +
           (uint64_t)group * slate_ext_group_units(ext);
}

uint64_t slate_ext_group_end(const struct slate_ext *ext, uint32_t group)
{
    return group + 1 < ext->groups ? slate_ext_group_first(ext, group + 1)
                                   : ext->units;
}

static bool is_power(uint32_t number, uint32_t of)
{
    while (number % of == 0)
        number /= of;
    return number == 1;
}

bool slate_ext_has_copy(uint32_t group)
{
    return group <= 1 || is_power(group, 3) || is_power(group, 5) ||
           is_power(group, 7);
}

uint32_t slate_ext_head_units(const struct slate_ext *ext, uint32_t group)
{
    return slate_ext_has_copy(group) ? 1 + ext->descriptor_units : 0;
}

static uint64_t next_power(uint64_t behind, uint64_t of)
{
    uint64_t power = 1;

    while (power <= behind)
        power *= of;
    return power;
}

uint32_t slate_ext_next_copy(const struct slate_ext *ext, uint32_t group)
{
    uint64_t next = next_power(group, 3), five = next_power(group, 5);
    uint64_t seven = next_power(group, 7);

    next = five < next ? five : next;
    next = seven < next ? seven : next;
    return next < ext->groups ? (uint32_t)next : UINT32_MAX;
}

static uint32_t count_copies(const struct slate_ext *ext)
{
    uint32_t count = 0;

    for (uint32_t group = 0; group != UINT32_MAX;
         group = slate_ext_next_copy(ext, group))
        count++;
    return count;
}

/* Groups of a flexible group: fewer in the last one. */
static uint32_t groups_in(const struct slate_ext *ext, uint32_t flex)
{
    uint32_t first = flex << ext->flex_bits;
    uint32_t all = (uint32_t)1 << ext->flex_bits;

    return ext->groups - first < all ? ext->groups - first : all;
}

/* A run begins behind the copy of a group, and goes on up to the next copy, or
 * as far as is needed. */
static bool begin_run(const struct slate_ext *ext, uint32_t group,
                      uint64_t needed, struct slate_ext_tour *tour)
{
    uint32_t last = (tour->flex << ext->flex_bits) + groups_in(ext, tour->flex);

    if (group >= last)
        return false; /* there is no room; planning sees to that */
    tour->at =
        slate_ext_group_first(ext, group) + slate_ext_head_units(ext, group);
    do
        tour->end = slate_ext_group_end(ext, group++);
    while (group < last && !slate_ext_has_copy(group) &&
           tour->end - tour->at < needed);
    return true;
}

/* Units of one item of a stage. */
static uint32_t item_units(const struct slate_ext *ext, uint32_t stage)
{
    return stage == 2 ? ext->table_units : 1;
}

static uint64_t needed(const struct slate_ext *ext,
                       const struct slate_ext_tour *tour)
{
    return (uint64_t)groups_in(ext, tour->flex) * (2 + ext->table_units);
}

void slate_ext_begin(const struct slate_ext *ext, uint32_t flex,
                     struct slate_ext_tour *tour)
{
    tour->flex = flex;
    tour->stage = tour->done = 0;
    tour->at = tour->end = slate_ext_group_first(ext, flex << ext->flex_bits);
    (void)begin_run(ext, flex << ext->flex_bits, needed(ext, tour), tour);
}

/* Goes to where the next item has room; how many in a row have it there, 0
 * where none has. */
static uint64_t find_room(const struct slate_ext *ext, uint32_t units,
                          struct slate_ext_tour *tour)
{
    for (;;) {
        uint64_t stop;

        tour->at = slate_ext_good_from(ext, tour->at, tour->end);
        stop = slate_ext_bad_from(ext, tour->at, tour->end);
        if (stop - tour->at >= units)
            return (stop - tour->at) / units;
        if (stop < tour->end)
            tour->at = stop;
        else if (!begin_run(ext, slate_ext_group_of(ext, tour->end - 1) + 1,
                            needed(ext, tour), tour))
            return 0;
    }
}

bool slate_ext_next_area(const struct slate_ext *ext,
                         struct slate_ext_tour *tour,
                         struct slate_ext_area *area)
{
    static const enum slate_ext_kind kinds[] = {
        SLATE_EXT_BITMAP, SLATE_EXT_INODE_BITMAP, SLATE_EXT_TABLE};
    uint32_t groups = groups_in(ext, tour->flex), units;
    uint64_t fit;

    if (tour->done == groups) {
        tour->stage++;
        tour->done = 0;
    }
    if (tour->stage == 3)
        return false;
    units = item_units(ext, tour->stage);
    fit = find_room(ext, units, tour);
    if (fit > groups - tour->done)
        fit = groups - tour->done;
    area->kind = kinds[tour->stage];
    area->index = (tour->flex << ext->flex_bits) + tour->done;
    area->first = tour->at;
    area->count = fit * units;
    tour->at += area->count;
    tour->done += (uint32_t)fit;
    return fit > 0;
}

/* Of a group, in an area that has its kind's of several. */
static void take_place(const struct slate_ext *ext,
                       const struct slate_ext_area *area, uint32_t group,
                       struct slate_ext_places *places)
{
    uint32_t units = area->kind == SLATE_EXT_TABLE ? ext->table_units : 1;
    uint64_t offset = (uint64_t)(group - area->index) * units;
    uint64_t *place = area->kind == SLATE_EXT_BITMAP ? &places->bitmap
                      : area->kind == SLATE_EXT_INODE_BITMAP
                          ? &places->inode_bitmap
                          : &places->table;

    if (group >= area->index && offset < area->count)
        *place = area->first + offset;
}

void slate_ext_find(const struct slate_ext *ext, uint32_t group,
                    struct slate_ext_places *places)
{
    struct slate_ext_tour tour;
    struct slate_ext_area area;

    slate_ext_begin(ext, group >> ext->flex_bits, &tour);
    while (slate_ext_next_area(ext, &tour, &area))
        take_place(ext, &area, group, places);
    places->end = tour.at;
}

static uint64_t areas_end(const struct slate_ext *ext, uint32_t flex)
{
    struct slate_ext_places places;

    slate_ext_find(ext, flex << ext->flex_bits, &places);
    return places.end;
}

uint32_t slate_ext_group_of(const struct slate_ext *ext, uint64_t unit)
{
    return (uint32_t)((unit - slate_ext_first_unit(ext)) /
                      slate_ext_group_units(ext));
}

/* Does a run of units reach into a group? */
static bool reaches(const struct slate_ext *ext, uint32_t group, uint64_t first,
                    uint64_t count)
{
    return count > 0 && first < slate_ext_group_end(ext, group) &&
           first + count > slate_ext_group_first(ext, group);
}

bool slate_ext_is_written(const struct slate_ext *ext, uint32_t group,
                          uint64_t end)
{
    uint64_t first = slate_ext_group_first(ext, group);
    uint64_t last = slate_ext_group_end(ext, group);

    return first < end || slate_ext_bad_from(ext, first, last) < last ||
           reaches(ext, group, ext->root_at, 1) ||
           reaches(ext, group, ext->lost_at, ext->lost_units) ||
           reaches(ext, group, ext->map_at, ext->map_units) ||
           reaches(ext, group, ext->journal_at, ext->journal_units);
}

/* The part of an area that is in a group. */
static void take_part(
    const struct slate_ext *ext, uint32_t group, uint64_t first, uint64_t count,
    void (*take)(void *context, uint64_t first, uint64_t count), void *context)
{
    uint64_t begin = slate_ext_group_first(ext, group);
    uint64_t end = slate_ext_group_end(ext, group);
    uint64_t last = first + count;

    if (first < begin)
        first = begin;
    if (last > end)
        last = end;
    if (first < last)
        take(context, first - begin, last - first);
}

void slate_ext_used(const struct slate_ext *ext, uint32_t group,
                    void (*take)(void *context, uint64_t first, uint64_t count),
                    void *context)
{
    uint32_t flex = group >> ext->flex_bits;
    uint32_t head = slate_ext_head_units(ext, group);
    struct slate_ext_tour tour;
    struct slate_ext_area area;
    struct slate_ext_run run;

    if (head > 0)
        take(context, 0, head);
    if (!slate_ext_is_written(ext, group, areas_end(ext, flex)))
        return;
    slate_ext_begin(ext, flex, &tour);
    while (slate_ext_next_area(ext, &tour, &area))
        take_part(ext, group, area.first, area.count, take, context);
    for (uint64_t at = slate_ext_group_first(ext, group);
         slate_ext_next_bad(ext, at, &run) &&
         run.first < slate_ext_group_end(ext, group);
         at = run.first + run.count)
        take_part(ext, group, run.first, run.count, take, context);
    if (flex != 0)
        return;
    take_part(ext, group, ext->root_at, 1, take, context);
    take_part(ext, group, ext->lost_at, ext->lost_units, take, context);
    take_part(ext, group, ext->map_at, ext->map_units, take, context);
    take_part(ext, group, ext->journal_at, ext->journal_units, take, context);
}

static void add_up(void *context, uint64_t first, uint64_t count)
{
    uint64_t *sum = context;

    (void)first;
    *sum += count;
}

uint64_t slate_ext_free_in(const struct slate_ext *ext, uint32_t group)
{
    uint64_t used = 0;

    slate_ext_used(ext, group, add_up, &used);
    return slate_ext_group_end(ext, group) - slate_ext_group_first(ext, group) -
           used;
}

uint64_t slate_ext_free(const struct slate_ext *ext)
{
    uint64_t heads = (uint64_t)count_copies(ext) * (1 + ext->descriptor_units);
    uint64_t groups = (uint64_t)ext->groups * (2 + ext->table_units);

    return ext->units - slate_ext_first_unit(ext) - heads - groups - 1 -
           ext->lost_units - ext->journal_units - ext->map_units -
           ext->bad_units;
}

/* Cuts an area to what stays so from a unit on, if it holds the unit; else to
 * where nothing ends, if it begins behind it. True: it holds it. */
static bool judge(uint64_t unit, const struct slate_ext_area *found,
                  struct slate_ext_area *area)
{
    if (unit >= found->first && unit < found->first + found->count) {
        *area = *found;
        return true;
    }
    if (found->first > unit && found->first < area->first + area->count)
        area->count = found->first - area->first;
    return false;
}

/* Units of the first inodes. */
static uint64_t first_inodes(const struct slate_ext *ext)
{
    return ((SLATE_EXT_FIRST_FREE_INODE - 1) * SLATE_EXT_INODE +
            ext->unit_bytes - 1) /
           ext->unit_bytes;
}

bool slate_ext_next_written(const struct slate_ext *ext, uint64_t end,
                            const struct slate_ext_area *area, uint64_t *at,
                            struct slate_ext_area *run)
{
    uint64_t first = *at, count = 0;

    if (area->kind == SLATE_EXT_BITMAP) {
        while (first < area->count &&
               !slate_ext_is_written(ext, area->index + (uint32_t)first, end))
            first++;
        while (first + count < area->count &&
               slate_ext_is_written(
                   ext, area->index + (uint32_t)(first + count), end))
            count++;
    } else if (first == 0 && area->index == 0) {
        count = area->kind == SLATE_EXT_INODE_BITMAP ? 1 : first_inodes(ext);
    }
    *at = first + count;
    *run = *area;
    run->first += first;
    run->index += (uint32_t)first;
    run->count = count;
    return count > 0;
}

static bool is_own(const struct slate_ext *ext, uint64_t unit,
                   struct slate_ext_area *area)
{
    const struct slate_ext_area own[] = {
        {ext->root_at, 1, SLATE_EXT_ROOT, 0},
        {ext->lost_at, ext->lost_units, SLATE_EXT_LOST, 0},
        {ext->map_at, ext->map_units, SLATE_EXT_MAP, 0},
        {ext->journal_at, ext->journal_units > 0, SLATE_EXT_JOURNAL, 0}};

    for (size_t i = 0; i < sizeof own / sizeof own[0]; i++) {
        if (own[i].count > 0 && judge(unit, &own[i], area))
            return true;
    }
    return false;
}

static bool is_of_flex(const struct slate_ext *ext, uint64_t unit,
                       uint32_t flex, struct slate_ext_area *area)
{
    uint64_t end = areas_end(ext, flex);
    struct slate_ext_tour tour;
    struct slate_ext_area found, run;

    if (unit >= end)
        return false;
    slate_ext_begin(ext, flex, &tour);
    while (slate_ext_next_area(ext, &tour, &found)) {
        uint64_t at = 0;

        while (slate_ext_next_written(ext, end, &found, &at, &run)) {
            if (judge(unit, &run, area))
                return true;
        }
    }
    return false;
}

static bool is_of_head(const struct slate_ext *ext, uint64_t unit,
                       uint32_t group, struct slate_ext_area *area)
{
    uint64_t first = slate_ext_group_first(ext, group);
    const struct slate_ext_area super = {first, 1, SLATE_EXT_SUPER, group};
    const struct slate_ext_area descriptors = {first + 1, ext->descriptor_units,
                                               SLATE_EXT_DESCRIPTORS, 0};

    return slate_ext_has_copy(group) &&
           (judge(unit, &super, area) || judge(unit, &descriptors, area));
}

void slate_ext_what(const struct slate_ext *ext, uint64_t unit,
                    struct slate_ext_area *area)
{
    uint32_t group;

    *area =
        (struct slate_ext_area){unit, UINT64_MAX - unit, SLATE_EXT_NOTHING, 0};
    if (unit >= ext->units)
        return;
    if (unit < slate_ext_first_unit(ext)) { /* ahead of the superblock */
        *area = (struct slate_ext_area){0, 1, SLATE_EXT_SUPER, 0};
        return;
    }
    group = slate_ext_group_of(ext, unit);
    area->count = slate_ext_group_end(ext, group) - unit;
    if (is_of_head(ext, unit, group, area) ||
        is_of_flex(ext, unit, group >> ext->flex_bits, area))
        return;
    (void)is_own(ext, unit, area);
}
