/* SPDX-License-Identifier: MIT */
/* The corpus: devices made by code, each with the findings that it must show,
 * exactly. Near misses of a cause stand beside it. */
#ifndef TESTS_CORPUS_H
#define TESTS_CORPUS_H

#include "craft.h"

#define CORPUS_BLOCKS 4194304u /* 2 GiB, where a case does not ask for more */

struct corpus_case {
    const char *name;
    /* "lead +consequence other": a consequence stands behind its lead */
    const char *findings;
    void (*build)(struct ram *ram); /* opens the device and fills it */
    /* whether a Linux kernel sees the same partitions; else why not, as
     * docs/tables.md puts it */
    const char *kernel_differs;
};

/* Each list ends with a row without a name. */
extern const struct corpus_case corpus_tables[];
extern const struct corpus_case corpus_gpts[];
extern const struct corpus_case corpus_volumes[];

/* The i-th case of all lists; NULL at the end. */
const struct corpus_case *corpus_case(size_t i);

#endif
