/* SPDX-License-Identifier: MIT */
/* The blocks that a probe has saved, in a file: a head, the digest of the
 * device, the digest of all that follows, the seed of the probe, the blocks.
 * The seed is in the name, as it is on the medium: so two media in one reader
 * never share a file. */
#include "state/kept.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "state/durable.h"
#include "say.h"

#define HEAD "TRUE SLATE KEPT2"
#define HEAD_BYTES 16u
#define ENDING ".kept"

struct front {
    char head[HEAD_BYTES];
    uint8_t device[SLATE_DIGEST_BYTES];
    uint8_t rest[SLATE_DIGEST_BYTES]; /* of seed and blocks */
    uint8_t seed[16];
};

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
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, front->seed, sizeof front->seed);
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

int kept_load(const char *path, const struct target *target,
              struct slate_probe *probe)
{
    size_t bytes = slate_probe_kept_bytes(probe);
    struct front found, front;
    FILE *file = fopen(path, "rb");
    bool ok = file != NULL && fread(&found, sizeof found, 1, file) == 1 &&
              fread(probe->kept, bytes, 1, file) == 1 && fgetc(file) == EOF;

    if (file != NULL)
        fclose(file);
    if (ok) {
        memcpy(probe->pattern.seed, found.seed, sizeof found.seed);
        fill_front(target, probe, &front);
        ok = memcmp(&found, &front, sizeof front) == 0;
    }
    return ok ? 0
              : fail(SLATE_ERR_CHANGED,
                     "%s: what an earlier probe kept is damaged or of another "
                     "device; move it away to go on without it",
                     path);
}
