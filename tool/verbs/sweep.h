/* SPDX-License-Identifier: MIT */
/* A scan that writes, with all content kept. */
#ifndef TOOL_SWEEP_H
#define TOOL_SWEEP_H

#include "base/options.h"
#include "work/scan.h"
#include "device/target.h"

/* Consent to it. Says on stderr what is wrong; returns an exit code. */
int sweep_agree(const struct options *options, const struct target *target);

/* Goes over what a started scan has to, in place of its own steps; its results
 * are what comes of it. Says on stderr what is wrong; returns an exit code. */
int sweep_all(const struct options *options, struct target *target,
              struct slate_scan *scan);

#endif
