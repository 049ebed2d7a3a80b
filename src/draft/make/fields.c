/* SPDX-License-Identifier: MIT */
/* The fields of a draft's input: whatever is added to a draft is added here,
 * with a default that means what was done without it. Names, their order and
 * defaults stay for ever: seals follow from them (docs/formats.md). */

#include "base/base.h"
#include "draft/make/make.h"

#define FIELD(kind, ...)                                                       \
    v->visit(v->context,                                                       \
             &(const struct slate_field){SLATE_FIELD_##kind, __VA_ARGS__})

/* A field that is a whole number, or an enum, of any width. */
static uint64_t get(const void *field, size_t size)
{
    uint8_t narrow;
    uint16_t half;
    uint32_t word;
    uint64_t value = 0;

    if (size == sizeof narrow)
        return memcpy(&narrow, field, size), narrow;
    if (size == sizeof half)
        return memcpy(&half, field, size), half;
    if (size == sizeof word)
        return memcpy(&word, field, size), word;
    memcpy(&value, field, sizeof value);
    return value;
}

static void set(void *field, size_t size, uint64_t value)
{
    const uint8_t narrow = (uint8_t)value;
    const uint16_t half = (uint16_t)value;
    const uint32_t word = (uint32_t)value;

    memcpy(field,
           size == sizeof narrow ? (const void *)&narrow
           : size == sizeof half ? (const void *)&half
           : size == sizeof word ? (const void *)&word
                                 : (const void *)&value,
           size);
}

static bool visit_number(const struct slate_visitor *v, const char *name,
                         void *field, size_t size, uint64_t most)
{
    uint64_t value = get(field, size);
    bool go_on = FIELD(NUMBER, name, {.number = &value}, most, NULL);

    set(field, size, value);
    return go_on;
}

static bool visit_choice(const struct slate_visitor *v, const char *name,
                         void *field, size_t size, slate_name_of name_of,
                         uint32_t choices)
{
    uint32_t value = (uint32_t)get(field, size);
    bool go_on = FIELD(CHOICE, name, {.word = &value}, choices, name_of);

    set(field, size, value);
    return go_on;
}

#define NUMBER(name, field, most)                                              \
    visit_number(v, name, &(field), sizeof(field), most)
#define CHOICE(name, field, name_of, choices)                                  \
    visit_choice(v, name, &(field), sizeof(field), name_of, choices)
#define BITS(name, field, name_of, choices)                                    \
    FIELD(BITS, name, {.word = &(field)}, choices, name_of)
#define FLAG(name, field) FIELD(FLAG, name, {.flag = &(field)}, 0, NULL)
#define TEXT(name, field)                                                      \
    FIELD(TEXT, name, {.text = (field)}, sizeof(field), NULL)
#define BYTES(name, field)                                                     \
    FIELD(BYTES, name, {.bytes = (field)}, sizeof(field), NULL)
#define COUNT(field) FIELD(COUNT, NULL, {.word = &(field)}, 0, NULL)
#define SIZE(name, field) FIELD(SIZE, name, {.number = &(field)}, 0, NULL)
#define ENTER(name) FIELD(ENTER, name, {NULL}, 0, NULL)
#define LEAVE FIELD(LEAVE, NULL, {NULL}, 0, NULL)

/* Of a list that has no room, nothing is read. */
static bool has_room(enum slate_status status, uint32_t *count)
{
    if (status != SLATE_OK)
        *count = 0;
    return status == SLATE_OK;
}

/* Names of choices, up to how many there are. */
#define NAMER(function, choices, name)                                         \
    static const char *function(uint32_t choice)                               \
    {                                                                          \
        return choice < (choices) ? (name) : NULL;                             \
    }
#define NAMES(function, ...)                                                   \
    const char *function(uint32_t choice)                                      \
    {                                                                          \
        static const char *const names[] = {__VA_ARGS__};                      \
                                                                               \
        return choice < sizeof names / sizeof names[0] ? names[choice] : NULL; \
    }

NAMER(image_name, 3, slate_table_name((enum slate_table_kind)choice))
/* "fit" is a choice as well. */
NAMER(table_name, 4, choice == 0 ? "fit" : image_name(choice - 1))
NAMER(use_name, SLATE_USE_COUNT, slate_use_name((enum slate_use)choice))
NAMER(guard_name, SLATE_GUARD_KINDS,
      slate_guard_name((enum slate_guard_kind)choice))
NAMER(device_name, SLATE_DEVICE_KINDS,
      slate_device_name((enum slate_device_kind)choice))
NAMER(attribute_name, SLATE_ATTRIBUTE_KINDS,
      slate_attribute_name((enum slate_attribute_kind)choice))
NAMER(mend_name, SLATE_MEND_KINDS,
      slate_mend_name((enum slate_mend_kind)choice))
static NAMES(size_name, "rest", "bytes", "share")
static NAMES(round_name, "zero", "byte", "random")
NAMES(slate_read_back_name, "last", "all", "none")
NAMES(slate_discard_name, "no", "first", "last")
static NAMES(standing_name, "fits", "primary", "logical")
/* The moments in which a block may be changed in place; the others have
 * none.
 */
static NAMES(
    moment_name, [SLATE_MOMENT_COPIES] = "copies", [SLATE_MOMENT_BODY] = "body",
    [SLATE_MOMENT_TABLE_COPY] = "table-copy", [SLATE_MOMENT_TABLE] = "table",
    [SLATE_MOMENT_COMMIT] = "last")
static NAMES(role_name, "table", "table-copy", "volume", "volume-copy")
static NAMES(item_attribute_name, "read-only", "hidden", "system")

static const char *volume_name(uint32_t choice)
{
    const struct slate_format *format =
        slate_format_of((enum slate_volume_kind)choice);

    if (choice == SLATE_VOLUME_NONE)
        return "fit";
    return format == NULL ? NULL : format->composer.name;
}

static bool visit_round(struct slate_round *round,
                        const struct slate_visitor *v)
{
    return ENTER(NULL) &&
           CHOICE("kind", round->kind, round_name, SLATE_ROUND_KINDS) &&
           NUMBER("byte", round->byte, UINT8_MAX) && LEAVE;
}

static bool visit_overwrite(struct slate_overwrite *over,
                            const struct slate_visitor *v)
{
    bool go_on =
        ENTER("overwrite") &&
        CHOICE("read_back", over->read_back, slate_read_back_name,
               SLATE_READ_BACKS) &&
        CHOICE("discard", over->discard, slate_discard_name, SLATE_DISCARDS) &&
        ENTER("rounds") && COUNT(over->rounds) &&
        has_room(over->rounds <= SLATE_ROUNDS_MOST ? SLATE_OK : SLATE_ERR_ROOM,
                 &over->rounds);

    for (uint32_t i = 0; go_on && i < over->rounds; i++)
        go_on = visit_round(&over->round[i], v);
    return go_on && LEAVE && LEAVE;
}

/* Without a table that is given, one is chosen to fit. */
static bool visit_table(struct slate_goal *goal, const struct slate_visitor *v)
{
    uint32_t table = goal->table_given ? 1 + (uint32_t)goal->table : 0;
    bool go_on = CHOICE("table", table, table_name, 4);

    goal->table_given = table > 0;
    goal->table =
        table > 0 ? (enum slate_table_kind)(table - 1) : SLATE_TABLE_NONE;
    return go_on;
}

static bool visit_goal(struct slate_goal *goal, const struct slate_visitor *v)
{
    return ENTER("goal") &&
           CHOICE("for", goal->use, use_name, SLATE_USE_COUNT) &&
           visit_table(goal, v) &&
           NUMBER("entries", goal->entries, SLATE_GPT_ENTRIES_MOST) &&
           FLAG("keep_code", goal->keep_code) &&
           FLAG("keep_id", goal->keep_id) &&
           FLAG("cylinders", goal->cylinders) &&
           NUMBER("heads", goal->heads, 255) &&
           NUMBER("track_sectors", goal->track_sectors, 63) &&
           BITS("lift", goal->lift, guard_name, SLATE_GUARD_KINDS) &&
           FLAG("lasting", goal->lasting) &&
           visit_overwrite(&goal->overwrite, v) &&
           NUMBER("within", goal->within, INT64_MAX) && LEAVE;
}

/* Where one that stays is, and a new one beside a change in place; where others
 * go follows from the input. */
static bool visit_kept(struct slate_part *part, const struct slate_visitor *v)
{
    return NUMBER("keep", part->ask.keep, UINT32_MAX) &&
           FLAG("placed", part->ask.placed) &&
           FLAG("emptied", part->ask.emptied) &&
           ((part->ask.keep == 0 && !part->ask.placed) ||
            (NUMBER("first", part->range.first, INT64_MAX) &&
             NUMBER("blocks", part->range.count, INT64_MAX)));
}

/* What its entry shall say; all of it may follow from the volume. */
static bool visit_entry(struct slate_ask *ask, const struct slate_visitor *v)
{
    uint8_t bits[8];
    bool go_on;

    slate_put_le64(bits, ask->attributes);
    go_on = NUMBER("mbr_type", ask->mbr_type, UINT8_MAX) &&
            BYTES("gpt_type", ask->gpt_type.bytes) &&
            BYTES("attributes", bits) && TEXT("name", ask->name);
    ask->attributes = slate_le64(bits);
    return go_on;
}

static bool visit_part(void *element, const struct slate_visitor *v)
{
    struct slate_part *part = element;
    struct slate_ask *ask = &part->ask;

    return ENTER(NULL) && visit_kept(part, v) &&
           CHOICE("size_of", ask->size_kind, size_name, SLATE_SIZES) &&
           NUMBER("size", ask->size, INT64_MAX) &&
           CHOICE("standing", ask->standing, standing_name, SLATE_STANDINGS) &&
           FLAG("bare", ask->bare) && FLAG("files", ask->files) &&
           FLAG("start", ask->start) && FLAG("no_journal", ask->no_journal) &&
           CHOICE("volume", ask->volume, volume_name, SLATE_VOLUME_KINDS) &&
           NUMBER("cluster_bytes", ask->cluster_bytes, UINT32_MAX) &&
           FLAG("active", ask->active) && TEXT("label", ask->label) &&
           visit_entry(ask, v) && LEAVE;
}

/* What a list is made of, in words, and how its elements are visited. */
struct list {
    const char *name, *of;
    size_t each;
    bool (*visit)(void *element, const struct slate_visitor *v);
};

/* array: the address of the pointer to its first element */
static bool visit_list(struct slate_draft *draft, const struct list *list,
                       void *array, uint32_t *count,
                       const struct slate_visitor *v)
{
    uint8_t *element;
    bool go_on =
        ENTER(list->name) && COUNT(*count) &&
        has_room(slate_draft_grow(draft, list->of, array, *count, list->each),
                 count);

    memcpy(&element, array, sizeof element);
    for (uint32_t i = 0; go_on && i < *count; i++)
        go_on = list->visit(element + i * list->each, v);
    return go_on && LEAVE;
}

static bool visit_parts(struct slate_draft *draft,
                        const struct slate_visitor *v)
{
    static const struct list list = {"parts", "partitions",
                                     sizeof(struct slate_part), visit_part};

    return visit_list(draft, &list, &draft->part, &draft->parts, v);
}

static bool visit_geometry(struct slate_geometry *geometry,
                           const struct slate_visitor *v)
{
    return NUMBER("blocks", geometry->block_count, INT64_MAX) &&
           NUMBER("block_bytes", geometry->block_bytes, UINT32_MAX) &&
           NUMBER("physical_bytes", geometry->physical_bytes, UINT32_MAX) &&
           NUMBER("erase_bytes", geometry->erase_bytes, UINT32_MAX);
}

static bool visit_ranges(struct slate_draft *draft, const char *name,
                         struct slate_ranges *ranges,
                         const struct slate_visitor *v)
{
    uint64_t size = ranges->count;

    return SIZE(name, size) &&
           has_room(slate_draft_grow_ranges(draft, name, ranges, size),
                    &ranges->count) &&
           FIELD(RANGES, name, {.ranges = ranges}, 0, NULL);
}

static bool visit_blob(struct slate_draft *draft, const char *name,
                       struct slate_bytes *bytes, const struct slate_visitor *v)
{
    uint64_t size = bytes->count;

    return SIZE(name, size) &&
           has_room(slate_draft_grow_bytes(draft, name, bytes, size),
                    &bytes->count) &&
           FIELD(BLOB, name, {.blob = bytes}, 0, NULL);
}

static bool visit_evidence(struct slate_draft *draft,
                           const struct slate_visitor *v)
{
    struct slate_evidence *evidence = &draft->basis.evidence;
    uint64_t size = evidence->count;

    return SIZE("evidence", size) &&
           has_room(slate_draft_grow_seen(draft, size), &evidence->count) &&
           FIELD(EVIDENCE, "evidence", {.evidence = evidence}, 0, NULL);
}

static bool visit_basis(struct slate_draft *draft,
                        const struct slate_visitor *v)
{
    struct slate_basis *basis = &draft->basis;

    return ENTER("basis") && TEXT("tag", basis->tag) &&
           BYTES("identity", basis->identity) &&
           CHOICE("device", basis->device, device_name, SLATE_DEVICE_KINDS) &&
           visit_geometry(&basis->geometry, v) &&
           NUMBER("claimed", basis->claimed, INT64_MAX) &&
           NUMBER("proved", basis->proved, INT64_MAX) &&
           BITS("guards", basis->guards, guard_name, SLATE_GUARD_KINDS) &&
           BITS("firm", basis->firm, guard_name, SLATE_GUARD_KINDS) &&
           visit_ranges(draft, "old", &basis->old, v) &&
           visit_evidence(draft, v) &&
           NUMBER("disk_signature", basis->disk_signature, UINT32_MAX) &&
           BYTES("disk_id", basis->disk_id.bytes) &&
           CHOICE("image_of", basis->image_of, image_name, 3) &&
           visit_blob(draft, "image", &basis->image, v) && LEAVE;
}

static bool visit_stamp(struct slate_stamp *stamp,
                        const struct slate_visitor *v)
{
    return NUMBER("year", stamp->year, 2107) &&
           NUMBER("month", stamp->month, 12) && NUMBER("day", stamp->day, 31) &&
           NUMBER("hour", stamp->hour, 23) &&
           NUMBER("minute", stamp->minute, 59) &&
           NUMBER("second", stamp->second, 59);
}

static bool visit_choices(struct slate_choices *choices,
                          const struct slate_visitor *v)
{
    return ENTER("choices") && BYTES("seed", choices->seed) &&
           visit_stamp(&choices->stamp, v) && LEAVE;
}

static bool visit_clear(void *element, const struct slate_visitor *v)
{
    struct slate_cleared *clear = element;

    return ENTER(NULL) &&
           CHOICE("kind", clear->kind, attribute_name, SLATE_ATTRIBUTE_KINDS) &&
           NUMBER("partition", clear->number, UINT32_MAX) && LEAVE;
}

static bool visit_mend(void *element, const struct slate_visitor *v)
{
    struct slate_mended *mend = element;

    return ENTER(NULL) &&
           CHOICE("kind", mend->kind, mend_name, SLATE_MEND_KINDS) &&
           NUMBER("partition", mend->number, UINT32_MAX) && LEAVE;
}

static bool visit_patch(void *element, const struct slate_visitor *v)
{
    struct slate_patch *patch = element;

    return ENTER(NULL) && NUMBER("block", patch->lba, INT64_MAX) &&
           CHOICE("moment", patch->moment, moment_name, SLATE_MOMENTS) &&
           CHOICE("of", patch->role, role_name, SLATE_PATCH_ROLES) && LEAVE;
}

static bool visit_renamed(struct slate_renamed *renamed,
                          const struct slate_visitor *v)
{
    return ENTER("renamed") && FLAG("wanted", renamed->wanted) &&
           NUMBER("partition", renamed->number, UINT32_MAX) &&
           TEXT("label", renamed->label) && LEAVE;
}

static bool visit_change(struct slate_draft *draft,
                         const struct slate_visitor *v)
{
    static const struct list clears = {"clears", "attributes that are cleared",
                                       sizeof(struct slate_cleared),
                                       visit_clear};
    static const struct list mends = {"mends", "things that are mended",
                                      sizeof(struct slate_mended), visit_mend};
    static const struct list patches = {"patches", "blocks that are changed",
                                        sizeof(struct slate_patch),
                                        visit_patch};
    struct slate_change *change = &draft->change;

    return visit_renamed(&change->renamed, v) &&
           visit_list(draft, &clears, &change->clear, &change->clears, v) &&
           visit_list(draft, &mends, &change->mend, &change->mends, v) &&
           visit_list(draft, &patches, &change->patch, &change->patches, v) &&
           visit_blob(draft, "patched", &change->bytes, v);
}

/* at: where its name begins; moves on behind it */
static bool visit_item(struct slate_draft *draft, uint32_t index, uint32_t *at,
                       const struct slate_visitor *v)
{
    struct slate_files *files = &draft->files;
    struct slate_item *item = &files->item[index];
    uint64_t size = 0;
    uint32_t attributes = item->attributes;

    if (!ENTER(NULL) || !FIELD(TEXT_SIZE, "name", {.number = &size}, 0, NULL) ||
        slate_draft_grow_files(draft, files->count, *at + size) != SLATE_OK ||
        !FIELD(TEXT, "name", {.text = (char *)files->names.byte + *at},
               files->names.room - *at, NULL) ||
        !NUMBER("in", item->parent, UINT32_MAX) ||
        !FLAG("folder", item->folder) ||
        !BITS("attributes", attributes, item_attribute_name, 3) ||
        !NUMBER("bytes", item->bytes, INT64_MAX) ||
        !BYTES("digest", item->digest) || !visit_stamp(&item->changed, v) ||
        !LEAVE)
        return false;
    item->attributes = (uint8_t)attributes;
    item->name = *at;
    *at += (uint32_t)strlen((char *)files->names.byte + *at) + 1;
    return true;
}

/* Names follow one another in the order of the items. */
static bool visit_files(struct slate_draft *draft,
                        const struct slate_visitor *v)
{
    struct slate_files *files = &draft->files;
    uint32_t at = 0;
    bool go_on =
        NUMBER("ahead", files->ahead, UINT32_MAX) && ENTER("files") &&
        COUNT(files->count) &&
        has_room(slate_draft_grow_files(draft, files->count, 0), &files->count);

    for (uint32_t i = 0; go_on && i < files->count; i++)
        go_on = visit_item(draft, i, &at, v);
    files->names.count = at;
    return go_on && LEAVE;
}

/* Only those that are not 0 say anything; 13 had none of them. */
static bool visit_revisions(struct slate_draft *draft,
                            const struct slate_visitor *v)
{
    struct slate_revisions *revisions = &draft->revisions;
    const struct slate_format *format;
    bool go_on = ENTER("revisions") &&
                 NUMBER("placing", revisions->placing, UINT32_MAX) &&
                 NUMBER("rounds", revisions->rounds, UINT32_MAX);

    for (uint32_t i = 1; go_on && i < SLATE_TABLES_WRITTEN; i++)
        go_on = NUMBER(slate_table_name((enum slate_table_kind)i),
                       revisions->table[i], UINT32_MAX);
    for (uint32_t i = 0; go_on && (format = slate_format_at(i)) != NULL; i++)
        go_on = NUMBER(format->composer.name, revisions->format[i], UINT32_MAX);
    return go_on && LEAVE;
}

bool slate_draft_visit_wish(struct slate_draft *draft,
                            const struct slate_visitor *visitor)
{
    return visit_goal(&draft->goal, visitor) && visit_parts(draft, visitor) &&
           visit_ranges(draft, "bad", &draft->bad, visitor) &&
           visit_files(draft, visitor) &&
           visit_blob(draft, "start_code", &draft->start, visitor);
}

bool slate_draft_visit(struct slate_draft *draft,
                       const struct slate_visitor *visitor)
{
    return visit_goal(&draft->goal, visitor) && visit_parts(draft, visitor) &&
           visit_basis(draft, visitor) &&
           visit_choices(&draft->choices, visitor) &&
           (draft->form < 14 || visit_revisions(draft, visitor)) &&
           visit_change(draft, visitor) &&
           visit_ranges(draft, "bad", &draft->bad, visitor) &&
           visit_files(draft, visitor) &&
           visit_blob(draft, "start_code", &draft->start, visitor);
}
