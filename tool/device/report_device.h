/* SPDX-License-Identifier: MIT */
/* The device of a report. */
#ifndef TOOL_REPORT_DEVICE_H
#define TOOL_REPORT_DEVICE_H

#include "base/json.h"
#include "device/target.h"

/* "USB", "SATA". Never NULL. */
const char *transport_words(enum slate_transport transport);

json_t *report_device(const struct target *target);

/* Who uses the device at the host: a list of words. */
json_t *report_users(const struct target *target);

#endif
