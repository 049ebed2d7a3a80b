/* SPDX-License-Identifier: MIT */
/* The one door: what comes ahead of every change of a device, in every verb. */
#include "work/work.h"

#include <unistd.h>

#include "device/device.h"
#include "draft/draft.h"
#include "look/look.h"
#include "term/term.h"
#include "view/view.h"

static const char *given_for(const struct passage *passage, char picked[64])
{
    const char *given = passage->options->consent;

    return given != NULL && passage->brief &&
                   consent_pick(passage->target, given, picked)
               ? picked
               : given;
}

int door_check(const struct passage *passage)
{
    char wanted[64], picked[64];
    const char *given = given_for(passage, picked);
    bool ends = passage->ends || passage->options->afresh;
    int code = ends ? 0 : unfinished_refuse(passage->target);
    bool alike;

    (void)attached_twins_of(passage->target, &alike);
    passage->target->by_address = passage->target->by_address || alike;
    THEN(code, check_release(passage->target));
    TRY(code);
    if (passage->target->agreed[0] != '\0')
        return 0; /* to what it was, before something was lifted */
    if (given != NULL)
        return check_consent(passage->target, given);
    if (!passage->options->json && isatty(STDIN_FILENO) == 1)
        return 0;
    consent_words(passage->target, wanted);
    return fail(SLATE_ERR_CONSENT, "%s: %s To agree, add --consent %s",
                passage->target->media.tag, passage->loss, wanted);
}

/* Nobody agrees to what he was not shown. */
static int ask(struct passage *passage)
{
    if (!passage->shown)
        view_device(passage->target);
    fflush(stdout);
    return consent_prompt(passage->target, passage->loss, passage->consent);
}

int door_agree(struct passage *passage)
{
    struct target *target = passage->target;
    char picked[64];
    const char *given = given_for(passage, picked);
    int code = door_check(passage);

    TRY(code);
    if (target->users[0] != '\0' && !passage->options->json)
        print_line("First", PAINT_BAD,
                   "what uses the device is released, once you agree");
    if (target->agreed[0] != '\0')
        consent_words(target, passage->consent);
    else if (given != NULL)
        snprintf(passage->consent, sizeof passage->consent, "%.63s", given);
    else
        code = ask(passage);
    if (code == 0)
        memcpy(target->agreed, target->media.tag, sizeof target->agreed);
    return code;
}

/* Has somebody begun to use it since it was shown? Nobody has agreed to take it
 * from him. */
static int refuse_new_users(const struct target *target)
{
    char users[SLATE_LINUX_USERS_ROOM];

    target_ask_users(target, users);
    if (users[0] == '\0' || strcmp(users, target->users) == 0)
        return 0;
    return fail(SLATE_ERR_BUSY,
                "%s was put to use since it was shown (%.*s); nothing was "
                "written: look at it anew",
                target->media.tag, (int)strcspn(users, "\n"), users);
}

/* What was shown is what is there still, and not another medium: then whoever
 * goes through gets to know of what has changed in it. What cannot be looked at
 * as it is has decided nothing. */
static int look_again(const struct passage *passage, bool used)
{
    bool changed = false;
    int code = refuse_new_users(passage->target);

    if (code == 0 && passage->target->status == SLATE_OK)
        code = target_look_again(passage->target, &changed);

    if (code == 0 && changed && !used) /* nobody could have changed it */
        code = door_fail(passage->target, SLATE_ERR_SWAPPED);
    THEN(code, target_refuse_twins(passage->target));
    return code == 0 && passage->ready != NULL
               ? passage->ready(passage->context, changed)
               : code;
}

int door_pass(const struct passage *passage)
{
    struct target *target = passage->target;
    int code = look_again(passage, target->users[0] != '\0');

    THEN(code, check_release(target));
    if (code != 0 || target->users[0] == '\0')
        return code;
    code = release_users(target, passage->options->json || passage->brief);
    return code == 0 ? look_again(passage, true) : code;
}

int door_through(struct target *target, const struct options *options,
                 const char *loss, bool shown)
{
    struct passage passage = {
        .options = options, .target = target, .loss = loss, .shown = shown};
    int code = door_agree(&passage);

    return code == 0 ? door_pass(&passage) : code;
}

struct slate_agreement door_agreement(const struct target *target)
{
    return (struct slate_agreement){target->agreed, &target->facts.evidence};
}

int door_enter(struct target *target)
{
    const struct slate_agreement agreed = door_agreement(target);
    enum slate_status status;

    progress_catch_interrupts(); /* more than one command may be sent */
    status =
        slate_door_enter(&target->media, &agreed, target->work, WORK_BYTES);
    return status == SLATE_OK ? 0 : door_fail(target, status);
}

int door_leave(struct target *target, int code)
{
    enum slate_status status = slate_door_leave(&target->media);

    return code == 0 && status != SLATE_OK
               ? fail_plainly(status, target->address)
               : code;
}

int door_fail(const struct target *target, enum slate_status status)
{
    if (status == SLATE_ERR_SWAPPED)
        return fail(status,
                    "%s: what is in it is not what was shown; nothing was "
                    "written",
                    target->address);
    if (status == SLATE_ERR_TAKEN_OUT)
        return fail(
            status,
            "%s: its medium was taken out, or another was put in, after "
            "it was shown; nothing was written",
            target->address);
    return fail_plainly(status, target->address);
}
