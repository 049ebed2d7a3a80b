/* SPDX-License-Identifier: MIT */
/* release and eject: away from the host, and out of the machine. */

#include "verbs/verbs.h"
#include "device/device.h"
#include "work/work.h"

int verb_release(const struct options *options)
{
    struct target target;
    int code = target_named(&target, options);

    if (code == 0 && target.users[0] == '\0')
        printf("%s is used by nobody.\n", target.media.tag);
    THEN(code, release_users(&target, false));
    target_close(&target);
    return code;
}

int verb_eject(const struct options *options)
{
    struct target target;
    int code = target_named(&target, options);

    THEN(code, refuse_used(&target));
    THEN(code, eject_target(&target));
    if (code == 0)
        printf("%s can be unplugged now.%s\n", target.media.tag,
               target.media.abilities.rotating
                   ? " Its platters have been told to stop: wait until you no "
                     "longer feel them turn."
                   : "");
    target_close(&target);
    return code;
}
