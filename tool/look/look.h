/* SPDX-License-Identifier: MIT */
/* Looking at a device, and what can be offered then. */
#ifndef TOOL_LOOK_H
#define TOOL_LOOK_H

#include "base/base.h"
#include "device/device.h"

/* Devices that are attached, or named: looked at, and let go of. */

/* Devices that a list can hold; more are not shown. */
#define ATTACHED_MOST 256

struct attached {
    uint32_t count;
    struct target *target[ATTACHED_MOST];
};

/* What else is asked of a device of which the facts are known, while it is
 * open; NULL for nothing. */
typedef void (*attached_look)(struct target *target);

/* Opens each device, looks at it as closely as asked for, and lets go of it.
 * bench NULL: the host's. False when there is no such bench, or the host does
 * not tell. */
bool attached_open(struct attached *attached, const char *bench,
                   enum slate_depth depth, attached_look also);

/* The same with the devices that a command names; nothing is said of those
 * that are not there, but known tells. */
void attached_named(struct attached *attached, const struct options *options,
                    attached_look also);

void attached_close(struct attached *attached);

/* How many others in the list say exactly the same of themselves. */
uint32_t attached_twins(const struct attached *attached, uint32_t index);

/* Which devices are meant, of those that come: by kind and size. */

/* "card,32GB"? */
bool expected_is_known(const char *list);

/* Is the device what the list says? NULL: sticks and cards of any size. why:
 * receives what it is instead. */
bool expected_fits(const char *list, const struct target *target, char *why,
                   size_t room);

/* A device is looked at. */

/* Looks at it again: what was looked at before has to be there still, and not
 * another medium; changed: it is, with other content. Says on stderr what is
 * wrong; returns an exit code. */
int target_look_again(struct target *target, bool *changed);

/* Looks at an opened device closely; returns an exit code. */
int target_look(struct target *target);

/* The same, and takes the facts of one that answers but could not be opened. */
int target_assess(struct target *target);

/* Looks at a device that was tried, or takes the facts of one that could not
 * be opened. False when not even those are known; says nothing. */
bool target_take(struct target *target, enum slate_depth depth);

/* What assess offers beside the remedy of a finding. */

/* Looks, while the device is open, at what the remedies that mend would write
 * over, and whether a partition can be added where a part of it belongs to
 * none, and notes both. */
void offers_look(struct target *target);

/* What was noted. */
bool offers_rest(const struct target *target);

/* A conversion can make a new partition of the rest. Reads the table. */
bool offers_part(struct target *target, const struct slate_mend *mend);

/* Volumes may be where no partition is. */
bool offers_search(const struct target *target);

/* What a low-level format would be asked for, as options, where only that helps
 * with something that was found; NULL: nothing is. */
const char *offers_lowlevel(const struct target *target);

/* The names of those that hold, for programs. */
json_t *offers_report(const struct target *target);

/* Which devices were attached when the tool was told to remember them. */

/* Keeps in mind which devices are attached. Returns an exit code. */
int state_remember(const struct attached *attached);

/* The list that was kept, a new reference; NULL for none. */
json_t *state_remembered(void);

/* Takes a device off the list once; false when it is not on it. Two devices
 * that cannot be told apart stand on it twice. */
bool state_forget_one(json_t *list, const struct target *target);

#endif
