/* SPDX-License-Identifier: MIT */
/* A low-level format for programs. */
#include "work/work.h"

static json_t *drive_of(const struct slate_drive *drive)
{
    return report_pack(
        "{s:i, s:i, s:i, s:i, s:i, s:i, s:i, s:i, s:i, s:i, s:i, s:I}",
        "cylinders", (int)drive->cylinders, "heads", (int)drive->heads,
        "sectors", (int)drive->sectors, "spares", (int)drive->spares,
        "block_bytes", (int)drive->block_bytes, "interleave",
        (int)drive->interleave, "track_skew", (int)drive->track_skew,
        "cylinder_skew", (int)drive->cylinder_skew, "precompensation",
        (int)drive->precompensation, "reduced_current",
        (int)drive->reduced_current, "burst_bits", (int)drive->burst_bits,
        "blocks", (json_int_t)slate_drive_blocks(drive));
}

static json_t *formats_of(const struct slate_lowlevel_facts *facts)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < facts->formats; i++)
        json_array_append_new(
            list, report_pack("{s:i, s:i, s:b}", "block_bytes",
                              (int)facts->format[i].block_bytes, "extra_bytes",
                              (int)facts->format[i].extra_bytes, "told",
                              facts->format[i].told));
    return list;
}

static json_t *measured_of(const struct slate_interleave *measure)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 1; i <= measure->most; i++)
        json_array_append_new(
            list,
            report_pack("{s:i, s:I}", "interleave", (int)i, "bytes_per_second",
                        (json_int_t)slate_interleave_rate(measure, i)));
    return list;
}

static json_t *seen_of(const struct lowlevel *job)
{
    const struct slate_defects_seen *seen = &job->work.seen;
    enum slate_drive_verdict verdict = slate_drive_judge(seen);

    return report_pack(
        "{s:i, s:i, s:I, s:I, s:I, s:b, s:I, s:I, s:I, s:I, s:s, s:s, s:o}",
        "listed", (int)seen->listed, "listed_sound", (int)seen->sound, "bad",
        (json_int_t)seen->bad, "known", (json_int_t)seen->known, "new",
        (json_int_t)seen->fresh, "looked_before", seen->looked, "came_back",
        (json_int_t)seen->back, "appeared", (json_int_t)seen->appeared, "gone",
        (json_int_t)seen->gone, "weak", (json_int_t)job->work.after.weak,
        "verdict", slate_drive_verdict_name(verdict), "text",
        slate_drive_verdict_words(verdict), "bad_blocks",
        report_ranges(&job->work.after.bad));
}

static void set(json_t *report, const char *key, json_t *value)
{
    if (value != NULL)
        json_object_set_new(report, key, value);
}

static json_t *place_of(enum slate_defect_form form,
                        const struct slate_defect *defect)
{
    if (form == SLATE_DEFECT_BLOCK)
        return report_pack("{s:I}", "block", (json_int_t)defect->cylinder);
    return report_pack("{s:i, s:i, s:I}", "cylinder", (int)defect->cylinder,
                       "head", (int)defect->head, "at", (json_int_t)defect->at);
}

/* What the device has listed itself; NULL: it does not tell. */
static json_t *defects_of(const struct lowlevel *job,
                          enum slate_defect_list which)
{
    static struct slate_defect list[4096];
    static const char *const forms[] = {"block", "byte-from-index",
                                        "physical-sector"};
    enum slate_defect_form form;
    json_t *places;
    uint32_t count;

    if (slate_defects_read(&job->target->media, which, &form, list, 4096,
                           &count, job->target->work) != SLATE_OK)
        return NULL;
    places = report_made(json_array());
    for (uint32_t i = 0; i < count && i < 4096; i++)
        json_array_append_new(places, place_of(form, &list[i]));
    return report_pack("{s:s, s:i, s:o}", "form", forms[form], "count",
                       (int)count, "places", places);
}

json_t *lowlevel_report(const struct lowlevel *job)
{
    const struct slate_lowlevel_facts *facts = &job->facts;
    json_t *report = report_pack(
        "{s:s, s:o, s:s, s:i, s:b, s:b, s:o, s:b, s:s}", "shape",
        "trueslate.lowlevel/1", "device", report_device(job->target), "kind",
        slate_lowlevel_name(facts->kind), "block_bytes",
        (int)facts->block_bytes, "protection_information", facts->protection,
        "geometry_can_be_set", facts->settable, "formats", formats_of(facts),
        "formatted", job->formatted, "tag_before", job->tag);

    set(report, "listed_when_made", defects_of(job, SLATE_DEFECTS_PRIMARY));
    set(report, "listed_since", defects_of(job, SLATE_DEFECTS_GROWN));
    if (job->reassigned > 0)
        set(report, "reassigned", json_integer((json_int_t)job->reassigned));
    if (facts->has_drive)
        json_object_set_new(report, "drive", drive_of(&facts->drive));
    if (!job->formatted)
        return report;
    if (job->work.has_drive)
        json_object_set_new(report, "becomes", drive_of(&job->work.drive));
    if (job->measured)
        json_object_set_new(report, "measured",
                            measured_of(&job->work.measure));
    if (job->work.after.done)
        json_object_set_new(report, "seen", seen_of(job));
    return report;
}
