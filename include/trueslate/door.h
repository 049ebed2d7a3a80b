/* SPDX-License-Identifier: MIT */
/* The one door to a device: whatever changes it has gone through here. */
#ifndef TRUESLATE_DOOR_H
#define TRUESLATE_DOOR_H

#include "trueslate/evidence.h"
#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What a person has agreed to: to this device, as it was shown. */
struct slate_agreement {
    const char *consent; /**< its tag, repeated by the person */
    const struct slate_evidence
        *shown; /**< what was read of it when it was shown, kept by reference;
                     NULL: what it holds has decided nothing, or is looked at
                     by who enters (enacting, by the evidence of a draft) */
};

/**
 * Enters a device, to change it: claims it at the host, and looks once more
 * whether it is the one that was shown. Writing, clearing, lifting guards,
 * erasing by its own command, formatting on a low level and putting blocks
 * elsewhere are refused with SLATE_ERR_OUTSIDE to all who have not entered.
 * Writes nothing.
 *
 * Enacting, rewinding, probing and scanning with writes enter by themselves.
 *
 * @param media      an open device, not entered yet
 * @param agreed     what was agreed to
 * @param work       work buffer; may be NULL where nothing was shown
 * @param work_bytes at least SLATE_WORK_MIN where something was shown
 * @return SLATE_OK; SLATE_ERR_CONSENT (missing, or the tag of another device);
 *         SLATE_ERR_SWAPPED, SLATE_ERR_TAKEN_OUT (what was shown is not there
 *         any more), SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER, SLATE_ERR_READ,
 *         SLATE_ERR_NO_DEVICE, or what the port says of claiming
 *         (SLATE_ERR_BUSY). After a failure nobody has entered.
 */
SLATE_MUST_CHECK enum slate_status
slate_door_enter(struct slate_media *media,
                 const struct slate_agreement *agreed, void *work,
                 size_t work_bytes);

/**
 * Looks once more, ahead of a command that cannot be taken back: where media
 * can be changed, what was shown has to be there still.
 *
 * @param media that was entered, and not written to since
 * @param work  SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_OUTSIDE, SLATE_ERR_SWAPPED, SLATE_ERR_TAKEN_OUT,
 *         SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_door_look(struct slate_media *media,
                                                   void *work);

/**
 * Leaves it again: the host may use it, and looks at its table anew. Due after
 * every time that entering went well.
 *
 * @param media an open device
 * @return SLATE_OK, or what the port says
 */
SLATE_MUST_CHECK enum slate_status slate_door_leave(struct slate_media *media);

#ifdef __cplusplus
}
#endif
#endif
