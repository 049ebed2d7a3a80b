/* SPDX-License-Identifier: MIT */
/* Away from the host, and out of the machine. */

#include "term/term.h"
#include "work/work.h"

static void tell_done(void *context, const char *what)
{
    (void)context;
    print_line("Released", PAINT_GOOD, "%s", what);
}

int check_release(const struct target *target)
{
    char why[TARGET_WHY_ROOM];
    enum slate_status status = SLATE_OK;

    if (target->users[0] != '\0')
        status = target_may_free(target, why);
    return status == SLATE_OK ? 0 : fail(status, "%s", why);
}

int refuse_used(const struct target *target)
{
    if (target->users[0] == '\0')
        return 0;
    TRY(check_release(target));
    return fail(SLATE_ERR_BUSY,
                "%s is in use (%.*s); 'trueslate release %s%s' ends that",
                target->media.tag, (int)strcspn(target->users, "\n"),
                target->users, target->name, target->also);
}

int release_users(struct target *target, bool quiet)
{
    char why[TARGET_WHY_ROOM];
    enum slate_status status;

    if (target->users[0] == '\0')
        return 0;
    status = target_free(target, quiet ? NULL : tell_done, why);
    return status == SLATE_OK ? 0 : fail(status, "%s", why);
}

int eject_target(struct target *target)
{
    enum slate_status status = slate_media_eject(&target->media);

    if (status == SLATE_ERR_BUSY)
        return fail(status,
                    "%s: all is written, but another host or program prevents "
                    "its removal; end that one, then eject again",
                    target->address);
    return status == SLATE_OK ? 0 : fail_plainly(status, target->address);
}
