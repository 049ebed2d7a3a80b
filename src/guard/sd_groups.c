/* SPDX-License-Identifier: MIT */
/* Write-protect groups of SD cards of standard capacity (Physical Layer
 * Simplified Specification 6.00, 4.3.6, 5.3). */
#include "base/base.h"
#include "guard/guard.h"

#define GROUPS_TOLD 32u
/* More questions than this are not asked to find out, as each look asks: cards
 * with more than 512 groups are asked here and there. */
#define QUESTIONS_MOST 16u

struct groups {
    uint64_t bytes; /* in each */
    uint64_t count;
};

/* WP_GRP_ENABLE, SECTOR_SIZE, WP_GRP_SIZE, WRITE_BL_LEN; false for a card that
 * has none. */
static bool read_groups(const struct slate_media *media, const uint8_t csd[16],
                        struct groups *groups)
{
    uint64_t all = slate_geometry_bytes(&media->geometry);

    if (!media->byte_addressed || slate_sd_bits(csd, 127, 126) != 0 ||
        slate_sd_bits(csd, 31, 31) == 0)
        return false;
    groups->bytes = ((uint64_t)slate_sd_bits(csd, 45, 39) + 1) *
                        (slate_sd_bits(csd, 38, 32) + 1)
                    << slate_sd_bits(csd, 25, 22);
    groups->count = (all + groups->bytes - 1) / groups->bytes;
    return true;
}

/* SEND_WRITE_PROT (CMD30): the last bit is that of the first group. */
static enum slate_status ask(struct slate_media *media,
                             const struct groups *groups, uint64_t first,
                             uint32_t *bits)
{
    uint8_t data[4] = {0};
    enum slate_status status =
        slate_sd_receive(media, SLATE_SD_SEND_PROTECTION,
                         (uint32_t)(first * groups->bytes), data, 4, NULL);

    *bits = slate_be32(data);
    if (groups->count - first < GROUPS_TOLD) /* beyond the end: no sense */
        *bits &= (1u << (groups->count - first)) - 1;
    return status;
}

static uint32_t count_bits(uint32_t bits)
{
    uint32_t count = 0;

    for (; bits != 0; bits &= bits - 1)
        count++;
    return count;
}

enum slate_status slate_guard_count_groups(struct slate_media *media,
                                           const uint8_t csd[16],
                                           uint64_t *found)
{
    uint64_t questions, step = 1;
    struct groups groups;
    uint32_t bits;

    *found = 0;
    if (!read_groups(media, csd, &groups))
        return SLATE_OK;
    questions = (groups.count + GROUPS_TOLD - 1) / GROUPS_TOLD;
    if (questions > QUESTIONS_MOST)
        step = (questions + QUESTIONS_MOST - 1) / QUESTIONS_MOST;
    for (uint64_t i = 0; i < questions; i += step) {
        enum slate_status status = ask(media, &groups, i * GROUPS_TOLD, &bits);

        if (status != SLATE_OK)
            return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
        *found += count_bits(bits);
    }
    return SLATE_OK;
}

static enum slate_status clear(struct slate_media *media,
                               const struct groups *groups, uint64_t first,
                               uint32_t bits)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < GROUPS_TOLD && status == SLATE_OK; i++) {
        if ((bits >> i & 1) != 0)
            status = slate_sd_send(media, SLATE_SD_CLEAR_PROTECTION,
                                   (uint32_t)((first + i) * groups->bytes),
                                   SLATE_DIRECTION_NONE, NULL, 0, NULL);
    }
    return status;
}

/* A question at a time. Where the bits that were told do not go, all groups of
 * the question are cleared: not every card tells them in the same order. */
static enum slate_status clear_told(struct slate_media *media,
                                    const struct groups *groups, uint64_t first)
{
    uint64_t left = groups->count - first;
    uint32_t all = left < GROUPS_TOLD ? (1u << left) - 1 : UINT32_MAX, bits = 0;
    enum slate_status status = ask(media, groups, first, &bits);

    if (status != SLATE_OK || bits == 0)
        return status;
    status = clear(media, groups, first, bits);
    SLATE_THEN(status, ask(media, groups, first, &bits));
    return status == SLATE_OK && bits != 0 ? clear(media, groups, first, all)
                                           : status;
}

enum slate_status slate_guard_clear_groups(struct slate_media *media,
                                           const uint8_t csd[16])
{
    struct groups groups;
    enum slate_status status = SLATE_OK;

    if (!read_groups(media, csd, &groups))
        return SLATE_ERR_COMMAND;
    for (uint64_t first = 0; first < groups.count && status == SLATE_OK;
         first += GROUPS_TOLD)
        status = clear_told(media, &groups, first);
    return status;
}
