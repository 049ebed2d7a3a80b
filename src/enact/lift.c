/* SPDX-License-Identifier: MIT */
/* Lifting guards ahead of writing: those of the draft, and no others. */
#include "enact/enact.h"

static bool is_drafted(const struct slate_draft *draft,
                       const struct slate_guard *guard)
{
    return (draft->basis.guards & SLATE_GUARD_BIT(guard->kind)) != 0;
}

/* A guard may have come since the draft was made: then nothing is lifted. */
static bool all_are_drafted(const struct slate_draft *draft,
                            const struct slate_guard *guard, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++) {
        if (slate_guard_stops_writing(guard[i].kind) &&
            !is_drafted(draft, &guard[i]))
            return false;
    }
    return true;
}

enum slate_status slate_enact_guards(const struct slate_enact *enact,
                                     struct slate_guard guard[SLATE_GUARDS_MAX],
                                     uint32_t *count)
{
    enum slate_status status =
        slate_guard_find(enact->pass.media, guard, count);

    return status == SLATE_OK &&
                   !all_are_drafted(enact->pass.draft, guard, *count)
               ? SLATE_ERR_PROTECTED
               : status;
}

enum slate_status slate_enact_lift(struct slate_enact *enact)
{
    const struct slate_draft *draft = enact->pass.draft;
    struct slate_media *media = enact->pass.media;
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count = 0;
    enum slate_status status = slate_enact_guards(enact, guard, &count);

    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (!is_drafted(draft, &guard[i]))
            continue;
        status = slate_guard_lift(media, &guard[i], NULL, draft->goal.lasting);
        if (status == SLATE_OK)
            enact->lifted |= SLATE_GUARD_BIT(guard[i].kind);
    }
    if (status == SLATE_OK && media->read_only)
        status = SLATE_ERR_PROTECTED;
    return status;
}
