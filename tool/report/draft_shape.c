/* SPDX-License-Identifier: MIT */
/* Drafts as files for programs and people: written. */
#include <errno.h>

#include "draft/draft.h"
#include "report/report.h"
#include "view/view.h"
#include "device/device.h"

static json_t *shape_lifts(const struct slate_draft *draft)
{
    json_t *lifts = report_made(json_array());
    enum slate_guard_kind kind = SLATE_GUARD_SWITCH;
    char words[160] = "";
    struct slate_text text = SLATE_TEXT(words);

    for (uint32_t i = 0; slate_draft_lift(draft, i, &kind, &text); i++) {
        json_array_append_new(
            lifts,
            report_pack("{s:s, s:b}", "kind", slate_guard_name(kind), "lasting",
                        slate_guard_lift_lasts(kind, draft->goal.lasting)));
        slate_text_start(&text, words, sizeof words);
    }
    return lifts;
}

/* Of the partition that an extent belongs to; null: none. */
static json_t *shape_number(const struct slate_draft *draft, uint32_t part)
{
    const struct slate_partition *entry =
        part < draft->parts ? slate_draft_entry(draft, part) : NULL;

    return entry == NULL ? json_null() : json_integer(entry->number);
}

/* One entry for each run of blocks. */
static json_t *shape_steps(const struct slate_draft *draft)
{
    json_t *steps = report_made(json_array());
    struct slate_walk walk = {0};
    struct slate_extent extent;

    while (slate_draft_next(draft, &walk, &extent))
        json_array_append_new(
            steps, report_pack("{s:s, s:o, s:I, s:I, s:I}", "step",
                               slate_draft_step(draft, &extent), "partition",
                               shape_number(draft, extent.part), "first",
                               (json_int_t)extent.first, "blocks",
                               (json_int_t)extent.count, "seconds",
                               (json_int_t)slate_advise_seconds(
                                   draft, extent.count, false)));
    return steps;
}

/* One entry for each part; one without a volume is null. */
static json_t *shape_volumes(const struct slate_draft *draft)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_part *part = &draft->part[i];
        struct slate_figures figures;

        if (part->format == NULL) {
            json_array_append_new(list, json_null());
            continue;
        }
        part->format->figures(&part->volume, &figures);
        json_array_append_new(
            list, report_pack(
                      "{s:s, s:s, s:I, s:I, s:I, s:I, s:I, s:I, s:I, s:I, s:I}",
                      "kind", part->format->composer.name, "label",
                      figures.label, "serial", (json_int_t)figures.serial,
                      "cluster_bytes", (json_int_t)figures.cluster_bytes,
                      "clusters", (json_int_t)figures.clusters, "bad_clusters",
                      (json_int_t)figures.bad_clusters, "placed_clusters",
                      (json_int_t)figures.placed_clusters, "room_bytes",
                      (json_int_t)figures.room_bytes, "file_most",
                      (json_int_t)figures.file_most, "first",
                      (json_int_t)figures.whole.first, "blocks",
                      (json_int_t)figures.whole.count));
    }
    return list;
}

static json_t *shape_files(const struct slate_draft *draft)
{
    struct slate_files_sum sum;

    slate_files_add_up(&draft->files, &sum);
    return report_pack("{s:I, s:I, s:I}", "files", (json_int_t)sum.files,
                       "folders", (json_int_t)sum.folders, "bytes",
                       (json_int_t)sum.bytes);
}

/* The ledger: what its blocks belong to that no entry names. */
static json_t *shape_lost(const struct target *target)
{
    const struct slate_ledger *ledger = &target->ledger;
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < ledger->count; i++) {
        const struct slate_loss *loss = &ledger->loss[i];
        char words[300];
        struct slate_text text = SLATE_TEXT(words);

        slate_loss_words(loss, target->facts.geometry.block_bytes, &text);
        json_array_append_new(
            list, report_pack("{s:s, s:s, s:I, s:I}", "kind",
                              slate_loss_name(loss->kind), "text", words,
                              "first", (json_int_t)loss->range.first, "blocks",
                              (json_int_t)loss->range.count));
    }
    return report_pack("{s:o, s:I, s:b}", "unlisted", list, "unknown_blocks",
                       (json_int_t)ledger->unknown, "cut_short", ledger->cut);
}

/* The same in the sentences that people are shown. */
json_t *report_lost(const struct target *target,
                    const struct slate_draft *draft)
{
    json_t *list = report_made(json_array());
    struct loss loss;

    loss_of(target, draft, &loss);
    for (uint32_t i = 0; i < loss.count; i++)
        json_array_append_new(list, report_made(json_string(loss.line[i])));
    return list;
}

/* What follows from the input: to be read, and not read back. */
static json_t *shape_result(const struct target *target,
                            const struct slate_draft *draft)
{
    uint64_t tried =
        target->tries ? slate_probe_most(&draft->basis.geometry) : 0;

    return report_pack("{s:o, s:o, s:o, s:o, s:o, s:I, s:o, s:o}", "after",
                       report_after(draft, &target->facts), "volumes",
                       shape_volumes(draft), "files", shape_files(draft),
                       "lost", shape_lost(target), "lifts", shape_lifts(draft),
                       "tried_blocks", (json_int_t)tried, "steps",
                       shape_steps(draft), "remarks", report_remarks(draft));
}

/* A path that is not fit to be shown stands there byte for byte as well. */
static void add_raw_path(json_t *shape, const char *key, const char *path)
{
    char shown[4 * ADDRESS_ROOM], hex[2 * ADDRESS_ROOM + 1];
    struct slate_text text;

    if (strcmp(plain_shown(path, shown, sizeof shown), path) == 0)
        return;
    slate_text_start(&text, hex, sizeof hex);
    slate_text_bytes(&text, (const uint8_t *)path, strlen(path));
    json_object_set_new(shape, key, report_made(json_string(hex)));
}

/* Where its files are. */
static void add_folder(json_t *shape, const struct slate_draft *draft)
{
    const char *path = drafted_path(draft);
    char shown[4 * ADDRESS_ROOM];

    if (draft->files.count == 0)
        return;
    json_object_set_new(
        shape, "files_from",
        report_made(json_string(plain_shown(path, shown, sizeof shown))));
    add_raw_path(shape, "files_from_bytes", path);
}

json_t *draft_file_shape(const struct target *target, struct slate_draft *draft)
{
    char name[40];
    json_t *shape;

    snprintf(name, sizeof name, DRAFT_FAMILY "%u", draft->form);
    shape = report_pack("{s:s, s:i, s:s, s:o}", "shape", name, "version",
                        (int)draft->form, "tag", draft->basis.tag, "device",
                        report_device(target));
    draft_json_add(shape, draft);
    json_object_set_new(shape, "before", report_before(&target->facts));
    json_object_set_new(shape, "result", shape_result(target, draft));
    json_object_set_new(shape, "seal",
                        report_hex(draft->seal, SLATE_DIGEST_BYTES));
    add_raw_path(shape, "address_bytes", target->address);
    add_folder(shape, draft);
    return shape;
}

int draft_file_may_write(const char *path, const struct target *target,
                         bool replace)
{
    bool precious = durable_is_precious(path, target); /* a pipe, say */

    return durable_may_write(path, target,
                             !precious && draft_file_is_ours(path, target),
                             "draft", replace);
}

int draft_file_save(const char *path, const struct target *target,
                    struct slate_draft *draft)
{
    json_t *shape = draft_file_shape(target, draft);
    char *text = json_dumps(shape, JSON_INDENT(2) | JSON_ENSURE_ASCII);
    bool ok = text != NULL && durable_write(path, text, strlen(text));

    json_decref(shape);
    free(text);
    return ok ? 0
              : fail(SLATE_ERR_ACCESS, "%s: the draft cannot be written: %s",
                     path, strerror(errno));
}
