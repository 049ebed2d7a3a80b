/* SPDX-License-Identifier: MIT */
/* The findings in words; their sentences stand in the rows of their judges. */
#include "assess/judge/judge.h"
#include "base/base.h"

SLATE_NAMES(slate_severity_name, enum slate_severity, "fine", "note", "trouble")

/* Within a sentence, unless it begins with an abbreviation. */
static void add_lower(const struct slate_facts *facts, enum slate_finding_id id,
                      const char *words, struct slate_text *text)
{
    size_t start = text->used;
    char *first = text->bytes + start;

    slate_words_fill(facts, id, words, text);
    if (text->used > start + 1 && first[0] >= 'A' && first[0] <= 'Z' &&
        (first[1] == ' ' || (first[1] >= 'a' && first[1] <= 'z')))
        first[0] = (char)(first[0] - 'A' + 'a');
}

/* What keeps all data helps before anything else does. */
static bool add_mend(const struct slate_facts *facts,
                     const struct slate_finding *finding,
                     struct slate_text *text)
{
    const enum slate_finding_id id = finding->id;
    struct slate_mend mend;

    if (slate_rule_of(id)->remedy != SLATE_REMEDY_RENEW ||
        !slate_finding_mend(facts, id, &mend))
        return false;
    if (!slate_is_at_ease(finding))
        slate_text_add(
            text, "Copy off what is needed, as far as it can be read, then ");
    else
        slate_text_add(text, "What can be done: ");
    if (mend.kind == SLATE_MEND_TO_GPT) {
        SLATE_SAY(text,
                  "convert the table, all data staying: {}; the rest can get a "
                  "partition then.",
                  AS_TEXT(slate_mend_words(mend.kind)));
        return true;
    }
    SLATE_SAY(text, "mend it in place, all data staying: {}.",
              AS_TEXT(slate_mend_words(mend.kind)));
    return true;
}

void slate_finding_words(const struct slate_facts *facts,
                         const struct slate_finding *finding,
                         enum slate_finding_part part, struct slate_text *text)
{
    const enum slate_finding_id id = finding->id;
    const char *const *parts = slate_rule_of(id)->sentence;

    /* how it came about is not to be seen on the device */
    if (part == SLATE_FINDING_CAUSE && id != SLATE_FINDING_HEALTHY &&
        id != SLATE_FINDING_WRITE_PROTECTED) {
        slate_text_add(text, "Likely: ");
        add_lower(facts, id, parts[part], text);
        return;
    }
    if (part == SLATE_FINDING_HELP && slate_is_at_ease(finding) &&
        parts[part][0] != 'N') /* says so itself */
        slate_text_add(
            text,
            "Nothing has to be done as long as hosts show what they should. ");
    if (part == SLATE_FINDING_HELP && add_mend(facts, finding, text))
        return;
    slate_words_fill(facts, id, parts[part], text);
}
