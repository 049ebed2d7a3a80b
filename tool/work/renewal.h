/* SPDX-License-Identifier: MIT */
/* The renewal of one device: looked at, drafted, consented to, carried out,
 * proved. Several of them can be under way, each in a thread of its own. */
#ifndef TOOL_RENEWAL_H
#define TOOL_RENEWAL_H

#include <jansson.h>

#include "work/erasing.h"
#include "base/options.h"
#include "work/scan.h"
#include "work/undertaking.h"

struct renewal {
    const struct options *options;
    const char *device; /* its address, or what else names it */
    bool brief;         /* one of several: what it says is short, and consent
                           is given as a list of tags */
    struct target target;
    struct undertaking work;
    struct scanned scanned;
    struct erasing erasing;
    bool revealed; /* what was concealed has been lifted, with consent */
    bool typed;    /* consent has been typed: it is in work */
    bool opened;   /* the target has to be closed */
    bool enacted;  /* it is done, and proved */
    struct slate_overwrite
        how; /* it was overwritten, and what became of that */
    struct slate_enact over;
    struct slate_prove over_prove;
    json_t *before; /* findings, for programs and tickets */
    char *picture;  /* before and after, for a ticket; else NULL */
    time_t began;   /* once there was consent */
    bool begun;
};

/* What the functions below return is an exit code; they say on stderr what is
 * wrong. End a renewal that was begun. */
void renewal_begin(struct renewal *renewal, const struct options *options,
                   const char *device);
void renewal_end(struct renewal *renewal);

/* Looks at the device, drafts, and shows both. */
int renewal_prepare(struct renewal *renewal);

/* Consent: given with the options, or asked for at the prompt. */
int renewal_ask(struct renewal *renewal);

/* Carries the draft out, and reads back. */
int renewal_run(struct renewal *renewal);

/* "TARUK-47 has one exFAT volume: hosts show 16 GB of 16 GB" */
void renewal_words(const struct renewal *renewal, char *words, size_t room);

/* The result, for people and for programs. */
void renewal_tell(const struct renewal *renewal);
json_t *renewal_report(struct renewal *renewal);

/* What is known of it for a ticket, once it was begun and has ended so;
 * failure: what was said of that. */
json_t *renewal_ticket(struct renewal *renewal, int code, const char *failure);

#endif
