/* SPDX-License-Identifier: MIT */
/* Which volume stands in a range of blocks: first by what its start says, then
 * by what stands further in; then what else is worth knowing of it. */

#include "base/base.h"
#include "trueslate/mark.h"
#include "volume/common/common.h"

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

/* What the first run says. */
static void judge_start(struct slate_reader *reader, enum slate_depth depth,
                        const uint8_t *boot, struct slate_volume *volume)
{
    struct slate_mark mark;

    if (slate_mark_read(boot, SLATE_PIECE_BYTES, &mark)) {
        volume->kind = SLATE_VOLUME_UNFINISHED;
        return;
    }
    (void)slate_volume_judge_start(reader, boot, depth, volume);
}

static bool judge_families(struct slate_reader *reader,
                           struct slate_volume *volume)
{
    for (uint32_t i = 0; i < SLATE_VOLUME_KINDS; i++) {
        const struct slate_family *family = slate_family_at(i);

        if (family != NULL && family->judge_further != NULL &&
            family->judge_further(reader, volume))
            return true;
    }
    return false;
}

/* Signatures that lie further in, once the start told nothing. */
static void judge_further(struct slate_reader *reader, bool random,
                          struct slate_volume *volume)
{
    static const uint32_t runs[] = {SLATE_RUN_SECOND, SLATE_RUN_FIFTH,
                                    SLATE_RUN_FAR};
    bool read = false;

    if (judge_families(reader, volume))
        return;
    for (size_t i = 0; i < sizeof runs / sizeof runs[0]; i++) {
        read = read_run(reader, runs[i]);
        if (read && slate_signature_judge(runs[i], reader->work, volume))
            return;
    }
    if (read && random && is_random(reader->work))
        volume->kind = SLATE_VOLUME_RANDOM;
}

static void look_closely(struct slate_reader *reader, const uint8_t *boot,
                         struct slate_volume *volume)
{
    const struct slate_family *family = slate_kind_of(volume->kind)->family;

    if (family->look != NULL)
        family->look(reader, boot, volume);
}

static void judge_tail(struct slate_reader *reader, struct slate_volume *tail)
{
    for (uint32_t i = 0;
         i < SLATE_VOLUME_KINDS && tail->kind == SLATE_VOLUME_NONE; i++) {
        const struct slate_family *family = slate_family_at(i);

        if (family != NULL && family->judge_tail != NULL)
            family->judge_tail(reader, tail);
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
    judge_tail(reader, &tail);
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

SLATE_NAMES(slate_copy_name, enum slate_copy, "unknown", "equal", "different",
            "outside")
