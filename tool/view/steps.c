/* SPDX-License-Identifier: MIT */
/* The extents of a draft as the steps that people are told. */
#include "view/view.h"

static void name_step(const struct slate_draft *draft,
                      const struct slate_extent *extent, char words[80])
{
    const struct slate_partition *entry =
        extent->part < draft->parts && draft->parts > 1 &&
                draft->parts <= STEPS_APART
            ? slate_draft_entry(draft, extent->part)
            : NULL;

    if (extent->part == SLATE_PART_OVERWRITTEN &&
        extent->moment == SLATE_MOMENT_OVERWRITE &&
        draft->goal.overwrite.rounds > 1)
        snprintf(words, 80, "round %u: %s", extent->role + 1u,
                 slate_draft_step(draft, extent));
    else if (entry == NULL)
        snprintf(words, 80, "%s", slate_draft_step(draft, extent));
    else
        snprintf(words, 80, "%u: %s", entry->number,
                 slate_draft_step(draft, extent));
}

/* The one that an extent belongs to; a new one where there is room for it, else
 * the last one. */
static struct step *find(struct steps *steps, enum slate_moment moment,
                         const char *words)
{
    struct step *step;

    for (uint32_t i = 0; i < steps->count; i++) {
        step = &steps->step[i];
        if (step->moment == moment && strcmp(step->words, words) == 0)
            return step;
    }
    if (steps->count == STEPS_MOST)
        return &steps->step[STEPS_MOST - 1];
    step = &steps->step[steps->count++];
    memset(step, 0, sizeof *step);
    step->moment = moment;
    step->first = step->end = UINT64_MAX;
    snprintf(step->words, sizeof step->words, "%s", words);
    return step;
}

/* Some places between the ends. */
static void add_trying(const struct slate_draft *draft, struct steps *steps)
{
    struct step *step = &steps->step[steps->count++];

    *step = (struct step){.moment = SLATE_MOMENT_MARK,
                          .first = 0,
                          .blocks = slate_probe_most(&draft->basis.geometry),
                          .places = SLATE_PROBE_PLACES};
    snprintf(step->words, sizeof step->words,
             "try far places, and put them back");
}

void steps_of(const struct target *target, const struct slate_draft *draft,
              struct steps *steps)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;
    char words[80];

    steps->count = 0;
    if (target->tries)
        add_trying(draft, steps);
    while (slate_draft_next(draft, &walk, &extent)) {
        struct step *step;

        name_step(draft, &extent, words);
        step = find(steps, extent.moment, words);
        step->reads = extent.deed == SLATE_DEED_CHECK;
        step->blocks += extent.count;
        step->places += extent.first == step->end ? 0 : 1;
        step->first = extent.first < step->first ? extent.first : step->first;
        step->end = extent.first + extent.count;
    }
}

void step_time(uint64_t seconds, char words[16])
{
    words[0] = '\0';
    if (seconds > 0 && seconds < 120)
        snprintf(words, 16, "%u s", (unsigned)seconds);
    else if (seconds >= 120 && seconds < 7200)
        snprintf(words, 16, "%u min", (unsigned)((seconds + 30) / 60));
    else if (seconds >= 7200)
        snprintf(words, 16, "%u h", (unsigned)((seconds + 1800) / 3600));
}
