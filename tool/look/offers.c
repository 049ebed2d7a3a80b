/* SPDX-License-Identifier: MIT */
/* What assess offers beside the remedy of a finding. */
#include "look/look.h"

#include "draft/draft.h"

static bool follows(const struct target *target, uint32_t what)
{
    return (slate_finding_follows(target->finding[0].id) & what) != 0;
}

void offers_look(struct target *target)
{
    struct slate_ledger ledger;
    struct slate_draft *draft;

    remedies_weigh(target);
    target->takes_rest = false;
    if (target->facts.read_only || !follows(target, SLATE_FOLLOW_REST))
        return;
    draft = drafted_new();
    target->takes_rest =
        slate_advise_rest(draft, &target->facts, &ledger, &target->media,
                          target->work) == SLATE_OK;
    drafted_free(draft);
}

bool offers_rest(const struct target *target)
{
    return target->takes_rest;
}

bool offers_part(struct target *target, const struct slate_mend *mend)
{
    static const struct slate_ask rest = {.keep = 0};
    struct slate_draft *draft = drafted_new();
    enum slate_status status = slate_draft_base(draft, &target->facts);

    if (status == SLATE_OK)
        status = slate_draft_ask(draft, &rest);
    if (status == SLATE_OK)
        status = slate_draft_mend(draft, &target->facts, mend, &target->media,
                                  target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(draft);
    drafted_free(draft);
    return status == SLATE_OK;
}

bool offers_search(const struct target *target)
{
    return follows(target, SLATE_FOLLOW_SEARCH) &&
           !slate_volume_is_known(target->facts.whole.kind);
}

/* Only devices that pass such commands on. */
static bool is_reached(const struct target *target)
{
    enum slate_transport transport = target->facts.identity.transport;

    return transport == SLATE_TRANSPORT_SCSI ||
           transport == SLATE_TRANSPORT_NVME ||
           (transport == SLATE_TRANSPORT_USB &&
            !target->facts.abilities.passes_ata);
}

const char *offers_lowlevel(const struct target *target)
{
    static const struct {
        uint32_t follows;
        const char *what;
    } rows[] = {{SLATE_FOLLOW_BLOCKS, "--blocks 512"},
                {SLATE_FOLLOW_SAME, "--same"},
                {SLATE_FOLLOW_TRACKS,
                 "--drive SHAPE --interleave measure --sticker FILE"}};

    if (target->facts.read_only || !is_reached(target))
        return NULL;
    for (uint32_t i = 0; i < target->findings; i++) {
        for (size_t row = 0; row < sizeof rows / sizeof rows[0]; row++) {
            if ((slate_finding_follows(target->finding[i].id) &
                 rows[row].follows) != 0)
                return rows[row].what;
        }
    }
    return NULL;
}

static void add(json_t *offers, bool holds, const char *name)
{
    if (holds)
        json_array_append_new(offers, report_made(json_string(name)));
}

json_t *offers_report(const struct target *target)
{
    json_t *offers = report_made(json_array());

    add(offers, offers_rest(target), "rest");
    add(offers, offers_search(target), "search");
    add(offers, offers_lowlevel(target) != NULL, "low-level");
    return offers;
}
