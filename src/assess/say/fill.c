/* SPDX-License-Identifier: MIT */
/* Filling the templates; here what concerns the device as a whole. */

#include "assess/say/fill.h"
#include "base/base.h"
#include "media/wire/wire.h"

void slate_say_count(uint64_t count, const char *what, struct slate_text *text)
{
    SLATE_SAY(text, "{} {}", AS_NUMBER(count), AS_TEXT(what));
    if (count != 1)
        slate_text_add(text, "s");
}

static void fill_sense(const struct slate_telling *to)
{
    slate_fault_answer_words(to->facts->unread.count > 0
                                 ? &to->facts->unread.fault
                                 : &to->facts->fault,
                             to->text);
}

static void fill_blocks(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->geometry.block_count);
}

static void fill_last_block(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->geometry.block_count - 1);
}

static void fill_block_bytes(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->geometry.block_bytes);
}

static void add_bytes(uint64_t blocks, const struct slate_facts *facts,
                      struct slate_text *text)
{
    char size[SLATE_SIZE_TEXT];

    slate_size_decimal(blocks * facts->geometry.block_bytes, size);
    slate_text_add(text, size);
}

static void fill_device_bytes(const struct slate_telling *to)
{
    add_bytes(to->facts->geometry.block_count, to->facts, to->text);
}

static void fill_proved_bytes(const struct slate_telling *to)
{
    add_bytes(to->facts->proved_blocks, to->facts, to->text);
}

static void fill_unit_bytes(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->geometry.physical_bytes >
                                        to->facts->geometry.block_bytes
                                    ? to->facts->geometry.physical_bytes
                                    : 4096);
}

static void fill_made_for(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->made_for);
}

static void fill_model(const struct slate_telling *to)
{
    slate_text_add(to->text, to->facts->identity.model);
}

static void fill_bad_count(const struct slate_telling *to)
{
    slate_say_count(to->facts->unread.count, "block", to->text);
}

static void fill_bad_list(const struct slate_telling *to)
{
    const struct slate_unread *unread = &to->facts->unread;

    slate_text_add(to->text, unread->count == 1 ? "block " : "blocks ");
    for (uint32_t i = 0; i < unread->count && i < SLATE_UNREAD_MOST; i++) {
        SLATE_SAY(to->text, "{}{}", AS_TEXT(i == 0 ? "" : ", "),
                  AS_NUMBER(unread->lba[i]));
    }
    if (unread->count > SLATE_UNREAD_MOST)
        slate_text_add(to->text, " and more");
}

static void fill_mark_seen(const struct slate_telling *to)
{
    SLATE_SAY(to->text, "{}{}{}",
              AS_TEXT(to->facts->mark_cut
                          ? "Block 0 cannot be read, and all else is as draft "
                          : "Block 0 holds the unfinished mark of draft "),
              AS_BYTES(to->facts->mark.seal, 6),
              AS_TEXT(to->facts->mark_cut
                          ? " has it just ahead of a write of that block"
                          : " for "));
    if (!to->facts->mark_cut)
        slate_text_add(to->text, to->facts->mark.tag);
}

static void fill_renew(const struct slate_telling *to)
{
    bool sound = slate_facts_volumes(to->facts) > 0 ||
                 slate_volume_is_known(to->facts->whole.kind);

    slate_text_add(
        to->text, sound
                      ? "Copy off what is needed first, then renew the device: "
                        "one volume over the full capacity."
                      : "Renew the device: one volume over the full capacity.");
}

static void fill_covered(const struct slate_telling *to)
{
    slate_text_size(to->text, slate_facts_covered_bytes(to->facts));
}

/* What was looked at, and what that says. */
static void fill_sample(const struct slate_telling *to)
{
    const struct slate_sample *sample = &to->facts->sample;

    if (sample->places == 0)
        return;
    if (sample->held == 0) {
        SLATE_SAY(to->text,
                  "Nothing was found in the {} places looked at, each up to 4 "
                  "KiB of bytes {}h; what lies between was not read.",
                  AS_NUMBER(sample->places), AS_HEX(sample->byte, 2));
        return;
    }
    SLATE_SAY(
        to->text,
        "Of the {} places looked at {}{}{} on; what lies between was not read.",
        AS_NUMBER(sample->places), AS_NUMBER(sample->held),
        AS_TEXT(sample->held == 1
                    ? " holds something, the 4 KiB from block "
                    : " hold something, first the 4 KiB from block "),
        AS_NUMBER(sample->held_lba));
}

/* What no table names. */
static void fill_found(const struct slate_telling *to)
{
    const struct slate_sample *sample = &to->facts->sample;

    if (sample->volumes == 0) {
        slate_text_add(to->text,
                       "its start is empty, and there is content further in");
        return;
    }
    slate_text_add(to->text, slate_volume_words(sample->volume.kind));
    if (sample->volume.label[0] != '\0')
        SLATE_SAY(to->text, " labelled \"{}\"", AS_TEXT(sample->volume.label));
    SLATE_SAY(to->text, " begins at block {}", AS_NUMBER(sample->volume_lba));
}

static void fill_cut_short(const struct slate_telling *to)
{
    uint32_t unread = 0;

    for (uint32_t i = 0; i < to->facts->layout.count; i++)
        unread += to->facts->volume[i].kind == SLATE_VOLUME_UNREAD ? 1u : 0u;
    slate_text_add(to->text, "A look takes at most 256 commands and 4 MiB; ");
    if (unread > 0)
        SLATE_SAY(to->text, "{} of {} were not looked into.",
                  AS_COUNT(unread, "partition"),
                  AS_NUMBER(to->facts->layout.found));
    else
        slate_text_add(to->text, "what would have come later was not read.");
}

static void fill_native(const struct slate_telling *to)
{
    slate_text_size(
        to->text,
        slate_facts_bytes(to->facts, to->facts->abilities.native_blocks));
}

static void fill_native_blocks(const struct slate_telling *to)
{
    slate_say_count(to->facts->abilities.native_blocks, "block", to->text);
}

static void fill_native_hidden(const struct slate_telling *to)
{
    slate_text_size(
        to->text,
        slate_facts_bytes(to->facts, to->facts->abilities.native_blocks -
                                         to->facts->geometry.block_count));
}

static void fill_capacity(const struct slate_telling *to)
{
    slate_text_size(to->text, slate_geometry_bytes(&to->facts->geometry));
}

static void fill_shown(const struct slate_telling *to)
{
    slate_text_size(to->text, slate_facts_shown_bytes(to->facts));
}

static void fill_units(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->units);
}

static void fill_unit(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->unit + 1u);
}

/* The guard that the finding is about: a lock before all others. */
static const struct slate_guard *guard_of(const struct slate_facts *facts)
{
    const struct slate_guard *found = NULL;

    for (uint32_t i = 0; i < facts->guards; i++) {
        const struct slate_guard *guard = &facts->guard[i];

        if (slate_guard_stops_writing(guard->kind) &&
            (found == NULL || slate_guard_stops_reading(guard->kind)))
            found = guard;
    }
    return found;
}

static void fill_guard_place(const struct slate_telling *to)
{
    const struct slate_guard *guard = guard_of(to->facts);

    slate_text_add(to->text,
                   guard == NULL
                       ? "The device or its host reports it."
                       : slate_guard_words(guard->kind, SLATE_GUARD_PLACE));
}

static void fill_guard_text(const struct slate_telling *to)
{
    const struct slate_guard *guard = guard_of(to->facts);

    slate_text_add(to->text,
                   guard == NULL
                       ? "A slider on the case, a write-protect bit, or a "
                         "setting of the host."
                       : slate_guard_words(guard->kind, SLATE_GUARD_TEXT));
}

static void fill_guard_command(const struct slate_telling *to)
{
    const struct slate_guard *guard = guard_of(to->facts);

    slate_text_add(to->text,
                   guard == NULL
                       ? "Look for a slider on the case; without one, try "
                         "another port or reader."
                       : slate_guard_words(guard->kind, SLATE_GUARD_COMMAND));
    if (guard != NULL && guard->lift == SLATE_LIFT_NOW &&
        !slate_guard_is_deliberate(guard->kind))
        slate_text_add(to->text, " Renewing does that first.");
}

const struct slate_fill slate_fills_of_device[] = {
    {"guard-place", fill_guard_place},
    {"guard-text", fill_guard_text},
    {"guard-command", fill_guard_command},
    {"sense", fill_sense},
    {"blocks", fill_blocks},
    {"last-block", fill_last_block},
    {"block-bytes", fill_block_bytes},
    {"device-bytes", fill_device_bytes},
    {"proved-bytes", fill_proved_bytes},
    {"unit-bytes", fill_unit_bytes},
    {"made-for", fill_made_for},
    {"model", fill_model},
    {"bad-count", fill_bad_count},
    {"bad-list", fill_bad_list},
    {"mark-seen", fill_mark_seen},
    {"renew", fill_renew},
    {"covered", fill_covered},
    {"sample", fill_sample},
    {"found", fill_found},
    {"cut-short", fill_cut_short},
    {"native", fill_native},
    {"native-blocks", fill_native_blocks},
    {"native-hidden", fill_native_hidden},
    {"capacity", fill_capacity},
    {"shown", fill_shown},
    {"units", fill_units},
    {"unit", fill_unit},
    {NULL, NULL}};

/* The row of the name that stands in braces; NULL: none does. */
static const struct slate_fill *find_fill(const char *at, size_t *length)
{
    const struct slate_fill *const sets[] = {
        slate_fills_of_device, slate_fills_of_table, slate_fills_of_volume};

    for (size_t i = 0; i < 3 && *at == '{'; i++) {
        for (const struct slate_fill *fill = sets[i]; fill->name != NULL;
             fill++) {
            *length = strlen(fill->name);
            if (strlen(at) > *length + 1 && at[*length + 1] == '}' &&
                memcmp(at + 1, fill->name, *length) == 0)
                return fill;
        }
    }
    return NULL;
}

/* A sentence begins with a capital, but the names of volumes stay as they are.
 */
static void begin_sentence(struct slate_text *text, size_t start)
{
    char *first = text->bytes + start;

    if (start < text->used && *first >= 'a' && *first <= 'z' &&
        memcmp(first, "ex", 2) != 0)
        *first = (char)(*first - 'a' + 'A');
}

void slate_words_fill(const struct slate_facts *facts, enum slate_finding_id id,
                      const char *template_text, struct slate_text *text)
{
    const struct slate_telling to = {facts, slate_first_concerned(facts, id),
                                     text};
    const char *at = template_text;
    size_t start = text->used, length;

    while (*at != '\0') {
        const struct slate_fill *fill = find_fill(at, &length);
        char one[2] = {*at, '\0'};

        if (fill != NULL)
            fill->fill(&to);
        else
            slate_text_add(text, one);
        at += fill != NULL ? length + 2 : 1;
    }
    if (template_text[0] == '{')
        begin_sentence(text, start);
}
