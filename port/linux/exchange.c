/* SPDX-License-Identifier: MIT */
/* Raw commands on Linux: SG_IO for SCSI devices, the pass-throughs of
 * NVMe drives and SD cards. */
#include <linux/mmc/ioctl.h>
#include <linux/nvme_ioctl.h>
#include <scsi/sg.h>
#include <sys/ioctl.h>

#include "linux.h"
#include "trueslate/base.h"

#define TIMEOUT_MS 60000u
#define FORMAT_UNIT 0x04 /* SCSI */

static enum slate_status gone_or_refused(void)
{
    return errno == ENODEV || errno == ENXIO ? SLATE_ERR_NO_DEVICE
                                             : SLATE_ERR_COMMAND;
}

static int direction_of(const struct slate_exchange *x)
{
    static const int directions[] = {[SLATE_DIRECTION_NONE] = SG_DXFER_NONE,
                                     [SLATE_DIRECTION_IN] = SG_DXFER_FROM_DEV,
                                     [SLATE_DIRECTION_OUT] = SG_DXFER_TO_DEV};

    return directions[x->direction];
}

static uint32_t timeout_ms(const struct slate_exchange *x)
{
    if (x->seconds == 0)
        return TIMEOUT_MS;
    return x->seconds < UINT32_MAX / 1000 ? x->seconds * 1000 : UINT32_MAX;
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
                           .timeout = (unsigned)timeout_ms(x)};

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
                                   .timeout_ms = timeout_ms(x)};
    unsigned long request = x->admin ? NVME_IOCTL_ADMIN_CMD : NVME_IOCTL_IO_CMD;
    int result;

    if (x->data_length > BOUNCE_BYTES)
        return SLATE_ERR_ARGUMENT;
    if (x->direction == SLATE_DIRECTION_OUT)
        memcpy(device->bounce, x->data, x->data_length);
    result = ioctl(device->descriptor, request, &io);
    if (result < 0)
        return gone_or_refused();
    memset(x->answer, 0, 16);
    for (int i = 0; i < 4; i++)
        x->answer[i] = (uint8_t)(io.result >> 8 * i);
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
#define RESPONSE_LONG (1u << 1)
#define RESPONSE_CRC (1u << 2)
#define RESPONSE_BUSY (1u << 3)
#define RESPONSE_OPCODE (1u << 4)
#define COMMAND_WITH_DATA (1u << 5)

/* Most commands of a batch; the kernel takes 255. */
#define SD_BATCH_MOST 128u

enum {
    SD_SELECT = 7,
    SD_SEND_CSD = 9,
    SD_STOP = 12,
    SD_READ_MULTIPLE = 18,
    SD_WRITE_SINGLE = 24,
    SD_WRITE_MULTIPLE = 25,
    SD_CLEAR_PROTECTION = 29,
    SD_ERASE = 38,
    SD_APP_COMMAND = 55
};

static void respond(struct slate_exchange *x, const uint32_t *response)
{
    uint8_t *a = x->answer;

    a[0] = x->command[0] & 0x3F;
    for (int i = 0; i < 4; i++)
        a[1 + i] = (uint8_t)(response[0] >> 8 * (3 - i));
    a[5] = (uint8_t)(slate_crc7(a, 5) << 1 | 1);
    x->answer_length = 6;
    x->state = 0;
}

static void put_command(const struct slate_linux *device,
                        const struct slate_exchange *x, struct mmc_ioc_cmd *io)
{
    const uint8_t *c = x->command;

    memset(io, 0, sizeof *io);
    io->write_flag = x->direction == SLATE_DIRECTION_OUT;
    io->is_acmd = device->app_command ? 1 : 0;
    io->opcode = c[0] & 0x3F;
    io->arg = (uint32_t)c[1] << 24 | (uint32_t)c[2] << 16 |
              (uint32_t)c[3] << 8 | c[4];
    io->flags = RESPONSE_PRESENT | RESPONSE_CRC | RESPONSE_OPCODE;
    if (x->seconds != 0)
        io->cmd_timeout_ms = timeout_ms(x);
    if (io->opcode == SD_ERASE || io->opcode == SD_STOP ||
        io->opcode == SD_CLEAR_PROTECTION)
        io->flags |= RESPONSE_BUSY;
    if (x->data_length == 0)
        return;
    io->flags |= COMMAND_WITH_DATA;
    io->blksz = x->data_length < 512 ? x->data_length : 512;
    io->blocks = x->data_length / io->blksz;
    io->data_ptr = (uint64_t)(uintptr_t)device->bounce;
}

/* Several blocks are read by one command and the one that stops it; they are
 * written one by one, as not every host waits for a card behind a stop. */
static void fill_batch(const struct slate_linux *device,
                       const struct mmc_ioc_cmd *transfer,
                       struct mmc_ioc_multi_cmd *batch)
{
    bool bytes = device->csd[0] >> 6 == 0; /* standard capacity */
    struct mmc_ioc_cmd *c = batch->cmds;

    if (transfer->opcode == SD_READ_MULTIPLE) {
        batch->num_of_cmds = 2;
        c[0] = *transfer;
        c[1].opcode = SD_STOP;
        c[1].flags =
            RESPONSE_PRESENT | RESPONSE_CRC | RESPONSE_OPCODE | RESPONSE_BUSY;
        return;
    }
    batch->num_of_cmds = transfer->blocks;
    for (uint32_t i = 0; i < transfer->blocks; i++) {
        c[i] = *transfer;
        c[i].opcode = SD_WRITE_SINGLE;
        c[i].arg += bytes ? i * 512 : i;
        c[i].blocks = 1;
        c[i].data_ptr += (uint64_t)i * 512;
    }
}

static int send_batch(const struct slate_linux *device,
                      const struct mmc_ioc_cmd *transfer, uint32_t *response)
{
    /* as one, so that the host's own commands cannot come between them */
    struct mmc_ioc_multi_cmd *batch =
        calloc(1, sizeof *batch + SD_BATCH_MOST * sizeof batch->cmds[0]);
    int result;

    if (batch == NULL || transfer->blocks > SD_BATCH_MOST) {
        free(batch);
        errno = EINVAL;
        return -1;
    }
    fill_batch(device, transfer, batch);
    result = ioctl(device->descriptor, MMC_IOC_MULTI_CMD, batch);
    *response = batch->cmds[0].response[0];
    free(batch);
    return result;
}

/* What the kernel does itself is answered here: CMD55 announces an ACMD, and
 * CMD12 went with its transfer, CMD7 goes with CMD9. */
static bool is_done_already(struct slate_linux *device,
                            struct slate_exchange *x)
{
    static const uint32_t ready = 0x900;
    uint8_t opcode = x->command[0] & 0x3F;
    bool stop = opcode == SD_STOP && device->stopped;

    device->stopped = false;
    if (opcode != SD_APP_COMMAND && opcode != SD_SELECT && !stop)
        return false;
    device->app_command = opcode == SD_APP_COMMAND;
    respond(x, &ready);
    return true;
}

/* The live CSD: put aside, asked, taken back, all in one, so that the host
 * never finds its card put aside. Hosts drop the checksum of a long response:
 * it is made anew. */
static enum slate_status read_csd(const struct slate_linux *device,
                                  struct slate_exchange *x)
{
    struct mmc_ioc_multi_cmd *batch =
        calloc(1, sizeof *batch + 3 * sizeof batch->cmds[0]);
    uint32_t address = (uint32_t)device->card_address << 16;
    uint8_t *csd = x->answer + 1;
    int result;

    if (batch == NULL)
        return SLATE_ERR_INTERNAL;
    batch->num_of_cmds = 3;
    batch->cmds[0].opcode = SD_SELECT; /* nobody has address 0, or answers */
    batch->cmds[1].opcode = SD_SEND_CSD;
    batch->cmds[1].arg = address;
    batch->cmds[1].flags = RESPONSE_PRESENT | RESPONSE_LONG | RESPONSE_CRC;
    batch->cmds[2].opcode = SD_SELECT;
    batch->cmds[2].arg = address;
    batch->cmds[2].flags =
        RESPONSE_PRESENT | RESPONSE_CRC | RESPONSE_OPCODE | RESPONSE_BUSY;
    result = ioctl(device->descriptor, MMC_IOC_MULTI_CMD, batch);
    for (int i = 0; i < 16; i++)
        csd[i] = (uint8_t)(batch->cmds[1].response[i / 4] >> 8 * (3 - i % 4));
    free(batch);
    if (result != 0)
        return gone_or_refused();
    csd[15] = (uint8_t)(slate_crc7(csd, 15) << 1 | 1);
    x->answer[0] = 0x3F;
    x->answer_length = 17;
    x->state = 0;
    return SLATE_OK;
}

static enum slate_status exchange_sd(struct slate_linux *device,
                                     struct slate_exchange *x)
{
    struct mmc_ioc_cmd io;
    int result;

    if (is_done_already(device, x))
        return SLATE_OK;
    if ((x->command[0] & 0x3F) == SD_SEND_CSD)
        return read_csd(device, x);
    if (x->data_length > BOUNCE_BYTES ||
        (x->data_length > 512 && x->data_length % 512 != 0))
        return SLATE_ERR_ARGUMENT;
    put_command(device, x, &io);
    device->app_command = false;
    if (x->direction == SLATE_DIRECTION_OUT)
        memcpy(device->bounce, x->data, x->data_length);
    device->stopped =
        io.opcode == SD_READ_MULTIPLE || io.opcode == SD_WRITE_MULTIPLE;
    if (device->stopped)
        result = send_batch(device, &io, &io.response[0]);
    else
        result = ioctl(device->descriptor, MMC_IOC_CMD, &io);
    if (result != 0)
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
    if (device->commands == SLATE_COMMANDS_SCSI && x->command[0] == FORMAT_UNIT)
        device->reshaped = true;
    return device->commands == SLATE_COMMANDS_NVME ? exchange_nvme(device, x)
                                                   : exchange_scsi(device, x);
}
