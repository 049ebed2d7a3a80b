/* SPDX-License-Identifier: MIT */
/* Files that the tool writes: drafts, what a probe keeps, pictures, its state.
 */
#include "base/base.h"

#include <errno.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

static void sync_folder(const char *path)
{
    char folder[PATH_MAX];
    const char *slash = strrchr(path, '/');
    int descriptor;

    if (slash == NULL)
        snprintf(folder, sizeof folder, ".");
    else
        snprintf(folder, sizeof folder, "%.*s",
                 slash == path ? 1 : (int)(slash - path), path);
    descriptor = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (descriptor < 0)
        return;
    (void)fsync(descriptor); /* not every file system can, nor needs to */
    close(descriptor);
}

static bool write_all(int descriptor, const char *data, size_t length)
{
    while (length > 0) {
        ssize_t n = write(descriptor, data, length);

        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        data += n;
        length -= (size_t)n;
    }
    return true;
}

/* Readable as any new file is. Asking for the mask sets it: no two threads at
 * a time. */
static bool make_readable(int descriptor)
{
    static pthread_mutex_t lock = PTHREAD_MUTEX_INITIALIZER;
    mode_t mask;

    pthread_mutex_lock(&lock);
    mask = umask(0);
    umask(mask);
    pthread_mutex_unlock(&lock);
    return fchmod(descriptor, 0666 & ~mask) == 0;
}

/* A link stands for what it leads to. */
static bool find_place(const char *path, char place[PATH_MAX])
{
    struct stat about;

    if (lstat(path, &about) == 0 && S_ISLNK(about.st_mode))
        return realpath(path, place) != NULL;
    return snprintf(place, PATH_MAX, "%s", path) < PATH_MAX;
}

bool durable_begin(struct durable *file, const char *path)
{
    struct stat about;

    file->begun = false;
    if (!find_place(path, file->place))
        return false;
    if (stat(file->place, &about) == 0 && !S_ISREG(about.st_mode)) {
        errno = EEXIST;
        return false;
    }
    snprintf(file->part, sizeof file->part, "%s.XXXXXX", file->place);
    file->descriptor = mkostemp(file->part, O_CLOEXEC);
    file->begun = file->descriptor >= 0;
    return file->begun;
}

bool durable_finish(struct durable *file)
{
    int descriptor = file->descriptor, failure;
    bool ok = fsync(descriptor) == 0;

    file->begun = false;
    ok = close(descriptor) == 0 && ok;
    if (ok && rename(file->part, file->place) == 0) {
        sync_folder(file->place);
        return true;
    }
    failure = errno;
    unlink(file->part);
    errno = failure;
    return false;
}

void durable_abandon(struct durable *file)
{
    int failure = errno;

    if (!file->begun)
        return;
    close(file->descriptor);
    unlink(file->part);
    file->begun = false;
    errno = failure;
}

bool durable_write(const char *path, const void *data, size_t length)
{
    struct durable file;

    if (!durable_begin(&file, path))
        return false;
    if (write_all(file.descriptor, data, length) &&
        make_readable(file.descriptor))
        return durable_finish(&file);
    durable_abandon(&file);
    return false;
}

void durable_remove(const char *path)
{
    if (unlink(path) == 0)
        sync_folder(path);
}

void durable_rename(const char *path, const char *name)
{
    if (rename(path, name) == 0)
        sync_folder(name);
}

bool durable_exists(const char *path)
{
    struct stat about;

    return lstat(path, &about) == 0;
}
