/* SPDX-License-Identifier: MIT */
/* Drives that speak NVMe (NVM Express base specification 1.4): identify, read,
 * write, flush, write zeroes, deallocate. */

#include "base/base.h"
#include "media/nvme/nvme.h"

enum operation {
    NVME_FLUSH = 0x00,
    NVME_WRITE = 0x01,
    NVME_READ = 0x02,
    NVME_WRITE_ZEROES = 0x08,
    NVME_DATASET_MANAGEMENT = 0x09
};

#define IDENTIFY_NAMESPACE 0u
#define IDENTIFY_CONTROLLER 1u
#define IDENTIFY_ACTIVE_LIST 2u
#define IDENTIFY_BYTES 4096u

/* Most blocks of a command: the field is 16 bits, 0 meaning one. */
#define BLOCKS_MOST 65536u

static void begin(struct slate_exchange *x, uint8_t operation,
                  uint32_t name_space)
{
    memset(x, 0, sizeof *x);
    x->command_length = 64;
    x->command[0] = operation;
    slate_put_le32(x->command + 4, name_space);
}

static enum slate_status send(struct slate_media *media,
                              struct slate_exchange *x)
{
    enum slate_status status = slate_media_exchange(media, x);

    if (status != SLATE_OK || x->state == 0)
        return status;
    /* status field: type 0, code 20h is "namespace is write protected" */
    if (x->answer_length >= 16 &&
        (slate_le16(x->answer + 14) >> 1 & 0x7FF) == 0x20)
        return SLATE_ERR_PROTECTED;
    return SLATE_ERR_COMMAND;
}

/* An entry of the admin queue with its words 10 and 11. */
static void begin_admin(struct slate_exchange *x,
                        enum slate_nvme_admin operation, uint32_t name_space,
                        const uint32_t words[2])
{
    begin(x, (uint8_t)operation, name_space);
    x->admin = true;
    slate_put_le32(x->command + 40, words[0]);
    slate_put_le32(x->command + 44, words[1]);
}

enum slate_status slate_nvme_order(struct slate_media *media,
                                   enum slate_nvme_admin operation,
                                   uint32_t name_space, const uint32_t words[2],
                                   uint32_t seconds)
{
    struct slate_exchange x;

    begin_admin(&x, operation, name_space, words);
    x.seconds = seconds;
    return send(media, &x);
}

enum slate_status slate_nvme_admin(struct slate_media *media,
                                   enum slate_nvme_admin operation,
                                   uint32_t name_space, const uint32_t words[2],
                                   void *data, uint32_t length,
                                   uint32_t *result)
{
    struct slate_exchange x;
    enum slate_status status;

    begin_admin(&x, operation, name_space, words);
    if (data != NULL) {
        x.direction = SLATE_DIRECTION_IN;
        x.data = data;
        x.data_length = length;
    }
    status = send(media, &x);
    if (status == SLATE_OK && data != NULL && x.transferred < length)
        return SLATE_ERR_COMMAND;
    if (result != NULL)
        *result = slate_le32(x.answer);
    return status;
}

static enum slate_status identify(struct slate_media *media, uint32_t which,
                                  uint8_t *data)
{
    const uint32_t words[2] = {which, 0};

    return slate_nvme_admin(media, SLATE_NVME_IDENTIFY,
                            which == IDENTIFY_NAMESPACE ? media->address : 0,
                            words, data, IDENTIFY_BYTES, NULL);
}

/* figure 247 */
static void take_controller(struct slate_media *media, const uint8_t *data)
{
    struct slate_identity *identity = &media->identity;
    uint16_t optional = slate_le16(data + 520);
    uint8_t most = data[77]; /* transfer size, as a power of two of pages */

    slate_take_text(identity->serial, SLATE_SERIAL_ROOM, data + 4, 20);
    slate_take_text(identity->model, SLATE_MODEL_ROOM, data + 24, 40);
    slate_take_text(identity->revision, SLATE_REVISION_ROOM, data + 64, 8);
    media->abilities.native_blocks = slate_le64(data + 296); /* bytes so far */
    media->abilities.discard = (optional & 0x04) != 0;
    media->abilities.zero = (optional & 0x08) != 0;
    media->abilities.clear_most = BLOCKS_MOST;
    media->largest_transfer = most > 0 && most < 16 ? 4096u << most : 0;
}

/* figure 245 */
static enum slate_status take_namespace(struct slate_media *media,
                                        const uint8_t *data)
{
    const uint8_t *format = data + 128 + 4 * (size_t)(data[26] & 0x0F);
    uint8_t shift = format[2];

    media->geometry.block_count = slate_le64(data);
    if (media->geometry.block_count == 0) /* not there, or not active */
        return SLATE_ERR_NO_MEDIUM;
    media->geometry.block_bytes = shift < 31 ? (uint32_t)1 << shift : 0;
    if (slate_le16(format) != 0 && (data[26] & 0x10) != 0)
        media->geometry.block_bytes += slate_le16(format);
    media->abilities.protection = (data[29] & 0x07) != 0;
    media->read_only = (data[99] & 0x01) != 0; /* attributes: protected */
    return SLATE_OK;
}

/* How many namespaces are active: the list ends with a zero. */
static void count_namespaces(struct slate_media *media, uint8_t *data)
{
    uint32_t count = 0;

    if (identify(media, IDENTIFY_ACTIVE_LIST, data) != SLATE_OK)
        return;
    while (count < IDENTIFY_BYTES / 4 &&
           slate_le32(data + 4 * (size_t)count) != 0)
        count++;
    if (count > 0)
        media->units = count;
}

/* Capacity of the drive that belongs to no namespace. */
static void take_unallocated(struct slate_media *media)
{
    uint64_t bytes = media->abilities.native_blocks;

    media->abilities.native_blocks = 0;
    if (media->units == 1 && media->geometry.block_bytes > 0 && bytes > 0)
        media->abilities.native_blocks =
            media->geometry.block_count + bytes / media->geometry.block_bytes;
}

static enum slate_status nvme_open(struct slate_media *media,
                                   const struct slate_port_facts *facts)
{
    uint8_t *data = media->answer;
    enum slate_status status;

    if (media->ops.exchange == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(data, 0, IDENTIFY_BYTES);
    media->address = facts->unit + 1; /* namespaces count from 1 */
    SLATE_TRY(identify(media, IDENTIFY_CONTROLLER, data));
    take_controller(media, data);
    count_namespaces(media, data);
    memset(data, 0, IDENTIFY_BYTES);
    status = identify(media, IDENTIFY_NAMESPACE, data);
    SLATE_THEN(status, take_namespace(media, data));
    SLATE_TRY(status);
    media->read_only = media->read_only || facts->read_only;
    take_unallocated(media);
    if (media->geometry.block_bytes > 0)
        media->largest_transfer /= media->geometry.block_bytes;
    if (media->largest_transfer == 0 || media->largest_transfer > BLOCKS_MOST)
        media->largest_transfer = BLOCKS_MOST;
    return SLATE_OK;
}

static void put_range(struct slate_exchange *x, uint64_t lba, uint32_t count)
{
    slate_put_le64(x->command + 40, lba);
    slate_put_le32(x->command + 48, (count - 1) & 0xFFFF);
}

static void nvme_prepare(struct slate_media *media, bool write, uint64_t lba,
                         uint32_t count, void *data, struct slate_exchange *x)
{
    begin(x, (uint8_t)(write ? NVME_WRITE : NVME_READ), media->address);
    put_range(x, lba, count);
    x->direction = write ? SLATE_DIRECTION_OUT : SLATE_DIRECTION_IN;
    x->data = data;
    x->data_length = count * media->geometry.block_bytes;
}

static enum slate_status transfer(struct slate_media *media, bool write,
                                  uint64_t lba, uint32_t count, void *data)
{
    struct slate_exchange x;
    enum slate_status status;

    nvme_prepare(media, write, lba, count, data, &x);
    status = send(media, &x);
    if (status == SLATE_OK && x.transferred != x.data_length)
        return SLATE_ERR_COMMAND;
    return status;
}

static enum slate_status nvme_flush(struct slate_media *media)
{
    struct slate_exchange x;
    enum slate_status status;

    begin(&x, NVME_FLUSH, media->address);
    status = send(media, &x);
    return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
}

/* Dataset Management with one range, or Write Zeroes. */
static enum slate_status nvme_clear(struct slate_media *media, uint64_t lba,
                                    uint64_t count, enum slate_clear how)
{
    uint8_t range[16] = {0};
    struct slate_exchange x;
    enum slate_status status;

    if (how == SLATE_CLEAR_ZERO) {
        begin(&x, NVME_WRITE_ZEROES, media->address);
        put_range(&x, lba, (uint32_t)count);
    } else {
        begin(&x, NVME_DATASET_MANAGEMENT, media->address);
        slate_put_le32(x.command + 44, 0x04); /* deallocate */
        slate_put_le32(range + 4, (uint32_t)count);
        slate_put_le64(range + 8, lba);
        x.direction = SLATE_DIRECTION_OUT;
        x.data = range;
        x.data_length = sizeof range;
    }
    status = send(media, &x);
    return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
}

const struct slate_speech slate_speech_nvme = {
    .commands = SLATE_COMMANDS_NVME,
    .open = nvme_open,
    .transfer = transfer,
    .prepare = nvme_prepare,
    .flush = nvme_flush,
    .clear = nvme_clear,
};
