/* SPDX-License-Identifier: MIT */
/* Another label for a volume, as a change in place. */
#include <string.h>

#include "base/base.h"
#include "draft/mend/mend.h"

static enum slate_status put_edit(const struct slate_patching *patching,
                                  const struct slate_label_edit *edit)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    struct slate_patch patch = {
        edit->byte / block_bytes,
        edit->copy ? SLATE_MOMENT_COPIES : SLATE_MOMENT_BODY,
        edit->copy ? SLATE_PATCH_VOLUME_COPY : SLATE_PATCH_VOLUME};
    uint8_t *block;
    enum slate_status status = slate_patch_block(patching, &patch, &block);

    if (status == SLATE_OK)
        memcpy(block + edit->byte % block_bytes, edit->bytes, edit->length);
    return status;
}

static enum slate_status relabel(const struct slate_patching *patching,
                                 const struct slate_volume *volume,
                                 const struct slate_relabel *wish)
{
    const struct slate_format *format = slate_format_of(volume->kind);
    struct slate_change *change = &patching->draft->change;
    struct slate_relabel round = *wish;
    struct slate_label_plan plan;
    enum slate_status status;
    uint32_t edits = 0;

    if (format == NULL || format->relabel == NULL)
        return SLATE_ERR_FORMAT;
    do {
        status =
            format->relabel(patching->media, &round, patching->work, &plan);
        for (uint32_t i = 0; status == SLATE_OK && i < plan.edits; i++)
            status = put_edit(patching, &plan.edit[i]);
        edits += plan.edits;
        round.round++;
    } while (status == SLATE_OK && plan.more);
    SLATE_TRY(status);
    memcpy(change->renamed.label, plan.label, sizeof plan.label);
    return edits == 0 ? SLATE_ERR_ARGUMENT : SLATE_OK;
}

enum slate_status slate_draft_label(struct slate_draft *draft,
                                    const struct slate_facts *facts,
                                    uint32_t partition, const char *label,
                                    struct slate_media *media, void *work)
{
    const struct slate_patching patching = {draft, media, work};
    bool whole = partition == SLATE_ATTRIBUTE_WHOLE;
    struct slate_renamed *renamed = &draft->change.renamed;
    struct slate_relabel wish = {.range = {0, facts->geometry.block_count},
                                 .label = label,
                                 .stamp = draft->choices.stamp};
    /* zeros must not stand for what is kept */
    const struct slate_policy strict = {.unread = NULL};
    struct slate_policy before;
    enum slate_status status;

    if (work == NULL)
        return SLATE_ERR_BUFFER;
    if (renamed->wanted || (!whole && partition >= facts->layout.count))
        return SLATE_ERR_ARGUMENT;
    if (!whole) {
        wish.range.first = facts->partition[partition].first;
        wish.range.count = facts->partition[partition].count;
    }
    before = slate_media_read_by(media, &strict);
    status = relabel(&patching,
                     whole ? &facts->whole : &facts->volume[partition], &wish);
    (void)slate_media_read_by(media, &before);
    renamed->wanted = status == SLATE_OK;
    renamed->number = whole ? 0 : facts->partition[partition].number;
    return status;
}
