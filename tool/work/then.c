/* SPDX-License-Identifier: MIT */
/* What becomes of a device when all is done. */
#include "work/work.h"

#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include "term/term.h"

#define VARIABLES 5

static enum slate_status rest(struct target *target)
{
    return slate_media_rest(&target->media);
}

static enum slate_status go_offline(struct target *target)
{
    return slate_media_leave(&target->media, SLATE_LEAVE_OFFLINE);
}

static enum slate_status power_off(struct target *target)
{
    return slate_media_leave(&target->media, SLATE_LEAVE_POWER_OFF);
}

static const struct {
    const char *name;
    enum slate_status (*go)(struct target *target); /* NULL: ejected */
    const char *done, *failed;
} rows[] = {{"spin-down", rest,
             "it has stopped, and starts with the next access",
             "it has no command to stop"},
            {"eject", NULL, "it can be unplugged", ""},
            {"offline", go_offline,
             "the host shows it no more, until it is plugged in again",
             "the host cannot take it away"},
            {"power-off", power_off, "its power is off",
             "the host cannot switch its power; 'offline' may take it away"}};

#define ROWS (sizeof rows / sizeof rows[0])

static size_t row_of(const char *word)
{
    size_t i = 0;

    while (i < ROWS && strcmp(rows[i].name, word) != 0)
        i++;
    return i;
}

const char *then_name(uint32_t index)
{
    return index < ROWS ? rows[index].name : NULL;
}

bool then_is_known(const char *word)
{
    return row_of(word) < ROWS;
}

static int let_go(struct target *target, const struct options *options)
{
    size_t i = row_of(options->then);
    enum slate_status status;

    if (rows[i].go == NULL) {
        int code = eject_target(target);

        TRY(code);
    } else {
        status = rows[i].go(target);
        if (status == SLATE_ERR_COMMAND)
            return fail(status, "%s: all is done, but not '--then %s': %s",
                        target->media.tag, rows[i].name, rows[i].failed);
        if (status != SLATE_OK)
            return fail_plainly(status, target->address);
    }
    if (!options->json)
        print_line("Then", PAINT_GOOD, "%s", rows[i].done);
    return 0;
}

/* The command learns of it by its environment, so that no name is taken for
 * words of a shell. */
static int run(const struct target *target, const struct options *options,
               int code)
{
    char tag[64], address[4400], result[32], evidence[4400];
    char *const ours[VARIABLES] = {tag, address, result, evidence, NULL};
    char *const words[] = {(char[]){"sh"}, (char[]){"-c"},
                           strdup(options->then_run), NULL};
    size_t count = 0;
    char **all;
    pid_t child;
    int state = 0, failed;

    snprintf(tag, sizeof tag, "TRUESLATE_TAG=%s", target->media.tag);
    snprintf(address, sizeof address, "TRUESLATE_DEVICE=%s", target->address);
    snprintf(result, sizeof result, "TRUESLATE_CODE=%d", code);
    snprintf(evidence, sizeof evidence, "TRUESLATE_EVIDENCE=%s",
             options->evidence == NULL ? "" : options->evidence);
    while (environ[count] != NULL)
        count++;
    all = calloc(count + VARIABLES, sizeof *all);
    if (all == NULL || words[2] == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    memcpy(all, environ, count * sizeof *all);
    memcpy(all + count, ours, sizeof ours);
    fflush(stdout);
    failed = posix_spawn(&child, "/bin/sh", NULL, NULL, words, all);
    if (failed == 0)
        failed = waitpid(child, &state, 0) == child ? 0 : -1;
    free(all);
    free(words[2]);
    if (failed == 0 && WIFEXITED(state) && WEXITSTATUS(state) == 0)
        return 0;
    return fail(SLATE_ERR_ACCESS, "%s: the command of --then-run failed",
                target->media.tag);
}

int then_do(struct target *target, const struct options *options, int code)
{
    int own = 0;

    if (code == 0 && options->then != NULL)
        own = let_go(target, options);
    if (options->then_run != NULL) {
        int ran = run(target, options, code != 0 ? code : own);

        own = own != 0 ? own : ran;
    }
    return code != 0 ? code : own;
}
