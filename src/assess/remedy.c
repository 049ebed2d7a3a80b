/* SPDX-License-Identifier: MIT */
/* What helps, and what it costs: a goal that can be drafted, and minutes. */
#include <string.h>

#include "assess/judge.h"
#include "trueslate/table.h"

/* What is taken for the rate of a device that has not been measured: sticks
 * and cards write small pieces at this rate, disks faster. */
#define STICK_BYTES_PER_SECOND 4000000u
#define DISK_BYTES_PER_SECOND 60000000u
/* Both ends are erased, whatever the volume. */
#define ERASED_BYTES 2097152u

static bool is_disk(const struct slate_facts *facts)
{
    return facts->identity.transport == SLATE_TRANSPORT_SATA ||
           facts->identity.transport == SLATE_TRANSPORT_NVME ||
           facts->identity.transport == SLATE_TRANSPORT_SCSI;
}

/* Planned as the draft will: what is offered is what a draft takes. */
static enum slate_status plan(const struct slate_facts *facts,
                              const struct slate_goal *goal, uint64_t *bytes)
{
    const struct slate_geometry *geometry = &facts->geometry;
    enum slate_table_kind table =
        goal->table_given ? goal->table : slate_table_choose(geometry);
    struct slate_wish wish = {.block_bytes = geometry->block_bytes,
                              .align_bytes = slate_table_align(geometry)};
    const struct slate_format *format;
    union slate_volume_plan volume;
    enum slate_status status = slate_table_place(table, geometry, &wish.range);

    if (status == SLATE_OK)
        status = slate_format_plan(SLATE_VOLUME_NONE, &wish, &format, &volume);
    *bytes = ERASED_BYTES;
    if (status == SLATE_OK)
        *bytes += slate_facts_bytes(
            facts, slate_compose_blocks(&format->composer, &volume));
    return status;
}

/* The label that is there is kept where it is the only one. */
static void keep_label(const struct slate_facts *facts, struct slate_ask *ask)
{
    uint64_t room;
    const struct slate_volume *volume = slate_facts_volume(facts, 0, &room);

    if (volume != NULL && volume->kind >= SLATE_VOLUME_FAT12 &&
        volume->kind <= SLATE_VOLUME_FAT32 && facts->layout.found <= 1)
        memcpy(ask->label, volume->label, sizeof ask->label);
}

static void set_goal(const struct slate_facts *facts, enum slate_finding_id id,
                     struct slate_remedy *remedy)
{
    if (id == SLATE_FINDING_MBR_LIMIT) {
        remedy->goal.table_given = true;
        remedy->goal.table = SLATE_TABLE_GPT;
    }
    if (id != SLATE_FINDING_BOOT_IMAGE)
        keep_label(facts, &remedy->ask);
}

/* Something stops writing that renewing does not lift by itself. */
static bool is_held(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->guards; i++) {
        const struct slate_guard *guard = &facts->guard[i];

        if (slate_guard_stops_writing(guard->kind) &&
            (guard->lift != SLATE_LIFT_NOW ||
             slate_guard_conceals(guard->kind) ||
             slate_guard_is_deliberate(guard->kind)))
            return true;
    }
    return false;
}

void slate_finding_remedy(const struct slate_facts *facts,
                          enum slate_finding_id id, struct slate_remedy *remedy)
{
    uint64_t bytes,
        rate = is_disk(facts) ? DISK_BYTES_PER_SECOND : STICK_BYTES_PER_SECOND;

    memset(remedy, 0, sizeof *remedy);
    remedy->kind = slate_is_at_ease(facts, id) ? SLATE_REMEDY_NOTHING
                                               : slate_rule_remedy(id);
    if (remedy->kind != SLATE_REMEDY_RENEW)
        return;
    set_goal(facts, id, remedy);
    remedy->loses_content = slate_facts_hold_content(facts);
    remedy->feasible = plan(facts, &remedy->goal, &bytes);
    if (remedy->feasible == SLATE_OK && is_held(facts))
        remedy->feasible = SLATE_ERR_GUARD;
    remedy->minutes = (uint32_t)(bytes / rate / 60 + 1);
}

const char *slate_remedy_name(enum slate_remedy_kind kind)
{
    switch (kind) {
    case SLATE_REMEDY_RENEW:
        return "renew";
    case SLATE_REMEDY_RESUME:
        return "resume";
    case SLATE_REMEDY_BY_HAND:
        return "by-hand";
    case SLATE_REMEDY_ELSEWHERE:
        return "elsewhere";
    case SLATE_REMEDY_REPLACE:
        return "replace";
    case SLATE_REMEDY_NOTHING:
    default:
        return "nothing";
    }
}

void slate_remedy_cost_words(const struct slate_remedy *remedy,
                             struct slate_text *text)
{
    if (remedy->kind != SLATE_REMEDY_RENEW)
        return;
    if (remedy->feasible != SLATE_OK) {
        slate_text_add(text, "It cannot be done yet: ");
        slate_text_add(text, slate_status_sentence(remedy->feasible));
        slate_text_add(text, ".");
        return;
    }
    slate_text_add(text, remedy->loses_content
                             ? "Everything on the device is lost; it takes "
                             : "Nothing was found that would be lost; it "
                               "takes ");
    if (remedy->minutes == 1) {
        slate_text_add(text, "about a minute.");
        return;
    }
    slate_text_add(text, "about ");
    slate_text_number(text, remedy->minutes);
    slate_text_add(text, " minutes.");
}
