/* SPDX-License-Identifier: MIT */
/* The three standard streams, whatever the caller has made of them. */
#include "base/base.h"

#include <errno.h>
#include <fcntl.h>
#include <signal.h>
#include <unistd.h>

/* A closed one gets what cannot be used for its purpose: reading from 0 and
 * writing to 1 and 2 fail as they did. */
static void occupy(int wanted)
{
    int opened;

    if (fcntl(wanted, F_GETFD) >= 0 || errno != EBADF)
        return;
    opened = open("/dev/null", wanted == STDIN_FILENO ? O_WRONLY : O_RDONLY);
    if (opened != wanted) /* they are taken in their order */
        _exit((int)SLATE_CLASS_INTERNAL);
}

/* A full disk, a closed pipe: who reads the output must not take it for whole.
 */
static void check_output(int code, void *nothing)
{
    (void)nothing;
    if (fflush(stdout) == 0 && ferror(stdout) == 0)
        return;
    if (code == 0) {
        (void)fail(SLATE_ERR_INTERNAL,
                   "what was to be said could not all be written");
        _exit((int)SLATE_CLASS_INTERNAL);
    }
}

void streams_begin(void)
{
    for (int i = STDIN_FILENO; i <= STDERR_FILENO; i++)
        occupy(i);
    signal(SIGPIPE, SIG_IGN);
    on_exit(check_output, NULL);
}
