/* SPDX-License-Identifier: MIT */
/* Files for tests to place: their list, their content, and a source that goes
 * wrong when a test says so. */
#ifndef TESTS_PLACED_H
#define TESTS_PLACED_H

#include "check.h"
#include "exfat_check.h"
#include "tree.h"

#define PLACED_NOBODY UINT32_MAX

struct placed {
    struct slate_source source;
    struct slate_draft *draft;
    struct slate_files *files; /* of it */
    /* What the source does. */
    uint64_t reads;
    uint64_t fail_read;    /* the read that fails, from 1; 0: none */
    uint64_t change_after; /* with so many reads the file has changed; 0: none
                            */
    uint32_t changed;    /* the item that has another byte; or PLACED_NOBODY */
    uint64_t changed_at; /* that byte */
    uint32_t shorter;    /* the item that has lost its end */
};

/* The draft of a session, which has one part, gets files: none yet. */
void placed_begin(struct placed *placed, struct slate_draft *draft);

/* @return the index of the item */
uint32_t placed_add(struct placed *placed, uint32_t parent, const char *name,
                    uint64_t bytes);
uint32_t placed_add_folder(struct placed *placed, uint32_t parent,
                           const char *name);

/* Their digests, by the library. */
void placed_digest(struct placed *placed);

/* A byte of an item's content. */
uint8_t placed_byte(uint32_t item, uint64_t at);

/* Reads the volume of the draft's one part from a device that it was enacted
 * on, as the specifications have it: it holds all that was placed, in the order
 * in which it was, and nothing else. */
void placed_check(const struct placed *placed, const struct slate_draft *draft,
                  const struct ram *ram, struct tree *tree);

#endif
