/* SPDX-License-Identifier: MIT */
/* Errors on their way up. */
#ifndef SLATE_BASE_TRY_H
#define SLATE_BASE_TRY_H

#include "trueslate/status.h"

/* Returns from the function with the status of a call that did not succeed. */
#define SLATE_TRY(call)                                                        \
    do {                                                                       \
        enum slate_status tried_ = (call);                                     \
        if (tried_ != SLATE_OK)                                                \
            return tried_;                                                     \
    } while (0)

#endif
