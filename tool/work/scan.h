/* SPDX-License-Identifier: MIT */
/* A surface scan ahead of a new volume: the draft gets to know of the blocks
 * that are bad. */
#ifndef TOOL_SCAN_H
#define TOOL_SCAN_H

#include <jansson.h>

#include "base/options.h"
#include "device/target.h"

/* What scans have found, of all ranges of one device. */
struct scanned {
    bool done, writes;
    uint64_t blocks, unwritable, unreadable, altered, weak;
    const char *words; /* what that means for the device */
};

/* Scans what the draft sets up anew: all of the device, or its new partitions
 * where others stay. By reading, or (in writing) by writing a pattern and
 * reading it. Tells the draft of what is bad, and makes it again. Says on
 * stderr what is wrong; returns an exit code. */
int scan_take(const struct options *options, struct target *target,
              struct slate_draft *draft, bool writing, struct scanned *scanned);

/* Steps of a started scan, with progress, until its end or until it is stopped.
 */
enum slate_status scan_steps(struct slate_scan *scan);

/* Says that there is no room for more bad blocks; returns the exit code. */
int scan_fail_full(const struct slate_scan *scan, const struct target *target);

/* Is what the options say of scans of any use? Says on stderr what is wrong;
 * returns an exit code. */
int scan_check(const struct options *options);

/* Tells what a scan that writes will do, ahead of consent to it; refuses one
 * beside partitions that stay. Returns an exit code. */
int scan_announce(const struct slate_draft *draft, bool quiet);

void scan_tell(const struct scanned *scanned, const struct slate_draft *draft);
json_t *scan_report(const struct scanned *scanned,
                    const struct slate_draft *draft);

#endif
