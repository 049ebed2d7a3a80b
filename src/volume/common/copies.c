/* SPDX-License-Identifier: MIT */
/* A volume whose first blocks are erased or damaged may still have a sound copy
 * of them further in: then it is not lost. Each family says where. */
#include <string.h>

#include "volume/common/common.h"

void slate_volume_take_copy(struct slate_reader *reader,
                            enum slate_volume_kind kind, uint64_t byte,
                            struct slate_volume *volume)
{
    volume->lost = kind;
    volume->copy_lba = slate_reader_lba(reader, byte);
}

void slate_volume_add_run(struct slate_start_copy *copy, uint64_t from,
                          uint64_t to, uint32_t bytes)
{
    copy->run[copy->runs].from = from;
    copy->run[copy->runs].to = to;
    copy->run[copy->runs++].bytes = bytes;
}

static enum slate_status find_start(struct slate_reader *reader,
                                    struct slate_start_copy *copy)
{
    uint32_t block = reader->media->geometry.block_bytes;
    struct slate_volume volume = {.kind = SLATE_VOLUME_NONE};
    const struct slate_family *family;

    slate_copies_read(reader, &volume);
    copy->kind = volume.kept ? volume.lost : SLATE_VOLUME_NONE;
    family = slate_kind_of(copy->kind)->family;
    copy->make_first = family->make_first;
    if (family->add_runs != NULL)
        family->add_runs(reader,
                         (volume.copy_lba - reader->range.first) * block, copy);
    if (reader->status != SLATE_OK)
        return reader->status;
    return copy->runs > 0 ? SLATE_OK : SLATE_ERR_FORMAT;
}

enum slate_status slate_volume_start_find(struct slate_media *media,
                                          const struct slate_range *range,
                                          void *work,
                                          struct slate_start_copy *copy)
{
    struct slate_reader reader = {
        .media = media, .range = *range, .work = work};

    memset(copy, 0, sizeof *copy);
    return slate_reader_cut(&reader) ? find_start(&reader, copy)
                                     : SLATE_ERR_FORMAT;
}

void slate_copies_read(struct slate_reader *reader, struct slate_volume *volume)
{
    for (uint32_t i = 0; i < SLATE_VOLUME_KINDS; i++) {
        const struct slate_family *family = slate_family_at(i);

        if (family != NULL && family->find_copy != NULL &&
            family->find_copy(reader, volume))
            return;
    }
}
