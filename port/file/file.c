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

    if (file->read_only)
        return SLATE_ERR_PROTECTED;
    return port_write_sparse(file->descriptor, data,
                             (size_t)count * file->block_bytes,
                             (off_t)(lba * file->block_bytes))
               ? SLATE_OK
               : SLATE_ERR_WRITE;
}

static enum slate_status file_flush(void *context)
{
    const struct slate_file *file = context;

    return fsync(file->descriptor) == 0 ? SLATE_OK : SLATE_ERR_WRITE;
}

static enum slate_status file_claim(void *context)
{
    const struct slate_file *file = context;

    return flock(file->descriptor, LOCK_EX | LOCK_NB) == 0 ? SLATE_OK
                                                           : SLATE_ERR_BUSY;
}

static enum slate_status file_release(void *context)
{
    const struct slate_file *file = context;

    return flock(file->descriptor, LOCK_UN) == 0 ? SLATE_OK
                                                 : SLATE_ERR_INTERNAL;
}

static const struct slate_port_ops file_ops = {
    .size = sizeof file_ops,
    .facts = file_facts,
    .read = file_read,
    .write = file_write,
    .flush = file_flush,
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

static enum slate_status open_descriptor(struct slate_file *file,
                                         const char *path)
{
    struct stat about;

    /* Looked at before opening: opening a pipe would wait for ever. */
    if (stat(path, &about) != 0)
        return open_status();
    if (!S_ISREG(about.st_mode))
        return SLATE_ERR_NO_DEVICE;
    file->bytes = (uint64_t)about.st_size;
    file->descriptor = open(path, O_RDWR | O_CLOEXEC);
    if (file->descriptor < 0 && (errno == EACCES || errno == EROFS ||
                                 errno == EPERM || errno == ETXTBSY)) {
        file->read_only = true;
        file->descriptor = open(path, O_RDONLY | O_CLOEXEC);
    }
    return file->descriptor < 0 ? open_status() : SLATE_OK;
}

/* Printable ASCII of a name into a field. */
static void take_name(char *field, size_t room, const char *name)
{
    size_t n = 0;

    for (; n < room - 1 && name[n] != '\0'; n++)
        field[n] = (char)(name[n] >= 0x20 && name[n] < 0x7F ? name[n] : '?');
    field[n] = '\0';
}

static enum slate_status identify(struct slate_file *file, const char *path)
{
    char *full = realpath(path, NULL);
    struct slate_sha256 sha;
    struct slate_text serial;
    uint8_t digest[SLATE_DIGEST_BYTES];

    if (full == NULL)
        return open_status();
    file->identity.transport = SLATE_TRANSPORT_IMAGE;
    take_name(file->identity.model, sizeof file->identity.model,
              strrchr(full, '/') + 1);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, full, strlen(full));
    slate_sha256_end(&sha, digest);
    slate_text_start(&serial, file->identity.serial,
                     sizeof file->identity.serial);
    slate_text_bytes(&serial, digest, 12);
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
    status = open_descriptor(file, path);
    if (status == SLATE_OK)
        status = identify(file, path);
    if (status == SLATE_OK && (file->bytes == 0 || block_bytes == 0 ||
                               file->bytes % block_bytes != 0))
        status = SLATE_ERR_GEOMETRY;
    return status;
}

void slate_file_close(struct slate_file *file)
{
    if (file->descriptor >= 0)
        close(file->descriptor);
    file->descriptor = -1;
}
