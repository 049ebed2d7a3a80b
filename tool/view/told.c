/* SPDX-License-Identifier: MIT */
/* Findings put together as people are told them: what you see, why, what
 * helps. Screen and picture say the same. */

#include "draft/draft.h"
#include "view/view.h"

static void add_part(const struct slate_facts *facts,
                     const struct slate_finding *finding,
                     enum slate_finding_part part, char *words)
{
    struct slate_text text = {words, TOLD_ROOM, strlen(words)};

    if (text.used > 0)
        slate_text_add(&text, " ");
    slate_finding_words(facts, finding, part, &text);
}

/* "gpt-lost" is said as "GPT lost". */
void finding_title(enum slate_finding_id id, struct slate_text *text)
{
    const char *name = slate_finding_name(id);

    while (*name != '\0') {
        size_t length = strcspn(name, "-");
        bool initials =
            strncmp(name, "gpt-", 4) == 0 || strncmp(name, "mbr-", 4) == 0 ||
            strncmp(name, "chs-", 4) == 0 || strcmp(name, "gpt") == 0;

        for (size_t i = 0; i < length; i++) {
            char one[2] = {initials ? (char)(name[i] - 'a' + 'A') : name[i]};

            slate_text_add(text, one);
        }
        name += length;
        name += *name == '-' ? 1 : 0;
        slate_text_add(text, *name == '\0' ? "" : " ");
    }
}

/* The consequence that a person sees, when the leading finding has one. */
static const struct slate_finding *seen(const struct told *told)
{
    for (uint32_t i = 1; i < told->count && told->finding[i].consequence; i++) {
        if (told->finding[i].severity == SLATE_SEVERITY_TROUBLE)
            return &told->finding[i];
    }
    return &told->finding[0];
}

/* Consequences beyond the one that is told: by name, which is enough. */
static void add_folded(struct told *told, const struct slate_finding *shown)
{
    struct slate_text text = {told->why, TOLD_ROOM, strlen(told->why)};
    uint32_t named = 0;

    for (uint32_t i = 1; i < told->count && told->finding[i].consequence; i++) {
        if (&told->finding[i] == shown)
            continue;
        slate_text_add(&text, named++ == 0 ? " It also explains: " : ", ");
        finding_title(told->finding[i].id, &text);
    }
    if (named > 0)
        slate_text_add(&text, ".");
}

void told_of(const struct target *target, struct told *told)
{
    const struct slate_facts *facts = &target->facts;
    const struct slate_finding *lead = &told->finding[0], *shown;
    struct slate_text text;

    memset(told, 0, sizeof *told);
    told->count = target->findings;
    memcpy(told->finding, target->finding, sizeof told->finding);
    told->fine = lead->severity == SLATE_SEVERITY_FINE;
    shown = seen(told);
    add_part(facts, shown, SLATE_FINDING_TEXT, told->see);
    if (shown != lead)
        add_part(facts, lead, SLATE_FINDING_TEXT, told->why);
    add_part(facts, lead, SLATE_FINDING_CAUSE, told->why);
    add_folded(told, shown);
    add_part(facts, lead, SLATE_FINDING_EVIDENCE, told->evidence);
    add_part(facts, lead, SLATE_FINDING_HELP, told->help);
    remedy_of(target, 0, &told->remedy);
    if ((told->remedy.kind == SLATE_REMEDY_RENEW ||
         told->remedy.kind == SLATE_REMEDY_MEND) &&
        lead->severity == SLATE_SEVERITY_TROUBLE) {
        text = (struct slate_text){told->help, TOLD_ROOM, strlen(told->help)};
        slate_text_add(&text, " ");
        slate_remedy_cost_words(&told->remedy, &text);
    }
}
