/* SPDX-License-Identifier: MIT */
/* A closer look at exFAT (file system specification 1.00, 3.1, 7). */
#include <string.h>

#include "base/bytes.h"
#include "volume/read.h"

#define COPY_BLOCK 12u
#define LABEL_ENTRY 0x83
#define FLAGS_AT 106u
#define DIRTY 0x02

/* Flags, and the share in use: hosts keep them in the first copy alone. */
static bool host_changes(uint32_t at)
{
    return at == FLAGS_AT || at == FLAGS_AT + 1 || at == 112;
}

static void take_label(const uint8_t *root, struct slate_volume *volume)
{
    for (uint32_t at = 0; at < SLATE_PIECE_BYTES && root[at] != 0; at += 32) {
        if (root[at] == LABEL_ENTRY && root[at + 1] <= 11) {
            slate_label_utf16(volume, root + at + 2, root[at + 1]);
            return;
        }
    }
}

void slate_exfat_read(struct slate_reader *reader, const uint8_t *boot,
                      struct slate_volume *volume)
{
    uint32_t root = slate_le32(boot + 96);
    const uint8_t *block;

    if (volume->cluster_bytes == 0)
        return; /* its sizes make no sense */
    if (volume->dirty)
        slate_reader_flag(reader, SLATE_FLAG_DIRTY, FLAGS_AT, DIRTY, false);
    if (root >= 2) {
        block = slate_reader_at(
            reader,
            (uint64_t)slate_le32(boot + 88) * volume->block_bytes +
                (uint64_t)(root - 2) * volume->cluster_bytes,
            SLATE_PIECE_BYTES);
        if (block != NULL)
            take_label(block, volume);
    }
    slate_reader_copy(reader, (uint64_t)COPY_BLOCK * volume->block_bytes, boot,
                      host_changes, volume);
}
