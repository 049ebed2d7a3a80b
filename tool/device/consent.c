/* SPDX-License-Identifier: MIT */
/* Consent: the device's tag, repeated; with its address, where another one has
 * the same tag, or nothing tells that it is the one of a draft; for the disk
 * that the running system stands on, words that nobody types by mistake. */

#include "device/device.h"
#include "term/term.h"

void consent_words(const struct target *target, char words[64])
{
    if (target->by_address && !target->system)
        snprintf(words, 64, "%.10s@%.50s", target->media.tag, target->address);
    else
        snprintf(words, 64, "%s%s", target->media.tag,
                 target->system ? "-AND-THE-SYSTEM-RUNNING-FROM-IT" : "");
}

/* Letters in any case, the hyphen of the tag or none; otherwise exactly. */
static bool agrees(const struct target *target, const char *given)
{
    char wanted[64], tag[SLATE_TAG_ROOM];
    size_t length = address_tag(given, tag);

    consent_words(target, wanted);
    return length > 0 && strcmp(tag, target->media.tag) == 0 &&
           address_same(given + length, wanted + strlen(tag));
}

bool consent_pick(const struct target *target, const char *list,
                  char picked[64])
{
    for (;; list++) {
        size_t length = strcspn(list, ",");

        if (length > 0 && length < 64) {
            snprintf(picked, 64, "%.*s", (int)length, list);
            if (agrees(target, picked))
                return true;
        }
        list += length;
        if (*list == '\0')
            return false;
    }
}

int check_consent(const struct target *target, const char *given)
{
    char wanted[64];

    consent_words(target, wanted);
    if (!agrees(target, given))
        return fail(SLATE_ERR_CONSENT,
                    "consent was given for '%s', but this device asks for %s; "
                    "nothing was written",
                    given, wanted);
    return target_refuse_twins(target);
}

/* So often, before it is taken for another device. */
#define TRIES 3

int consent_prompt(const struct target *target, const char *what,
                   char given[64])
{
    char wanted[64];

    consent_words(target, wanted);
    fprintf(stderr, "\n%s To agree, type %s%s: ", what,
            target->system       ? ""
            : target->by_address ? "its tag and its address, "
                                 : "its tag, ",
            wanted);
    for (int i = 1;; i++) {
        if (fgets(given, 64, stdin) == NULL)
            given[0] = '\0';
        if (progress_is_interrupted())
            return fail(SLATE_ERR_STOPPED,
                        "%s: interrupted; nothing was written",
                        target->media.tag);
        given[strcspn(given, "\r\n")] = '\0';
        if (given[0] == '\0' || i == TRIES || agrees(target, given))
            return check_consent(target, given);
        fprintf(stderr, "That is not it. To agree, type %s: ", wanted);
    }
}
