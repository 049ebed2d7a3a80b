/* SPDX-License-Identifier: MIT */
/* bench, plug, unplug: laying out simulated devices, and handling them. */

#include "verbs/verbs.h"

static const char *bench_of(const struct options *options)
{
    return options->bench == NULL ? DEFAULT_BENCH : options->bench;
}

int verb_bench(const struct options *options)
{
    char why[SLATE_SIM_WHY_ROOM];
    enum slate_status status =
        slate_sim_lay(options->operand, bench_of(options), why);

    if (status != SLATE_OK)
        return fail(status, "the bench in %s cannot be laid out: %s",
                    bench_of(options), why);
    printf("A fresh bench lies in %s.\n", plain_word(bench_of(options)));
    return 0;
}

static int plug(const struct options *options, bool in)
{
    enum slate_status status =
        slate_sim_plug(bench_of(options), options->operand, in);

    if (status != SLATE_OK)
        return fail(status, "%s: there is no such device on the bench in %s",
                    options->operand, bench_of(options));
    printf("%s is plugged %s.\n", options->operand, in ? "in" : "out");
    return 0;
}

int verb_plug(const struct options *options)
{
    return plug(options, true);
}

int verb_unplug(const struct options *options)
{
    return plug(options, false);
}
