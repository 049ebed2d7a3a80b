/* SPDX-License-Identifier: MIT */
/* Reading the files of a folder that are placed on a volume. */
#include "draft/draft.h"

#include <errno.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include "device/device.h"
#include "term/term.h"

void folder_close(struct folder *folder)
{
    if (folder->reading)
        close(folder->fd);
    folder->reading = false;
}

/* Opens a file that may be anything by now: no link is followed, and a pipe
 * does not block. */
static bool open_item(struct folder *folder, uint32_t item)
{
    char path[PATH_MAX];

    if (folder->reading && folder->item == item)
        return true;
    folder_close(folder);
    if (!folder_path(folder->path, folder->files, item, path))
        return false;
    folder->fd = open(path, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
    folder->item = item;
    folder->reading = folder->fd >= 0;
    return folder->reading;
}

static bool read_all(int fd, uint8_t *to, uint32_t count, uint64_t at)
{
    while (count > 0) {
        ssize_t got = pread(fd, to, count, (off_t)at);

        if (got < 0 && errno == EINTR)
            continue;
        if (got <= 0)
            return false;
        to += got;
        at += (uint64_t)got;
        count -= (uint32_t)got;
    }
    return true;
}

/* slate_source.read */
static enum slate_status read_item(void *context, uint32_t item, uint64_t at,
                                   uint32_t count, void *data)
{
    struct folder *folder = context;
    struct stat now;

    if (!open_item(folder, item) || fstat(folder->fd, &now) != 0 ||
        !S_ISREG(now.st_mode) ||
        (uint64_t)now.st_size != folder->files->item[item].bytes ||
        !read_all(folder->fd, data, count, at))
        return SLATE_ERR_SOURCE;
    return SLATE_OK;
}

void folder_at(struct slate_draft *draft, const char *path)
{
    struct folder *folder = drafted_folder(draft);

    folder_close(folder);
    snprintf(folder->path, sizeof folder->path, "%s", path);
    folder->files = &draft->files;
    memset(&folder->source, 0, sizeof folder->source);
    folder->source.read = read_item;
    folder->source.context = folder;
    draft->files.source = &folder->source;
}

int folder_fail(const struct slate_draft *draft, enum slate_status status)
{
    const struct slate_source *source = draft->files.source;
    char path[PATH_MAX], shown[4 * PATH_MAX];

    if (source == NULL ||
        !folder_path(drafted_path(draft), &draft->files, source->failed, path))
        return fail_plainly(status, "the files to be placed");
    return fail_plainly(status, plain_shown(path, shown, sizeof shown));
}

/* For their digests, or to compare with them. */
static int read_files(struct slate_draft *draft, bool checks, void *work,
                      size_t work_bytes)
{
    struct slate_files_reading reading;
    struct progress progress;
    enum slate_status status = SLATE_OK;
    bool finished = draft->files.count == 0;

    progress_catch_interrupts();
    progress_begin(&progress, "Reading files");
    slate_files_read_start(&reading, &draft->files, checks);
    while (!finished && status == SLATE_OK) {
        draft->files.source->failed = reading.item;
        status = slate_files_read_step(&reading, work, work_bytes, &finished);
        if (status == SLATE_OK && !finished &&
            !progress_bytes(&progress, reading.done, reading.total))
            status = SLATE_ERR_STOPPED;
    }
    progress_end(&progress);
    if (status == SLATE_ERR_STOPPED)
        return fail_plainly(status, "reading the files to be placed");
    return status == SLATE_OK ? 0 : folder_fail(draft, status);
}

int folder_seal(struct slate_draft *draft, void *work, size_t work_bytes)
{
    return read_files(draft, false, work, work_bytes);
}

int folder_check(struct slate_draft *draft, void *work, size_t work_bytes)
{
    return read_files(draft, true, work, work_bytes);
}

static bool asks_for_files(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.files)
            return true;
    }
    return false;
}

/* As an earlier draft has them. */
static int take_former(const struct slate_draft *former,
                       struct slate_draft *draft)
{
    const struct slate_files *from = &former->files;
    for (uint32_t i = 0; i < from->count; i++)
        drafted_add_file(draft, &from->item[i], slate_item_name(from, i));
    draft->files.ahead = from->ahead;
    folder_at(draft, drafted_path(former));
    return 0;
}

/* An absolute path, so that the draft can be enacted from elsewhere. */
static int resolve(const char *word, char path[PATH_MAX])
{
    struct stat found;

    if (realpath(word, path) == NULL || stat(path, &found) != 0)
        return fail(SLATE_ERR_ACCESS, "--files %s: %s", plain_word(word),
                    strerror(errno));
    if (!S_ISDIR(found.st_mode))
        return fail(SLATE_ERR_ARGUMENT, "--files %s: expected a folder",
                    plain_word(word));
    return 0;
}

int folder_take(const struct target *target, const struct options *options,
                const struct slate_draft *former, struct slate_draft *draft)
{
    char path[PATH_MAX];

    if (options->files_first != NULL && options->files == NULL)
        return fail(SLATE_ERR_ARGUMENT,
                    "--files-first: expected --files FOLDER beside it");
    if (!asks_for_files(draft))
        return 0;
    if (options->files == NULL)
        return take_former(former, draft);
    TRY(resolve(options->files, path));
    folder_at(draft, path);
    return folder_list(target, path, options->files_first, draft);
}
