/* SPDX-License-Identifier: MIT */
/* Fuzz target: the readers of volumes, at the start of the device and at its
 * first MiB, whatever a table says. */
#include <string.h>

#include "sparse.h"
#include "target.h"

/* A raised flag lies in the range, and is raised there: nothing else would be
 * changed by lowering it. */
static void check_flags(struct slate_media *media,
                        const struct slate_range *range, uint8_t *work)
{
    struct slate_flag flag[SLATE_FLAGS_MAX];
    uint32_t block = media->geometry.block_bytes, count = 0;

    demand(slate_volume_flags(media, range, work, flag, &count) == SLATE_OK);
    demand(count <= SLATE_FLAGS_MAX);
    for (uint32_t i = 0; i < count; i++) {
        uint64_t lba = flag[i].byte / block;
        uint8_t byte;

        demand(lba >= range->first && lba < media->geometry.block_count);
        demand(slate_media_read(media, lba, 1, work) == SLATE_OK);
        byte = work[flag[i].byte % block];
        demand((flag[i].set ? (uint8_t)~byte & flag[i].mask
                            : byte & flag[i].mask) == flag[i].mask);
    }
}

/* Another label changes a few bytes, each run of them in one block of the
 * range. */
static void check_edits(const struct slate_media *media,
                        const struct slate_range *range,
                        const struct slate_label_plan *plan)
{
    uint32_t block = media->geometry.block_bytes;

    for (uint32_t j = 0; j < plan->edits; j++) {
        const struct slate_label_edit *edit = &plan->edit[j];

        demand(edit->length > 0 && edit->length <= sizeof edit->bytes);
        demand(edit->byte % block + edit->length <= block);
        demand(edit->byte / block >= range->first &&
               edit->byte / block < media->geometry.block_count);
    }
}

#define ROUNDS 50u

static void check_labels(struct slate_media *media,
                         const struct slate_range *range, uint8_t *work)
{
    static const char *const labels[] = {"", "NORTH 7"};
    const struct slate_format *format;

    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        struct slate_relabel wish = {.range = *range, .label = labels[i % 2]};
        struct slate_label_plan plan = {.more = format->relabel != NULL};

        for (; plan.more && wish.round < ROUNDS; wish.round++) {
            enum slate_status status =
                format->relabel(media, &wish, work, &plan);

            demand(status == SLATE_OK || status == SLATE_ERR_CHANGED ||
                   status == SLATE_ERR_ROOT_FULL ||
                   status == SLATE_ERR_LABEL_ROOM ||
                   status == SLATE_ERR_UNCLEAN);
            if (status != SLATE_OK)
                break;
            check_edits(media, range, &plan);
        }
    }
}

/* As if a look had left open what is free: both find the same. */
static void check_count(struct slate_media *media,
                        const struct slate_range *range,
                        const struct slate_volume *volume, uint8_t *work)
{
    struct slate_volume again = *volume;
    struct slate_volume_count count;
    enum slate_status status;

    if (volume->kind != SLATE_VOLUME_NTFS)
        return;
    again.free_known = false;
    status = slate_volume_count_start(&count, media, range, &again, work,
                                      SLATE_WORK_MIN);
    for (int i = 0; i < 1000 && status == SLATE_OK && count.done < count.total;
         i++)
        status = slate_volume_count_step(&count);
    demand(!again.free_known || again.free_clusters <= again.clusters);
    demand(!volume->free_known ||
           (again.free_known && again.free_clusters == volume->free_clusters));
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static struct sparse sparse;
    static struct slate_media media;
    static uint8_t work[SLATE_WORK_MIN];

    if (!sparse_open(&sparse, bytes, length) ||
        slate_media_open(&media, &sparse.port) != SLATE_OK)
        return 0;
    for (uint64_t byte = 0; byte <= 1048576; byte += 1048576) {
        struct slate_range range = {byte / sparse.block_bytes,
                                    media.geometry.block_count};
        struct slate_volume volume;

        demand(slate_volume_read(&media, &range, SLATE_DEPTH_FULL, work,
                                 &volume) == SLATE_OK);
        demand(strlen(volume.label) < SLATE_LABEL_ROOM);
        demand(strlen(slate_volume_words(volume.kind)) > 0);
        demand(!volume.free_known || volume.free_clusters <= volume.clusters);
        for (const char *at = volume.label; *at != '\0'; at++)
            demand((uint8_t)*at >= 0x20 && *at != 0x7F);
        if (range.first < media.geometry.block_count)
            check_flags(&media, &range, work);
        check_labels(&media, &range, work);
        check_count(&media, &range, &volume, work);
    }
    return 0;
}
