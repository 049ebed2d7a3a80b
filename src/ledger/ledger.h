/* SPDX-License-Identifier: MIT */
/* Inside the ledger. */
#ifndef SLATE_LEDGER_LEDGER_H
#define SLATE_LEDGER_LEDGER_H

#include "trueslate/ledger.h"

/* One more; where there is no room, the ledger is cut off. */
void slate_ledger_add(struct slate_ledger *ledger,
                      const struct slate_loss *loss);

/* The blocks of a table that a change in place replaces: what they held that
 * was none. */
void slate_ledger_patches(struct slate_ledger *ledger,
                          const struct slate_draft *draft,
                          const struct slate_facts *facts);

#endif
