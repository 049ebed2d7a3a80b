/* SPDX-License-Identifier: MIT */
/* SCSI command descriptor blocks, put together field by field. */

#include "base/base.h"
#include "media/scsi/scsi.h"

static void begin(struct slate_exchange *x, uint8_t operation, uint8_t length)
{
    memset(x, 0, sizeof *x);
    x->command[0] = operation;
    x->command_length = length;
}

static void carry(struct slate_exchange *x, enum slate_direction direction,
                  void *data, uint32_t length)
{
    x->direction = direction;
    x->data = data;
    x->data_length = length;
}

void slate_scsi_test_unit_ready(struct slate_exchange *x)
{
    begin(x, SLATE_SCSI_TEST_UNIT_READY, 6);
}

void slate_scsi_inquiry(struct slate_exchange *x, int page, void *data,
                        uint8_t length)
{
    begin(x, SLATE_SCSI_INQUIRY, 6);
    if (page >= 0) {
        x->command[1] = 0x01; /* EVPD */
        x->command[2] = (uint8_t)page;
    }
    x->command[4] = length;
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_mode_sense_6(struct slate_exchange *x, uint8_t page, void *data,
                             uint8_t length)
{
    begin(x, SLATE_SCSI_MODE_SENSE_6, 6);
    x->command[1] = 0x08; /* DBD */
    x->command[2] = page;
    x->command[4] = length;
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_read_capacity_10(struct slate_exchange *x, uint8_t data[8])
{
    begin(x, SLATE_SCSI_READ_CAPACITY_10, 10);
    carry(x, SLATE_DIRECTION_IN, data, 8);
}

void slate_scsi_read_capacity_16(struct slate_exchange *x, uint8_t data[32])
{
    begin(x, SLATE_SCSI_SERVICE_ACTION_IN_16, 16);
    x->command[1] = 0x10; /* READ CAPACITY (16) */
    slate_put_be32(x->command + 10, 32);
    carry(x, SLATE_DIRECTION_IN, data, 32);
}

void slate_scsi_transfer(struct slate_exchange *x,
                         enum slate_direction direction, uint64_t lba,
                         uint32_t count, void *data, uint32_t data_length)
{
    bool in = direction == SLATE_DIRECTION_IN;

    if (lba + count <= (uint64_t)1 << 32 && count <= UINT16_MAX) {
        begin(x, in ? SLATE_SCSI_READ_10 : SLATE_SCSI_WRITE_10, 10);
        slate_put_be32(x->command + 2, (uint32_t)lba);
        slate_put_be16(x->command + 7, (uint16_t)count);
    } else {
        begin(x, in ? SLATE_SCSI_READ_16 : SLATE_SCSI_WRITE_16, 16);
        slate_put_be64(x->command + 2, lba);
        slate_put_be32(x->command + 10, count);
    }
    carry(x, direction, data, data_length);
}

void slate_scsi_synchronize_cache_10(struct slate_exchange *x)
{
    begin(x, SLATE_SCSI_SYNCHRONIZE_CACHE_10, 10);
}

void slate_scsi_mode_sense_10(struct slate_exchange *x, uint8_t page,
                              void *data, uint16_t length)
{
    begin(x, SLATE_SCSI_MODE_SENSE_10, 10);
    x->command[1] = 0x08; /* DBD */
    x->command[2] = page;
    slate_put_be16(x->command + 7, length);
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_mode_select(struct slate_exchange *x, bool ten, bool save,
                            void *data, uint8_t length)
{
    begin(x, ten ? SLATE_SCSI_MODE_SELECT_10 : SLATE_SCSI_MODE_SELECT_6,
          ten ? 10 : 6);
    x->command[1] = (uint8_t)(0x10 | (save ? 0x01 : 0x00)); /* PF, SP */
    x->command[ten ? 8 : 4] = length;
    carry(x, SLATE_DIRECTION_OUT, data, length);
}

void slate_scsi_mode_sense_blocks(struct slate_exchange *x, bool ten,
                                  uint8_t what, void *data, uint8_t length)
{
    begin(x, ten ? SLATE_SCSI_MODE_SENSE_10 : SLATE_SCSI_MODE_SENSE_6,
          ten ? 10 : 6);
    x->command[2] = what;
    x->command[ten ? 8 : 4] = length;
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_report_luns(struct slate_exchange *x, void *data,
                            uint32_t length)
{
    begin(x, SLATE_SCSI_REPORT_LUNS, 12);
    slate_put_be32(x->command + 6, length);
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_start_stop(struct slate_exchange *x, bool start, bool eject)
{
    begin(x, SLATE_SCSI_START_STOP, 6);
    x->command[4] = (uint8_t)((start ? 0x01 : 0x00) | (eject ? 0x02 : 0x00));
}

void slate_scsi_prevent_removal(struct slate_exchange *x, bool prevent)
{
    begin(x, SLATE_SCSI_PREVENT_REMOVAL, 6);
    x->command[4] = prevent ? 0x01 : 0x00;
}

void slate_scsi_unmap(struct slate_exchange *x, uint64_t lba, uint32_t count,
                      uint8_t list[24])
{
    memset(list, 0, 24);
    slate_put_be16(list, 22);     /* bytes behind this field */
    slate_put_be16(list + 2, 16); /* bytes of descriptors */
    slate_put_be64(list + 8, lba);
    slate_put_be32(list + 16, count);
    begin(x, SLATE_SCSI_UNMAP, 10);
    slate_put_be16(x->command + 7, 24);
    carry(x, SLATE_DIRECTION_OUT, list, 24);
}

void slate_scsi_write_same_16(struct slate_exchange *x, uint64_t lba,
                              uint32_t count, void *block, uint32_t block_bytes)
{
    begin(x, SLATE_SCSI_WRITE_SAME_16, 16);
    slate_put_be64(x->command + 2, lba);
    slate_put_be32(x->command + 10, count);
    carry(x, SLATE_DIRECTION_OUT, block, block_bytes);
}

void slate_scsi_reserve_in(struct slate_exchange *x, uint8_t action, void *data,
                           uint16_t length)
{
    begin(x, SLATE_SCSI_RESERVE_IN, 10);
    x->command[1] = action;
    slate_put_be16(x->command + 7, length);
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_reserve_out(struct slate_exchange *x, uint8_t action,
                            uint8_t list[24])
{
    begin(x, SLATE_SCSI_RESERVE_OUT, 10);
    x->command[1] = action;
    slate_put_be32(x->command + 5, 24);
    carry(x, SLATE_DIRECTION_OUT, list, 24);
}

void slate_scsi_request_sense(struct slate_exchange *x, void *data,
                              uint8_t length)
{
    begin(x, SLATE_SCSI_REQUEST_SENSE, 6);
    x->command[4] = length;
    carry(x, SLATE_DIRECTION_IN, data, length);
}

#define REPORT_OPERATION 0x0C /* service action of MAINTENANCE IN */
#define REPORT_ONE 0x01
#define REPORT_ONE_ACTION 0x02

void slate_scsi_report_operation(struct slate_exchange *x, uint8_t operation,
                                 uint8_t action, void *data, uint8_t length)
{
    begin(x, SLATE_SCSI_MAINTENANCE_IN, 12);
    x->command[1] = REPORT_OPERATION;
    x->command[2] = action == 0 ? REPORT_ONE : REPORT_ONE_ACTION;
    x->command[3] = operation;
    x->command[5] = action;
    x->command[9] = length;
    carry(x, SLATE_DIRECTION_IN, data, length);
}

void slate_scsi_sanitize(struct slate_exchange *x, uint8_t how, void *list,
                         uint16_t length)
{
    begin(x, SLATE_SCSI_SANITIZE, 10);
    x->command[1] = how;
    slate_put_be16(x->command + 7, length);
    if (length > 0)
        carry(x, SLATE_DIRECTION_OUT, list, length);
}

void slate_scsi_format_drive(struct slate_exchange *x, uint8_t how,
                             uint16_t interleave, void *list, uint32_t length)
{
    begin(x, SLATE_SCSI_FORMAT_UNIT, 6);
    x->command[1] = how;
    slate_put_be16(x->command + 3, interleave);
    if (length > 0)
        carry(x, SLATE_DIRECTION_OUT, list, length);
}

void slate_scsi_format_unit(struct slate_exchange *x, void *header,
                            uint8_t length)
{
    slate_scsi_format_drive(x, header == NULL ? 0 : SLATE_SCSI_FORMAT_DATA, 0,
                            header, header == NULL ? 0 : length);
}

void slate_scsi_read_defects(struct slate_exchange *x, bool twelve,
                             uint8_t what, void *data, uint16_t length)
{
    begin(x, twelve ? SLATE_SCSI_READ_DEFECTS_12 : SLATE_SCSI_READ_DEFECTS_10,
          twelve ? 12 : 10);
    x->command[twelve ? 1 : 2] = what;
    slate_put_be16(x->command + (twelve ? 8 : 7), length);
    carry(x, SLATE_DIRECTION_IN, data, length);
}

#define LONG_LBA 0x02

void slate_scsi_reassign(struct slate_exchange *x, bool long_lba, void *list,
                         uint32_t length)
{
    begin(x, SLATE_SCSI_REASSIGN_BLOCKS, 6);
    x->command[1] = long_lba ? LONG_LBA : 0;
    carry(x, SLATE_DIRECTION_OUT, list, length);
}
