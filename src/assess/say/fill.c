/* SPDX-License-Identifier: MIT */
/* Filling the templates; here what concerns the device as a whole. */
#include <string.h>

#include "assess/say/fill.h"
#include "base/say.h"
#include "media/wire/transfer.h"

void slate_say_count(uint64_t count, const char *what, struct slate_text *text)
{
    SLATE_SAY(text, "{} {}", AS_NUMBER(count), AS_TEXT(what));
    if (count != 1)
        slate_text_add(text, "s");
}

static void fill_sense(const struct slate_facts *facts, uint32_t i,
                       struct slate_text *text)
{
    (void)i;
    slate_fault_answer_words(
        facts->unread.count > 0 ? &facts->unread.fault : &facts->fault, text);
}

static void fill_blocks(const struct slate_facts *facts, uint32_t i,
                        struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->geometry.block_count);
}

static void fill_last_block(const struct slate_facts *facts, uint32_t i,
                            struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->geometry.block_count - 1);
}

static void fill_block_bytes(const struct slate_facts *facts, uint32_t i,
                             struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->geometry.block_bytes);
}

static void add_bytes(uint64_t blocks, const struct slate_facts *facts,
                      struct slate_text *text)
{
    char size[SLATE_SIZE_TEXT];

    slate_size_decimal(blocks * facts->geometry.block_bytes, size);
    slate_text_add(text, size);
}

static void fill_device_bytes(const struct slate_facts *facts, uint32_t i,
                              struct slate_text *text)
{
    (void)i;
    add_bytes(facts->geometry.block_count, facts, text);
}

static void fill_proved_bytes(const struct slate_facts *facts, uint32_t i,
                              struct slate_text *text)
{
    (void)i;
    add_bytes(facts->proved_blocks, facts, text);
}

static void fill_unit_bytes(const struct slate_facts *facts, uint32_t i,
                            struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->geometry.physical_bytes >
                                    facts->geometry.block_bytes
                                ? facts->geometry.physical_bytes
                                : 4096);
}

static void fill_made_for(const struct slate_facts *facts, uint32_t i,
                          struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->made_for);
}

static void fill_model(const struct slate_facts *facts, uint32_t i,
                       struct slate_text *text)
{
    (void)i;
    slate_text_add(text, facts->identity.model);
}

static void fill_bad_count(const struct slate_facts *facts, uint32_t i,
                           struct slate_text *text)
{
    (void)i;
    slate_say_count(facts->unread.count, "block", text);
}

static void fill_bad_list(const struct slate_facts *facts, uint32_t i,
                          struct slate_text *text)
{
    const struct slate_unread *unread = &facts->unread;

    slate_text_add(text, unread->count == 1 ? "block " : "blocks ");
    for (i = 0; i < unread->count && i < SLATE_UNREAD_MOST; i++) {
        SLATE_SAY(text, "{}{}", AS_TEXT(i == 0 ? "" : ", "),
                  AS_NUMBER(unread->lba[i]));
    }
    if (unread->count > SLATE_UNREAD_MOST)
        slate_text_add(text, " and more");
}

static void fill_mark_seen(const struct slate_facts *facts, uint32_t i,
                           struct slate_text *text)
{
    (void)i;
    SLATE_SAY(text, "{}{}{}",
              AS_TEXT(facts->mark_cut
                          ? "Block 0 cannot be read, and all else is as "
                            "draft "
                          : "Block 0 holds the unfinished mark of draft "),
              AS_BYTES(facts->mark.seal, 6),
              AS_TEXT(facts->mark_cut
                          ? " has it just ahead of a write of that block"
                          : " for "));
    if (!facts->mark_cut)
        slate_text_add(text, facts->mark.tag);
}

static void fill_renew(const struct slate_facts *facts, uint32_t i,
                       struct slate_text *text)
{
    bool sound = slate_facts_volumes(facts) > 0 ||
                 slate_volume_is_known(facts->whole.kind);

    (void)i;
    slate_text_add(text, sound ? "Copy off what is needed first, then renew "
                                 "the device: one volume over the full "
                                 "capacity."
                               : "Renew the device: one volume over the full "
                                 "capacity.");
}

static void fill_covered(const struct slate_facts *facts, uint32_t i,
                         struct slate_text *text)
{
    (void)i;
    slate_text_size(text, slate_facts_covered_bytes(facts));
}

/* What was looked at, and what that says. */
static void fill_sample(const struct slate_facts *facts, uint32_t i,
                        struct slate_text *text)
{
    const struct slate_sample *sample = &facts->sample;

    (void)i;
    if (sample->places == 0)
        return;
    if (sample->held == 0) {
        SLATE_SAY(text,
                  "Nothing was found in the {} places looked at, each up to 4 "
                  "KiB of bytes {}h; what lies between was not read.",
                  AS_NUMBER(sample->places), AS_HEX(sample->byte, 2));
        return;
    }
    SLATE_SAY(
        text,
        "Of the {} places looked at {}{}{} on; what lies between was not read.",
        AS_NUMBER(sample->places), AS_NUMBER(sample->held),
        AS_TEXT(sample->held == 1
                    ? " holds something, the 4 KiB from block "
                    : " hold something, first the 4 KiB from block "),
        AS_NUMBER(sample->held_lba));
}

/* What no table names. */
static void fill_found(const struct slate_facts *facts, uint32_t i,
                       struct slate_text *text)
{
    const struct slate_sample *sample = &facts->sample;

    (void)i;
    if (sample->volumes == 0) {
        slate_text_add(text, "its start is empty, and there is content "
                             "further in");
        return;
    }
    slate_text_add(text, slate_volume_words(sample->volume.kind));
    if (sample->volume.label[0] != '\0') {
        SLATE_SAY(text, " labelled \"{}\"", AS_TEXT(sample->volume.label));
    }
    SLATE_SAY(text, " begins at block {}", AS_NUMBER(sample->volume_lba));
}

static void fill_cut_short(const struct slate_facts *facts, uint32_t i,
                           struct slate_text *text)
{
    uint32_t unread = 0;

    for (i = 0; i < facts->layout.count; i++)
        unread += facts->volume[i].kind == SLATE_VOLUME_UNREAD ? 1u : 0u;
    slate_text_add(text, "A look takes at most 256 commands and 4 MiB; ");
    if (unread > 0) {
        SLATE_SAY(text, "{} of {} were not looked into.",
                  AS_COUNT(unread, "partition"),
                  AS_NUMBER(facts->layout.found));
    } else {
        slate_text_add(text, "what would have come later was not read.");
    }
}

static void fill_native(const struct slate_facts *facts, uint32_t i,
                        struct slate_text *text)
{
    (void)i;
    slate_text_size(text,
                    slate_facts_bytes(facts, facts->abilities.native_blocks));
}

static void fill_native_blocks(const struct slate_facts *facts, uint32_t i,
                               struct slate_text *text)
{
    (void)i;
    slate_say_count(facts->abilities.native_blocks, "block", text);
}

static void fill_native_hidden(const struct slate_facts *facts, uint32_t i,
                               struct slate_text *text)
{
    (void)i;
    slate_text_size(text,
                    slate_facts_bytes(facts, facts->abilities.native_blocks -
                                                 facts->geometry.block_count));
}

static void fill_capacity(const struct slate_facts *facts, uint32_t i,
                          struct slate_text *text)
{
    (void)i;
    slate_text_size(text, slate_geometry_bytes(&facts->geometry));
}

static void fill_shown(const struct slate_facts *facts, uint32_t i,
                       struct slate_text *text)
{
    (void)i;
    slate_text_size(text, slate_facts_shown_bytes(facts));
}

static void fill_units(const struct slate_facts *facts, uint32_t i,
                       struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->units);
}

static void fill_unit(const struct slate_facts *facts, uint32_t i,
                      struct slate_text *text)
{
    (void)i;
    slate_text_number(text, facts->unit + 1u);
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

static void fill_guard_place(const struct slate_facts *facts, uint32_t i,
                             struct slate_text *text)
{
    const struct slate_guard *guard = guard_of(facts);

    (void)i;
    slate_text_add(text, guard == NULL ? "The device or its host reports it."
                                       : slate_guard_words(guard->kind,
                                                           SLATE_GUARD_PLACE));
}

static void fill_guard_text(const struct slate_facts *facts, uint32_t i,
                            struct slate_text *text)
{
    const struct slate_guard *guard = guard_of(facts);

    (void)i;
    slate_text_add(
        text, guard == NULL ? "A slider on the case, a write-protect bit, or "
                              "a setting of the host."
                            : slate_guard_words(guard->kind, SLATE_GUARD_TEXT));
}

static void fill_guard_command(const struct slate_facts *facts, uint32_t i,
                               struct slate_text *text)
{
    const struct slate_guard *guard = guard_of(facts);

    (void)i;
    slate_text_add(text,
                   guard == NULL
                       ? "Look for a slider on the case; without one, "
                         "try another port or reader."
                       : slate_guard_words(guard->kind, SLATE_GUARD_COMMAND));
    if (guard != NULL && guard->lift == SLATE_LIFT_NOW &&
        !slate_guard_is_deliberate(guard->kind))
        slate_text_add(text, " Renewing does that first.");
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

static slate_filler filler_in(const struct slate_fill *fills, const char *name,
                              size_t length)
{
    for (; fills->name != NULL; fills++) {
        if (strlen(fills->name) == length &&
            memcmp(fills->name, name, length) == 0)
            return fills->fill;
    }
    return NULL;
}

static slate_filler filler_of(const char *name, size_t length)
{
    slate_filler fill = filler_in(slate_fills_of_device, name, length);

    if (fill == NULL)
        fill = filler_in(slate_fills_of_table, name, length);
    return fill != NULL ? fill : filler_in(slate_fills_of_volume, name, length);
}

static size_t length_until(const char *text, char end)
{
    size_t length = 0;

    while (text[length] != '\0' && text[length] != end)
        length++;
    return length;
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
    uint32_t i = slate_first_concerned(facts, id);
    const char *at = template_text;
    size_t start = text->used;

    while (*at != '\0') {
        size_t length = *at == '{' ? length_until(at, '}') + 1 : 1;
        slate_filler fill = *at == '{' ? filler_of(at + 1, length - 2) : NULL;
        char one[2] = {*at, '\0'};

        if (fill != NULL)
            fill(facts, i, text);
        else
            slate_text_add(text, one);
        at += fill != NULL ? length : 1;
    }
    if (template_text[0] == '{')
        begin_sentence(text, start);
}
