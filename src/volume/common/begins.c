/* SPDX-License-Identifier: MIT */
/* Does a volume begin here, and what of its own says so? */
#include <string.h>

#include "volume/common/common.h"

bool slate_volume_begins(struct slate_reader *reader,
                         struct slate_volume *volume)
{
    const uint8_t *run = slate_reader_at(reader, 0, SLATE_WORK_MIN);
    uint8_t boot[SLATE_PIECE_BYTES];

    memset(volume, 0, sizeof *volume);
    if (run == NULL)
        return false;
    memcpy(boot, run, sizeof boot);
    if (slate_volume_judge_start(reader, boot, SLATE_DEPTH_GLANCE, volume))
        return true;
    run = slate_reader_at(reader, SLATE_RUN_FAR, SLATE_WORK_MIN);
    return run != NULL && slate_signature_judge(SLATE_RUN_FAR, run, volume);
}

static const struct slate_family *family_of(enum slate_volume_kind kind)
{
    return slate_kind_of(kind)->family;
}

enum slate_here slate_volume_place(struct slate_reader *reader,
                                   const struct slate_volume *volume)
{
    const struct slate_family *family = family_of(volume->kind);

    return family->place == NULL ? SLATE_HERE_UNTOLD : family->place(reader);
}

bool slate_volume_leads_on(struct slate_reader *reader,
                           const struct slate_volume *volume)
{
    const struct slate_family *family = family_of(volume->kind);

    return family->leads_on != NULL && family->leads_on(reader, volume);
}

bool slate_volume_has_ground(enum slate_volume_kind kind)
{
    return family_of(kind)->leads_on != NULL;
}
