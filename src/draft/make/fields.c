/* SPDX-License-Identifier: MIT */
/* The fields of a draft's input: whatever is added to a draft is added here,
 * and SLATE_DRAFT_VERSION counts up. */
#include <string.h>

#include "base/bytes.h"
#include "draft/make/room.h"
#include "draft/make/store.h"
#include "trueslate/mend.h"
#include "trueslate/stored.h"

#define V(operation, ...) v->operation(v->context, __VA_ARGS__)

/* Of a list that has no room, nothing is read. */
static bool has_room(enum slate_status status, uint32_t *count)
{
    if (status != SLATE_OK)
        *count = 0;
    return status == SLATE_OK;
}

/* Tables that are composed; "fit" is a choice. */
static const char *table_name(uint32_t choice)
{
    if (choice == 0)
        return "fit";
    return choice <= 1 + SLATE_TABLE_GPT
               ? slate_table_name((enum slate_table_kind)(choice - 1))
               : NULL;
}

static const char *use_name(uint32_t choice)
{
    return choice < SLATE_USE_COUNT ? slate_use_name((enum slate_use)choice)
                                    : NULL;
}

static const char *guard_name(uint32_t choice)
{
    return choice < SLATE_GUARD_KINDS
               ? slate_guard_name((enum slate_guard_kind)choice)
               : NULL;
}

static const char *size_name(uint32_t choice)
{
    static const char *const names[SLATE_SIZES] = {"rest", "bytes", "share"};

    return choice < SLATE_SIZES ? names[choice] : NULL;
}

static const char *volume_name(uint32_t choice)
{
    const struct slate_format *format =
        slate_format_of((enum slate_volume_kind)choice);

    if (choice == SLATE_VOLUME_NONE)
        return "fit";
    return format == NULL ? NULL : format->composer.name;
}

static const char *round_name(uint32_t choice)
{
    static const char *const names[SLATE_ROUND_KINDS] = {"zero", "byte",
                                                         "random"};

    return choice < SLATE_ROUND_KINDS ? names[choice] : NULL;
}

const char *slate_read_back_name(uint32_t choice)
{
    static const char *const names[SLATE_READ_BACKS] = {"last", "all", "none"};

    return choice < SLATE_READ_BACKS ? names[choice] : NULL;
}

const char *slate_discard_name(uint32_t choice)
{
    static const char *const names[SLATE_DISCARDS] = {"no", "first", "last"};

    return choice < SLATE_DISCARDS ? names[choice] : NULL;
}

static bool visit_round(struct slate_round *round,
                        const struct slate_visitor *v)
{
    uint32_t kind = round->kind;
    uint64_t byte = round->byte;
    bool go_on = V(enter, NULL) &&
                 V(choice, "kind", &kind, round_name, SLATE_ROUND_KINDS) &&
                 V(number, "byte", &byte, UINT8_MAX) && v->leave(v->context);

    round->kind = (uint8_t)kind;
    round->byte = (uint8_t)byte;
    return go_on;
}

static bool visit_overwrite(struct slate_overwrite *over,
                            const struct slate_visitor *v)
{
    uint32_t read_back = (uint32_t)over->read_back;
    uint32_t discard = (uint32_t)over->discard;
    bool go_on =
        V(enter, "overwrite") &&
        V(choice, "read_back", &read_back, slate_read_back_name,
          SLATE_READ_BACKS) &&
        V(choice, "discard", &discard, slate_discard_name, SLATE_DISCARDS) &&
        V(enter, "rounds") && V(count, &over->rounds) &&
        has_room(over->rounds <= SLATE_ROUNDS_MOST ? SLATE_OK : SLATE_ERR_ROOM,
                 &over->rounds);

    for (uint32_t i = 0; go_on && i < over->rounds; i++)
        go_on = visit_round(&over->round[i], v);
    over->read_back = (enum slate_read_back)read_back;
    over->discard = (enum slate_discard)discard;
    return go_on && v->leave(v->context) && v->leave(v->context);
}

static bool visit_goal(struct slate_goal *goal, const struct slate_visitor *v)
{
    uint32_t use = (uint32_t)goal->use;
    uint64_t entries = goal->entries, heads = goal->heads,
             sectors = goal->track_sectors;
    uint32_t table = goal->table_given ? 1 + (uint32_t)goal->table : 0;
    bool go_on =
        V(enter, "goal") && V(choice, "for", &use, use_name, SLATE_USE_COUNT) &&
        V(choice, "table", &table, table_name, 4) &&
        V(number, "entries", &entries, SLATE_GPT_ENTRIES_MOST) &&
        V(flag, "keep_code", &goal->keep_code) &&
        V(flag, "keep_id", &goal->keep_id) &&
        V(flag, "cylinders", &goal->cylinders) &&
        V(number, "heads", &heads, 255) &&
        V(number, "track_sectors", &sectors, 63) &&
        V(bits, "lift", &goal->lift, guard_name, SLATE_GUARD_KINDS) &&
        V(flag, "lasting", &goal->lasting) &&
        visit_overwrite(&goal->overwrite, v) &&
        V(number, "within", &goal->within, INT64_MAX) && v->leave(v->context);

    goal->use = (enum slate_use)use;
    goal->entries = (uint32_t)entries;
    goal->heads = (uint16_t)heads;
    goal->track_sectors = (uint16_t)sectors;
    goal->table_given = table > 0;
    goal->table =
        table > 0 ? (enum slate_table_kind)(table - 1) : SLATE_TABLE_NONE;
    return go_on;
}

/* Where one that stays is, and a new one beside a change in place; where others
 * go follows from the input. */
static bool visit_kept(struct slate_part *part, const struct slate_visitor *v)
{
    uint64_t keep = part->ask.keep;
    bool go_on = V(number, "keep", &keep, UINT32_MAX) &&
                 V(flag, "placed", &part->ask.placed) &&
                 V(flag, "emptied", &part->ask.emptied);

    part->ask.keep = (uint32_t)keep;
    return go_on && ((keep == 0 && !part->ask.placed) ||
                     (V(number, "first", &part->range.first, INT64_MAX) &&
                      V(number, "blocks", &part->range.count, INT64_MAX)));
}

/* What its entry shall say; all of it may follow from the volume. */
static bool visit_entry(struct slate_ask *ask, const struct slate_visitor *v)
{
    uint64_t type = ask->mbr_type;
    uint8_t bits[8];
    bool go_on;

    slate_put_le64(bits, ask->attributes);
    go_on = V(number, "mbr_type", &type, UINT8_MAX) &&
            V(bytes, "gpt_type", ask->gpt_type.bytes, 16) &&
            V(bytes, "attributes", bits, sizeof bits) &&
            V(text, "name", ask->name, sizeof ask->name);
    ask->mbr_type = (uint8_t)type;
    ask->attributes = slate_le64(bits);
    return go_on;
}

static const char *standing_name(uint32_t choice)
{
    static const char *const names[] = {"fits", "primary", "logical"};

    return choice < SLATE_STANDINGS ? names[choice] : NULL;
}

static bool visit_part(struct slate_part *part, const struct slate_visitor *v)
{
    struct slate_ask *ask = &part->ask;
    uint32_t size_kind = (uint32_t)ask->size_kind;
    uint32_t volume = (uint32_t)ask->volume;
    uint32_t standing = (uint32_t)ask->standing;
    uint64_t cluster = ask->cluster_bytes;
    bool go_on =
        V(enter, NULL) && visit_kept(part, v) &&
        V(choice, "size_of", &size_kind, size_name, SLATE_SIZES) &&
        V(number, "size", &ask->size, INT64_MAX) &&
        V(choice, "standing", &standing, standing_name, SLATE_STANDINGS) &&
        V(flag, "bare", &ask->bare) && V(flag, "files", &ask->files) &&
        V(flag, "start", &ask->start) &&
        V(flag, "no_journal", &ask->no_journal) &&
        V(choice, "volume", &volume, volume_name, SLATE_VOLUME_KINDS) &&
        V(number, "cluster_bytes", &cluster, UINT32_MAX) &&
        V(flag, "active", &ask->active) &&
        V(text, "label", ask->label, sizeof ask->label) &&
        visit_entry(ask, v) && v->leave(v->context);

    ask->size_kind = (enum slate_size_kind)size_kind;
    ask->standing = (enum slate_standing)standing;
    ask->volume = (enum slate_volume_kind)volume;
    ask->cluster_bytes = (uint32_t)cluster;
    return go_on;
}

static bool visit_parts(struct slate_draft *draft,
                        const struct slate_visitor *v)
{
    bool go_on = V(enter, "parts") && V(count, &draft->parts) &&
                 has_room(slate_draft_grow(draft, "partitions", &draft->part,
                                           draft->parts, sizeof *draft->part),
                          &draft->parts);

    for (uint32_t i = 0; go_on && i < draft->parts; i++)
        go_on = visit_part(&draft->part[i], v);
    return go_on && v->leave(v->context);
}

static const char *device_name(uint32_t choice)
{
    return choice < SLATE_DEVICE_KINDS
               ? slate_device_name((enum slate_device_kind)choice)
               : NULL;
}

static bool visit_device(enum slate_device_kind *device,
                         const struct slate_visitor *v)
{
    uint32_t kind = (uint32_t)*device;
    bool go_on = V(choice, "device", &kind, device_name, SLATE_DEVICE_KINDS);

    *device = (enum slate_device_kind)kind;
    return go_on;
}

static bool visit_geometry(struct slate_geometry *geometry,
                           const struct slate_visitor *v)
{
    uint64_t block = geometry->block_bytes, erase = geometry->erase_bytes;
    uint64_t physical = geometry->physical_bytes;
    bool go_on = V(number, "blocks", &geometry->block_count, INT64_MAX) &&
                 V(number, "block_bytes", &block, UINT32_MAX) &&
                 V(number, "physical_bytes", &physical, UINT32_MAX) &&
                 V(number, "erase_bytes", &erase, UINT32_MAX);

    geometry->block_bytes = (uint32_t)block;
    geometry->physical_bytes = (uint32_t)physical;
    geometry->erase_bytes = (uint32_t)erase;
    return go_on;
}

static const char *image_name(uint32_t choice)
{
    return table_name(choice + 1); /* without "fit" */
}

static bool visit_ranges(struct slate_draft *draft, const char *name,
                         struct slate_ranges *ranges,
                         const struct slate_visitor *v)
{
    uint64_t size = ranges->count;

    return V(size, name, false, &size) &&
           has_room(slate_draft_grow_ranges(draft, name, ranges, size),
                    &ranges->count) &&
           V(ranges, name, ranges);
}

static bool visit_blob(struct slate_draft *draft, const char *name,
                       struct slate_bytes *bytes, const struct slate_visitor *v)
{
    uint64_t size = bytes->count;

    return V(size, name, false, &size) &&
           has_room(slate_draft_grow_bytes(draft, name, bytes, size),
                    &bytes->count) &&
           V(blob, name, bytes);
}

static bool visit_evidence(struct slate_draft *draft,
                           const struct slate_visitor *v)
{
    struct slate_evidence *evidence = &draft->basis.evidence;
    uint64_t size = evidence->count;

    return V(size, "evidence", false, &size) &&
           has_room(slate_draft_grow_seen(draft, size), &evidence->count) &&
           V(evidence, "evidence", evidence);
}

static bool visit_image(struct slate_draft *draft,
                        const struct slate_visitor *v)
{
    struct slate_basis *basis = &draft->basis;
    uint32_t image_of = (uint32_t)basis->image_of;
    bool go_on = V(choice, "image_of", &image_of, image_name, 3) &&
                 visit_blob(draft, "image", &basis->image, v);

    basis->image_of = (enum slate_table_kind)image_of;
    return go_on;
}

static bool visit_identifiers(struct slate_basis *basis,
                              const struct slate_visitor *v)
{
    uint64_t signature = basis->disk_signature;
    bool go_on = V(number, "disk_signature", &signature, UINT32_MAX) &&
                 V(bytes, "disk_id", basis->disk_id.bytes, 16);

    basis->disk_signature = (uint32_t)signature;
    return go_on;
}

static bool visit_basis(struct slate_draft *draft,
                        const struct slate_visitor *v)
{
    struct slate_basis *basis = &draft->basis;

    return V(enter, "basis") && V(text, "tag", basis->tag, SLATE_TAG_ROOM) &&
           V(bytes, "identity", basis->identity, SLATE_DIGEST_BYTES) &&
           visit_device(&basis->device, v) &&
           visit_geometry(&basis->geometry, v) &&
           V(number, "claimed", &basis->claimed, INT64_MAX) &&
           V(number, "proved", &basis->proved, INT64_MAX) &&
           V(bits, "guards", &basis->guards, guard_name, SLATE_GUARD_KINDS) &&
           V(bits, "firm", &basis->firm, guard_name, SLATE_GUARD_KINDS) &&
           visit_ranges(draft, "old", &basis->old, v) &&
           visit_evidence(draft, v) && visit_identifiers(basis, v) &&
           visit_image(draft, v) && v->leave(v->context);
}

/* One of the six parts of a moment. */
static bool visit_unit(const char *name, uint8_t *unit, uint64_t most,
                       const struct slate_visitor *v)
{
    uint64_t value = *unit;
    bool go_on = V(number, name, &value, most);

    *unit = (uint8_t)value;
    return go_on;
}

static bool visit_stamp(struct slate_stamp *stamp,
                        const struct slate_visitor *v)
{
    uint64_t year = stamp->year;
    bool go_on = V(number, "year", &year, 2107) &&
                 visit_unit("month", &stamp->month, 12, v) &&
                 visit_unit("day", &stamp->day, 31, v) &&
                 visit_unit("hour", &stamp->hour, 23, v) &&
                 visit_unit("minute", &stamp->minute, 59, v) &&
                 visit_unit("second", &stamp->second, 59, v);

    stamp->year = (uint16_t)year;
    return go_on;
}

static bool visit_choices(struct slate_choices *choices,
                          const struct slate_visitor *v)
{
    return V(enter, "choices") &&
           V(bytes, "seed", choices->seed, sizeof choices->seed) &&
           visit_stamp(&choices->stamp, v) && v->leave(v->context);
}

static const char *attribute_name(uint32_t choice)
{
    return choice < SLATE_ATTRIBUTE_KINDS
               ? slate_attribute_name((enum slate_attribute_kind)choice)
               : NULL;
}

static bool visit_clear(struct slate_cleared *clear,
                        const struct slate_visitor *v)
{
    uint32_t kind = (uint32_t)clear->kind;
    uint64_t number = clear->number;
    bool go_on =
        V(enter, NULL) &&
        V(choice, "kind", &kind, attribute_name, SLATE_ATTRIBUTE_KINDS) &&
        V(number, "partition", &number, UINT32_MAX) && v->leave(v->context);

    clear->kind = (enum slate_attribute_kind)kind;
    clear->number = (uint32_t)number;
    return go_on;
}

static const char *mend_name(uint32_t choice)
{
    return choice < SLATE_MEND_KINDS
               ? slate_mend_name((enum slate_mend_kind)choice)
               : NULL;
}

static bool visit_mend(struct slate_mended *mend, const struct slate_visitor *v)
{
    uint32_t kind = (uint32_t)mend->kind;
    uint64_t number = mend->number;
    bool go_on = V(enter, NULL) &&
                 V(choice, "kind", &kind, mend_name, SLATE_MEND_KINDS) &&
                 V(number, "partition", &number, UINT32_MAX) &&
                 v->leave(v->context);

    mend->kind = (enum slate_mend_kind)kind;
    mend->number = (uint32_t)number;
    return go_on;
}

/* The moments in which a block may be changed in place. */
static const char *moment_name(uint32_t choice)
{
    switch (choice) {
    case SLATE_MOMENT_COPIES:
        return "copies";
    case SLATE_MOMENT_BODY:
        return "body";
    case SLATE_MOMENT_TABLE_COPY:
        return "table-copy";
    case SLATE_MOMENT_TABLE:
        return "table";
    case SLATE_MOMENT_COMMIT:
        return "last";
    default:
        return NULL;
    }
}

static const char *role_name(uint32_t choice)
{
    static const char *const names[SLATE_PATCH_ROLES] = {
        "table", "table-copy", "volume", "volume-copy"};

    return choice < SLATE_PATCH_ROLES ? names[choice] : NULL;
}

static bool visit_patch(struct slate_patch *patch,
                        const struct slate_visitor *v)
{
    uint32_t moment = (uint32_t)patch->moment, role = patch->role;
    bool go_on = V(enter, NULL) && V(number, "block", &patch->lba, INT64_MAX) &&
                 V(choice, "moment", &moment, moment_name, SLATE_MOMENTS) &&
                 V(choice, "of", &role, role_name, SLATE_PATCH_ROLES) &&
                 v->leave(v->context);

    patch->moment = (enum slate_moment)moment;
    patch->role = (uint8_t)role;
    return go_on;
}

static bool visit_renamed(struct slate_renamed *renamed,
                          const struct slate_visitor *v)
{
    uint64_t number = renamed->number;
    bool go_on = V(enter, "renamed") && V(flag, "wanted", &renamed->wanted) &&
                 V(number, "partition", &number, UINT32_MAX) &&
                 V(text, "label", renamed->label, sizeof renamed->label) &&
                 v->leave(v->context);

    renamed->number = (uint32_t)number;
    return go_on;
}

static bool visit_change(struct slate_draft *draft,
                         const struct slate_visitor *v)
{
    struct slate_change *change = &draft->change;
    bool go_on = visit_renamed(&change->renamed, v) && V(enter, "clears") &&
                 V(count, &change->clears) &&
                 has_room(slate_draft_grow(draft, "attributes that are cleared",
                                           &change->clear, change->clears,
                                           sizeof *change->clear),
                          &change->clears);

    for (uint32_t i = 0; go_on && i < change->clears; i++)
        go_on = visit_clear(&change->clear[i], v);
    go_on = go_on && v->leave(v->context) && V(enter, "mends") &&
            V(count, &change->mends) &&
            has_room(slate_draft_grow(draft, "things that are mended",
                                      &change->mend, change->mends,
                                      sizeof *change->mend),
                     &change->mends);
    for (uint32_t i = 0; go_on && i < change->mends; i++)
        go_on = visit_mend(&change->mend[i], v);
    go_on = go_on && v->leave(v->context) && V(enter, "patches") &&
            V(count, &change->patches) &&
            has_room(slate_draft_grow(draft, "blocks that are changed",
                                      &change->patch, change->patches,
                                      sizeof *change->patch),
                     &change->patches);
    for (uint32_t i = 0; go_on && i < change->patches; i++)
        go_on = visit_patch(&change->patch[i], v);
    return go_on && v->leave(v->context) &&
           visit_blob(draft, "patched", &change->bytes, v);
}

static const char *item_attribute_name(uint32_t choice)
{
    static const char *const names[] = {"read-only", "hidden", "system"};

    return choice < sizeof names / sizeof names[0] ? names[choice] : NULL;
}

/* at: where its name begins; moves on behind it */
static bool visit_item(struct slate_draft *draft, uint32_t index, uint32_t *at,
                       const struct slate_visitor *v)
{
    struct slate_files *files = &draft->files;
    struct slate_item *item = &files->item[index];
    uint64_t parent = item->parent, size = 0;
    uint32_t attributes = item->attributes;
    bool go_on =
        V(enter, NULL) && V(size, "name", true, &size) &&
        slate_draft_grow_files(draft, files->count, *at + size) == SLATE_OK &&
        V(text, "name", (char *)files->names.byte + *at,
          files->names.room - *at) &&
        V(number, "in", &parent, UINT32_MAX) &&
        V(flag, "folder", &item->folder) &&
        V(bits, "attributes", &attributes, item_attribute_name, 3) &&
        V(number, "bytes", &item->bytes, INT64_MAX) &&
        V(bytes, "digest", item->digest, sizeof item->digest) &&
        visit_stamp(&item->changed, v) && v->leave(v->context);

    if (!go_on)
        return false;
    item->parent = (uint32_t)parent;
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
    uint64_t ahead = files->ahead;
    uint32_t at = 0;
    bool go_on =
        V(number, "ahead", &ahead, UINT32_MAX) && V(enter, "files") &&
        V(count, &files->count) &&
        has_room(slate_draft_grow_files(draft, files->count, 0), &files->count);

    files->ahead = (uint32_t)ahead;
    for (uint32_t i = 0; go_on && i < files->count; i++)
        go_on = visit_item(draft, i, &at, v);
    files->names.count = at;
    return go_on && v->leave(v->context);
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
           visit_change(draft, visitor) &&
           visit_ranges(draft, "bad", &draft->bad, visitor) &&
           visit_files(draft, visitor) &&
           visit_blob(draft, "start_code", &draft->start, visitor);
}
