/* SPDX-License-Identifier: MIT */
/* What helps, and what it costs: a renewal is drafted as any other, and counted
 * in minutes. */

#include "assess/judge/judge.h"
#include "ledger/ledger.h"
#include "trueslate/advise.h"
#include "trueslate/mend.h"
#include "volume/common/common.h"
#include "base/base.h"

/* What is taken for the pace of a device that has not been measured, bytes per
 * second: sticks and cards write small pieces slowly, disks faster. */
static const struct pace {
    uint32_t write, read;
} stick = {4000000, 15000000}, disk = {60000000, 100000000};

/* The label that is there is kept where it is the only one. */
static void keep_label(const struct slate_facts *facts, struct slate_ask *ask)
{
    uint64_t room;
    const struct slate_volume *volume = slate_facts_volume(facts, 0, &room);

    if (volume != NULL &&
        slate_kind_is_akin(volume->kind, SLATE_VOLUME_FAT32) &&
        facts->layout.found <= 1)
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

/* One volume over the device. */
static enum slate_status draft_one(struct slate_draft *draft,
                                   const struct slate_facts *facts,
                                   const struct slate_goal *goal,
                                   const struct slate_ask *ask)
{
    const struct slate_room room = draft->room;
    enum slate_status status;

    slate_draft_place(draft, room.byte, room.bytes);
    draft->goal = *goal;
    status = slate_draft_ask(draft, ask);
    SLATE_THEN(status, slate_draft_base(draft, facts));
    return status == SLATE_OK ? slate_draft_make(draft) : status;
}

uint64_t slate_advise_seconds(const struct slate_draft *draft, uint64_t blocks,
                              bool reading)
{
    const struct pace *pace =
        draft->basis.device == SLATE_DEVICE_DISK ? &disk : &stick;
    uint32_t rate = reading ? pace->read : pace->write;

    return blocks / rate * draft->basis.geometry.block_bytes +
           (blocks % rate * draft->basis.geometry.block_bytes + rate / 2) /
               rate;
}

static uint32_t minutes_of(const struct slate_draft *draft)
{
    uint64_t blocks = slate_draft_blocks(draft, true);

    return (uint32_t)(slate_advise_seconds(draft, blocks, false) / 60 + 1);
}

void slate_advise_remedy(struct slate_draft *draft,
                         const struct slate_facts *facts,
                         const struct slate_finding *finding,
                         struct slate_remedy *remedy)
{
    const enum slate_finding_id id = finding->id;

    memset(remedy, 0, sizeof *remedy);
    remedy->kind = slate_is_at_ease(finding) ? SLATE_REMEDY_NOTHING
                                             : slate_rule_of(id)->remedy;
    if (slate_rule_of(id)->remedy == SLATE_REMEDY_RENEW &&
        slate_finding_mend(facts, id, &remedy->mend)) {
        remedy->kind = SLATE_REMEDY_MEND;
        remedy->minutes = 1;
        return;
    }
    if (remedy->kind != SLATE_REMEDY_RENEW)
        return;
    set_goal(facts, id, remedy);
    remedy->loses_content = slate_facts_hold_content(facts);
    remedy->feasible = draft_one(draft, facts, &remedy->goal, &remedy->ask);
    remedy->minutes = remedy->feasible == SLATE_OK ? minutes_of(draft) : 1;
}

/* The same for a mend, which has its ledger beside. */
static enum slate_status draft_mend(struct slate_draft *draft,
                                    const struct slate_facts *facts,
                                    const struct slate_mend *mend,
                                    struct slate_media *media, void *work)
{
    const struct slate_room room = draft->room;
    const struct slate_choices choices = draft->choices;
    enum slate_status status;

    slate_draft_place(draft, room.byte, room.bytes);
    draft->choices = choices;
    status = slate_draft_base(draft, facts);
    SLATE_THEN(status, slate_draft_mend(draft, facts, mend, media, work));
    return status == SLATE_OK ? slate_draft_make(draft) : status;
}

enum slate_status slate_advise_weigh(struct slate_draft *draft,
                                     const struct slate_facts *facts,
                                     struct slate_remedy *remedy,
                                     struct slate_ledger *ledger,
                                     struct slate_media *media, void *work)
{
    const struct slate_loss *living;

    if (remedy->kind != SLATE_REMEDY_MEND)
        return SLATE_OK;
    remedy->feasible = draft_mend(draft, facts, &remedy->mend, media, work);
    if (remedy->feasible != SLATE_OK)
        return remedy->feasible == SLATE_ERR_NO_DEVICE ? remedy->feasible
                                                       : SLATE_OK;
    SLATE_TRY(slate_ledger_make(ledger, draft, facts, media, work));
    living = slate_ledger_living(ledger, draft, false, false);
    if (living != NULL) {
        remedy->feasible = SLATE_ERR_LIVES;
        remedy->weighed = SLATE_WEIGHED_LIVING;
        remedy->living = *living;
        remedy->block_bytes = facts->geometry.block_bytes;
        return SLATE_OK;
    }
    remedy->weighed = ledger->unknown > 0 || ledger->count > 0
                          ? SLATE_WEIGHED_UNKNOWN
                      : ledger->cut ? SLATE_WEIGHED_PARTLY
                                    : SLATE_WEIGHED_NOTHING;
    return SLATE_OK;
}

enum slate_status slate_advise_use(struct slate_draft *draft,
                                   const struct slate_facts *facts,
                                   enum slate_use use)
{
    const struct slate_goal goal = {.use = use};
    const struct slate_ask ask = {.keep = 0};

    return draft_one(draft, facts, &goal, &ask);
}

/* Logical partitions stay with their container. */
static enum slate_status keep_all(struct slate_draft *draft,
                                  const struct slate_facts *facts)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < facts->layout.count && status == SLATE_OK; i++) {
        const struct slate_ask ask = {.keep = facts->partition[i].number};

        if (facts->partition[i].role != SLATE_ROLE_LOGICAL)
            status = slate_draft_ask(draft, &ask);
    }
    return status;
}

enum slate_status slate_advise_rest(struct slate_draft *draft,
                                    const struct slate_facts *facts,
                                    struct slate_ledger *ledger,
                                    struct slate_media *media, void *work)
{
    const struct slate_room room = draft->room;
    const struct slate_choices choices = draft->choices;
    const struct slate_ask rest = {.keep = 0};
    enum slate_status status;

    if (facts->layout.count == 0 || facts->layout.found > facts->layout.count)
        return SLATE_ERR_PARTS;
    slate_draft_place(draft, room.byte, room.bytes);
    draft->choices = choices;
    status = keep_all(draft, facts);
    SLATE_THEN(status, slate_draft_ask(draft, &rest));
    SLATE_THEN(status, slate_draft_base(draft, facts));
    SLATE_THEN(status, slate_draft_keep(draft, facts, media, work));
    SLATE_THEN(status, slate_draft_make(draft));
    SLATE_THEN(status, slate_ledger_make(ledger, draft, facts, media, work));
    return status == SLATE_OK &&
                   slate_ledger_living(ledger, draft, false, false) != NULL
               ? SLATE_ERR_LIVES
               : status;
}

SLATE_NAMES(
    slate_remedy_name, enum slate_remedy_kind,
    [SLATE_REMEDY_NOTHING] = "nothing", [SLATE_REMEDY_RENEW] = "renew",
    [SLATE_REMEDY_RESUME] = "resume", [SLATE_REMEDY_BY_HAND] = "by-hand",
    [SLATE_REMEDY_ELSEWHERE] = "elsewhere", [SLATE_REMEDY_REPLACE] = "replace",
    [SLATE_REMEDY_MEND] = "mend", [SLATE_REMEDY_LOWLEVEL] = "low-level")

static void say_mending(const struct slate_remedy *remedy,
                        struct slate_text *text)
{
    switch (remedy->weighed) {
    case SLATE_WEIGHED_NOTHING:
        slate_text_add(text, "Nothing is lost; it takes less than a minute.");
        return;
    case SLATE_WEIGHED_LIVING:
        slate_text_add(text, "It is refused as it stands, since it would write "
                             "over ");
        slate_loss_words(&remedy->living, remedy->block_bytes, text);
        SLATE_SAY(text, ". {}",
                  AS_TEXT(slate_loss_instead(remedy->living.kind)));
        return;
    case SLATE_WEIGHED_UNKNOWN:
        slate_text_add(text, "It writes over something that nobody recognises, "
                             "or that may go: drafting it tells what, and it "
                             "is kept for rewinding. It takes less than a "
                             "minute.");
        return;
    case SLATE_WEIGHED_PARTLY:
        slate_text_add(text, "Nothing was found that would be lost, but not "
                             "all was looked at; it takes less than a minute.");
        return;
    case SLATE_WEIGHED_NOT:
    default:
        slate_text_add(
            text,
            remedy->feasible == SLATE_OK
                ? "What it would write over is looked at when it is "
                  "drafted; it takes less than a minute."
                : "It cannot be done as it stands; drafting it tells what "
                  "is in the way.");
    }
}

void slate_remedy_cost_words(const struct slate_remedy *remedy,
                             struct slate_text *text)
{
    if (remedy->kind == SLATE_REMEDY_MEND)
        say_mending(remedy, text);
    if (remedy->kind != SLATE_REMEDY_RENEW)
        return;
    if (remedy->feasible != SLATE_OK) {
        SLATE_SAY(text, "It cannot be done yet: {}.",
                  AS_TEXT(slate_status_sentence(remedy->feasible)));
        return;
    }
    slate_text_add(text,
                   remedy->loses_content
                       ? "Everything on the device is lost; it takes "
                       : "Nothing was found that would be lost; it takes ");
    if (remedy->minutes == 1) {
        slate_text_add(text, "about a minute.");
        return;
    }
    SLATE_SAY(text, "about {} minutes.", AS_NUMBER(remedy->minutes));
}
