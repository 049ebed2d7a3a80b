/* SPDX-License-Identifier: MIT */
/* Raw commands on Linux: SG_IO for SCSI devices, the pass-throughs of
 * NVMe drives and SD cards. */
#include <errno.h>
#include <linux/mmc/ioctl.h>
#include <linux/nvme_ioctl.h>
#include <scsi/sg.h>
#include <string.h>
#include <sys/ioctl.h>

#include "linux.h"
#include "trueslate/base.h"

#define TIMEOUT_MS 60000u
#define NVME_IDENTIFY 0x06

static enum slate_status gone_or_refused(void)
{
    return errno == ENODEV || errno == ENXIO ? SLATE_ERR_NO_DEVICE
                                             : SLATE_ERR_COMMAND;
}

static int direction_of(const struct slate_exchange *x)
{
    switch (x->direction) {
    case SLATE_DIRECTION_IN:
        return SG_DXFER_FROM_DEV;
    case SLATE_DIRECTION_OUT:
        return SG_DXFER_TO_DEV;
    case SLATE_DIRECTION_NONE:
    default:
        return SG_DXFER_NONE;
    }
}

static enum slate_status exchange_scsi(const struct slate_linux *device,
                                       struct slate_exchange *x)
{
    struct sg_io_hdr io = {.interface_id = 'S',
                           .dxfer_direction = direction_of(x),
                           .cmd_len = x->command_length,
                           .mx_sb_len = sizeof x->answer,
                           .dxfer_len = x->data_length,
                           .dxferp = device->bounce,
                           .cmdp = x->command,
                           .sbp = x->answer,
                           .timeout = TIMEOUT_MS};

    if (x->data_length > BOUNCE_BYTES)
        return SLATE_ERR_ARGUMENT;
    if (x->direction == SLATE_DIRECTION_OUT)
        memcpy(device->bounce, x->data, x->data_length);
    if (ioctl(device->descriptor, SG_IO, &io) != 0)
        return gone_or_refused();
    /* host status 1: the device does not answer any more */
    if (io.host_status == 1)
        return SLATE_ERR_NO_DEVICE;
    x->state = io.status;
    x->answer_length = io.sb_len_wr;
    if (io.host_status != 0 && io.status == 0)
        return SLATE_ERR_COMMAND;
    x->transferred = io.resid > 0 && (unsigned)io.resid <= x->data_length
                         ? x->data_length - (unsigned)io.resid
                         : x->data_length;
    if (x->direction == SLATE_DIRECTION_IN)
        memcpy(x->data, device->bounce, x->transferred);
    return SLATE_OK;
}

static uint32_t le32(const uint8_t *p)
{
    return p[0] | (uint32_t)p[1] << 8 | (uint32_t)p[2] << 16 |
           (uint32_t)p[3] << 24;
}

static enum slate_status exchange_nvme(const struct slate_linux *device,
                                       struct slate_exchange *x)
{
    const uint8_t *c = x->command;
    struct nvme_passthru_cmd io = {.opcode = c[0],
                                   .flags = c[1],
                                   .nsid = le32(c + 4),
                                   .addr = (uint64_t)(uintptr_t)device->bounce,
                                   .data_len = x->data_length,
                                   .cdw10 = le32(c + 40),
                                   .cdw11 = le32(c + 44),
                                   .cdw12 = le32(c + 48),
                                   .cdw13 = le32(c + 52),
                                   .cdw14 = le32(c + 56),
                                   .cdw15 = le32(c + 60),
                                   .timeout_ms = TIMEOUT_MS};
    unsigned long request =
        c[0] == NVME_IDENTIFY ? NVME_IOCTL_ADMIN_CMD : NVME_IOCTL_IO_CMD;
    int result;

    if (x->data_length > BOUNCE_BYTES)
        return SLATE_ERR_ARGUMENT;
    if (x->direction == SLATE_DIRECTION_OUT)
        memcpy(device->bounce, x->data, x->data_length);
    result = ioctl(device->descriptor, request, &io);
    if (result < 0)
        return gone_or_refused();
    memset(x->answer, 0, 16);
    x->answer[14] = (uint8_t)(result << 1);
    x->answer[15] = (uint8_t)(result >> 7);
    x->answer_length = 16;
    x->state = result == 0 ? 0 : 1;
    x->transferred = result == 0 ? x->data_length : 0;
    if (x->direction == SLATE_DIRECTION_IN)
        memcpy(x->data, device->bounce, x->transferred);
    return SLATE_OK;
}

/* Response types and command classes as the kernel's driver numbers them. */
#define RESPONSE_PRESENT (1u << 0)
#define RESPONSE_CRC (1u << 2)
#define RESPONSE_OPCODE (1u << 4)
#define COMMAND_WITH_DATA (1u << 5)
#define SD_APP_COMMAND 55

static void respond(struct slate_exchange *x, const uint32_t *response)
{
    uint8_t *a = x->answer;

    a[0] = x->command[0] & 0x3F;
    for (int i = 0; i < 4; i++)
        a[1 + i] = (uint8_t)(response[0] >> 8 * (3 - i));
    a[5] = (uint8_t)(slate_crc7(a, 5) << 1 | 1);
    x->answer_length = 6;
}

/* The kernel sends CMD55 itself: ours only announces the next command. */
static enum slate_status exchange_sd(struct slate_linux *device,
                                     struct slate_exchange *x)
{
    const uint8_t *c = x->command;
    bool app = device->app_command;
    struct mmc_ioc_cmd io = {
        .write_flag = x->direction == SLATE_DIRECTION_OUT,
        .is_acmd = app ? 1 : 0,
        .opcode = c[0] & 0x3F,
        .arg = (uint32_t)c[1] << 24 | (uint32_t)c[2] << 16 |
               (uint32_t)c[3] << 8 | c[4],
        .flags = RESPONSE_PRESENT | RESPONSE_CRC | RESPONSE_OPCODE};

    device->app_command = (c[0] & 0x3F) == SD_APP_COMMAND;
    if (device->app_command) {
        respond(x, io.response);
        return SLATE_OK;
    }
    if (x->data_length > 512 && x->data_length % 512 != 0)
        return SLATE_ERR_ARGUMENT;
    if (x->data_length > 0) {
        io.flags |= COMMAND_WITH_DATA;
        io.blksz = x->data_length < 512 ? x->data_length : 512;
        io.blocks = x->data_length / io.blksz;
        io.data_ptr = (uint64_t)(uintptr_t)device->bounce;
    }
    if (x->direction == SLATE_DIRECTION_OUT)
        memcpy(device->bounce, x->data, x->data_length);
    if (ioctl(device->descriptor, MMC_IOC_CMD, &io) != 0)
        return gone_or_refused();
    respond(x, io.response);
    x->transferred = x->data_length;
    if (x->direction == SLATE_DIRECTION_IN)
        memcpy(x->data, device->bounce, x->data_length);
    return SLATE_OK;
}

enum slate_status linux_exchange(void *context, struct slate_exchange *x)
{
    struct slate_linux *device = context;

    if (device->card)
        return exchange_sd(device, x);
    return device->commands == SLATE_COMMANDS_NVME ? exchange_nvme(device, x)
                                                   : exchange_scsi(device, x);
}
