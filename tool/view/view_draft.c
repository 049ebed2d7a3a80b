/* SPDX-License-Identifier: MIT */
/* A draft on the screen: before and after, losses, steps, remarks. */

#include "draft/draft.h"
#include "view/view.h"

static void view_maps(const struct slate_facts *facts,
                      const struct slate_draft *draft)
{
    bool stays = slate_draft_is_change(draft) && draft->parts == 0;
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

static void view_loss(const struct target *target,
                      const struct slate_draft *draft)
{
    struct loss loss;

    loss_of(target, draft, &loss);
    putchar('\n');
    for (uint32_t i = 0; i < loss.count; i++)
        print_line(i == 0 ? "Is lost" : "", loss.bad ? PAINT_BAD : PAINT_GOOD,
                   "%s", loss.line[i]);
}

/* The label of a change in place. */
static void view_renamed(const struct slate_draft *draft)
{
    const struct slate_renamed *renamed = &draft->change.renamed;
    char place[32];

    if (!renamed->wanted)
        return;
    attribute_place(renamed->number, place);
    if (renamed->label[0] == '\0')
        print_line("Label", PAINT_GOOD, "%s has none from then on", place);
    else
        print_line("Label", PAINT_GOOD, "%s becomes \"%s\"", place,
                   renamed->label);
}

/* What a change in place clears, and what that means. */
static void view_clears(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->change.clears; i++) {
        const struct slate_cleared *clear = &draft->change.clear[i];
        char place[32];

        attribute_place(clear->number, place);
        print_line(i == 0 ? "Clears" : "", PAINT_PLAIN, "%s, %s: %s",
                   slate_attribute_name(clear->kind), place,
                   slate_attribute_advice(clear->kind));
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
    char words[160] = "";
    struct slate_text text = SLATE_TEXT(words);
    unsigned step = 0;

    while (slate_draft_lift(draft, step, NULL, &text)) {
        print_number(++step);
        puts(words);
        slate_text_start(&text, words, sizeof words);
    }
    return step;
}

/* Where, as far as there is room for it. */
static void print_place(uint32_t runs, uint64_t first)
{
    if (paint_columns() < 96)
        putchar('\n');
    else if (runs > 1)
        printf("  %u places\n", runs);
    else
        printf("  block %llu\n", (unsigned long long)first);
}

/* A step, how much it writes or reads, and about how long that takes. */
static void print_step(const struct slate_draft *draft, unsigned number,
                       const char *words, uint64_t blocks, bool reading)
{
    char size[SLATE_SIZE_TEXT], time[16];

    slate_size_decimal(blocks * draft->basis.geometry.block_bytes, size);
    step_time(slate_advise_seconds(draft, blocks, reading), time);
    print_number(number);
    printf("%-*s %9s", is_narrow() ? 34 : 38, words, size);
    if (!is_narrow())
        printf("  %6s", time);
}

static void view_steps(const struct target *target,
                       const struct slate_draft *draft)
{
    struct steps steps;
    unsigned number = view_lifts(draft) + 1;

    steps_of(target, draft, &steps);
    for (uint32_t i = 0; i < steps.count; i++) {
        const struct step *step = &steps.step[i];

        print_step(draft, number++, step->words, step->blocks, step->reads);
        print_place(step->places, step->first);
    }
    print_step(draft, number, "read everything back and compare",
               slate_draft_blocks(draft, true), true);
    putchar('\n');
}

/* All of it; a device whose pace is not known is judged by its kind. */
static void view_time(const struct target *target,
                      const struct slate_draft *draft)
{
    uint64_t blocks = slate_draft_blocks(draft, false);
    uint64_t tried =
        target->tries ? slate_probe_most(&draft->basis.geometry) : 0;
    uint64_t seconds = slate_advise_seconds(draft, blocks + tried, false) +
                       slate_advise_seconds(draft, blocks, true);
    char time[16];

    step_time(seconds, time);
    print_line(
        "Takes", PAINT_PLAIN, "%s%s, at the pace of a usual %s%s",
        seconds == 0 ? "less than a second" : "about ", time,
        draft->basis.device == SLATE_DEVICE_OTHER
            ? "stick"
            : slate_device_name(draft->basis.device),
        draft->goal.overwrite.rounds > 0 ? "" : "; this one was not measured");
}

static void view_remarks(const struct slate_draft *draft)
{
    char words[512] = "";
    struct slate_text text = SLATE_TEXT(words);

    for (uint32_t i = 0; slate_draft_remark(draft, i, &text); i++) {
        print_line(i == 0 ? "Remarks" : "", PAINT_PLAIN, "%s", words);
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
        char size[SLATE_SIZE_TEXT], number[24] = "";
        struct slate_figures figures;

        if (part->format == NULL)
            continue;
        part->format->figures(&part->volume, &figures);
        slate_size_both(figures.room_bytes, size);
        if (draft->parts > 1 && entry != NULL)
            snprintf(number, sizeof number, "%u: ", entry->number);
        else if (draft->parts > 1)
            snprintf(number, sizeof number, "new one %u: ", i + 1);
        print_line(first ? "Room" : "", PAINT_GOOD,
                   "%s%s for %sfiles, in clusters of %u bytes", number, size,
                   figures.placed_clusters > 0 ? "further " : "",
                   figures.cluster_bytes);
        first = false;
    }
}

/* "3 files" */
static void add_count(uint32_t count, const char *word, struct slate_text *text)
{
    slate_text_number(text, count);
    slate_text_add(text, word);
    slate_text_add(text, count == 1 ? "" : "s");
}

/* What is placed: how many, how much, from where, and what comes first. */
static void view_files(const struct slate_draft *draft)
{
    const struct slate_files *files = &draft->files;
    struct slate_files_sum sum;
    struct slate_text text;
    char words[600];

    if (files->count == 0)
        return;
    slate_files_add_up(files, &sum);
    slate_text_start(&text, words, sizeof words);
    add_count(sum.files, " file", &text);
    if (sum.folders > 0) {
        slate_text_add(&text, " and ");
        add_count(sum.folders, " folder", &text);
    }
    slate_text_add(&text, ", ");
    slate_text_size(&text, sum.bytes);
    slate_text_add(&text, ", from ");
    slate_text_shown(&text, drafted_path(draft));
    for (uint32_t i = 1; i <= files->ahead; i++) {
        slate_text_add(&text, i == 1 ? "; first in the root: " : ", ");
        slate_text_shown(&text, slate_item_name(files, i));
    }
    print_line("Files", PAINT_GOOD, "%s", words);
}

void draft_words(const struct slate_draft *draft, char *words, size_t room)
{
    const struct slate_part *part = &draft->part[0];
    struct slate_figures figures;

    if (draft->change.renamed.wanted) {
        snprintf(words, room, "a new label");
    } else if (draft->change.mends > 0) {
        snprintf(words, room, "something mended");
    } else if (slate_draft_is_change(draft)) {
        snprintf(words, room, "other attributes");
    } else if (draft->parts == 1 && part->format != NULL) {
        part->format->figures(&part->volume, &figures);
        snprintf(words, room, "one %s volume%s%s%s",
                 slate_volume_words(part->format->kind),
                 figures.label[0] == '\0' ? "" : " \"", figures.label,
                 figures.label[0] == '\0' ? "" : "\"");
    } else {
        snprintf(words, room, "%u partition%s", draft->parts,
                 draft->parts == 1 ? "" : "s");
    }
}

void view_draft(const struct target *target, const struct slate_draft *draft)
{
    view_maps(&target->facts, draft);
    view_files(draft);
    view_room(draft);
    view_loss(target, draft);
    overwriting_view(draft);
    view_renamed(draft);
    view_clears(draft);
    mending_tell(draft);
    view_steps(target, draft);
    view_time(target, draft);
    view_remarks(draft);
}

void view_draft_brief(const struct target *target,
                      const struct slate_draft *draft)
{
    view_maps(&target->facts, draft);
    view_files(draft);
    view_loss(target, draft);
    overwriting_view(draft);
    (void)view_lifts(draft);
    view_time(target, draft);
}
