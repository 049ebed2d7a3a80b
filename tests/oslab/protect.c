/* SPDX-License-Identifier: MIT */
/* For the OS lab: switches software write protect on in the control mode page
 * of a SCSI disk. Usage: protect NODE */
#include <fcntl.h>
#include <scsi/sg.h>
#include <string.h>
#include <sys/ioctl.h>

static int command(int disk, unsigned char *cdb, int direction,
                   unsigned char *data, unsigned length)
{
    struct sg_io_hdr io;

    memset(&io, 0, sizeof io);
    io.interface_id = 'S';
    io.cmd_len = 6;
    io.cmdp = cdb;
    io.dxfer_direction = direction;
    io.dxferp = data;
    io.dxfer_len = length;
    io.timeout = 10000;
    return ioctl(disk, SG_IO, &io) != 0 || io.status != 0;
}

int main(int count, char **words)
{
    unsigned char sense[6] = {0x1A, 0x08, 0x0A, 0, 16, 0};
    unsigned char select[6] = {0x15, 0x10, 0, 0, 16, 0};
    unsigned char list[16] = {0};
    int disk = count == 2 ? open(words[1], O_RDWR) : -1;

    if (disk < 0 || command(disk, sense, SG_DXFER_FROM_DEV, list, 16))
        return 1;
    list[0] = 0;
    list[4] &= 0x3F;
    list[8] |= 0x08; /* SWP, the fifth byte of the page */
    return command(disk, select, SG_DXFER_TO_DEV, list, 16);
}
