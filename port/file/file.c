/* SPDX-License-Identifier: MIT */
/* A port for image files on a POSIX host. */
#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "host.h"
#include "trueslate/base.h"
#include "trueslate/port_file.h"

static enum slate_status file_facts(void *context,
                                    struct slate_port_facts *facts)
{
    const struct slate_file *file = context;

    facts->identity = file->identity;
    facts->block_bytes = file->block_bytes;
    facts->block_count = file->bytes / file->block_bytes;
    facts->read_only = file->read_only;
    facts->in_use = file->in_use;
    facts->volatile_cache = true;
    return SLATE_OK;
}

static enum slate_status file_read(void *context, uint64_t lba, uint32_t count,
                                   void *data)
{
    const struct slate_file *file = context;

    return port_read_all(file->descriptor, data,
                         (size_t)count * file->block_bytes,
                         (off_t)(lba * file->block_bytes))
               ? SLATE_OK
               : SLATE_ERR_READ;
}

static enum slate_status file_write(void *context, uint64_t lba, uint32_t count,
                                    const void *data)
{
    const struct slate_file *file = context;

    if (file->writer < 0)
        return SLATE_ERR_PROTECTED;
    return port_write_sparse(file->writer, data,
                             (size_t)count * file->block_bytes,
                             (off_t)(lba * file->block_bytes))
               ? SLATE_OK
               : SLATE_ERR_WRITE;
}

static enum slate_status file_flush(void *context)
{
    const struct slate_file *file = context;

    if (file->writer < 0)
        return SLATE_OK;
    return fsync(file->writer) == 0 ? SLATE_OK : SLATE_ERR_WRITE;
}

static bool is_same_file(const struct slate_file *file, int writer)
{
    struct stat a, b;

    return fstat(writer, &a) == 0 && fstat(file->descriptor, &b) == 0 &&
           a.st_dev == b.st_dev && a.st_ino == b.st_ino &&
           (uint64_t)a.st_size == file->bytes;
}

/* What only reads is open for reading only; the writer is the same file, as
 * long as it was, not what has its name by now. */
static enum slate_status file_claim(void *context)
{
    struct slate_file *file = context;
    int writer = open(file->path, O_RDWR | O_CLOEXEC);

    if (writer < 0)
        return errno == EACCES || errno == EPERM || errno == EROFS ||
                       errno == ETXTBSY
                   ? SLATE_ERR_PROTECTED
                   : SLATE_ERR_NO_DEVICE;
    if (!is_same_file(file, writer)) {
        close(writer);
        return SLATE_ERR_SWAPPED;
    }
    if (flock(writer, LOCK_EX | LOCK_NB) != 0) {
        close(writer);
        return SLATE_ERR_BUSY;
    }
    file->writer = writer;
    return SLATE_OK;
}

static enum slate_status file_release(void *context)
{
    struct slate_file *file = context;
    bool ok = file->writer < 0 || close(file->writer) == 0;

    file->writer = -1;
    return ok ? SLATE_OK : SLATE_ERR_WRITE;
}

/* A hole reads as zeros, and takes no room. */
static enum slate_status file_clear(void *context, uint64_t lba, uint64_t count,
                                    enum slate_clear how)
{
    const struct slate_file *file = context;
    int done = -1;

    (void)how; /* what reads as zeros may have any content */
    if (file->writer < 0)
        return SLATE_ERR_PROTECTED;
#ifdef FALLOC_FL_PUNCH_HOLE
    done = fallocate(file->writer, FALLOC_FL_PUNCH_HOLE | FALLOC_FL_KEEP_SIZE,
                     (off_t)(lba * file->block_bytes),
                     (off_t)(count * file->block_bytes));
#endif
    return done == 0 ? SLATE_OK : SLATE_ERR_COMMAND;
}

static const struct slate_port_ops file_ops = {
    .size = sizeof file_ops,
    .facts = file_facts,
    .read = file_read,
    .write = file_write,
    .flush = file_flush,
    .clear = file_clear,
    .claim = file_claim,
    .release = file_release,
    .milliseconds = port_milliseconds,
    .random = port_random,
};

static enum slate_status open_status(void)
{
    return errno == EACCES || errno == EPERM ? SLATE_ERR_ACCESS
                                             : SLATE_ERR_NO_DEVICE;
}

static enum slate_status open_descriptor(struct slate_file *file)
{
    struct stat about;

    /* Looked at before opening: opening a pipe would wait for ever. */
    if (stat(file->path, &about) != 0)
        return open_status();
    if (!S_ISREG(about.st_mode))
        return SLATE_ERR_NO_DEVICE;
    file->bytes = (uint64_t)about.st_size;
    file->descriptor = open(file->path, O_RDONLY | O_CLOEXEC);
    file->read_only = faccessat(AT_FDCWD, file->path, W_OK, AT_EACCESS) != 0;
    return file->descriptor < 0 ? open_status() : SLATE_OK;
}

static enum slate_status identify(struct slate_file *file)
{
    char *full = realpath(file->path, NULL);

    if (full == NULL)
        return open_status();
    file->identity.transport = SLATE_TRANSPORT_IMAGE;
    port_name_file(full, &file->identity);
    free(full);
    return SLATE_OK;
}

enum slate_status slate_file_open(struct slate_file *file, const char *path,
                                  uint32_t block_bytes)
{
    enum slate_status status;

    memset(file, 0, sizeof *file);
    file->descriptor = -1;
    file->block_bytes = block_bytes;
    file->port.ops = &file_ops;
    file->port.context = file;
    file->writer = -1;
    if (strlen(path) >= sizeof file->path)
        return SLATE_ERR_NO_DEVICE;
    memcpy(file->path, path, strlen(path) + 1);
    status = open_descriptor(file);
    if (status == SLATE_OK)
        status = identify(file);
    if (status == SLATE_OK && (file->bytes == 0 || block_bytes == 0 ||
                               file->bytes % block_bytes != 0))
        status = SLATE_ERR_GEOMETRY;
    return status;
}

void slate_file_close(struct slate_file *file)
{
    if (file->port.ops == NULL) /* zeroed: 0 is somebody's descriptor */
        return;
    if (file->descriptor >= 0)
        close(file->descriptor);
    if (file->writer >= 0)
        close(file->writer);
    file->descriptor = file->writer = -1;
}
