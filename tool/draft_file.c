/* SPDX-License-Identifier: MIT */
/* Drafts as files. Only goal, basis and choices are read back; everything else
 * is made anew from them and has to come out the same, and a digest over the
 * whole file tells of any other change. */
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "draft_file.h"
#include "durable.h"
#include "lifts.h"
#include "plain.h"
#include "report.h"
#include "say.h"

#define FAMILY "trueslate.draft/"
#define SHAPE FAMILY "4"

static json_t *shape_goal(const struct slate_goal *goal)
{
    return report_made(json_pack(
        "{s:s, s:s, s:s, s:i, s:s, s:o, s:b}", "for", slate_use_name(goal->use),
        "table", goal->table_given ? report_table(goal->table) : "fit",
        "volume", report_format(goal->volume), "cluster_bytes",
        (int)goal->cluster_bytes, "label", goal->label, "lift",
        report_guards(goal->lift), "lasting", goal->lasting));
}

static json_t *shape_ranges(const struct slate_range *range, uint32_t count)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < count; i++)
        json_array_append_new(
            list, report_made(json_pack("[I, I]", (json_int_t)range[i].first,
                                        (json_int_t)range[i].count)));
    return list;
}

static json_t *shape_evidence(const struct slate_evidence *evidence)
{
    return report_made(
        json_pack("{s:o, s:o, s:o}", "first",
                  report_hex(evidence->first, SLATE_DIGEST_BYTES), "rest",
                  report_hex(evidence->rest, SLATE_DIGEST_BYTES), "ranges",
                  shape_ranges(evidence->range, evidence->count)));
}

static json_t *shape_basis(const struct slate_basis *basis)
{
    const struct slate_geometry *geometry = &basis->geometry;

    return report_made(json_pack(
        "{s:s, s:o, s:I, s:i, s:i, s:i, s:o, s:o, s:o, s:o}", "tag", basis->tag,
        "identity", report_hex(basis->identity, SLATE_DIGEST_BYTES), "blocks",
        (json_int_t)geometry->block_count, "block_bytes",
        (int)geometry->block_bytes, "physical_bytes",
        (int)geometry->physical_bytes, "erase_bytes",
        (int)geometry->erase_bytes, "guards", report_guards(basis->guards),
        "firm", report_guards(basis->firm), "old",
        shape_ranges(basis->old, basis->old_count), "evidence",
        shape_evidence(&basis->evidence)));
}

static json_t *shape_choices(const struct slate_choices *choices)
{
    const struct slate_stamp *stamp = &choices->stamp;

    return report_made(json_pack("{s:o, s:[i, i, i, i, i, i]}", "seed",
                                 report_hex(choices->seed, 16), "stamp",
                                 stamp->year, stamp->month, stamp->day,
                                 stamp->hour, stamp->minute, stamp->second));
}

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

/* One entry for each run of blocks. */
static json_t *shape_steps(const struct slate_draft *draft)
{
    json_t *steps = report_made(json_array());
    struct slate_walk walk = {0};
    struct slate_extent extent;

    while (slate_draft_next(draft, &walk, &extent))
        json_array_append_new(
            steps, report_made(json_pack("{s:s, s:I, s:I}", "step",
                                         slate_draft_step(draft, &extent),
                                         "first", (json_int_t)extent.first,
                                         "blocks", (json_int_t)extent.count)));
    return steps;
}

static json_t *shape_remarks(const struct slate_draft *draft)
{
    json_t *remarks = report_made(json_array());
    struct slate_text text;
    char words[512];

    slate_text_start(&text, words, sizeof words);
    for (uint32_t i = 0; slate_draft_remark(draft, i, &text); i++) {
        json_array_append_new(remarks, report_made(json_string(words)));
        slate_text_start(&text, words, sizeof words);
    }
    return remarks;
}

static json_t *shape_volume(const struct slate_part *part)
{
    struct slate_figures figures;

    part->format->figures(&part->volume, &figures);
    return report_made(json_pack("{s:s, s:s, s:I, s:I, s:I, s:I, s:I}", "kind",
                                 part->format->composer.name, "label",
                                 figures.label, "serial",
                                 (json_int_t)figures.serial, "cluster_bytes",
                                 (json_int_t)figures.cluster_bytes, "clusters",
                                 (json_int_t)figures.clusters, "room_bytes",
                                 (json_int_t)figures.room_bytes, "blocks",
                                 (json_int_t)figures.whole.count));
}

/* What follows from the input; made anew on loading, and compared. */
static json_t *shape_result(const struct slate_draft *draft)
{
    return report_made(
        json_pack("{s:o, s:o, s:o, s:o, s:o, s:o}", "seal",
                  report_hex(draft->seal, SLATE_DIGEST_BYTES), "after",
                  report_after(draft), "volume", shape_volume(&draft->part[0]),
                  "lifts", shape_lifts(draft), "steps", shape_steps(draft),
                  "remarks", shape_remarks(draft)));
}

/* The digest of everything else in the file. */
static json_t *digest_of(const json_t *shape)
{
    char *dump = json_dumps(shape, JSON_COMPACT | JSON_SORT_KEYS);
    struct slate_sha256 sha;
    uint8_t digest[SLATE_DIGEST_BYTES];

    if (dump == NULL)
        exit(fail_plainly(SLATE_ERR_INTERNAL, "the draft's digest"));
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, dump, strlen(dump));
    slate_sha256_end(&sha, digest);
    free(dump);
    return report_hex(digest, sizeof digest);
}

/* A path that is not fit to be shown stands there byte for byte as well. */
static void add_raw_address(json_t *shape, const char *address)
{
    char shown[4 * ADDRESS_ROOM], hex[2 * ADDRESS_ROOM + 1];
    struct slate_text text;

    if (strcmp(plain_shown(address, shown, sizeof shown), address) == 0)
        return;
    slate_text_start(&text, hex, sizeof hex);
    slate_text_bytes(&text, (const uint8_t *)address, strlen(address));
    json_object_set_new(shape, "address_bytes", report_made(json_string(hex)));
}

json_t *draft_file_shape(const struct target *target,
                         const struct slate_draft *draft)
{
    json_t *shape = report_made(json_pack(
        "{s:s, s:i, s:s, s:o, s:o, s:o, s:o, s:o, s:o}", "shape", SHAPE,
        "version", (int)SLATE_DRAFT_VERSION, "tag", draft->basis.tag, "device",
        report_device(target), "goal", shape_goal(&draft->goal), "basis",
        shape_basis(&draft->basis), "choices", shape_choices(&draft->choices),
        "before", report_before(&target->facts), "result",
        shape_result(draft)));

    add_raw_address(shape, target->address);
    json_object_set_new(shape, "digest", digest_of(shape));
    return shape;
}

static bool read_hex(const json_t *object, const char *key, uint8_t *bytes,
                     size_t length)
{
    const char *hex = json_string_value(json_object_get(object, key));

    if (hex == NULL || strlen(hex) != 2 * length ||
        strspn(hex, "0123456789abcdef") != 2 * length)
        return false;
    for (size_t i = 0; i < length; i++) {
        char pair[3] = {hex[2 * i], hex[2 * i + 1], '\0'};

        bytes[i] = (uint8_t)strtoul(pair, NULL, 16);
    }
    return true;
}

/* An earlier draft of the same device, and not the one whose work on it is
 * unfinished. */
static bool is_ours(const char *path, const struct target *target)
{
    json_t *shape = json_load_file(path, 0, NULL);
    const char *name = json_string_value(json_object_get(shape, "shape"));
    uint8_t identity[SLATE_DIGEST_BYTES], seal[SLATE_DIGEST_BYTES];
    bool ours = name != NULL && strncmp(name, FAMILY, strlen(FAMILY)) == 0 &&
                read_hex(json_object_get(shape, "basis"), "identity", identity,
                         sizeof identity) &&
                memcmp(identity, target->media.digest, sizeof identity) == 0;

    if (ours && target->facts.marked &&
        read_hex(json_object_get(shape, "result"), "seal", seal, sizeof seal))
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
                    const struct slate_draft *draft)
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

static bool read_number(const json_t *value, uint64_t most, uint64_t *number)
{
    json_int_t n = json_integer_value(value);

    *number = (uint64_t)n;
    return json_is_integer(value) && n >= 0 && (uint64_t)n <= most;
}

static bool read_u32(const json_t *object, const char *key, uint32_t *number)
{
    uint64_t wide;
    bool ok = read_number(json_object_get(object, key), UINT32_MAX, &wide);

    *number = (uint32_t)wide;
    return ok;
}

static bool read_text(const json_t *object, const char *key, char *field,
                      size_t room)
{
    const char *text = json_string_value(json_object_get(object, key));

    if (text == NULL || strlen(text) >= room)
        return false;
    memcpy(field, text, strlen(text) + 1);
    return true;
}

static bool read_guards(const json_t *object, const char *key, uint32_t *guards)
{
    const json_t *list = json_object_get(object, key), *name;
    size_t i;

    *guards = 0;
    json_array_foreach(list, i, name)
    {
        const char *word = json_string_value(name);

        if (word == NULL || lifts_named(word) == 0)
            return false;
        *guards |= lifts_named(word);
    }
    return json_is_array(list);
}

/* "fit", or the name of a format. */
static bool read_format(const char *word, enum slate_volume_kind *kind)
{
    *kind = SLATE_VOLUME_NONE;
    return strcmp(word, report_format(*kind)) == 0 || format_named(word, kind);
}

static bool read_goal(const json_t *object, struct slate_goal *goal)
{
    const char *use = json_string_value(json_object_get(object, "for"));
    const char *table = json_string_value(json_object_get(object, "table"));
    const char *volume = json_string_value(json_object_get(object, "volume"));

    if (use == NULL || table == NULL || volume == NULL ||
        !read_format(volume, &goal->volume) ||
        !read_u32(object, "cluster_bytes", &goal->cluster_bytes) ||
        !read_text(object, "label", goal->label, sizeof goal->label) ||
        !read_guards(object, "lift", &goal->lift))
        return false;
    goal->lasting = json_is_true(json_object_get(object, "lasting"));
    for (int i = 0; i <= SLATE_TABLE_GPT; i++) {
        if (strcmp(table, report_table((enum slate_table_kind)i)) == 0) {
            goal->table_given = true;
            goal->table = (enum slate_table_kind)i;
        }
    }
    for (int i = 0; i < SLATE_USE_COUNT; i++) {
        if (strcmp(use, slate_use_name((enum slate_use)i)) == 0) {
            goal->use = (enum slate_use)i;
            return true;
        }
    }
    return false;
}

static bool read_ranges(const json_t *list, uint32_t room,
                        struct slate_range *range, uint32_t *count)
{
    if (!json_is_array(list) || json_array_size(list) > room)
        return false;
    *count = (uint32_t)json_array_size(list);
    for (uint32_t i = 0; i < *count; i++) {
        const json_t *pair = json_array_get(list, i);

        if (!read_number(json_array_get(pair, 0), INT64_MAX, &range[i].first) ||
            !read_number(json_array_get(pair, 1), INT64_MAX, &range[i].count))
            return false;
    }
    return true;
}

static bool read_evidence(const json_t *object, struct slate_evidence *evidence)
{
    return read_hex(object, "first", evidence->first, SLATE_DIGEST_BYTES) &&
           read_hex(object, "rest", evidence->rest, SLATE_DIGEST_BYTES) &&
           read_ranges(json_object_get(object, "ranges"), SLATE_EVIDENCE_RANGES,
                       evidence->range, &evidence->count);
}

static bool read_basis(const json_t *object, struct slate_basis *basis)
{
    struct slate_geometry *geometry = &basis->geometry;

    return read_text(object, "tag", basis->tag, sizeof basis->tag) &&
           read_hex(object, "identity", basis->identity, SLATE_DIGEST_BYTES) &&
           read_number(json_object_get(object, "blocks"), INT64_MAX,
                       &geometry->block_count) &&
           read_u32(object, "block_bytes", &geometry->block_bytes) &&
           read_u32(object, "physical_bytes", &geometry->physical_bytes) &&
           read_u32(object, "erase_bytes", &geometry->erase_bytes) &&
           read_guards(object, "guards", &basis->guards) &&
           read_guards(object, "firm", &basis->firm) &&
           read_ranges(json_object_get(object, "old"), SLATE_BASIS_RANGES,
                       basis->old, &basis->old_count) &&
           read_evidence(json_object_get(object, "evidence"), &basis->evidence);
}

static bool read_choices(const json_t *object, struct slate_choices *choices)
{
    static const uint16_t most[6] = {2107, 12, 31, 23, 59, 59};
    const json_t *list = json_object_get(object, "stamp");
    uint64_t part[6];

    for (size_t i = 0; i < 6; i++) {
        if (!read_number(json_array_get(list, i), most[i], &part[i]))
            return false;
    }
    choices->stamp = (struct slate_stamp){(uint16_t)part[0], (uint8_t)part[1],
                                          (uint8_t)part[2],  (uint8_t)part[3],
                                          (uint8_t)part[4],  (uint8_t)part[5]};
    return read_hex(object, "seed", choices->seed, sizeof choices->seed);
}

/* Takes the digest out and compares it with the rest. */
static bool digest_agrees(json_t *shape)
{
    json_t *stated = json_incref(json_object_get(shape, "digest"));
    json_t *found;
    bool equal;

    json_object_del(shape, "digest");
    found = digest_of(shape);
    equal = json_equal(stated, found);
    json_decref(stated);
    json_decref(found);
    return equal;
}

static bool read_address(const json_t *shape, char address[ADDRESS_ROOM])
{
    const char *hex =
        json_string_value(json_object_get(shape, "address_bytes"));
    size_t length = hex == NULL ? 0 : strlen(hex) / 2;

    if (hex == NULL)
        return read_text(json_object_get(shape, "device"), "address", address,
                         ADDRESS_ROOM);
    if (length >= ADDRESS_ROOM ||
        !read_hex(shape, "address_bytes", (uint8_t *)address, length))
        return false;
    address[length] = '\0';
    return strlen(address) == length;
}

static enum slate_status read_shape(json_t *shape, struct draft_file *file)
{
    struct slate_goal goal = {0};
    struct slate_basis basis = {0};
    struct slate_choices choices = {0};
    json_t *result;
    bool equal;

    if (!digest_agrees(shape) ||
        !read_goal(json_object_get(shape, "goal"), &goal) ||
        !read_basis(json_object_get(shape, "basis"), &basis) ||
        !read_choices(json_object_get(shape, "choices"), &choices) ||
        !read_address(shape, file->address) ||
        slate_draft_make(&goal, &basis, &choices, &file->draft) != SLATE_OK)
        return SLATE_ERR_DRAFT_DAMAGED;
    result = shape_result(&file->draft);
    equal = json_equal(result, json_object_get(shape, "result"));
    json_decref(result);
    return equal ? SLATE_OK : SLATE_ERR_DRAFT_DAMAGED;
}

static bool is_other_version(const json_t *shape)
{
    const char *name = json_string_value(json_object_get(shape, "shape"));
    json_int_t version = json_integer_value(json_object_get(shape, "version"));

    return name != NULL && strncmp(name, FAMILY, strlen(FAMILY)) == 0 &&
           (strcmp(name, SHAPE) != 0 || version != SLATE_DRAFT_VERSION);
}

enum slate_status draft_file_read(const char *path, struct draft_file *file)
{
    enum slate_status status = SLATE_ERR_DRAFT_DAMAGED;
    json_error_t error;
    json_t *shape = json_load_file(path, JSON_REJECT_DUPLICATES, &error);

    memset(file, 0, sizeof *file);
    if (shape != NULL)
        status = is_other_version(shape) ? SLATE_ERR_DRAFT_VERSION
                                         : read_shape(shape, file);
    json_decref(shape);
    return status;
}

int draft_file_load(const char *path, struct draft_file *file)
{
    enum slate_status status;

    if (access(path, F_OK) != 0)
        return fail(SLATE_ERR_ARGUMENT, "%s: there is no such draft file",
                    path);
    status = draft_file_read(path, file);
    return status == SLATE_OK ? 0 : fail_plainly(status, path);
}
