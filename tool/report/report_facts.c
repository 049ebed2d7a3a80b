/* SPDX-License-Identifier: MIT */
/* Facts and findings for programs: the shape of docs/json/assess. */

#include "draft/draft.h"
#include "report/report.h"
#include "view/view.h"

static json_t *part_of(const struct slate_facts *facts,
                       const struct slate_finding *finding,
                       enum slate_finding_part part)
{
    char words[TOLD_ROOM] = "";
    struct slate_text text = SLATE_TEXT(words);

    slate_finding_words(facts, finding, part, &text);
    return report_made(json_string(words));
}

static json_t *report_goal(const struct slate_remedy *remedy)
{
    if (remedy->kind != SLATE_REMEDY_RENEW)
        return report_made(json_null());
    return report_pack(
        "{s:s, s:s?, s:s}", "use", slate_use_name(remedy->goal.use), "table",
        remedy->goal.table_given ? slate_table_name(remedy->goal.table) : NULL,
        "label", remedy->ask.label);
}

static json_t *report_remedy(const struct target *target, uint32_t i)
{
    const struct slate_facts *facts = &target->facts;
    const struct slate_finding *finding = &target->finding[i];
    struct slate_remedy remedy;
    char cost[512];
    struct slate_text text;

    remedy_of(target, i, &remedy);
    slate_text_start(&text, cost, sizeof cost);
    slate_remedy_cost_words(&remedy, &text);
    return report_pack("{s:s, s:o, s:s, s:o, s:s?, s:b, s:b, s:i}", "kind",
                       slate_remedy_name(remedy.kind), "text",
                       part_of(facts, finding, SLATE_FINDING_HELP), "cost",
                       cost, "goal", report_goal(&remedy), "mend",
                       remedy.kind == SLATE_REMEDY_MEND
                           ? slate_mend_name(remedy.mend.kind)
                           : NULL,
                       "feasible", remedy.feasible == SLATE_OK, "loses_content",
                       remedy.loses_content, "minutes", (int)remedy.minutes);
}

json_t *report_findings(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < target->findings; i++) {
        const struct slate_finding *finding = &target->finding[i];

        json_array_append_new(
            list,
            report_pack("{s:s, s:s, s:b, s:s, s:o, s:o, s:o, s:o}", "id",
                        slate_finding_name(finding->id), "severity",
                        slate_severity_name(finding->severity), "consequence",
                        finding->consequence, "because",
                        slate_finding_name(finding->because), "text",
                        part_of(facts, finding, SLATE_FINDING_TEXT), "evidence",
                        part_of(facts, finding, SLATE_FINDING_EVIDENCE),
                        "cause", part_of(facts, finding, SLATE_FINDING_CAUSE),
                        "remedy", report_remedy(target, i)));
    }
    return list;
}

static json_t *report_volume(const struct slate_volume *volume)
{
    json_t *report = report_pack(
        "{s:s, s:s, s:b, s:o, s:i, s:i, s:b, s:s}", "kind",
        slate_volume_words(volume->kind), "label", volume->label, "known",
        slate_volume_is_known(volume->kind), "bytes",
        report_bytes(volume->bytes), "block_bytes", (int)volume->block_bytes,
        "cluster_bytes", (int)volume->cluster_bytes, "dirty", volume->dirty,
        "boot_copy", slate_copy_name(volume->copy));

    if (volume->lost != SLATE_VOLUME_NONE) {
        json_object_set_new(
            report, "lost_kind",
            report_made(json_string(slate_volume_words(volume->lost))));
        json_object_set_new(
            report, "copy_block",
            report_made(json_integer((json_int_t)volume->copy_lba)));
    }

    if (volume->free_known)
        json_object_set_new(
            report, "free_bytes",
            report_bytes(volume->free_clusters * volume->cluster_bytes));
    if (volume->serial != 0)
        json_object_set_new(report, "serial",
                            report_made(json_integer(volume->serial)));
    return report;
}

static json_t *report_type(const struct slate_facts *facts,
                           const struct slate_partition *partition)
{
    char text[SLATE_GUID_TEXT] = "";
    struct slate_text words;

    if (facts->layout.kind == SLATE_TABLE_GPT) {
        slate_guid_text(&partition->type, text);
    } else {
        slate_text_start(&words, text, sizeof text);
        slate_text_hex(&words, partition->mbr_type, 2);
    }
    return report_made(json_string(text));
}

static json_t *report_partitions(const struct slate_facts *facts)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        json_array_append_new(
            list,
            report_pack("{s:i, s:s, s:I, s:I, s:o, s:s, s:b, s:o}", "number",
                        (int)one->number, "role", slate_role_name(one->role),
                        "first", (json_int_t)one->first, "blocks",
                        (json_int_t)one->count, "type", report_type(facts, one),
                        "name", one->name, "active", one->active, "volume",
                        report_volume(&facts->volume[i])));
    }
    return list;
}

static json_t *report_copy(const struct slate_gpt_copy *copy)
{
    return report_pack("{s:s, s:I}", "state", slate_gpt_state_name(copy->state),
                       "block", (json_int_t)copy->lba);
}

/* The partitions of the other copy, where both are sound and differ. */
static void add_other_copy(json_t *report, const struct slate_facts *facts)
{
    struct slate_facts other;

    if (!slate_layout_copies_differ(&facts->layout))
        return;
    slate_facts_other_copy(facts, &other);
    json_object_set_new(report, "other_copy",
                        report_pack("{s:s, s:i, s:o}", "copy",
                                    other.layout.second ? "second" : "first",
                                    "found", (int)other.layout.found,
                                    "partitions", report_partitions(&other)));
}

static json_t *report_unread(const struct slate_unread *unread)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < unread->count && i < SLATE_UNREAD_MOST; i++)
        json_array_append_new(
            list, report_made(json_integer((json_int_t)unread->lba[i])));
    return list;
}

static json_t *report_oddities(const struct slate_facts *facts)
{
    unsigned odd =
        slate_layout_check(&facts->layout, facts->geometry.block_count);
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; odd >> i != 0; i++) {
        if ((odd >> i & 1) != 0)
            json_array_append_new(
                list, report_made(json_string(slate_layout_oddity_name(i))));
    }
    return list;
}

/* What a host tells two tables apart by: a GUID, or eight hexadecimal digits.
 */
static json_t *report_table_id(const struct slate_facts *facts)
{
    char id[SLATE_GUID_TEXT] = "";
    struct slate_text text = SLATE_TEXT(id);

    if (facts->layout.kind == SLATE_TABLE_GPT)
        slate_guid_text(&facts->layout.disk_id, id);
    else if (facts->layout.kind == SLATE_TABLE_MBR)
        slate_text_hex(&text, facts->layout.disk_signature, 8);
    return report_made(json_string(id));
}

/* Where no table and no volume was found: the grounds for what is said. */
static json_t *report_sample(const struct slate_facts *facts)
{
    const struct slate_sample *sample = &facts->sample;

    return report_pack("{s:i, s:i, s:b, s:b}", "places", (int)sample->places,
                       "places_held", (int)sample->held, "blank", facts->blank,
                       "cut_short", facts->cut_short);
}

json_t *report_assess(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    uint64_t read =
        target->media.traffic.blocks_read * facts->geometry.block_bytes;
    json_t *report = report_pack(
        "{s:s, s:s, s:o, s:s, s:o, s:o, s:o, s:o}", "shape",
        "trueslate.assess/3", "tag", facts->tag, "device",
        report_device(target), "table", slate_table_name(facts->layout.kind),
        "shown_bytes", report_bytes(slate_facts_shown_bytes(facts)),
        "hidden_bytes", report_bytes(slate_facts_unreached_bytes(facts)),
        "looked_at", report_sample(facts), "findings", report_findings(target));

    json_object_set_new(
        report, "commands",
        report_made(json_integer((json_int_t)target->media.traffic.commands)));
    json_object_set_new(report, "bytes_read", report_bytes(read));
    json_object_set_new(report, "unread_blocks", report_unread(&facts->unread));
    if (facts->opened != SLATE_OK)
        return report;
    json_object_set_new(report, "map", report_before(facts));
    json_object_set_new(report, "partitions", report_partitions(facts));
    add_other_copy(report, facts);
    json_object_set_new(report, "oddities", report_oddities(facts));
    json_object_set_new(report, "table_id", report_table_id(facts));
    if (facts->layout.kind == SLATE_TABLE_NONE)
        json_object_set_new(report, "volume", report_volume(&facts->whole));
    if (facts->layout.primary.lba != 0)
        json_object_set_new(report, "gpt",
                            report_pack("{s:o, s:o}", "first",
                                        report_copy(&facts->layout.primary),
                                        "second",
                                        report_copy(&facts->layout.backup)));
    return report;
}
