/* SPDX-License-Identifier: MIT */
/* What a draft writes follows from its input and from the composers: their
 * revisions stand in it, and where one has changed since, it is not made. */
#include "draft/make/make.h"

#include "base/base.h"

/* Counts up whenever parts come to stand elsewhere for the same input. */
#define PLACING 0u

/* The same of the tables, and of what a round of overwriting has in a block.
 * Those of volumes stand in their formats. */
static const uint32_t tables[SLATE_TABLES_WRITTEN] = {0, 0, 0};
#define ROUNDS 0u

/* Of all that an input makes use of; of all else, 0. */
static struct slate_revisions present(const struct slate_draft *draft)
{
    struct slate_revisions revisions = {0};
    const struct slate_format *format;

    if (!slate_draft_is_change(draft)) {
        revisions.placing = PLACING;
        revisions.table[draft->table.kind] = tables[draft->table.kind];
    }
    if (draft->goal.overwrite.rounds > 0)
        revisions.rounds = ROUNDS;
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        for (uint32_t part = 0; part < draft->parts; part++) {
            if (draft->part[part].format == format)
                revisions.format[i] = format->revision;
        }
    }
    return revisions;
}

void slate_revisions_note(struct slate_draft *draft)
{
    draft->revisions = present(draft);
}

bool slate_revisions_hold(const struct slate_draft *draft)
{
    const struct slate_revisions revisions = present(draft);

    return memcmp(&revisions, &draft->revisions, sizeof revisions) == 0;
}

enum slate_status slate_draft_take_form(struct slate_draft *draft,
                                        uint32_t version)
{
    if (version < SLATE_DRAFT_VERSION_LEAST || version > SLATE_DRAFT_VERSION)
        return SLATE_ERR_DRAFT_VERSION;
    draft->form = version;
    memset(&draft->revisions, 0, sizeof draft->revisions);
    return SLATE_OK;
}
