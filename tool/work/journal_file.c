/* SPDX-License-Identifier: MIT */
/* Where the tool keeps a journal: a file, compressed by zlib. It is read mostly
 * from front to end: a window of what came last serves the short ways back. */
#include "work/work.h"

#include <errno.h>
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

static enum slate_status append(void *context, const void *bytes,
                                uint32_t count)
{
    struct journal_file *journal = context;

    errno = 0;
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
    if (gzclose(gz) != Z_OK || !durable_finish(&journal->file))
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
    journal->keeper =
        (struct slate_keeper){journal, append, sync_file, read_file};
    journal->file.begun = false;
    journal->gz = NULL;
    journal->why[0] = '\0';
    journal->at = 0;
    journal->count = 0;
}

bool journal_file_create(struct journal_file *journal, const char *path)
{
    int descriptor = -1;

    begin(journal);
    if (durable_begin(&journal->file, path))
        descriptor = dup(journal->file.descriptor);
    if (descriptor >= 0)
        journal->gz = gzdopen(descriptor, "wb1"); /* fast rather than small */
    if (journal->gz != NULL)
        return true;
    (void)failed(journal);
    if (descriptor >= 0)
        close(descriptor);
    durable_abandon(&journal->file);
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
    durable_abandon(&journal->file);
}
