/* SPDX-License-Identifier: MIT */
/* What docs/benchmarks.md tells of composers as volumes grow: blocks, transfers
 * of 1 MiB, and the time to compose them. */
#include <stdio.h>
#include <stdlib.h>
#include <time.h>
#include <trueslate/trueslate.h>

#define CHUNK 2048u

static uint8_t data[CHUNK * 512];

static double now(void)
{
    struct timespec time;

    clock_gettime(CLOCK_MONOTONIC, &time);
    return (double)time.tv_sec + (double)time.tv_nsec / 1e9;
}

/* Composes all of a volume; runs of zeros are counted apart. */
static void compose(const struct slate_format *format,
                    const union slate_volume_plan *plan, double gigabytes)
{
    const struct slate_composed composed = {&format->composer, plan, 512};
    uint64_t blocks = 0, zeros = 0, transfers = 0;
    struct slate_walk walk = {0};
    struct slate_extent extent;
    struct slate_supply supply;
    double began = now();

    slate_compose_supply(&composed, &supply);
    while (supply.next(supply.context, &walk, &extent)) {
        for (uint64_t at = 0; at < extent.count; at += CHUNK, transfers++) {
            uint64_t left = extent.count - at;
            uint32_t count = left < CHUNK ? (uint32_t)left : CHUNK;

            if (!extent.zero && format->composer.fill(plan, extent.first + at,
                                                      count, data) != SLATE_OK)
                exit(1);
        }
        blocks += extent.zero ? 0 : extent.count;
        zeros += extent.zero ? extent.count : 0;
    }
    printf("  %s, %g GB: %llu blocks and %llu of zeros in %llu transfers, "
           "composed in %.3f ms\n",
           format->composer.name, gigabytes, (unsigned long long)blocks,
           (unsigned long long)zeros, (unsigned long long)transfers,
           (now() - began) * 1e3);
}

int main(void)
{
    static const double gigabytes[] = {0.512, 4, 64, 2000, 16000, 64000};
    const struct slate_format *format;

    printf("Composers as volumes grow, blocks of 512 bytes:\n");
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        for (size_t k = 0; k < sizeof gigabytes / sizeof gigabytes[0]; k++) {
            struct slate_wish wish = {
                .range = {2048, (uint64_t)(gigabytes[k] * 1e9) / 512},
                .block_bytes = 512,
                .align_bytes = 1048576};
            union slate_volume_plan plan;

            if (format->plan(&wish, &plan) == SLATE_OK)
                compose(format, &plan, gigabytes[k]);
        }
    }
    return 0;
}
