/* SPDX-License-Identifier: MIT */
/* Which volume begins with a run of blocks: by the signatures of all kinds, in
 * their turns, and by what families judge otherwise. */
#include <string.h>

#include "base/base.h"
#include "volume/common/common.h"

static bool matches(const struct slate_signature *row, enum slate_turn turn,
                    uint32_t run, const uint8_t *bytes)
{
    return row->turn == turn && row->run == run &&
           memcmp(bytes + row->at, row->bytes, row->length) == 0;
}

static const struct slate_signature *find_in(const struct slate_family *family,
                                             enum slate_turn turn, uint32_t run,
                                             const uint8_t *bytes)
{
    for (uint32_t i = 0; i < family->signatures; i++) {
        if (matches(&family->signature[i], turn, run, bytes))
            return &family->signature[i];
    }
    return NULL;
}

static bool judge_turn(enum slate_turn turn, uint32_t run, const uint8_t *bytes,
                       struct slate_volume *volume)
{
    for (uint32_t i = 0; i < SLATE_VOLUME_KINDS; i++) {
        const struct slate_family *family = slate_family_at(i);
        const struct slate_signature *found =
            family == NULL ? NULL : find_in(family, turn, run, bytes);

        if (found == NULL)
            continue;
        volume->kind = found->kind;
        if (found->more != NULL)
            found->more(bytes, volume);
        return true;
    }
    return false;
}

bool slate_signature_judge(uint32_t run, const uint8_t *bytes,
                           struct slate_volume *volume)
{
    for (int turn = SLATE_TURN_FRONT + 1; turn < SLATE_TURNS; turn++) {
        if (judge_turn((enum slate_turn)turn, run, bytes, volume))
            return true;
    }
    return false;
}

bool slate_volume_judge_start(struct slate_reader *reader, const uint8_t *boot,
                              enum slate_depth depth,
                              struct slate_volume *volume)
{
    if (judge_turn(SLATE_TURN_FRONT, 0, reader->work, volume))
        return true;
    /* ahead of signatures: reserved blocks may hold those of an older volume */
    for (uint32_t i = 0; i < SLATE_VOLUME_KINDS; i++) {
        const struct slate_family *family = slate_family_at(i);

        if (family != NULL && family->judge != NULL &&
            family->judge(reader, boot, depth, volume))
            return true;
    }
    return slate_signature_judge(0, reader->work, volume);
}

const uint8_t *slate_boot_named(struct slate_reader *reader, uint64_t byte,
                                const char *name)
{
    const uint8_t *found = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);

    return found != NULL && memcmp(found + 3, name, 8) == 0 &&
                   slate_le16(found + 510) == 0xAA55
               ? found
               : NULL;
}

enum slate_here slate_volume_told(struct slate_reader *reader, uint64_t told)
{
    return told != 0 && told == reader->range.first ? SLATE_HERE_TOLD
                                                    : SLATE_HERE_UNTOLD;
}

/* A volume whose first blocks are erased or damaged may still have a sound copy
 * of them further in: then it is not lost. Each family says where. */

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
