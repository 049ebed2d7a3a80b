/* SPDX-License-Identifier: MIT */
/* What a draft loses. */
#include "device/device.h"
#include "draft/draft.h"

static int refuse(const struct target *target, const struct slate_loss *loss)
{
    char words[300];
    struct slate_text text = SLATE_TEXT(words);

    slate_loss_words(loss, target->facts.geometry.block_bytes, &text);
    return fail(SLATE_ERR_LIVES,
                "%s: this keeps data, and would write over %s. %s",
                target->address, words, slate_loss_instead(loss->kind));
}

int ledger_make(struct target *target, const struct options *options,
                const struct slate_draft *draft)
{
    enum slate_status status = slate_ledger_make(
        &target->ledger, draft, &target->facts, &target->media, target->work);
    const struct slate_loss *loss;

    if (options->keep != NULL &&
        target->facts.layout.kind == SLATE_TABLE_NONE &&
        slate_volume_is_known(target->facts.whole.kind))
        return fail(SLATE_ERR_LIVES,
                    "%s: nothing would stay: there is no table, and %s is the "
                    "whole device. Leave out --keep to lose it.",
                    target->address,
                    slate_volume_words(target->facts.whole.kind));
    if (status != SLATE_OK)
        return fail_with_fault(status, &target->media, target->address);
    loss = slate_ledger_living(&target->ledger, draft, options->anyway,
                               target->from != FROM_COUNTS);
    return loss == NULL ? 0 : refuse(target, loss);
}

/* Remedies of findings. */

void remedies_weigh(struct target *target)
{
    struct slate_draft *draft = drafted_new();
    struct slate_ledger ledger;
    enum slate_status status = target->facts.opened;

    for (uint32_t i = 0; i < target->findings && status == SLATE_OK; i++) {
        slate_advise_remedy(draft, &target->facts, &target->finding[i],
                            &target->remedy[i]);
        status = slate_advise_weigh(draft, &target->facts, &target->remedy[i],
                                    &ledger, &target->media, target->work);
    }
    target->weighed = status == SLATE_OK;
    drafted_free(draft);
}

void remedy_of(const struct target *target, uint32_t i,
               struct slate_remedy *remedy)
{
    struct slate_draft *draft;

    if (target->weighed) {
        *remedy = target->remedy[i];
        return;
    }
    draft = drafted_new();
    slate_advise_remedy(draft, &target->facts, &target->finding[i], remedy);
    drafted_free(draft);
}
