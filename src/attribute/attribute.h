/* SPDX-License-Identifier: MIT */
/* Inside the attribute room: changing bits in place. */
#ifndef SLATE_ATTRIBUTE_ATTRIBUTE_H
#define SLATE_ATTRIBUTE_ATTRIBUTE_H

#include "trueslate/attribute.h"

/* The bits of a GPT entry that an attribute stands for; 0 for others. */
uint64_t slate_attribute_bits(enum slate_attribute_kind kind);

/* Clears bits in the entry of a partition, in both copies of the table. */
enum slate_status slate_attribute_clear_gpt(struct slate_media *media,
                                            const struct slate_partition *entry,
                                            uint64_t bits, void *work);

#endif
