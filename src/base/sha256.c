/* SPDX-License-Identifier: MIT */
/* SHA-256 (FIPS 180-4): seals drafts, digests devices, derives tags. */

#include "base/base.h"

static const uint32_t round_constant[64] = {
    0x428a2f98, 0x71374491, 0xb5c0fbcf, 0xe9b5dba5, 0x3956c25b, 0x59f111f1,
    0x923f82a4, 0xab1c5ed5, 0xd807aa98, 0x12835b01, 0x243185be, 0x550c7dc3,
    0x72be5d74, 0x80deb1fe, 0x9bdc06a7, 0xc19bf174, 0xe49b69c1, 0xefbe4786,
    0x0fc19dc6, 0x240ca1cc, 0x2de92c6f, 0x4a7484aa, 0x5cb0a9dc, 0x76f988da,
    0x983e5152, 0xa831c66d, 0xb00327c8, 0xbf597fc7, 0xc6e00bf3, 0xd5a79147,
    0x06ca6351, 0x14292967, 0x27b70a85, 0x2e1b2138, 0x4d2c6dfc, 0x53380d13,
    0x650a7354, 0x766a0abb, 0x81c2c92e, 0x92722c85, 0xa2bfe8a1, 0xa81a664b,
    0xc24b8b70, 0xc76c51a3, 0xd192e819, 0xd6990624, 0xf40e3585, 0x106aa070,
    0x19a4c116, 0x1e376c08, 0x2748774c, 0x34b0bcb5, 0x391c0cb3, 0x4ed8aa4a,
    0x5b9cca4f, 0x682e6ff3, 0x748f82ee, 0x78a5636f, 0x84c87814, 0x8cc70208,
    0x90befffa, 0xa4506ceb, 0xbef9a3f7, 0xc67178f2};

static uint32_t turn(uint32_t v, int n)
{
    return v >> n | v << (32 - n);
}

static void expand(const uint8_t *chunk, uint32_t w[64])
{
    for (int i = 0; i < 16; i++)
        w[i] = slate_be32(chunk + 4 * (size_t)i);
    for (int i = 16; i < 64; i++) {
        uint32_t a = w[i - 15], b = w[i - 2];

        w[i] = w[i - 16] + (turn(a, 7) ^ turn(a, 18) ^ a >> 3) + w[i - 7] +
               (turn(b, 17) ^ turn(b, 19) ^ b >> 10);
    }
}

/* Working variable v of FIPS 180-4, 6.2.2 (a is 0, h is 7) in round i: instead
 * of moving all eight, each round begins one place further on. */
#define VARIABLE(i, v) s[((v) - (i)) & 7]

static void absorb(uint32_t state[8], const uint8_t *chunk)
{
    uint32_t w[64], s[8];

    expand(chunk, w);
    memcpy(s, state, sizeof s);
    for (unsigned i = 0; i < 64; i++) {
        uint32_t a = VARIABLE(i, 0), b = VARIABLE(i, 1), c = VARIABLE(i, 2);
        uint32_t e = VARIABLE(i, 4), f = VARIABLE(i, 5), g = VARIABLE(i, 6);
        uint32_t choose = (e & f) ^ (~e & g);
        uint32_t most = (a & b) ^ (a & c) ^ (b & c);
        uint32_t t1 = VARIABLE(i, 7) +
                      (turn(e, 6) ^ turn(e, 11) ^ turn(e, 25)) + choose +
                      round_constant[i] + w[i];
        uint32_t t2 = (turn(a, 2) ^ turn(a, 13) ^ turn(a, 22)) + most;

        VARIABLE(i, 3) += t1;
        VARIABLE(i, 7) = t1 + t2; /* the next round's a */
    }
    for (int i = 0; i < 8; i++)
        state[i] += s[i];
}

void slate_sha256_start(struct slate_sha256 *sha)
{
    static const uint32_t first[8] = {0x6a09e667, 0xbb67ae85, 0x3c6ef372,
                                      0xa54ff53a, 0x510e527f, 0x9b05688c,
                                      0x1f83d9ab, 0x5be0cd19};

    memcpy(sha->state, first, sizeof first);
    sha->length = 0;
}

void slate_sha256_add(struct slate_sha256 *sha, const void *bytes,
                      size_t length)
{
    const uint8_t *p = bytes;

    while (length > 0) {
        size_t have = (size_t)(sha->length % 64);
        size_t take = 64 - have < length ? 64 - have : length;

        if (take < 64)
            memcpy(sha->partial + have, p, take);
        if (have + take == 64)
            absorb(sha->state, take < 64 ? sha->partial : p);
        sha->length += take;
        p += take;
        length -= take;
    }
}

void slate_sha256_end(struct slate_sha256 *sha,
                      uint8_t digest[SLATE_DIGEST_BYTES])
{
    static const uint8_t one = 0x80, zero = 0;
    uint64_t bits = sha->length * 8;
    uint8_t tail[8];

    slate_sha256_add(sha, &one, 1);
    while (sha->length % 64 != 56)
        slate_sha256_add(sha, &zero, 1);
    slate_put_be64(tail, bits);
    slate_sha256_add(sha, tail, sizeof tail);
    for (size_t i = 0; i < 8; i++)
        slate_put_be32(digest + 4 * i, sha->state[i]);
}
