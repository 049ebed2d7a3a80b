/* SPDX-License-Identifier: MIT */
/* What may stand on a device before it is renewed: every kind of old table, and
 * none. */
#ifndef TESTS_OLD_CONTENT_H
#define TESTS_OLD_CONTENT_H

#include "ram.h"

struct old_content {
    const char *name;
    void (*build)(struct ram *ram); /* on an empty device of 36 MiB or more */
};
#define OLD_CONTENTS 13

/* NULL behind the last one. */
const struct old_content *old_content_at(size_t index);

#endif
