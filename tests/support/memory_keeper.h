/* SPDX-License-Identifier: MIT */
/* A journal that is kept in memory, with failures to order. */
#ifndef TESTS_MEMORY_KEEPER_H
#define TESTS_MEMORY_KEEPER_H

#include <trueslate/trueslate.h>

struct memory {
    uint8_t *bytes;
    size_t length, room;
    uint64_t calls, fail_at;      /* of appending and syncing; 0: none */
    uint64_t reads, fail_read_at; /* the same of reading */
    bool synced;
};

/* There is one; its length and calls are set back by who begins anew. */
extern struct memory memory;
extern const struct slate_keeper memory_keeper;
void memory_forget(void);

#endif
