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
