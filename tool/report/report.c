/* SPDX-License-Identifier: MIT */
/* Reports for programs: the JSON shapes of docs/json/. */
#include <sys/random.h>

#include "view/view.h"
#include "draft/draft.h"
#include "report/report.h"

/* The names of guards; a sum of SLATE_GUARD_BIT. */
static json_t *report_guards(uint32_t guards)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < SLATE_GUARD_KINDS; i++) {
        if ((guards & SLATE_GUARD_BIT(i)) != 0)
            json_array_append_new(
                list, report_made(json_string(
                          slate_guard_name((enum slate_guard_kind)i))));
    }
    return list;
}

static json_t *report_map(const struct map *map)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];

        json_array_append_new(
            list, report_pack("{s:I, s:I, s:i, s:s}", "first",
                              (json_int_t)stretch->first, "blocks",
                              (json_int_t)stretch->count, "partition",
                              (int)stretch->number, "content", stretch->words));
    }
    return list;
}

json_t *report_before(const struct slate_facts *facts)
{
    struct map map;
    json_t *list;

    map_of_facts(facts, &map);
    list = report_map(&map);
    map_forget(&map);
    return list;
}

json_t *report_after(const struct slate_draft *draft,
                     const struct slate_facts *facts)
{
    struct map map;
    json_t *list;

    map_of_draft(draft, facts, &map);
    list = report_map(&map);
    map_forget(&map);
    return list;
}

json_t *report_remarks(const struct slate_draft *draft)
{
    json_t *remarks = report_made(json_array());
    char words[512] = "";
    struct slate_text text = SLATE_TEXT(words);

    for (uint32_t i = 0; slate_draft_remark(draft, i, &text); i++) {
        json_array_append_new(remarks, report_made(json_string(words)));
        slate_text_start(&text, words, sizeof words);
    }
    return remarks;
}

json_t *report_enact(const struct slate_draft *draft,
                     const struct slate_enact *enact, const char *journal)
{
    return report_pack(
        "{s:s, s:s, s:o, s:o, s:b, s:I, s:I, s:I, s:I, s:o, s:o*}", "shape",
        "trueslate.enact/2", "tag", draft->basis.tag, "seal",
        report_hex(draft->seal, SLATE_DIGEST_BYTES), "lifted",
        report_guards(enact->lifted), "resumed", enact->resumed, "blocks",
        (json_int_t)enact->pass.total, "blocks_written",
        (json_int_t)enact->written, "blocks_cleared",
        (json_int_t)enact->cleared, "blocks_equal", (json_int_t)enact->equal,
        "journal", journal[0] == '\0' ? json_null() : report_shown(journal),
        "overwritten",
        overwriting_report(&draft->goal.overwrite, draft, enact, NULL));
}

json_t *report_prove(const struct slate_draft *draft,
                     const struct slate_prove *prove)
{
    json_t *report = report_pack(
        "{s:s, s:s, s:o, s:b, s:I, s:I, s:o*}", "shape", "trueslate.prove/1",
        "tag", draft->basis.tag, "seal",
        report_hex(draft->seal, SLATE_DIGEST_BYTES), "proved",
        prove->different + prove->unreadable + prove->altered == 0,
        "blocks_compared", (json_int_t)prove->pass.done, "blocks_different",
        (json_int_t)prove->different, "overwritten",
        overwriting_report(&draft->goal.overwrite, draft, NULL, prove));

    if (prove->different > 0)
        json_object_set_new(
            report, "first_different",
            report_made(json_integer((json_int_t)prove->first_different)));
    return report;
}
