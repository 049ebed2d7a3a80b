/* SPDX-License-Identifier: MIT */
/* Looking through the root directory of FAT and exFAT, entry by entry. */
#include "volume/common/common.h"

#include "base/base.h"

#define NOWHERE UINT64_MAX

static bool is_cluster(const struct slate_directory *directory)
{
    return directory->cluster >= 2 &&
           directory->cluster - 2 < directory->clusters;
}

static void take_cluster(struct slate_directory *directory)
{
    directory->at =
        directory->clusters_at +
        (uint64_t)(directory->cluster - 2) * directory->cluster_bytes;
    directory->left = is_cluster(directory) ? directory->cluster_bytes : 0;
}

void slate_directory_begin(struct slate_directory *directory, uint32_t cluster)
{
    directory->cluster = cluster;
    take_cluster(directory);
}

static void follow(struct slate_directory *directory)
{
    const uint8_t *entry = NULL;

    if (directory->chain != 0 && is_cluster(directory))
        entry = slate_reader_at(
            directory->reader,
            directory->chain + (uint64_t)directory->cluster * 4, 4);
    directory->cluster =
        entry == NULL ? 0 : slate_le32(entry) & directory->mask;
    take_cluster(directory);
}

/* The next 512 bytes, or none: at the end, or where that was reached in too
 * many steps for what a directory may be. */
static const uint8_t *next_piece(struct slate_directory *directory,
                                 uint64_t *byte)
{
    if (directory->left < SLATE_PIECE_BYTES)
        follow(directory);
    if (directory->left < SLATE_PIECE_BYTES ||
        directory->most < SLATE_PIECE_BYTES)
        return NULL;
    *byte = directory->at;
    directory->at += SLATE_PIECE_BYTES;
    directory->left -= SLATE_PIECE_BYTES;
    directory->most -= SLATE_PIECE_BYTES;
    return slate_reader_at(directory->reader, *byte, SLATE_PIECE_BYTES);
}

/* Where a label could go: a free entry; else the end, when what follows it is
 * one as well, so that nothing old shows up. */
struct place {
    uint64_t free, end;
    bool ended;
};

/* True when that entry ends looking. */
static bool note(struct place *place, enum slate_entry_kind kind, uint64_t at)
{
    if (place->ended) {
        if (kind != SLATE_ENTRY_END)
            place->end = NOWHERE;
        return true;
    }
    if (kind == SLATE_ENTRY_FREE && place->free == NOWHERE)
        place->free = at;
    if (kind == SLATE_ENTRY_END) {
        place->end = at;
        place->ended = true;
    }
    return kind == SLATE_ENTRY_LABEL;
}

static enum slate_status settle(struct slate_directory *directory,
                                const struct place *place, uint64_t *at,
                                uint8_t *entry)
{
    const uint8_t *found;

    if (directory->reader->status != SLATE_OK)
        return directory->reader->status;
    *at = place->free != NOWHERE ? place->free : place->end;
    if (*at == NOWHERE)
        return SLATE_ERR_ROOT_FULL;
    found = slate_reader_at(directory->reader, *at, SLATE_ENTRY_BYTES);
    if (found == NULL)
        return directory->reader->status;
    memcpy(entry, found, SLATE_ENTRY_BYTES);
    return SLATE_OK;
}

enum slate_status
slate_directory_find(struct slate_directory *directory,
                     enum slate_entry_kind (*judge)(const uint8_t *entry),
                     uint64_t *at, uint8_t entry[SLATE_ENTRY_BYTES])
{
    struct place place = {NOWHERE, NOWHERE, false};
    const uint8_t *piece;
    uint64_t byte = 0;

    if (directory->left == 0)
        return SLATE_ERR_CHANGED;
    while ((piece = next_piece(directory, &byte)) != NULL) {
        for (uint32_t i = 0; i < SLATE_PIECE_BYTES; i += SLATE_ENTRY_BYTES) {
            bool ended = place.ended;
            enum slate_entry_kind kind = judge(piece + i);

            if (!note(&place, kind, byte + i))
                continue;
            if (ended || kind != SLATE_ENTRY_LABEL)
                return settle(directory, &place, at, entry);
            *at = byte + i;
            memcpy(entry, piece + i, SLATE_ENTRY_BYTES);
            return SLATE_OK;
        }
    }
    return settle(directory, &place, at, entry);
}
