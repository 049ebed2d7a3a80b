/* SPDX-License-Identifier: MIT */
/* Which volume stands in a range of blocks: first by what its start says, then
 * by what stands further in; then what else is worth knowing of it. */
#include <string.h>

#include "base/names.h"
#include "base/zero.h"
#include "trueslate/mark.h"
#include "volume/common/read.h"

#define SECOND_RUN 4096u
#define FIFTH_RUN 16384u
#define FAR_RUN 65536u

/* Like slate_reader_at, but a range that ends within the run counts as well,
 * with zeros behind its end. */
static bool read_run(struct slate_reader *reader, uint64_t byte)
{
    uint32_t block = reader->media->geometry.block_bytes;
    uint64_t at = byte / block, room = SLATE_WORK_MIN / block, left;

    if (reader->status != SLATE_OK || at >= reader->range.count)
        return false;
    left = reader->range.count - at;
    if (left > room)
        left = room;
    memset(reader->work, 0, SLATE_WORK_MIN);
    reader->status = slate_media_read(reader->media, reader->range.first + at,
                                      (uint32_t)left, reader->work);
    return reader->status == SLATE_OK;
}

/* Evenly random bytes: over 4096 of them the sum below is 255 on average with
 * a deviation of 23 (chi-squared test); anything written is far above. */
static bool is_random(const uint8_t *run)
{
    uint16_t found[256] = {0};
    uint32_t sum = 0, even = SLATE_WORK_MIN / 256;

    for (uint32_t i = 0; i < SLATE_WORK_MIN; i++)
        found[run[i]]++;
    for (uint32_t i = 0; i < 256; i++) {
        uint32_t off = found[i] > even ? found[i] - even : even - found[i];

        sum += off * off;
    }
    sum /= even;
    return sum > 160 && sum < 380;
}

/* 4967D63B-2E29-4AD8-8399-F6A339E3D001, at byte 424 of the boot block. */
static const uint8_t encrypted_front[16] = {0x3B, 0xD6, 0x67, 0x49, 0x29, 0x2E,
                                            0xD8, 0x4A, 0x83, 0x99, 0xF6, 0xA3,
                                            0x39, 0xE3, 0xD0, 0x01};

/* What the first run says. */
static void judge_start(struct slate_reader *reader, enum slate_depth depth,
                        const uint8_t *boot, struct slate_volume *volume)
{
    struct slate_mark mark;

    if (slate_mark_read(boot, SLATE_PIECE_BYTES, &mark)) {
        volume->kind = SLATE_VOLUME_UNFINISHED;
        return;
    }
    /* An encrypted volume may carry a FAT front, for hosts that have no key. */
    if (memcmp(boot + 424, encrypted_front, sizeof encrypted_front) == 0) {
        volume->kind = SLATE_VOLUME_ENCRYPTED;
        return;
    }
    /* FAT first: its reserved blocks may hold an older volume's signature. */
    if (slate_fat_read(reader, boot, depth, volume))
        return;
    (void)slate_signature_judge(0, reader->work, volume);
}

/* Signatures that lie further in, once the start told nothing. */
static void judge_further(struct slate_reader *reader, bool random,
                          struct slate_volume *volume)
{
    if (slate_optical_read(reader, volume))
        return;
    if (read_run(reader, SECOND_RUN) &&
        slate_signature_judge(SECOND_RUN, reader->work, volume))
        return;
    if (read_run(reader, FIFTH_RUN) &&
        slate_signature_judge(FIFTH_RUN, reader->work, volume))
        return;
    if (!read_run(reader, FAR_RUN) ||
        slate_signature_judge(FAR_RUN, reader->work, volume))
        return;
    if (random && is_random(reader->work))
        volume->kind = SLATE_VOLUME_RANDOM;
}

static void look_closely(struct slate_reader *reader, const uint8_t *boot,
                         struct slate_volume *volume)
{
    switch (volume->kind) {
    case SLATE_VOLUME_EXFAT:
        slate_exfat_read(reader, boot, volume);
        break;
    case SLATE_VOLUME_NTFS:
        slate_ntfs_read(reader, boot, volume);
        break;
    case SLATE_VOLUME_EXT2:
    case SLATE_VOLUME_EXT3:
    case SLATE_VOLUME_EXT4:
        slate_ext_read(reader, volume);
        break;
    case SLATE_VOLUME_APFS:
        slate_apfs_read(reader, volume);
        break;
    default:
        break;
    }
}

/* Members of a RAID keep a record near their end; a mirror's shows its file
 * system all the same. */
static void look_at_tail(struct slate_reader *reader,
                         struct slate_volume *volume)
{
    struct slate_volume tail = {.kind = SLATE_VOLUME_NONE};

    if (slate_volume_needs_more(volume))
        return;
    slate_raid_tail_read(reader, &tail);
    if (tail.kind == SLATE_VOLUME_NONE)
        return;
    if (slate_volume_is_known(volume->kind))
        volume->mirror = true;
    else
        *volume = tail;
}

static enum slate_status read_volume(struct slate_reader *reader,
                                     enum slate_depth depth,
                                     struct slate_volume *volume)
{
    struct slate_media *media = reader->media;
    uint32_t unread = slate_media_unread_count(media);
    uint8_t boot[SLATE_PIECE_BYTES];
    bool blank, random;

    memset(volume, 0, sizeof *volume);
    if (!slate_reader_cut(reader) || !read_run(reader, 0))
        return reader->status;
    memcpy(boot, reader->work, sizeof boot);
    blank = slate_is_zero(reader->work, SLATE_WORK_MIN);
    random = is_random(reader->work);
    judge_start(reader, depth, boot, volume);
    if (volume->kind == SLATE_VOLUME_NONE)
        judge_further(reader, random, volume);
    if (volume->kind == SLATE_VOLUME_NONE && !blank)
        volume->kind = SLATE_VOLUME_OTHER;
    if (depth == SLATE_DEPTH_FULL) {
        look_closely(reader, boot, volume);
        look_at_tail(reader, volume);
        if (!slate_volume_is_known(volume->kind))
            slate_copies_read(reader, volume);
        if (volume->lost != SLATE_VOLUME_NONE)
            volume->kind = blank ? SLATE_VOLUME_NONE : SLATE_VOLUME_OTHER;
    }
    if (!slate_volume_is_known(volume->kind) &&
        slate_media_unread_count(media) != unread)
        volume->kind = SLATE_VOLUME_UNREAD;
    return reader->status;
}

enum slate_status slate_volume_read(struct slate_media *media,
                                    const struct slate_range *range,
                                    enum slate_depth depth, void *work,
                                    struct slate_volume *volume)
{
    struct slate_reader reader = {
        .media = media, .range = *range, .work = work};

    return read_volume(&reader, depth, volume);
}

enum slate_status slate_volume_flags(struct slate_media *media,
                                     const struct slate_range *range,
                                     void *work,
                                     struct slate_flag flag[SLATE_FLAGS_MAX],
                                     uint32_t *count)
{
    struct slate_reader reader = {
        .media = media, .range = *range, .work = work, .flag = flag};
    struct slate_volume volume;
    enum slate_status status = read_volume(&reader, SLATE_DEPTH_FULL, &volume);

    *count = reader.flags;
    return status;
}

bool slate_volume_is_known(enum slate_volume_kind kind)
{
    return kind >= SLATE_VOLUME_FAT12;
}

bool slate_volume_needs_more(const struct slate_volume *volume)
{
    return volume->kind >= SLATE_VOLUME_LUKS || volume->has_members ||
           volume->mirror;
}

const char *slate_volume_words(enum slate_volume_kind kind)
{
    /* in the order of enum slate_volume_kind */
    static const char *const words[] = {"nothing",
                                        "content not read",
                                        "unknown content",
                                        "random content",
                                        "unfinished overwriting",
                                        "FAT12",
                                        "FAT16",
                                        "FAT32",
                                        "optical-disc image",
                                        "UDF",
                                        "exFAT",
                                        "NTFS",
                                        "ReFS",
                                        "ext2",
                                        "ext3",
                                        "ext4",
                                        "XFS",
                                        "Btrfs",
                                        "F2FS",
                                        "SquashFS",
                                        "HFS",
                                        "HFS+",
                                        "APFS container",
                                        "Linux swap",
                                        "LUKS, encrypted",
                                        "encrypted volume",
                                        "LVM member",
                                        "RAID member",
                                        "ZFS member"};

    SLATE_ROWS_FOR(words, SLATE_VOLUME_KINDS);
    return SLATE_NAME_OF(words, kind);
}

const char *slate_copy_name(enum slate_copy copy)
{
    static const char *const names[] = {"unknown", "equal", "different",
                                        "outside"};

    return SLATE_NAME_OF(names, copy);
}
