/* SPDX-License-Identifier: MIT */
/* Which way suits whom: what stays in the house, and what leaves it; flash and
 * platters. */
#include "erase/erase.h"

struct choice {
    enum slate_erase_kind kind;
    const char *why;
};

#define REACHES_SPARE                                                          \
    "it reaches the memory cells that no host can, which overwriting does not"
#define REACHES_ASIDE                                                          \
    "it reaches the blocks that were set aside, which overwriting does not"
#define BEST_THERE_IS                                                          \
    "the best that this one has; overwrite it once as well, since what it "    \
    "reaches beyond that is its maker's matter"

static const struct choice leaves_flash[] = {
    {SLATE_ERASE_SCSI_BLOCK, REACHES_SPARE},
    {SLATE_ERASE_ATA_BLOCK, REACHES_SPARE},
    {SLATE_ERASE_NVME_BLOCK, REACHES_SPARE},
    {SLATE_ERASE_SCSI_OVERWRITE, REACHES_SPARE},
    {SLATE_ERASE_ATA_OVERWRITE, REACHES_SPARE},
    {SLATE_ERASE_NVME_OVERWRITE, REACHES_SPARE},
    {SLATE_ERASE_SCSI_CRYPTO, BEST_THERE_IS},
    {SLATE_ERASE_ATA_CRYPTO, BEST_THERE_IS},
    {SLATE_ERASE_NVME_CRYPTO, BEST_THERE_IS},
    {SLATE_ERASE_NVME_FORMAT, BEST_THERE_IS},
    {SLATE_ERASE_ATA_ENHANCED, BEST_THERE_IS}};

static const struct choice leaves_platters[] = {
    {SLATE_ERASE_SCSI_OVERWRITE, REACHES_ASIDE},
    {SLATE_ERASE_ATA_OVERWRITE, REACHES_ASIDE},
    {SLATE_ERASE_ATA_ENHANCED, REACHES_ASIDE},
    {SLATE_ERASE_SCSI_CRYPTO, BEST_THERE_IS},
    {SLATE_ERASE_ATA_CRYPTO, BEST_THERE_IS}};

#define QUICK "it takes seconds or minutes, and the next user sees nothing"

static const struct choice stays[] = {
    {SLATE_ERASE_NVME_BLOCK, QUICK},  {SLATE_ERASE_SCSI_BLOCK, QUICK},
    {SLATE_ERASE_ATA_BLOCK, QUICK},   {SLATE_ERASE_NVME_FORMAT, QUICK},
    {SLATE_ERASE_NVME_CRYPTO, QUICK}, {SLATE_ERASE_SCSI_CRYPTO, QUICK},
    {SLATE_ERASE_ATA_CRYPTO, QUICK},  {SLATE_ERASE_SD, QUICK}};

static uint32_t first_of(const struct choice *choices, size_t length,
                         const struct slate_erase_way *way, uint32_t count,
                         const char **why)
{
    for (size_t c = 0; c < length; c++) {
        for (uint32_t i = 0; i < count; i++) {
            if (way[i].kind != choices[c].kind || way[i].reaches_units)
                continue;
            *why = choices[c].why;
            return i;
        }
    }
    return count;
}

#define FIRST_OF(choices)                                                      \
    first_of(choices, sizeof(choices) / sizeof(choices)[0], way, count, why)

uint32_t slate_erase_advise(const struct slate_media *media,
                            const struct slate_erase_way *way, uint32_t count,
                            enum slate_erase_aim aim, const char **why)
{
    bool platters = media->abilities.rotating;

    if (aim == SLATE_ERASE_STAYS) {
        *why = "overwrite it once with zeros and read it back: that is seen to "
               "be done, and the next user finds nothing";
        return FIRST_OF(stays);
    }
    if (platters) {
        *why =
            "overwrite it once and read it back: only blocks that the disk has "
            "set aside keep what they hold; where that is too much, destroy it";
        return FIRST_OF(leaves_platters);
    }
    *why = "overwrite it once with random data and read it back; its spare "
           "memory cells are not reached by that: where they may hold what "
           "nobody must see, destroy it";
    return FIRST_OF(leaves_flash);
}
