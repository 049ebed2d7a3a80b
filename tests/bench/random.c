/* SPDX-License-Identifier: MIT */
/* Random rounds: how fast they are composed, compared and checked, beside
 * copying memory, in one run; or, with a number of MiB, the bytes themselves,
 * for programs that test them. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <trueslate/trueslate.h>

#define BYTES ((size_t)256 << 20)
#define CHUNK ((size_t)1 << 20)
#define ROUNDS 9

static uint8_t data[BYTES], other[BYTES];

static double now(void)
{
    struct timespec time;

    clock_gettime(CLOCK_MONOTONIC, &time);
    return (double)time.tv_sec + (double)time.tv_nsec / 1e9;
}

static void compose(const struct slate_random *random, uint64_t first,
                    uint8_t *to)
{
    if (slate_random_composer.fill(random, first,
                                   (uint32_t)(CHUNK / random->block_bytes),
                                   to) != SLATE_OK)
        exit(1);
}

static int stream(const struct slate_random *random, unsigned long mebibytes,
                  uint8_t *chunk)
{
    for (unsigned long i = 0; i < mebibytes; i++) {
        compose(random, i * (CHUNK / random->block_bytes), chunk);
        if (fwrite(chunk, CHUNK, 1, stdout) != 1)
            break;
    }
    return 0;
}

static double least(double a, double b)
{
    return a < b ? a : b;
}

/* The best of several, as others use the machine as well. */
static double composing(const struct slate_random *random)
{
    double best = 1e9;

    for (int round = 0; round < ROUNDS; round++) {
        double began = now();

        for (size_t i = 0; i < BYTES / CHUNK; i++)
            compose(random, i * (CHUNK / random->block_bytes), data);
        best = least(best, now() - began);
    }
    return best;
}

static double copying(void)
{
    double best = 1e9;

    for (int round = 0; round < ROUNDS; round++) {
        double began = now();

        memcpy(other, data, BYTES);
        __asm__ volatile("" ::"r"(other) : "memory");
        best = least(best, now() - began);
    }
    return best;
}

static double checking(const struct slate_random *random)
{
    double best = 1e9;

    for (int round = 0; round < ROUNDS; round++) {
        double began = now();

        for (uint64_t i = 0; i < BYTES / random->block_bytes; i++) {
            if (!slate_random_is(random, i, data + i * random->block_bytes))
                exit(1);
        }
        best = least(best, now() - began);
    }
    return best;
}

int main(int count, char **words)
{
    struct slate_random random = {{0, UINT64_MAX}, 512, {7, 1}};
    double copied;

    memset(data, 1, BYTES);
    memset(other, 2, BYTES);
    if (count > 1)
        return stream(&random, strtoul(words[1], NULL, 10), data);
    copied = copying();
    printf("Random rounds, into a buffer of 1 MiB, beside copying memory:\n");
    printf("  copied      %5.2f GB/s\n", (double)BYTES / copied / 1e9);
    for (; random.block_bytes <= 4096; random.block_bytes *= 8) {
        double composed = composing(&random);

        for (size_t i = 0; i < BYTES / CHUNK; i++)
            compose(&random, i * (CHUNK / random.block_bytes),
                    data + i * CHUNK);
        printf("  %4u bytes: composed %5.2f GB/s, %.2f of copying; checked "
               "%5.2f GB/s\n",
               random.block_bytes, (double)BYTES / composed / 1e9,
               copied / composed, (double)BYTES / checking(&random) / 1e9);
    }
    return 0;
}
