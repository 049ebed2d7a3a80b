/* SPDX-License-Identifier: MIT */
/* Inside the enact room: lifting what protects the device. */
#ifndef SLATE_ENACT_LIFT_H
#define SLATE_ENACT_LIFT_H

#include "trueslate/enact.h"

/* What protects the device now; SLATE_ERR_PROTECTED when the draft does not
 * lift all of it. */
enum slate_status slate_enact_guards(const struct slate_enact *enact,
                                     struct slate_guard guard[SLATE_GUARDS_MAX],
                                     uint32_t *count);

/* Lifts what the draft says, on a claimed device; SLATE_ERR_PROTECTED when
 * more than that protects it. */
enum slate_status slate_enact_lift(struct slate_enact *enact);

#endif
