/* SPDX-License-Identifier: MIT */
/* The seal of a draft: the digest of its stored form. */
#ifndef SLATE_DRAFT_STORE_H
#define SLATE_DRAFT_STORE_H

#include "trueslate/stored.h"

void slate_draft_seal(struct slate_draft *draft,
                      uint8_t seal[SLATE_DIGEST_BYTES]);

/* The fields of what is wanted, in an order of their own. */
bool slate_draft_visit_wish(struct slate_draft *draft,
                            const struct slate_visitor *visitor);

#endif
