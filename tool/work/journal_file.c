/* SPDX-License-Identifier: MIT */
/* Where the tool keeps a journal: a file, compressed by zlib. It is read mostly
 * from front to end: a window of what came last serves the short ways back. */
#include "work/work.h"

#include <errno.h>
#include <fcntl.h>
#include <unistd.h>

#define PIECE (JOURNAL_WINDOW / 2)

/* Notes why, and lets it be SLATE_ERR_KEEPER; a file that is damaged is no
 * failure of its disk. */
static enum slate_status failed(struct journal_file *journal)
{
    int code = Z_ERRNO;
    const char *words =
        journal->gz == NULL ? strerror(errno) : gzerror(journal->gz, &code);

    if (code == Z_ERRNO || code == Z_OK)
        words = strerror(errno == 0 ? EIO : errno);
    if (journal->why[0] == '\0')
        snprintf(journal->why, sizeof journal->why, "%s", words);
    return code == Z_DATA_ERROR || code == Z_BUF_ERROR ? SLATE_ERR_JOURNAL
                                                       : SLATE_ERR_KEEPER;
}

#define SAMPLES 4096u

/* Noise does not become smaller, and takes long: by how often bytes repeat in a
 * sample. */
static bool is_noise(const uint8_t *bytes, uint32_t count)
{
    uint32_t seen[256] = {0}, every = count / SAMPLES;
    uint64_t repeats = 0;

    if (every == 0)
        return false;
    for (uint32_t i = 0; i < SAMPLES; i++)
        seen[bytes[(size_t)i * every]]++;
    for (uint32_t i = 0; i < 256; i++)
        repeats += (uint64_t)seen[i] * seen[i];
    return repeats < (uint64_t)SAMPLES * SAMPLES / 256 * 5 / 4;
}

/* What is short goes as what came ahead of it. */
static bool set_level(struct journal_file *journal, const void *bytes,
                      uint32_t count)
{
    bool stores = count < SAMPLES ? journal->stores : is_noise(bytes, count);

    if (stores == journal->stores)
        return true;
    journal->stores = stores;
    return gzsetparams(journal->gz, stores ? Z_NO_COMPRESSION : Z_BEST_SPEED,
                       Z_DEFAULT_STRATEGY) == Z_OK;
}

static enum slate_status append(void *context, const void *bytes,
                                uint32_t count)
{
    struct journal_file *journal = context;

    errno = 0;
    if (!set_level(journal, bytes, count))
        return failed(journal);
    return gzwrite(journal->gz, bytes, count) == (int)count ? SLATE_OK
                                                            : failed(journal);
}

/* zlib closes its own descriptor; the file's is synced behind it. */
static enum slate_status sync_file(void *context)
{
    struct journal_file *journal = context;
    gzFile gz = journal->gz;

    errno = 0;
    journal->gz = NULL;
    if (gzclose(gz) != Z_OK ||
        (!journal->is_aside && !durable_finish(&journal->file)))
        return failed(journal);
    return SLATE_OK;
}

static enum slate_status fill_window(struct journal_file *journal)
{
    int count;

    if (journal->count > PIECE) {
        uint32_t gone = journal->count - PIECE;

        memmove(journal->window, journal->window + gone, PIECE);
        journal->at += gone;
        journal->count = PIECE;
    }
    errno = 0;
    count = gzread(journal->gz, journal->window + journal->count, PIECE);
    if (count < 0)
        return failed(journal);
    journal->count += (uint32_t)count;
    if (count > 0)
        return SLATE_OK;
    snprintf(journal->why, sizeof journal->why, "it ends too early");
    return SLATE_ERR_JOURNAL;
}

static enum slate_status read_file(void *context, uint64_t at, void *bytes,
                                   uint32_t count)
{
    struct journal_file *journal = context;
    uint8_t *to = bytes;

    if (at < journal->at) { /* far back: from the start */
        if (gzrewind(journal->gz) != 0)
            return failed(journal);
        journal->at = 0;
        journal->count = 0;
    }
    while (count > 0) {
        uint64_t end = journal->at + journal->count;
        uint32_t part;

        if (at >= end) {
            enum slate_status status = fill_window(journal);

            if (status != SLATE_OK)
                return status;
            continue;
        }
        part = end - at < count ? (uint32_t)(end - at) : count;
        memcpy(to, journal->window + (at - journal->at), part);
        to += part;
        at += part;
        count -= part;
    }
    return SLATE_OK;
}

static void begin(struct journal_file *journal)
{
    journal->is_aside = false;
    journal->stores = false;
    journal->keeper =
        (struct slate_keeper){journal, append, sync_file, read_file};
    journal->file.begun = false;
    journal->gz = NULL;
    journal->why[0] = '\0';
    journal->at = 0;
    journal->count = 0;
}

/* Takes the descriptor; -1: errno tells why there is none. */
static bool write_to(struct journal_file *journal, int descriptor)
{
    if (descriptor >= 0)
        journal->gz = gzdopen(descriptor, "wb1"); /* fast rather than small */
    if (journal->gz != NULL)
        return true;
    (void)failed(journal);
    if (descriptor >= 0)
        close(descriptor);
    return false;
}

bool journal_file_create(struct journal_file *journal, const char *path)
{
    bool begun;

    begin(journal);
    begun = durable_begin(&journal->file, path);
    if (write_to(journal, begun ? dup(journal->file.descriptor) : -1))
        return true;
    durable_abandon(&journal->file);
    return false;
}

/* Where journals are is room for another one. */
static int open_aside(void)
{
    char folder[4000], path[STATE_PATH_ROOM];
    int descriptor;

    if (!state_folder(folder, sizeof folder))
        snprintf(folder, sizeof folder, "/tmp");
    snprintf(path, sizeof path, "%s/aside.XXXXXX", folder);
    descriptor = mkostemp(path, O_CLOEXEC);
    if (descriptor >= 0)
        unlink(path);
    return descriptor;
}

bool journal_file_create_aside(struct journal_file *journal)
{
    begin(journal);
    journal->aside = open_aside();
    journal->is_aside = journal->aside >= 0;
    return write_to(journal, journal->is_aside ? dup(journal->aside) : -1);
}

bool journal_file_reopen(struct journal_file *journal)
{
    int descriptor = journal->aside;

    begin(journal);
    if (lseek(descriptor, 0, SEEK_SET) == 0)
        journal->gz = gzdopen(descriptor, "rb");
    if (journal->gz != NULL)
        return true;
    (void)failed(journal);
    close(descriptor);
    return false;
}

bool journal_file_open(struct journal_file *journal, const char *path)
{
    struct given given;
    int descriptor = given_open(path, &given);

    begin(journal);
    if (descriptor < 0) {
        snprintf(journal->why, sizeof journal->why, "%s", given.why);
        return false;
    }
    if (descriptor >= 0)
        journal->gz = gzdopen(descriptor, "rb");
    if (journal->gz != NULL)
        return true;
    (void)failed(journal);
    if (descriptor >= 0)
        close(descriptor);
    return false;
}

void journal_file_close(struct journal_file *journal)
{
    if (journal->gz != NULL)
        (void)gzclose(journal->gz);
    journal->gz = NULL;
    if (journal->is_aside)
        close(journal->aside);
    journal->is_aside = false;
    durable_abandon(&journal->file);
}
