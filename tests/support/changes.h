/* SPDX-License-Identifier: MIT */
/* Wishes that a device gets in place: conversions, with and without new
 * partitions, growing, and volumes that are put back. */
#ifndef TESTS_CHANGES_H
#define TESTS_CHANGES_H

#include "check.h"

struct change {
    const char *name;
    void (*build)(struct ram *ram); /* opens it as well */
    enum slate_mend_kind kind;
    uint32_t partition; /* SLATE_ATTRIBUTE_WHOLE, or its index */
    struct slate_ask ask[2];
    uint32_t asks;
    uint64_t put_back[2]; /* blocks; none: it is no such wish */
    enum slate_table_kind table;
    uint32_t found; /* partitions afterwards, without containers */
};

/* NULL behind the last one. */
const struct change *change_at(size_t index);

/* Drafts it on what was looked at. */
enum slate_status change_draft(struct session *s, const struct change *change);

/* Opens a device with two primary partitions under an MBR, the second one
 * first, and two logical ones. */
void changes_old_disk(struct ram *ram, uint64_t blocks);

#endif
