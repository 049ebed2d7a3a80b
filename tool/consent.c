/* SPDX-License-Identifier: MIT */
/* Consent: the device's tag, repeated; for the disk that the running system
 * stands on, words that nobody types by mistake. */
#include <stdio.h>
#include <string.h>

#include "say.h"
#include "verbs.h"

void consent_words(const struct target *target, char words[64])
{
    snprintf(words, 64, "%s%s", target->media.tag,
             target->system ? "-AND-THE-SYSTEM-RUNNING-FROM-IT" : "");
}

int check_consent(const struct target *target, const char *given)
{
    char wanted[64];

    consent_words(target, wanted);
    if (strcmp(given, wanted) != 0)
        return fail(SLATE_ERR_CONSENT,
                    "consent was given for '%s', but this device asks for %s; "
                    "nothing was written",
                    given, wanted);
    return 0;
}

int refuse_used(const struct target *target)
{
    return target->users[0] == '\0'
               ? 0
               : fail(SLATE_ERR_BUSY,
                      "%s is in use (%.*s); 'trueslate release %s' ends that",
                      target->media.tag, (int)strcspn(target->users, "\n"),
                      target->users, target->media.tag);
}
