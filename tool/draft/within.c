/* SPDX-License-Identifier: MIT */
/* Of a device that claims more than it has, what is there. */
#include "draft/draft.h"

#define PROVED "proved"

bool within_is_known(const char *word)
{
    uint64_t bytes;

    return strcmp(word, PROVED) == 0 || word_distance(word, &bytes);
}

/* "ONLY-8GB": whoever sees the volume sees that. */
static void name_it(const struct target *target, struct slate_draft *draft)
{
    struct slate_ask *ask = &draft->part[0].ask;
    size_t at = 5;

    if (draft->parts != 1 || ask->label[0] != '\0' || ask->bare)
        return;
    memcpy(ask->label, "ONLY-", at);
    for (const char *from =
             in_decimal(draft->goal.within * target->media.geometry.block_bytes)
                 .words;
         *from != '\0' && at < 11; from++) {
        if (*from != ' ')
            ask->label[at++] = *from == '.' ? '-' : *from;
    }
    ask->label[at] = '\0';
}

int within_take(const struct options *options, const struct target *target,
                struct slate_draft *draft)
{
    uint64_t bytes = 0, block_bytes = target->media.geometry.block_bytes;

    if (options->within == NULL)
        return 0;
    draft->goal.within = target->facts.proved_blocks;
    if (strcmp(options->within, PROVED) == 0 && draft->goal.within == 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "--within proved: nothing is known of %s by its serial "
                    "number; expected a size, or 'trueslate probe %s%s' first",
                    target->address, target->name, target->also);
    if (word_distance(options->within, &bytes))
        draft->goal.within = bytes / block_bytes;
    if (draft->goal.within == 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "--within %s: expected a size of one block or more",
                    options->within);
    name_it(target, draft);
    return 0;
}
