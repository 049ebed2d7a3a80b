/* SPDX-License-Identifier: MIT */
/* Records of what needs more than one volume: they outlive what they belonged
 * to, under a volume or a table that came later. */
#include <string.h>

#include "base/base.h"
#include "volume/common/common.h"

static bool holds(struct slate_reader *reader, uint64_t byte, const char *bytes,
                  uint32_t length)
{
    const uint8_t *found = slate_reader_at(reader, byte, length);

    return found != NULL && memcmp(found, bytes, length) == 0;
}

static bool has_record(struct slate_reader *reader,
                       const struct slate_family *family)
{
    uint64_t bytes = reader->range.count * reader->media->geometry.block_bytes;

    for (uint32_t i = 0; i < family->signatures; i++) {
        const struct slate_signature *one = &family->signature[i];

        if (holds(reader, (uint64_t)one->run + one->at, one->bytes,
                  one->length))
            return true;
    }
    for (uint32_t i = 0; i < family->remnants; i++) {
        const struct slate_remnant *one = &family->remnant[i];
        uint64_t end = one->unit == 0 ? 0 : bytes / one->unit * one->unit;

        if (one->unit != 0 && end < one->at)
            continue;
        if (holds(reader, one->unit == 0 ? one->at : end - one->at, one->bytes,
                  one->length))
            return true;
    }
    return false;
}

bool slate_volume_find_member(struct slate_reader *reader,
                              struct slate_volume *volume)
{
    for (uint32_t i = 0; i < SLATE_VOLUME_KINDS; i++) {
        const enum slate_volume_kind kind = (enum slate_volume_kind)i;
        const struct slate_kind *row = slate_kind_of(kind);
        struct slate_volume tail = {.kind = SLATE_VOLUME_NONE};

        if (!row->needs_more || row->family == NULL)
            continue;
        if (row->family->judge_tail != NULL)
            row->family->judge_tail(reader, &tail);
        if (tail.kind == SLATE_VOLUME_NONE && has_record(reader, row->family))
            tail.kind = kind;
        if (tail.kind == SLATE_VOLUME_NONE)
            continue;
        *volume = tail;
        return true;
    }
    return false;
}
