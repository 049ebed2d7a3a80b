/* SPDX-License-Identifier: MIT */
/* Members of a ZFS pool: a list of names and values, each with its lengths
 * ahead (XDR, RFC 4506); the first name is "version", the pool's own stands a
 * few behind it. */

#include "volume/known/known.h"

static void take(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t at = 12;

    volume->has_members = true;
    while (at + 40 < SLATE_WORK_MIN) {
        uint32_t size = slate_be32(run + at);
        uint32_t value = at + 12 + ((slate_be32(run + at + 8) + 3u) & ~3u);

        if (size < 20 || size > SLATE_WORK_MIN - at)
            return;
        if (memcmp(run + at + 8, "\0\0\0\4name\0\0\0\11", 12) == 0) {
            uint32_t length = slate_be32(run + value + 8);

            if (value + 12 < at + size && length <= at + size - value - 12)
                slate_label_utf8(volume, run + value + 12, length);
            return;
        }
        at += size;
    }
}

static const struct slate_signature signature = {SLATE_VOLUME_ZFS,
                                                 SLATE_TURN_START,
                                                 SLATE_RUN_FIFTH,
                                                 24,
                                                 8,
                                                 "version\0",
                                                 take};

static const struct slate_family family = {.signature = &signature,
                                           .signatures = 1};

SLATE_KNOWN(zfs, "ZFS member", &family, .part_of = "a member of a pool (ZFS)",
            .needs_more = true);
