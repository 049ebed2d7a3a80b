/* SPDX-License-Identifier: MIT */
/* A port over another one that goes wrong at the moment which a test sets. */
#ifndef TESTS_SHIM_H
#define TESTS_SHIM_H

#include <trueslate/trueslate.h>

/* What becomes of writes that were not flushed when the power goes. */
enum shim_cache {
    SHIM_KEPT,
    SHIM_LOST,
    SHIM_SOME, /* some are kept, by the seed */
    SHIM_MASK  /* the last one is kept where bit 0 of the seed is set, and so on
                */
};

/* How the power goes in a write: so many of its bytes are stored, from its
 * start or from its end, and its first torn block may be unreadable then. */
struct shim_way {
    size_t torn_bytes;
    bool torn_end, unreadable;
    enum shim_cache cache;
};

struct shim_write;

struct shim {
    struct slate_port port;
    const struct slate_port *under;
    uint32_t block_bytes;
    uint64_t calls, writes; /* so far */
    uint64_t cut_at; /* the write in which the power goes, from 1; 0: never */
    struct shim_way way;
    uint32_t seed;
    uint64_t refuse_after; /* later writes fail; 0: none */
    uint64_t deaf_after;   /* later writes are acknowledged and dropped */
    uint8_t *counted;      /* writes of each block so far, or NULL */
    /* at the first call from this one on that reads (or any, where it is
     * told) another medium is in the reader */
    uint64_t swap_at;
    bool swap_told; /* the first call then is refused */
    const struct slate_port *other;
    /* what came of it */
    bool swapped;
    bool gone;
    uint64_t unreadable; /* block; UINT64_MAX: none */
    struct shim_write *log;
};

/* A shim over an open port; the test sets faults afterwards. */
void shim_open(struct shim *shim, const struct slate_port *under);

/* Power again: the device answers, and no fault is set any more. */
void shim_power(struct shim *shim);

void shim_close(struct shim *shim);

#endif
