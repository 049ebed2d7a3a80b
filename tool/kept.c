/* SPDX-License-Identifier: MIT */
/* The blocks that a probe has saved, in a file: a head, the digest of the
 * device, the digest of all that follows, the seed of the probe, the blocks. */
#include "kept.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "say.h"
#include "state.h"

#define HEAD "TRUE SLATE KEPT1"
#define HEAD_BYTES 16u

struct front {
    char head[HEAD_BYTES];
    uint8_t device[SLATE_DIGEST_BYTES];
    uint8_t rest[SLATE_DIGEST_BYTES]; /* of seed and blocks */
    uint8_t seed[16];
};

int kept_path(char *path, size_t room, const struct target *target)
{
    char folder[4000];

    if (!state_folder(folder, sizeof folder))
        return fail(SLATE_ERR_ACCESS,
                    "there is no place to keep the probed blocks in; set HOME");
    snprintf(path, room, "%s/%s.kept", folder, target->media.tag);
    return 0;
}

static void fill_front(const struct target *target,
                       const struct slate_probe *probe, struct front *front)
{
    struct slate_sha256 sha;

    memcpy(front->head, HEAD, HEAD_BYTES);
    memcpy(front->device, target->media.digest, SLATE_DIGEST_BYTES);
    memcpy(front->seed, probe->seed, sizeof front->seed);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, front->seed, sizeof front->seed);
    slate_sha256_add(&sha, probe->kept, slate_probe_kept_bytes(probe));
    slate_sha256_end(&sha, front->rest);
}

int kept_save(const char *path, const struct target *target,
              const struct slate_probe *probe)
{
    size_t bytes = slate_probe_kept_bytes(probe);
    struct front front;
    char part[4300];
    FILE *file;
    bool ok;

    snprintf(part, sizeof part, "%s.part", path);
    file = fopen(part, "wb");
    ok = file != NULL;
    fill_front(target, probe, &front);
    ok = ok && fwrite(&front, sizeof front, 1, file) == 1 &&
         fwrite(probe->kept, bytes, 1, file) == 1 && fflush(file) == 0 &&
         fsync(fileno(file)) == 0;
    if (file != NULL)
        ok = fclose(file) == 0 && ok;
    ok = ok && rename(part, path) == 0;
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
        memcpy(probe->seed, found.seed, sizeof found.seed);
        fill_front(target, probe, &front);
        ok = memcmp(&found, &front, sizeof front) == 0;
    }
    return ok ? 0
              : fail(SLATE_ERR_CHANGED,
                     "%s: what an earlier probe kept is damaged or of another "
                     "device; move it away to go on without it",
                     path);
}
