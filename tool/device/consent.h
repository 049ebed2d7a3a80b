/* SPDX-License-Identifier: MIT */
/* Consent: the device's tag, repeated. */
#ifndef TOOL_CONSENT_H
#define TOOL_CONSENT_H

#include "device/target.h"

/* Is this the consent that the device asks for? The disk that the running
 * system stands on asks for more than its tag. Returns an exit code. */
int check_consent(const struct target *target, const char *given);

/* The one of "TAG,TAG" that is this device's consent; false: none is. */
bool consent_pick(const struct target *target, const char *list,
                  char picked[64]);

/* What has to be typed to agree. */
void consent_words(const struct target *target, char words[64]);

/* Asks for it at the terminal, having said what will be. Returns an exit code.
 */
int consent_prompt(const struct target *target, const char *what,
                   char given[64]);

/* Refuses a device that the host uses, naming who; returns an exit code. */
int refuse_used(const struct target *target);

#endif
