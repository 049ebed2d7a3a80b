/* SPDX-License-Identifier: MIT */
/* Inside the enact room: lifting what protects the device. */
#ifndef SLATE_ENACT_LIFT_H
#define SLATE_ENACT_LIFT_H

#include "trueslate/enact.h"

/* Lifts what the draft says, on a claimed device; SLATE_ERR_PROTECTED when
 * more than that protects it. */
enum slate_status slate_enact_lift(struct slate_enact *enact);

#endif
