/* SPDX-License-Identifier: MIT */
/* What docs/benchmarks.md tells of the core itself: sizes of public structs,
 * how fast runs of zeros are composed and compared, and what a walk costs. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <trueslate/trueslate.h>

#define BYTES ((size_t)64 << 20)
#define ROUNDS 20
#define EXTENTS 100000u

static double now(void)
{
    struct timespec time;

    clock_gettime(CLOCK_MONOTONIC, &time);
    return (double)time.tv_sec + (double)time.tv_nsec / 1e9;
}

static bool many_next(const void *plan, enum slate_moment moment, uint64_t *at,
                      struct slate_extent *extent)
{
    (void)plan;
    if (moment != SLATE_MOMENT_BODY || *at == EXTENTS)
        return false;
    *extent = (struct slate_extent){.first = 4 * (*at)++, .count = 2};
    return true;
}

static enum slate_status many_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    (void)plan;
    (void)first;
    memset(data, 1, (size_t)count * 512);
    return SLATE_OK;
}

static const char *many_step(uint8_t role)
{
    (void)role;
    return "";
}

static void show(const char *name, double ours, double theirs)
{
    printf("  %-40s %5.1f GB/s, %.2f of %s\n", name,
           (double)BYTES * ROUNDS / ours / 1e9, theirs / ours,
           strstr(name, "compare") == NULL ? "memset" : "memcmp");
}

int main(void)
{
    const struct slate_composer many = {"many", many_next, NULL, many_fill,
                                        many_step};
    const struct slate_composed composed = {&many, NULL, 512};
    const struct slate_extent zeros = {.count = BYTES / 512, .zero = true};
    struct slate_difference difference;
    struct slate_supply supply;
    uint8_t *a = aligned_alloc(4096, BYTES), *b = aligned_alloc(4096, BYTES);
    double began, set, compared, ours;
    volatile int same = 0;

    printf("Sizes of public structs, bytes:\n"
           "  slate_media %zu, slate_facts %zu, a partition in them %zu, a "
           "range %zu,\n  slate_draft %zu, a part %zu, slate_pass %zu, "
           "slate_enact %zu, slate_prove %zu, slate_probe %zu,\n  slate_scan "
           "%zu, slate_saving %zu, slate_journal %zu, slate_rewind %zu\n",
           sizeof(struct slate_media), sizeof(struct slate_facts),
           sizeof(struct slate_partition) + sizeof(struct slate_volume),
           sizeof(struct slate_seen), sizeof(struct slate_draft),
           sizeof(struct slate_part) + sizeof(struct slate_partition),
           sizeof(struct slate_pass), sizeof(struct slate_enact),
           sizeof(struct slate_prove), sizeof(struct slate_probe),
           sizeof(struct slate_scan), sizeof(struct slate_saving),
           sizeof(struct slate_journal), sizeof(struct slate_rewind));
    if (a == NULL || b == NULL)
        return 1;
    slate_compose_supply(&composed, &supply);
    memset(a, 0, BYTES);
    memset(b, 0, BYTES);
    began = now();
    for (int i = 0; i < ROUNDS; i++) {
        memset(a, 0, BYTES);
        same += a[i];
    }
    set = now() - began;
    began = now();
    for (int i = 0; i < ROUNDS; i++)
        same += memcmp(a, b, BYTES);
    compared = now() - began;
    printf("Runs of zeros, in this run:\n");
    began = now();
    for (int i = 0; i < ROUNDS; i++)
        if (supply.compose(supply.context, &zeros, 0, BYTES / 512, a) !=
            SLATE_OK)
            return 1;
    show("composed", now() - began, set);
    began = now();
    for (int i = 0; i < ROUNDS; i++)
        if (slate_supply_compare(&supply, 512, &zeros, 0, BYTES / 512, a, NULL,
                                 &difference) != SLATE_OK ||
            difference.blocks != 0)
            return 1;
    show("compared", now() - began, compared);
    began = now();
    for (int i = 0; i < ROUNDS; i++)
        same += (int)slate_supply_blocks(&supply);
    ours = now() - began;
    printf("A walk over %u extents: %.1f ns for each\n", EXTENTS,
           ours / ROUNDS / EXTENTS * 1e9);
    free(a);
    free(b);
    return same == -1;
}
