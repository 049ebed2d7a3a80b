/* SPDX-License-Identifier: MIT */
/* A draft on the screen: before and after, losses, steps, remarks. */
#include <stdio.h>
#include <string.h>

#include "attributes.h"
#include "view/map.h"
#include "view/steps.h"
#include "view/view.h"

static void view_maps(const struct slate_facts *facts,
                      const struct slate_draft *draft)
{
    bool stays = slate_draft_is_change(draft);
    struct map map;

    map_of_facts(facts, &map);
    print_bar(stays ? "Stays" : "Now", &map);
    print_stretches(&map);
    map_forget(&map);
    if (stays)
        return;
    map_of_draft(draft, facts, &map);
    print_bar("Then", &map);
    print_stretches(&map);
    map_forget(&map);
}

/* What holds nothing, as far as it was looked at, is said to be so. */
static void view_no_loss(const struct slate_facts *facts)
{
    char words[160];

    if (slate_facts_hold_content(facts)) {
        print_wrapped("Is lost", PAINT_BAD,
                      "content that belongs to no volume known here");
        return;
    }
    snprintf(words, sizeof words,
             "nothing was found in the %u places looked at; what lies between "
             "was not read",
             facts->sample.places);
    print_wrapped("Is lost", PAINT_GOOD, words);
}

/* Does it lie in what the draft keeps? */
static bool stays(const struct slate_draft *draft,
                  const struct stretch *stretch)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_range *range = &draft->part[i].range;

        if (draft->part[i].ask.keep != 0 && stretch->first >= range->first &&
            stretch->first + stretch->count <= range->first + range->count)
            return true;
    }
    return false;
}

static void view_loss(const struct slate_facts *facts,
                      const struct slate_draft *draft)
{
    struct map map;
    uint32_t lost = 0, more = 0;

    putchar('\n');
    map_of_facts(facts, &map);
    for (uint32_t i = 0; i < map.count; i++) {
        const struct stretch *stretch = &map.stretch[i];
        char size[SLATE_SIZE_TEXT], words[200];

        if (stretch->paint == PAINT_FREE || stays(draft, stretch))
            continue;
        if (lost == MAP_LINES) {
            more++;
            continue;
        }
        slate_size_both(stretch->count * map.block_bytes, size);
        snprintf(words, sizeof words, "%s, %s, with all that is in it",
                 stretch->words, size);
        print_wrapped(lost++ == 0 ? "Is lost" : "", PAINT_BAD, words);
    }
    if (more + map.unlisted > 0) {
        char words[80];

        snprintf(words, sizeof words, "and %u partitions more",
                 more + map.unlisted);
        print_wrapped("", PAINT_BAD, words);
    }
    map_forget(&map);
    if (lost == 0 && draft->switched)
        print_wrapped("Is lost", PAINT_GOOD,
                      "nothing that a partition holds; what stays is not "
                      "touched");
    else if (lost == 0)
        view_no_loss(facts);
}

/* What a change in place clears, and what that means. */
static void view_clears(const struct slate_draft *draft)
{
    putchar('\n');
    print_wrapped("Is lost", PAINT_GOOD,
                  "nothing: all but a few bytes stays as it is");
    for (uint32_t i = 0; i < draft->change.clears; i++) {
        const struct slate_cleared *clear = &draft->change.clear[i];
        char place[32], words[300];

        attribute_place(clear->number, place);
        snprintf(words, sizeof words, "%s, %s: %s",
                 slate_attribute_name(clear->kind), place,
                 slate_attribute_advice(clear->kind));
        print_wrapped(i == 0 ? "Clears" : "", PAINT_PLAIN, words);
    }
}

static bool is_narrow(void)
{
    return paint_columns() < 80;
}

/* A step, to the column where its words begin. */
static void print_number(unsigned step)
{
    printf("  %-11s%2u%s", step == 1 ? "Steps" : "", step,
           is_narrow() ? " " : "  ");
}

/* What protects the device goes first. Returns the number of lifts. */
static unsigned view_lifts(const struct slate_draft *draft)
{
    struct slate_text text;
    char words[160];
    unsigned step = 0;

    slate_text_start(&text, words, sizeof words);
    while (slate_draft_lift(draft, step, NULL, &text)) {
        print_number(++step);
        puts(words);
        slate_text_start(&text, words, sizeof words);
    }
    return step;
}

/* Where, as far as there is room for it. */
static void print_place(unsigned runs, uint64_t first)
{
    if (is_narrow())
        putchar('\n');
    else if (runs > 1)
        printf("  %u places\n", runs);
    else
        printf("  block %llu\n", (unsigned long long)first);
}

/* Extents of one step that follow each other make one line. */
static void view_steps(const struct slate_draft *draft)
{
    struct slate_walk walk = {0};
    struct step step;
    char size[SLATE_SIZE_TEXT];
    unsigned number = view_lifts(draft) + 1;

    while (next_step(draft, &walk, &step)) {
        slate_size_decimal(step.blocks * draft->basis.geometry.block_bytes,
                           size);
        print_number(number++);
        printf("%-*s %9s", is_narrow() ? 34 : 36, step.words, size);
        print_place(step.places, step.first);
    }
    print_number(number);
    puts("read everything back and compare");
}

static void view_remarks(const struct slate_draft *draft)
{
    struct slate_text text;
    char words[512];

    slate_text_start(&text, words, sizeof words);
    for (uint32_t i = 0; slate_draft_remark(draft, i, &text); i++) {
        print_wrapped(i == 0 ? "Remarks" : "", PAINT_PLAIN, words);
        slate_text_start(&text, words, sizeof words);
    }
}

/* For files, part by part where there are several. */
static void view_room(const struct slate_draft *draft)
{
    bool first = true;

    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_part *part = &draft->part[i];
        const struct slate_partition *entry = slate_draft_entry(draft, i);
        char size[SLATE_SIZE_TEXT], words[200], number[24] = "";
        struct slate_figures figures;

        if (part->format == NULL)
            continue;
        part->format->figures(&part->volume, &figures);
        slate_size_both(figures.room_bytes, size);
        if (draft->parts > 1 && entry != NULL)
            snprintf(number, sizeof number, "%u: ", entry->number);
        snprintf(words, sizeof words, "%s%s for files, in clusters of %u bytes",
                 number, size, figures.cluster_bytes);
        print_wrapped(first ? "Room" : "", PAINT_GOOD, words);
        first = false;
    }
}

void view_draft(const struct slate_facts *facts,
                const struct slate_draft *draft)
{
    view_maps(facts, draft);
    view_room(draft);
    if (slate_draft_is_change(draft))
        view_clears(draft);
    else
        view_loss(facts, draft);
    view_steps(draft);
    view_remarks(draft);
}
