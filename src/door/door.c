/* SPDX-License-Identifier: MIT */
/* The one door: consent, the device for oneself, and a second look at what was
 * shown of it. */
#include "trueslate/door.h"

#include "base/base.h"
#include "media/wire/wire.h"

/* Nobody else changes the content by now. */
static enum slate_status look_again(struct slate_media *media,
                                    const struct slate_evidence *shown,
                                    void *work)
{
    struct slate_again again;

    SLATE_TRY(slate_evidence_again(media, shown, 0, work, &again));
    return again.first && again.rest ? SLATE_OK : SLATE_ERR_SWAPPED;
}

enum slate_status slate_door_enter(struct slate_media *media,
                                   const struct slate_agreement *agreed,
                                   void *work, size_t work_bytes)
{
    enum slate_status status = SLATE_OK;

    if (media == NULL || media->port == NULL || media->entered)
        return SLATE_ERR_ARGUMENT;
    if (agreed == NULL || agreed->consent == NULL ||
        !slate_same_text(agreed->consent, media->tag))
        return SLATE_ERR_CONSENT;
    if (agreed->shown != NULL && (work == NULL || work_bytes < SLATE_WORK_MIN))
        return SLATE_ERR_BUFFER;
    SLATE_TRY(slate_media_claim(media));
    media->entered = true;
    media->shown = agreed->shown;
    if (agreed->shown != NULL)
        status = look_again(media, agreed->shown, work);
    if (status != SLATE_OK) {
        enum slate_status second = slate_door_leave(media);

        (void)second; /* the first error counts */
    }
    return status;
}

enum slate_status slate_door_look(struct slate_media *media, void *work)
{
    SLATE_TRY(slate_media_inside(media));
    return media->removable && media->shown != NULL
               ? look_again(media, media->shown, work)
               : SLATE_OK;
}

enum slate_status slate_door_leave(struct slate_media *media)
{
    media->entered = false;
    media->shown = NULL;
    return slate_media_release(media);
}
