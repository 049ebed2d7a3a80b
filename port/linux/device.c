/* SPDX-License-Identifier: MIT */
/* Block devices of a Linux host as a port. */
#include <limits.h>
#include <linux/fs.h>
#include <scsi/sg.h>
#include <sys/file.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <time.h>

#include "../host.h"
#include "linux.h"

#ifndef BLKGETDISKSEQ /* since Linux 5.15 */
#define BLKGETDISKSEQ _IOR(0x12, 128, uint64_t)
#endif

static enum slate_status linux_facts(void *context,
                                     struct slate_port_facts *facts)
{
    const struct slate_linux *device = context;

    facts->identity = device->about.identity;
    if (device->commands == SLATE_COMMANDS_SCSI) /* it tells itself */
        memset(facts->identity.serial, 0, sizeof facts->identity.serial);
    facts->commands = device->commands;
    facts->unit = device->about.unit;
    facts->block_bytes = device->block_bytes;
    facts->block_count = device->blocks;
    facts->physical_bytes = device->physical_bytes;
    /* The host splits plain transfers, and moves a card's blocks so; but it
     * passes commands on whole, and not every adapter takes more pages than
     * this. */
    facts->largest_transfer_bytes =
        device->ops.read != NULL ? BOUNCE_BYTES : 131072;
    facts->removable = device->about.removable;
    facts->read_only = device->about.read_only;
    facts->slider = device->card && linux_has_slider(device->about.name);
    facts->in_use = device->about.users[0] != '\0';
    facts->volatile_cache = true;
    facts->card = device->card;
    facts->card_address = device->card_address;
    memcpy(facts->cid, device->cid, sizeof facts->cid);
    memcpy(facts->csd, device->csd, sizeof facts->csd);
    return SLATE_OK;
}

/* What was pulled fails like a bad block, but the host shows it no more. */
static bool is_gone(const struct slate_linux *device)
{
    char path[128];

    return linux_path(path, sizeof path, "/sys/class/block/%.31s",
                      device->about.name) &&
           access(path, F_OK) != 0;
}

static enum slate_status failure(const struct slate_linux *device,
                                 enum slate_status status)
{
    return errno == ENODEV || errno == ENXIO ||
                   (errno == EIO && is_gone(device))
               ? SLATE_ERR_NO_DEVICE
               : status;
}

static enum slate_status linux_read(void *context, uint64_t lba, uint32_t count,
                                    void *data)
{
    const struct slate_linux *device = context;
    size_t length = (size_t)count * device->block_bytes;
    void *to = linux_is_aligned(data) ? data : device->bounce;

    if (!port_read_all(device->descriptor, to, length,
                       (off_t)(lba * device->block_bytes)))
        return failure(device, SLATE_ERR_READ);
    if (to != data)
        memcpy(data, to, length);
    return SLATE_OK;
}

static enum slate_status linux_write(void *context, uint64_t lba,
                                     uint32_t count, const void *data)
{
    const struct slate_linux *device = context;
    size_t length = (size_t)count * device->block_bytes;

    if (!device->claimed)
        return SLATE_ERR_PROTECTED;
    if (!linux_is_aligned(data))
        memcpy(device->bounce, data, length);
    if (port_write_all(device->descriptor,
                       linux_is_aligned(data) ? data : device->bounce, length,
                       (off_t)(lba * device->block_bytes)))
        return SLATE_OK;
    return errno == EPERM || errno == EROFS ? SLATE_ERR_PROTECTED
                                            : failure(device, SLATE_ERR_WRITE);
}

static enum slate_status linux_flush(void *context)
{
    const struct slate_linux *device = context;

    if (!device->claimed)
        return SLATE_OK;
    return fsync(device->descriptor) == 0 ? SLATE_OK
                                          : failure(device, SLATE_ERR_WRITE);
}

static enum slate_status linux_clear(void *context, uint64_t lba,
                                     uint64_t count, enum slate_clear how)
{
    const struct slate_linux *device = context;
    uint64_t range[2] = {lba * device->block_bytes,
                         count * device->block_bytes};

    if (ioctl(device->descriptor,
              how == SLATE_CLEAR_ZERO ? BLKZEROOUT : BLKDISCARD, range) == 0)
        return SLATE_OK;
    return errno == EOPNOTSUPP ? SLATE_ERR_COMMAND
                               : failure(device, SLATE_ERR_WRITE);
}

/* Opens the node anew; direct where the host can, so that nothing stays in
 * its cache. */
static int open_node(const struct slate_linux *device, int flags)
{
    int descriptor = open(device->node, flags | O_DIRECT | O_CLOEXEC);

    return descriptor >= 0 || errno != EINVAL
               ? descriptor
               : open(device->node, flags | O_CLOEXEC);
}

#define LOCK_TRIES 20
#define LOCK_PAUSE_NS 100000000L

/* The lock by which programs of the host agree to keep off a device while
 * another one changes it: who mounts by itself looks for it, and holds it for
 * a moment while looking. */
static bool lock_out_others(int descriptor)
{
    struct timespec pause = {0, LOCK_PAUSE_NS};

    for (int i = 0; i < LOCK_TRIES; i++) {
        if (flock(descriptor, LOCK_EX | LOCK_NB) == 0)
            return true;
        if (errno != EWOULDBLOCK)
            return true; /* a node that cannot be locked */
        nanosleep(&pause, NULL);
    }
    return false;
}

static bool is_read_only(const struct slate_linux *device)
{
    int on = 0;

    return ioctl(device->descriptor, BLKROGET, &on) == 0 && on != 0;
}

/* O_EXCL on a block device fails while anything of the host uses it. What
 * protects it is lifted under the claim, so one that the host holds for
 * read-only is claimed as well; raw commands need no more. */
static int open_alone(const struct slate_linux *device)
{
    return open_node(device,
                     O_EXCL | (is_read_only(device) ? O_RDONLY : O_RDWR));
}

/* The number that the host gives each device that comes, and never again; 0
 * where it does not tell. */
static uint64_t sequence_of(int descriptor)
{
    uint64_t number = 0;

    return ioctl(descriptor, BLKGETDISKSEQ, &number) == 0 ? number : 0;
}

/* Is what was opened the device that was looked at, by its numbers and by what
 * the host says of it? A name may have gone to another device meanwhile. */
static bool is_same_device(const struct slate_linux *device, int descriptor)
{
    struct slate_linux_about now;
    struct stat about, before;
    uint64_t bytes = 0;

    return fstat(descriptor, &about) == 0 &&
           fstat(device->descriptor, &before) == 0 && S_ISBLK(about.st_mode) &&
           about.st_rdev == before.st_rdev &&
           sequence_of(descriptor) == device->sequence &&
           ioctl(descriptor, BLKGETSIZE64, &bytes) == 0 &&
           bytes == device->blocks * device->block_bytes &&
           slate_linux_describe(device->about.name, &now) &&
           memcmp(&now.identity, &device->about.identity,
                  sizeof now.identity) == 0;
}

static enum slate_status linux_claim(void *context)
{
    struct slate_linux *device = context;
    int descriptor = open_alone(device);

    if (descriptor < 0 && errno == EBUSY)
        return SLATE_ERR_BUSY;
    if (descriptor < 0 && (errno == EROFS || errno == EPERM))
        return SLATE_ERR_PROTECTED;
    if (descriptor < 0)
        return errno == EACCES ? SLATE_ERR_ACCESS : SLATE_ERR_NO_DEVICE;
    if (!is_same_device(device, descriptor)) {
        close(descriptor);
        return SLATE_ERR_SWAPPED;
    }
    if (!lock_out_others(descriptor)) {
        close(descriptor);
        return SLATE_ERR_BUSY;
    }
    if (device->descriptor >= 0)
        close(device->descriptor);
    device->descriptor = descriptor;
    device->claimed = true;
    return SLATE_OK;
}

/* The host's setting; a claimed node is opened anew, now for writing. The
 * claim lapses for a moment: one node cannot be held twice. */
static enum slate_status linux_allow_writes(void *context)
{
    struct slate_linux *device = context;
    int off = 0;

    if (ioctl(device->descriptor, BLKROSET, &off) != 0)
        return errno == EACCES || errno == EPERM
                   ? SLATE_ERR_ACCESS
                   : failure(device, SLATE_ERR_COMMAND);
    device->about.read_only = is_read_only(device);
    if (device->about.read_only || !device->claimed)
        return SLATE_OK;
    close(device->descriptor);
    device->descriptor = open_node(device, O_RDONLY | O_NONBLOCK);
    device->claimed = false;
    return device->descriptor < 0 ? SLATE_ERR_NO_DEVICE : linux_claim(context);
}

/* Raw commands wrote past the host's cache: drop it, then read the table. */
static enum slate_status linux_reread(void *context)
{
    const struct slate_linux *device = context;

    if (!device->claimed)
        return SLATE_OK;
    if (device->reshaped)
        linux_look_anew(device->about.name);
    (void)ioctl(device->descriptor, BLKFLSBUF, 0);
    /* Devices without partitions refuse; there is nothing to read then. */
    (void)ioctl(device->descriptor, BLKRRPART, 0);
    return SLATE_OK;
}

static enum slate_status linux_release(void *context)
{
    struct slate_linux *device = context;
    int descriptor = open_node(device, O_RDONLY | O_NONBLOCK);

    close(device->descriptor);
    device->descriptor = descriptor;
    device->claimed = false;
    return descriptor >= 0 ? SLATE_OK : SLATE_ERR_NO_DEVICE;
}

/* What a device has of them depends on the commands that it takes. */
static const struct slate_port_ops all_ops = {
    .size = sizeof all_ops,
    .facts = linux_facts,
    .read = linux_read,
    .write = linux_write,
    .flush = linux_flush,
    .clear = linux_clear,
    .exchange = linux_exchange,
    .claim = linux_claim,
    .release = linux_release,
    .reread = linux_reread,
    .milliseconds = port_milliseconds,
    .random = port_random,
    .allow_writes = linux_allow_writes,
    .leave = linux_leave,
};

enum slate_status linux_say(char why[SLATE_LINUX_WHY_ROOM],
                            enum slate_status status, const char *words)
{
    snprintf(why, SLATE_LINUX_WHY_ROOM, "%s", words);
    return status;
}

static enum slate_status say_errno(char why[SLATE_LINUX_WHY_ROOM])
{
    switch (errno) {
    case EACCES:
    case EPERM:
        return linux_say(
            why, SLATE_ERR_ACCESS,
            geteuid() == 0 ? "no permission, though this is root: something "
                             "outside, a container say, keeps the device back"
                           : "no permission; run it as root, or join the group "
                             "that owns the device node");
    case ENOMEDIUM:
        return linux_say(why, SLATE_ERR_NO_MEDIUM, "no medium is in it");
    case ENOENT:
        return linux_say(why, SLATE_ERR_NO_DEVICE,
                         "its device node is not there");
    default:
        return linux_say(why, SLATE_ERR_NO_DEVICE, strerror(errno));
    }
}

/* The name below /sys/block of a node, by its numbers. */
static enum slate_status find_name(const char *given, char name[32],
                                   char why[SLATE_LINUX_WHY_ROOM])
{
    char path[128], link[256];
    struct stat about;
    ssize_t length;

    if (given[0] != '/') {
        snprintf(name, 32, "%.31s", given);
        return SLATE_OK;
    }
    if (stat(given, &about) != 0)
        return say_errno(why);
    if (!S_ISBLK(about.st_mode))
        return linux_say(why, SLATE_ERR_NO_DEVICE, "it is no block device");
    snprintf(path, sizeof path, "/sys/dev/block/%u:%u", major(about.st_rdev),
             minor(about.st_rdev));
    length = readlink(path, link, sizeof link - 1);
    if (length <= 0)
        return say_errno(why);
    link[length] = '\0';
    snprintf(name, 32, "%.31s", strrchr(link, '/') + 1);
    return SLATE_OK;
}

static void measure(struct slate_linux *device)
{
    uint64_t bytes = 0;
    unsigned physical = 0;
    int logical = 512;

    (void)ioctl(device->descriptor, BLKGETSIZE64, &bytes);
    (void)ioctl(device->descriptor, BLKSSZGET, &logical);
    (void)ioctl(device->descriptor, BLKPBSZGET, &physical);
    device->block_bytes = (uint32_t)logical;
    device->physical_bytes = physical;
    device->blocks = logical > 0 ? bytes / (uint64_t)logical : 0;
    device->sequence = sequence_of(device->descriptor);
}

/* Its own commands, where the host passes them on; else plain blocks. */
static void choose_commands(struct slate_linux *device)
{
    int version = 0;

    device->commands = SLATE_COMMANDS_NONE;
    if (device->about.transport == SLATE_TRANSPORT_NVME && geteuid() == 0)
        device->commands = SLATE_COMMANDS_NVME;
    else if (strncmp(device->about.name, "sd", 2) == 0 &&
             ioctl(device->descriptor, SG_GET_VERSION_NUM, &version) == 0 &&
             version >= 30000)
        device->commands = SLATE_COMMANDS_SCSI;
    device->card = linux_read_card(device);
    if (device->card && geteuid() == 0)
        device->commands = SLATE_COMMANDS_SD;
    device->ops = all_ops;
    device->port.ops = &device->ops;
    device->port.context = device;
    if (device->commands == SLATE_COMMANDS_NONE) {
        device->ops.exchange = NULL;
        linux_ring_open(device);
        return;
    }
    device->ops.clear = NULL;
    /* the host moves a card's blocks many at a time; its pass-through does
     * not */
    if (device->commands == SLATE_COMMANDS_SD)
        return;
    device->ops.read = NULL;
    device->ops.write = NULL;
    device->ops.flush = NULL;
    linux_aside_open(device);
}

/* A partition is not what can be renewed; the device that it lies on is. */
static bool is_partition(const char *name, char why[SLATE_LINUX_WHY_ROOM])
{
    char path[PATH_MAX], real[PATH_MAX], line[16] = "", *device;

    if (name[0] == '\0' || strchr(name, '/') != NULL ||
        !linux_path(path, sizeof path, "/sys/class/block/%.31s", name) ||
        realpath(path, real) == NULL)
        return false;
    snprintf(path, sizeof path, "%.4000s/partition", real);
    linux_read_line(path, line, sizeof line);
    if (line[0] == '\0')
        return false;
    *strrchr(real, '/') = '\0';
    device = strrchr(real, '/');
    snprintf(why, SLATE_LINUX_WHY_ROOM,
             "it is partition %.8s of %.31s; name that one: dev:%.31s", line,
             device == NULL ? "" : device + 1,
             device == NULL ? "" : device + 1);
    return true;
}

static enum slate_status open_parts(struct slate_linux *device,
                                    const char *given,
                                    char why[SLATE_LINUX_WHY_ROOM])
{
    char name[32] = "";
    enum slate_status status = find_name(given, name, why);

    if (status != SLATE_OK)
        return status;
    if (is_partition(name, why))
        return SLATE_ERR_NO_DEVICE;
    if (!slate_linux_describe(name, &device->about))
        return linux_say(why, SLATE_ERR_NO_DEVICE,
                         "there is no such device; a mapping is none: name the "
                         "device under it");
    snprintf(device->node, sizeof device->node, "/dev/%s", name);
    device->descriptor = open_node(device, O_RDONLY | O_NONBLOCK);
    if (device->descriptor < 0)
        return say_errno(why);
    if (posix_memalign(&device->bounce, BOUNCE_ALIGNMENT, BOUNCE_BYTES) != 0)
        return linux_say(why, SLATE_ERR_INTERNAL, "out of memory");
    measure(device);
    choose_commands(device);
    return SLATE_OK;
}

enum slate_status slate_linux_open(const char *name,
                                   struct slate_linux **device,
                                   char why[SLATE_LINUX_WHY_ROOM])
{
    struct slate_linux *made = calloc(1, sizeof *made);
    enum slate_status status;

    *device = NULL;
    if (made == NULL)
        return linux_say(why, SLATE_ERR_INTERNAL, "out of memory");
    made->descriptor = -1;
    status = open_parts(made, name, why);
    if (status == SLATE_OK)
        *device = made;
    else
        slate_linux_close(made);
    return status;
}

const struct slate_port *slate_linux_port(const struct slate_linux *device)
{
    return &device->port;
}

const struct slate_linux_about *
slate_linux_about(const struct slate_linux *device)
{
    return &device->about;
}

void slate_linux_close(struct slate_linux *device)
{
    if (device == NULL)
        return;
    if (device->descriptor >= 0)
        close(device->descriptor);
    linux_ring_close(device);
    linux_aside_close(device);
    free(device->bounce);
    free(device);
}
