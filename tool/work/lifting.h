/* SPDX-License-Identifier: MIT */
/* Lifting what has to go before a draft. */
#ifndef TOOL_LIFTING_H
#define TOOL_LIFTING_H

#include "base/options.h"
#include "device/target.h"

/* Lifts one, as the options say. */
enum slate_status lifts_do(struct target *target,
                           const struct slate_guard *guard,
                           const struct options *options);

/* Claims the device for lifting; says on stderr who uses it. Returns an exit
 * code. Done with slate_media_release, which lets the host look anew. */
int lifts_claim(struct target *target);

/* Lifts what conceals content or capacity, where that is asked for and found,
 * and opens the device anew: a draft is made for what is shown then. Consent
 * has been given. Returns an exit code. */
int lifts_reveal(struct target *target, const struct options *options);

/* Is there anything for lifts_reveal to do? */
bool lifts_has_concealed(const struct target *target,
                         const struct options *options);

#endif
