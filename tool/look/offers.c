/* SPDX-License-Identifier: MIT */
/* What assess offers beside the remedy of a finding. */
#include "look/offers.h"

#include "draft/drafted.h"
#include "report/report.h"

static enum slate_finding_id leading(const struct target *target)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];

    (void)slate_assess_judge(&target->facts, findings);
    return findings[0].id;
}

void offers_look(struct target *target)
{
    enum slate_finding_id id = leading(target);
    struct slate_draft *draft;

    target->takes_rest = false;
    if (target->facts.read_only ||
        (id != SLATE_FINDING_SMALL_TABLE && id != SLATE_FINDING_UNALLOCATED))
        return;
    draft = drafted_new();
    target->takes_rest =
        slate_advise_rest(draft, &target->facts, &target->media,
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
    switch (leading(target)) {
    case SLATE_FINDING_SMALL_TABLE:
    case SLATE_FINDING_UNALLOCATED:
    case SLATE_FINDING_EMPTY_TABLE:
    case SLATE_FINDING_UNKNOWN_CONTENT:
    case SLATE_FINDING_SEVERAL_VOLUMES:
        return !slate_volume_is_known(target->facts.whole.kind);
    default:
        return false;
    }
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
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    uint32_t count = slate_assess_judge(&target->facts, findings);

    for (uint32_t i = 0; i < count && is_reached(target); i++) {
        switch (findings[i].id) {
        case SLATE_FINDING_ARRAY_BLOCKS:
            return "--blocks 512";
        case SLATE_FINDING_PROTECTION_INFORMATION:
        case SLATE_FINDING_UNERASED:
            return "--same";
        case SLATE_FINDING_NO_SECTORS:
        case SLATE_FINDING_OTHER_CONTROLLER:
            return "--drive SHAPE --interleave measure --sticker FILE";
        default:
            break;
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
