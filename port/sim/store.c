/* SPDX-License-Identifier: MIT */
/* Where the bytes of a simulated device are: a sparse file as long as the
 * device; for devices beyond the reach of a file, its chunks in the order in
 * which they were first written, with an index beside it. In front of it
 * stands the device's cache, which a power cut can lose. */
#include <errno.h>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "../host.h"
#include "sim.h"

#define DIRECT_MOST ((uint64_t)8 << 40)
#define CHUNK 1048576u
#define CACHE_MOST 8388608u
#define CACHED_MOST 512u /* writes: every read looks through them */

struct cached {
    struct cached *next;
    uint64_t byte;
    size_t length;
    uint8_t data[];
};

struct sim_store {
    int blocks;
    int index;       /* -1: the file is as long as the device */
    uint64_t *chunk; /* which chunk stands in each slot */
    size_t chunks;
    struct cached *first, *last;
    size_t cached_bytes, cached;
};

static int open_file(const char *bench, const char *name, uint32_t unit,
                     const char *suffix, bool fresh)
{
    char path[4096], tail[32];
    int flags = O_RDWR | O_CLOEXEC | (fresh ? O_CREAT | O_TRUNC : 0);

    if (unit == 0)
        snprintf(tail, sizeof tail, ".%s", suffix);
    else
        snprintf(tail, sizeof tail, ".%u.%s", unit, suffix);
    if (!sim_path(path, sizeof path, bench, name, tail))
        return -1;
    return open(path, flags, S_IRUSR | S_IWUSR);
}

static bool load_index(struct sim_store *store)
{
    struct stat about;

    if (fstat(store->index, &about) != 0)
        return false;
    store->chunks = (size_t)about.st_size / sizeof *store->chunk;
    store->chunk = malloc((store->chunks + 1) * sizeof *store->chunk);
    return store->chunk != NULL &&
           port_read_all(store->index, store->chunk,
                         store->chunks * sizeof *store->chunk, 0);
}

struct sim_store *sim_store_open(const char *bench, const char *name,
                                 uint32_t unit, uint64_t bytes, bool fresh)
{
    struct sim_store *store = calloc(1, sizeof *store);
    bool ok;

    if (store == NULL)
        return NULL;
    store->index = -1;
    store->blocks = open_file(bench, name, unit, "blocks", fresh);
    ok = store->blocks >= 0;
    if (ok && bytes > DIRECT_MOST) {
        store->index = open_file(bench, name, unit, "index", fresh);
        ok = store->index >= 0 && load_index(store);
    } else if (ok && fresh) {
        ok = ftruncate(store->blocks, (off_t)bytes) == 0;
    }
    if (ok)
        return store;
    sim_store_close(store);
    return NULL;
}

/* Where a byte is in the file; -1 when its chunk was never written. */
static off_t place(const struct sim_store *store, uint64_t byte)
{
    if (store->index < 0)
        return (off_t)byte;
    for (size_t i = 0; i < store->chunks; i++) {
        if (store->chunk[i] == byte / CHUNK)
            return (off_t)(i * CHUNK + byte % CHUNK);
    }
    return -1;
}

static bool add_chunk(struct sim_store *store, uint64_t chunk)
{
    size_t slot = store->chunks;
    uint64_t *more = realloc(store->chunk, (slot + 2) * sizeof *store->chunk);

    if (more == NULL)
        return false;
    store->chunk = more;
    store->chunk[slot] = chunk;
    store->chunks++;
    return port_write_all(store->index, &chunk, sizeof chunk,
                          (off_t)(slot * sizeof chunk));
}

/* As far as a run stays in one chunk. */
static size_t within_chunk(uint64_t byte, size_t length)
{
    uint64_t left = CHUNK - byte % CHUNK;

    return length < left ? length : (size_t)left;
}

static bool read_file(const struct sim_store *store, uint64_t byte,
                      uint8_t *data, size_t length)
{
    while (length > 0) {
        size_t n = within_chunk(byte, length);
        off_t at = place(store, byte);

        if (at < 0)
            memset(data, 0, n);
        else if (!port_read_all(store->blocks, data, n, at))
            return false;
        byte += n;
        data += n;
        length -= n;
    }
    return true;
}

static bool write_file(struct sim_store *store, uint64_t byte,
                       const uint8_t *data, size_t length)
{
    while (length > 0) {
        size_t n = within_chunk(byte, length);
        off_t at = place(store, byte);

        if (at < 0 && !port_is_zero(data, n)) {
            if (!add_chunk(store, byte / CHUNK))
                return false;
            at = place(store, byte);
        }
        if (at >= 0 && !port_write_sparse(store->blocks, data, n, at))
            return false;
        byte += n;
        data += n;
        length -= n;
    }
    return true;
}

bool sim_store_read(struct sim_store *store, uint64_t byte, void *data,
                    size_t length)
{
    uint8_t *to = data;

    if (!read_file(store, byte, to, length))
        return false;
    for (const struct cached *c = store->first; c != NULL; c = c->next) {
        uint64_t from = c->byte > byte ? c->byte : byte;
        uint64_t end = c->byte + c->length < byte + length ? c->byte + c->length
                                                           : byte + length;

        if (from < end)
            memcpy(to + (from - byte), c->data + (from - c->byte),
                   (size_t)(end - from));
    }
    return true;
}

bool sim_store_write(struct sim_store *store, uint64_t byte, const void *data,
                     size_t length)
{
    struct cached *c = malloc(sizeof *c + length);

    if (c == NULL)
        return false;
    c->next = NULL;
    c->byte = byte;
    c->length = length;
    memcpy(c->data, data, length);
    if (store->last != NULL)
        store->last->next = c;
    else
        store->first = c;
    store->last = c;
    store->cached_bytes += length;
    store->cached++;
    return (store->cached_bytes <= CACHE_MOST &&
            store->cached <= CACHED_MOST) ||
           sim_store_flush(store);
}

bool sim_store_flush(struct sim_store *store)
{
    bool ok = true;

    while (store->first != NULL) {
        struct cached *c = store->first;

        ok = write_file(store, c->byte, c->data, c->length) && ok;
        store->first = c->next;
        free(c);
    }
    store->last = NULL;
    store->cached_bytes = store->cached = 0;
    return ok;
}

/* Chunks that were never written hold nothing. */
static bool erase_run(const struct sim_store *store, uint64_t byte,
                      size_t length, bool noise)
{
    uint8_t data[65536] = {0};
    uint64_t state = byte * 6364136223846793005u + 1442695040888963407u;

    for (size_t i = 0; noise && i < length; i++) {
        state = state * 6364136223846793005u + 1442695040888963407u;
        data[i] = (uint8_t)(state >> 56);
    }
    return port_write_sparse(store->blocks, data, length, (off_t)byte);
}

/* The next bytes of the file that are there, up to a limit. */
static bool next_data(const struct sim_store *store, uint64_t *at, uint64_t end)
{
    off_t data = lseek(store->blocks, (off_t)*at, SEEK_DATA);

    if (data < 0 && errno == ENXIO)
        return false;
    if (data > (off_t)*at)
        *at = (uint64_t)data;
    return *at < end;
}

static bool erase_file(const struct sim_store *store, uint64_t at, uint64_t end,
                       bool noise)
{
    bool ok = true;

    while (ok && at < end && next_data(store, &at, end)) {
        size_t n = end - at < 65536 ? (size_t)(end - at) : 65536;

        ok = erase_run(store, at, n, noise);
        at += n;
    }
    return ok;
}

bool sim_store_erase(struct sim_store *store, uint64_t byte, uint64_t length,
                     bool noise)
{
    bool ok = sim_store_flush(store);

    if (store->index < 0)
        return ok && erase_file(store, byte, byte + length, noise);
    for (size_t i = 0; i < store->chunks && ok; i++) {
        uint64_t from = store->chunk[i] * CHUNK;

        if (from >= byte && from < byte + length)
            ok = erase_file(store, i * CHUNK, (i + 1) * CHUNK, noise);
    }
    return ok;
}

uint64_t sim_store_lose(struct sim_store *store, bool torn)
{
    uint64_t byte = store->last == NULL ? UINT64_MAX : store->last->byte;

    if (torn && store->last != NULL)
        (void)write_file(store, store->last->byte, store->last->data,
                         store->last->length / 2);
    while (store->first != NULL) {
        struct cached *c = store->first;

        store->first = c->next;
        free(c);
    }
    store->last = NULL;
    store->cached_bytes = store->cached = 0;
    return byte;
}

bool sim_store_lock(struct sim_store *store, bool lock)
{
    return flock(store->blocks, lock ? LOCK_EX | LOCK_NB : LOCK_UN) == 0;
}

void sim_store_close(struct sim_store *store)
{
    if (store == NULL)
        return;
    (void)sim_store_flush(store); /* unplugged in peace: the cache gets out */
    if (store->blocks >= 0)
        close(store->blocks);
    if (store->index >= 0)
        close(store->index);
    free(store->chunk);
    free(store);
}

bool sim_path(char *path, size_t room, const char *folder, const char *name,
              const char *suffix)
{
    int length = snprintf(path, room, "%s/%s%s", folder, name, suffix);

    return length > 0 && (size_t)length < room;
}
