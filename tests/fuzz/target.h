/* SPDX-License-Identifier: MIT */
/* What every fuzz target is: a function that libFuzzer calls, and that the
 * replay of seeds calls too. */
#ifndef TESTS_FUZZ_TARGET_H
#define TESTS_FUZZ_TARGET_H

#include <stddef.h>
#include <stdint.h>
#include <stdlib.h>

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length);

/* What must hold, whatever the input. */
#define demand(holds)                                                          \
    do {                                                                       \
        if (!(holds))                                                          \
            abort();                                                           \
    } while (0)

#endif
