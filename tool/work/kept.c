/* SPDX-License-Identifier: MIT */
/* The blocks that a probe has saved, in a file: a head, the digest of the
 * device, the digest of all that follows, the seed of the probe, which blocks
 * they are, the blocks.
 * The seed is in the name, as it is on the medium: so two media in one reader
 * never share a file. */
#include "work/work.h"

#include <errno.h>

#define HEAD "TRUE SLATE KEPT3"
#define HEAD_BYTES 16u
#define ENDING ".kept"
#define WHERE_BYTES (16u + 8u * SLATE_PROBE_PLACES)

struct front {
    char head[HEAD_BYTES];
    uint8_t device[SLATE_DIGEST_BYTES];
    uint8_t rest[SLATE_DIGEST_BYTES]; /* of all below, and the blocks */
    uint8_t seed[16];
    uint8_t where[WHERE_BYTES];
};

static void put_number(uint8_t *to, size_t bytes, uint64_t number)
{
    for (size_t i = 0; i < bytes; i++)
        to[i] = (uint8_t)(number >> 8 * i);
}

static uint64_t number_at(const uint8_t *from, size_t bytes)
{
    uint64_t number = 0;

    while (bytes-- > 0)
        number = number << 8 | from[bytes];
    return number;
}

/* The run's first block, its length, how many places, and each of them. */
static void fill_where(const struct slate_probe *probe,
                       uint8_t where[WHERE_BYTES])
{
    memset(where, 0, WHERE_BYTES);
    put_number(where, 8, probe->run_first);
    put_number(where + 8, 4, probe->run);
    put_number(where + 12, 4, probe->places);
    for (uint32_t i = 0; i < probe->places; i++)
        put_number(where + 16 + 8 * (size_t)i, 8, probe->lba[i]);
}

static bool take_where(const uint8_t where[WHERE_BYTES],
                       struct slate_probe *probe)
{
    uint64_t lba[SLATE_PROBE_PLACES];

    for (uint32_t i = 0; i < SLATE_PROBE_PLACES; i++)
        lba[i] = number_at(where + 16 + 8 * (size_t)i, 8);
    return slate_probe_set_places(
               probe, number_at(where, 8), (uint32_t)number_at(where + 8, 4),
               lba, (uint32_t)number_at(where + 12, 4)) == SLATE_OK;
}

static int no_place(void)
{
    return fail(SLATE_ERR_ACCESS,
                "there is no place to keep the probed blocks in; set HOME");
}

int kept_list(struct state_files *list, const struct target *target)
{
    return state_find(list, target->media.tag, ENDING) ? 0 : no_place();
}

int kept_path(char path[STATE_PATH_ROOM], const struct target *target,
              const struct slate_probe *probe)
{
    return state_path(target->media.tag, probe->pattern.seed, ENDING, path,
                      STATE_PATH_ROOM)
               ? 0
               : no_place();
}

static void fill_front(const struct target *target,
                       const struct slate_probe *probe, struct front *front)
{
    struct slate_sha256 sha;

    memcpy(front->head, HEAD, HEAD_BYTES);
    memcpy(front->device, target->media.digest, SLATE_DIGEST_BYTES);
    memcpy(front->seed, probe->pattern.seed, sizeof front->seed);
    fill_where(probe, front->where);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, front->seed, sizeof front->seed);
    slate_sha256_add(&sha, front->where, sizeof front->where);
    slate_sha256_add(&sha, probe->kept, slate_probe_kept_bytes(probe));
    slate_sha256_end(&sha, front->rest);
}

int kept_save(const char *path, const struct target *target,
              const struct slate_probe *probe)
{
    size_t bytes = slate_probe_kept_bytes(probe);
    char *all = malloc(sizeof(struct front) + bytes);
    struct front front;
    bool ok = all != NULL;

    fill_front(target, probe, &front);
    if (ok) {
        memcpy(all, &front, sizeof front);
        memcpy(all + sizeof front, probe->kept, bytes);
        ok = durable_write(path, all, sizeof front + bytes);
    }
    free(all);
    return ok ? 0
              : fail(SLATE_ERR_ACCESS,
                     "%s: the blocks to be probed cannot be kept there: %s; "
                     "nothing was written",
                     path, strerror(errno));
}

/* The blocks behind the front, once it is known which ones they are. */
static bool load_blocks(FILE *file, const struct target *target,
                        struct slate_probe *probe, const struct front *found)
{
    struct front front;

    if (memcmp(found->head, HEAD, HEAD_BYTES) != 0 ||
        !take_where(found->where, probe) ||
        fread(probe->kept, slate_probe_kept_bytes(probe), 1, file) != 1 ||
        fgetc(file) != EOF)
        return false;
    memcpy(probe->pattern.seed, found->seed, sizeof found->seed);
    fill_front(target, probe, &front);
    return memcmp(found, &front, sizeof front) == 0;
}

int kept_load(const char *path, const struct target *target,
              struct slate_probe *probe)
{
    struct front found;
    FILE *file = fopen(path, "rb");
    bool ok = file != NULL && fread(&found, sizeof found, 1, file) == 1 &&
              load_blocks(file, target, probe, &found);

    if (file != NULL)
        fclose(file);
    return ok ? 0
              : fail(SLATE_ERR_CHANGED,
                     "%s: what an earlier probe kept is damaged or of another "
                     "device; move it away to go on without it",
                     path);
}
