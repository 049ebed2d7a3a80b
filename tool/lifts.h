/* SPDX-License-Identifier: MIT */
/* The list behind --lift: which guards a person wants to have lifted. */
#ifndef TOOL_LIFTS_H
#define TOOL_LIFTS_H

#include "options.h"
#include "target.h"

/* Is every name in the list one? That a device has no such guard is no
 * mistake. */
bool lifts_are_known(const char *list);

/* Is this name one of the list "a,b,c"? */
bool lifts_list(const char *list, const char *name);

/* Does the list ask for this guard? "all" means those that a command lifts and
 * that nobody has set on purpose; the others are lifted only by their name.
 * NULL asks for nothing. */
bool lifts_want(const char *list, const struct slate_guard *guard);

/* Lifts one, as the options say. */
enum slate_status lifts_do(struct target *target,
                           const struct slate_guard *guard,
                           const struct options *options);

/* Claims the device for lifting; says on stderr who uses it. Returns an exit
 * code. Done with slate_media_release, which lets the host look anew. */
int lifts_claim(struct target *target);

/* The kinds that are named: a sum of SLATE_GUARD_BIT. */
uint32_t lifts_named(const char *list);

/* Lifts what conceals content or capacity, where that is asked for and found,
 * and opens the device anew: a draft is made for what is shown then. Consent
 * has been given. Returns an exit code. */
int lifts_reveal(struct target *target, const struct options *options);

/* Is there anything for lifts_reveal to do? */
bool lifts_has_concealed(const struct target *target,
                         const struct options *options);

#endif
