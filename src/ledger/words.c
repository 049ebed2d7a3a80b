/* SPDX-License-Identifier: MIT */
/* What stands in a ledger, in words. */
#include "ledger/ledger.h"

#include "base/base.h"
#include "volume/common/common.h"

struct row {
    const char *name, *instead;
    bool may_go; /* with --anyway, where data is kept */
    bool told;   /* with consent, as all that is told */
};

static const struct row rows[] = {
    [SLATE_LOSS_MEMBER] =
        {"member",
         "Change it with the system that it belongs to, which "
         "knows its other members or its key. What it belonged to may be long "
         "gone: then add --anyway.",
         true, false},
    [SLATE_LOSS_WHOLE] =
        {"whole-volume",
         "Leave the table alone: the volume's own system reads "
         "the device as it is.",
         false, false},
    [SLATE_LOSS_DISC] = {"disc",
                         "Leave it as it is, or renew the device as a whole.",
                         false, false},
    [SLATE_LOSS_VOLUME] = {"unlisted-volume",
                           "'search' tells what it is, and 'mend --put-back' "
                           "gives it its entry.",
                           false, false},
    [SLATE_LOSS_TABLE] = {"table-copy",
                          "Copy off what matters first: 'search' tells which "
                          "volumes these are; of two sound copies that differ, "
                          "'mend --from' keeps the one that is picked.",
                          false, false},
    [SLATE_LOSS_ACTIVE] = {"active-flag",
                           "To let a machine start from it no more, add "
                           "--anyway.",
                           true, false},
    [SLATE_LOSS_CODE] = {"code",
                         "To let a machine start from it no more, add "
                         "--anyway; it is kept for rewinding.",
                         true, false},
    [SLATE_LOSS_BLOCKS] = {"other-blocks",
                           "Attach it as it was attached when it was written "
                           "(another dock, or none), and look again.",
                           false, false},
    [SLATE_LOSS_NAMES] = {"partition-names", "They go with the table.", true,
                          true},
    [SLATE_LOSS_FLAGS] = {"attributes", "They go with the table.", true, true}};

_Static_assert(sizeof rows / sizeof rows[0] == SLATE_LOSS_KINDS,
               "each kind of loss has its row");

SLATE_FROM_ROW(const char *, slate_loss_name, enum slate_loss_kind, rows, name)
SLATE_FROM_ROW(const char *, slate_loss_instead, enum slate_loss_kind, rows,
               instead)

static void say_volume(const struct slate_loss *loss, struct slate_text *text)
{
    slate_text_add(text, slate_volume_words(loss->volume.kind));
    if (loss->volume.label[0] == '\0')
        return;
    slate_text_add(text, " \"");
    slate_text_shown(text, loss->volume.label);
    slate_text_add(text, "\"");
}

/* ", 64 MB at block 20" */
static void say_place(const struct slate_loss *loss, uint32_t block_bytes,
                      struct slate_text *text)
{
    SLATE_SAY(text, ", {} at block {}",
              AS_DECIMAL(loss->range.count * block_bytes),
              AS_NUMBER(loss->range.first));
}

void slate_loss_words(const struct slate_loss *loss, uint32_t block_bytes,
                      struct slate_text *text)
{
    switch (loss->kind) {
    case SLATE_LOSS_MEMBER:
        if (loss->volume.mirror) {
            slate_text_add(text, "a member of a RAID, which shows its files as "
                                 "well");
            return;
        }
        say_volume(loss, text);
        slate_text_add(text, ", which is the whole device");
        return;
    case SLATE_LOSS_WHOLE:
        say_volume(loss, text);
        slate_text_add(text, ", which took the whole device");
        return;
    case SLATE_LOSS_TABLE:
        SLATE_SAY(text, "a copy of the table that alone names {} volume{}",
                  AS_NUMBER(loss->count), AS_TEXT(loss->count == 1 ? "" : "s"));
        return;
    case SLATE_LOSS_ACTIVE:
        slate_text_add(text, "the active flag: firmware starts from there");
        return;
    case SLATE_LOSS_CODE:
        SLATE_SAY(text,
                  "{} block{} of content behind block 0, where start-up code "
                  "stands",
                  AS_NUMBER(loss->range.count),
                  AS_TEXT(loss->range.count == 1 ? "" : "s"));
        return;
    case SLATE_LOSS_NAMES:
    case SLATE_LOSS_FLAGS:
        SLATE_SAY(text,
                  "{} of {} partition{}, for which the new table has no place",
                  AS_TEXT(loss->kind == SLATE_LOSS_NAMES ? "the names"
                                                         : "the attributes"),
                  AS_NUMBER(loss->count), AS_TEXT(loss->count == 1 ? "" : "s"));
        return;
    case SLATE_LOSS_BLOCKS:
        SLATE_SAY(text,
                  "what was made for blocks of {} bytes, and lies elsewhere "
                  "than the table says here",
                  AS_NUMBER(loss->count));
        return;
    case SLATE_LOSS_DISC:
    case SLATE_LOSS_VOLUME:
    default:
        say_volume(loss, text);
        say_place(loss, block_bytes, text);
        slate_text_add(text, loss->kind == SLATE_LOSS_VOLUME
                                 ? ", which no entry names"
                                 : "");
    }
}

const struct slate_loss *slate_ledger_living(const struct slate_ledger *ledger,
                                             const struct slate_draft *draft,
                                             bool anyway, bool picked)
{
    for (uint32_t i = 0; draft->switched && i < ledger->count; i++) {
        const struct slate_loss *loss = &ledger->loss[i];

        /* where new partitions are asked for, that goes with consent */
        if (!SLATE_ROW_OF(rows, loss->kind)->told &&
            (loss->kind != SLATE_LOSS_VOLUME || slate_draft_is_change(draft)) &&
            !(anyway && SLATE_ROW_OF(rows, loss->kind)->may_go) &&
            !(picked && loss->kind == SLATE_LOSS_TABLE))
            return loss;
    }
    return NULL;
}
