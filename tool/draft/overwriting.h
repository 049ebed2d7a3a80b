/* SPDX-License-Identifier: MIT */
/* Overwriting, as people and programs are told of it. */
#ifndef TOOL_OVERWRITING_H
#define TOOL_OVERWRITING_H

#include <jansson.h>

#include "base/options.h"
#include "device/target.h"

/* "random,zero", "3xrandom,AA": false: these are no rounds. */
bool overwriting_rounds(const char *word, struct slate_overwrite *over);

/* Names of when to discard, by an index; NULL behind the last. */
const char *overwriting_discard_name(uint32_t index);
bool overwriting_read_back(const char *word, enum slate_read_back *read_back);
bool overwriting_discard(const char *word, enum slate_discard *discard);

/* The partition of which the entry alone stays; 0: none. */
uint32_t overwriting_emptied(const struct slate_draft *draft);

/* "TARUK-47 is overwritten, and holds no table and no volume"; false: something
 * else comes out of the draft. */
bool overwriting_words(const struct slate_draft *draft, char *words,
                       size_t room);

/* What a draft overwrites, with what and how often; nothing when it does not.
 */
void overwriting_view(const struct slate_draft *draft);

/* What has become of it: in words, or for programs. Either of the two may be
 * NULL. */
void overwriting_tell(const struct slate_overwrite *over,
                      const struct slate_draft *draft,
                      const struct slate_enact *enact,
                      const struct slate_prove *prove);
json_t *overwriting_report(const struct slate_overwrite *over,
                           const struct slate_draft *draft,
                           const struct slate_enact *enact,
                           const struct slate_prove *prove);

/* Writes the blocks that failed to where the options have it, and says how many
 * there are. Returns an exit code: 0 when none failed. */
int overwriting_end(const struct options *options, const struct target *target,
                    const struct slate_draft *draft);

#endif
