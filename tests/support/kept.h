/* SPDX-License-Identifier: MIT */
/* Devices of which partitions stay, and what is asked of them. */
#ifndef TESTS_KEPT_H
#define TESTS_KEPT_H

#include "ram.h"

#define KEPT_MIB 160u /* of each device */
#define KEPT_NUMBERS 6
#define KEPT_NEW 5

struct kept_edit {
    uint32_t stay; /* bits: which of the device's numbers */
    struct {
        uint32_t mib; /* 0: none; UINT32_MAX: the rest */
        enum slate_standing standing;
    } add[KEPT_NEW];
};

struct kept_case {
    const char *name;
    void (*build)(struct ram *ram);
    uint32_t number[KEPT_NUMBERS]; /* of partitions that can stay */
    const struct kept_edit *edit;
};

/* The index-th case, from 0; false behind the last one. */
bool kept_case(size_t index, struct kept_case *one);

/* The edit-th case of a device. */
void kept_find(const char *name, size_t edit, struct kept_case *one);

/* The device of a case, with noise where nothing lies. */
void kept_build(struct ram *ram, const struct kept_case *one, uint32_t block);

/* Asks for the parts of a case, in a draft that has none. */
void kept_ask(struct slate_draft *draft, const struct kept_case *one);

#endif
