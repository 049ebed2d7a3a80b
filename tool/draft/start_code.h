/* SPDX-License-Identifier: MIT */
/* Start-up code for a volume, from a file. */
#ifndef TOOL_START_CODE_H
#define TOOL_START_CODE_H

#include "base/options.h"

/* Takes the code that the options name, or else that of an earlier draft, into
 * a draft of which a part asks for it. Says on stderr what is wrong; returns an
 * exit code. */
int start_code_take(const struct options *options,
                    const struct slate_draft *former,
                    struct slate_draft *draft);

#endif
