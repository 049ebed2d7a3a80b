/* SPDX-License-Identifier: MIT */
/* Drafts as files. Only the input of the draft is read back, and its seal has
 * to come out the same; everything else in the file is there to be read. */
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "report/draft_file.h"
#include "report/draft_json.h"
#include "drafted.h"
#include "given.h"
#include "state/durable.h"
#include "state/outputs.h"
#include "plain.h"
#include "report/report.h"
#include "say.h"

#define FAMILY "trueslate.draft/"
#define SHAPE FAMILY "13"
_Static_assert(SLATE_DRAFT_VERSION == 13, "the shape has the version");

static json_t *shape_lifts(const struct slate_draft *draft)
{
    json_t *lifts = report_made(json_array());
    enum slate_guard_kind kind = SLATE_GUARD_SWITCH;
    struct slate_text text;
    char words[160];

    slate_text_start(&text, words, sizeof words);
    for (uint32_t i = 0; slate_draft_lift(draft, i, &kind, &text); i++) {
        json_array_append_new(
            lifts, report_made(json_pack(
                       "{s:s, s:b}", "kind", slate_guard_name(kind), "lasting",
                       slate_guard_lift_lasts(kind, draft->goal.lasting))));
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
            steps,
            report_made(json_pack(
                "{s:s, s:o, s:I, s:I, s:I}", "step",
                slate_draft_step(draft, &extent), "partition",
                shape_number(draft, extent.part), "first",
                (json_int_t)extent.first, "blocks", (json_int_t)extent.count,
                "seconds",
                (json_int_t)slate_advise_seconds(draft, extent.count, false))));
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
            list, report_made(json_pack(
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
                      (json_int_t)figures.whole.count)));
    }
    return list;
}

static json_t *shape_files(const struct slate_draft *draft)
{
    struct slate_files_sum sum;

    slate_files_add_up(&draft->files, &sum);
    return report_made(
        json_pack("{s:I, s:I, s:I}", "files", (json_int_t)sum.files, "folders",
                  (json_int_t)sum.folders, "bytes", (json_int_t)sum.bytes));
}

/* What follows from the input: to be read, and not read back. */
static json_t *shape_result(const struct slate_draft *draft,
                            const struct slate_facts *facts)
{
    return report_made(json_pack(
        "{s:o, s:o, s:o, s:o, s:o, s:o}", "after", report_after(draft, facts),
        "volumes", shape_volumes(draft), "files", shape_files(draft), "lifts",
        shape_lifts(draft), "steps", shape_steps(draft), "remarks",
        report_remarks(draft)));
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
    json_t *shape =
        report_made(json_pack("{s:s, s:i, s:s, s:o}", "shape", SHAPE, "version",
                              (int)SLATE_DRAFT_VERSION, "tag", draft->basis.tag,
                              "device", report_device(target)));

    draft_json_add(shape, draft);
    json_object_set_new(shape, "before", report_before(&target->facts));
    json_object_set_new(shape, "result", shape_result(draft, &target->facts));
    json_object_set_new(shape, "seal",
                        report_hex(draft->seal, SLATE_DIGEST_BYTES));
    add_raw_path(shape, "address_bytes", target->address);
    add_folder(shape, draft);
    return shape;
}

static bool read_hex(const json_t *object, const char *key, uint8_t *bytes,
                     size_t length)
{
    return draft_json_hex(json_string_value(json_object_get(object, key)),
                          bytes, length);
}

#define FILE_MOST 1073741824u /* a draft that places millions of files */

/* NULL: it is no JSON; or it was refused, as given tells where it is wanted. */
static json_t *load(const char *path, struct given *why)
{
    struct given given;
    json_t *shape = given_read(path, GIVEN_TEXT, FILE_MOST, &given)
                        ? json_loadb(given.bytes, given.length,
                                     JSON_REJECT_DUPLICATES, NULL)
                        : NULL;

    if (why != NULL)
        *why = given;
    given_free(&given);
    return shape;
}

/* An earlier draft of the same device, and not the one whose work on it is
 * unfinished. */
static bool is_ours(const char *path, const struct target *target)
{
    json_t *shape = load(path, NULL);
    const char *name = json_string_value(json_object_get(shape, "shape"));
    uint8_t identity[SLATE_DIGEST_BYTES], seal[SLATE_DIGEST_BYTES];
    bool ours = name != NULL && strncmp(name, FAMILY, strlen(FAMILY)) == 0 &&
                read_hex(json_object_get(shape, "basis"), "identity", identity,
                         sizeof identity) &&
                memcmp(identity, target->media.digest, sizeof identity) == 0;

    if (ours && target->facts.marked &&
        read_hex(shape, "seal", seal, sizeof seal))
        ours = memcmp(seal, target->facts.mark.seal, sizeof seal) != 0;
    json_decref(shape);
    return ours;
}

int draft_file_may_write(const char *path, const struct target *target,
                         bool replace)
{
    bool precious = durable_is_precious(path, target); /* a pipe, say */

    return durable_may_write(path, target, !precious && is_ours(path, target),
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

/* bytes: the path byte for byte, in hexadecimal, or NULL */
static bool read_path(const char *shown, const char *bytes,
                      char path[ADDRESS_ROOM])
{
    size_t length = bytes == NULL ? 0 : strlen(bytes) / 2;

    if (bytes == NULL && shown != NULL && strlen(shown) < ADDRESS_ROOM) {
        memcpy(path, shown, strlen(shown) + 1);
        return true;
    }
    if (bytes == NULL || length >= ADDRESS_ROOM ||
        !draft_json_hex(bytes, (uint8_t *)path, length))
        return false;
    path[length] = '\0';
    return strlen(path) == length;
}

static const char *text_of(const json_t *object, const char *key)
{
    return json_string_value(json_object_get(object, key));
}

static bool read_address(const json_t *shape, char address[ADDRESS_ROOM])
{
    return read_path(text_of(json_object_get(shape, "device"), "address"),
                     text_of(shape, "address_bytes"), address);
}

/* With as much room as all that is listed takes. */
static bool take_fields(json_t *shape, struct slate_draft *draft)
{
    while (!draft_json_take(shape, draft)) {
        if (draft->shortage.of == NULL)
            return false;
        draft->shortage.of = NULL;
        drafted_enlarge(draft);
    }
    return true;
}

static bool read_folder(const json_t *shape, struct slate_draft *draft)
{
    char path[ADDRESS_ROOM];

    if (draft->files.count == 0)
        return true;
    if (!read_path(text_of(shape, "files_from"),
                   text_of(shape, "files_from_bytes"), path) ||
        strlen(path) >= PATH_MAX)
        return false;
    folder_at(draft, path);
    return true;
}

static enum slate_status read_shape(json_t *shape, struct slate_draft *draft,
                                    char address[ADDRESS_ROOM])
{
    const char *name = json_string_value(json_object_get(shape, "shape"));
    uint8_t seal[SLATE_DIGEST_BYTES];

    return name != NULL && strcmp(name, SHAPE) == 0 &&
                   read_hex(shape, "seal", seal, sizeof seal) &&
                   take_fields(shape, draft) &&
                   slate_draft_make(draft) == SLATE_OK &&
                   memcmp(draft->seal, seal, sizeof seal) == 0 &&
                   read_address(shape, address) && read_folder(shape, draft)
               ? SLATE_OK
               : SLATE_ERR_DRAFT_DAMAGED;
}

static bool is_other_version(const json_t *shape)
{
    const char *name = json_string_value(json_object_get(shape, "shape"));
    json_int_t version = json_integer_value(json_object_get(shape, "version"));

    return name != NULL && strncmp(name, FAMILY, strlen(FAMILY)) == 0 &&
           (strcmp(name, SHAPE) != 0 || version != SLATE_DRAFT_VERSION);
}

static enum slate_status read_draft(const char *path, struct slate_draft *draft,
                                    char address[ADDRESS_ROOM],
                                    struct given *why)
{
    enum slate_status status = SLATE_ERR_DRAFT_DAMAGED;
    json_t *shape = load(path, why);

    if (shape != NULL)
        status = is_other_version(shape) ? SLATE_ERR_DRAFT_VERSION
                                         : read_shape(shape, draft, address);
    json_decref(shape);
    return status;
}

enum slate_status draft_file_read(const char *path, struct slate_draft *draft,
                                  char address[ADDRESS_ROOM])
{
    return read_draft(path, draft, address, NULL);
}

int draft_file_load(const char *path, struct slate_draft *draft,
                    char address[ADDRESS_ROOM])
{
    enum slate_status status;
    struct given why;

    if (access(path, F_OK) != 0)
        return fail(SLATE_ERR_ARGUMENT, "%s: there is no such draft file",
                    path);
    status = read_draft(path, draft, address, &why);
    if (why.status != SLATE_OK)
        return given_fail(&why, "", path);
    return status == SLATE_OK ? 0 : fail_plainly(status, path);
}
