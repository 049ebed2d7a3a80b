/* SPDX-License-Identifier: MIT */
/* What overwriting reaches, and what it does not: remarks on a draft. */
#include "base/base.h"
#include "draft/place/place.h"

static bool overwrites(const struct slate_draft *draft)
{
    return draft->goal.overwrite.rounds > 0;
}

void slate_draft_remark_reserve(const struct slate_draft *draft,
                                struct slate_text *text)
{
    if (!overwrites(draft))
        return;
    switch (draft->basis.device) {
    case SLATE_DEVICE_CARD:
    case SLATE_DEVICE_STICK:
        slate_text_add(text,
                       "Flash keeps blocks in reserve that no host reaches: "
                       "what was in them may stay. Enough where the device "
                       "stays in the house; where it leaves it, have the "
                       "device erase itself as well, or destroy it.");
        return;
    case SLATE_DEVICE_DISK:
        slate_text_add(text, "Blocks that the disk has replaced by others are "
                             "not reached: a few on platters, many on flash.");
        return;
    case SLATE_DEVICE_OTHER:
    default:
        slate_text_add(text,
                       "Of an image file, zeros become holes: what its host "
                       "had stored there stays until that is used again.");
        return;
    }
}

void slate_draft_remark_gap(const struct slate_draft *draft,
                            struct slate_text *text)
{
    uint64_t until;

    if (!overwrites(draft) || !draft->switched ||
        draft->table.kind != SLATE_TABLE_MBR ||
        !slate_draft_overwrites(draft, 1, &until))
        return;
    slate_text_add(text,
                   "What stands between the table and the first partition goes "
                   "as well: some systems keep start-up code there.");
}

void slate_draft_remark_left(const struct slate_draft *draft,
                             struct slate_text *text)
{
    uint64_t blocks = 0;

    for (uint32_t i = 0; i < draft->bad.count; i++)
        blocks += draft->bad.range[i].count;
    if (!overwrites(draft) || blocks == 0)
        return;
    SLATE_SAY(text, "{}{}what was there may still be read one day.",
              AS_NUMBER(blocks),
              AS_TEXT(blocks == 1
                          ? " block that is bad is left as it is: "
                          : " blocks that are bad are left as they are: "));
}

void slate_draft_remark_unread(const struct slate_draft *draft,
                               struct slate_text *text)
{
    const struct slate_overwrite *over = &draft->goal.overwrite;

    if (!overwrites(draft))
        return;
    if (over->discard == SLATE_DISCARD_LAST)
        slate_text_add(text,
                       "In the end the device may forget what was overwritten: "
                       "what it gives back then is up to it.");
    else if (over->read_back == SLATE_READ_BACK_NONE)
        slate_text_add(text, "What is overwritten is not read back: nothing "
                             "tells whether the device has kept it.");
}
