/* SPDX-License-Identifier: MIT */
/* For the OS lab: sets the temporary write protect bit of an SD card: its live
 * CSD is read, and sent back with the bit, as one. Usage: card_protect NODE RCA
 */
#include <fcntl.h>
#include <linux/mmc/ioctl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>

#define PRESENT (1u << 0)
#define LONG_ONE (1u << 1)
#define CRC (1u << 2)
#define BUSY (1u << 3)
#define OPCODE (1u << 4)
#define WITH_DATA (1u << 5)

static unsigned crc7(const unsigned char *bytes, int length)
{
    unsigned crc = 0;

    for (int i = 0; i < length * 8; i++) {
        unsigned bit = bytes[i / 8] >> (7 - i % 8) & 1;

        crc <<= 1;
        if ((crc >> 7 & 1) != bit)
            crc ^= 0x09;
        crc &= 0x7F;
    }
    return crc;
}

int main(int count, char **words)
{
    struct mmc_ioc_multi_cmd *batch =
        calloc(1, sizeof *batch + 3 * sizeof batch->cmds[0]);
    struct mmc_ioc_cmd program;
    static unsigned char csd[512];
    int disk = count == 3 ? open(words[1], O_RDWR) : -1;
    unsigned address =
        count == 3 ? (unsigned)strtoul(words[2], NULL, 16) << 16 : 0;

    if (disk < 0 || batch == NULL)
        return 2;
    batch->num_of_cmds = 3;
    batch->cmds[0].opcode = 7;
    batch->cmds[1].opcode = 9;
    batch->cmds[1].arg = address;
    batch->cmds[1].flags = PRESENT | LONG_ONE | CRC;
    batch->cmds[2].opcode = 7;
    batch->cmds[2].arg = address;
    batch->cmds[2].flags = PRESENT | CRC | OPCODE | BUSY;
    if (ioctl(disk, MMC_IOC_MULTI_CMD, batch) != 0) {
        perror("CSD");
        return 1;
    }
    for (int i = 0; i < 15; i++)
        csd[i] =
            (unsigned char)(batch->cmds[1].response[i / 4] >> 8 * (3 - i % 4));
    csd[14] |= 0x10;
    csd[15] = (unsigned char)(crc7(csd, 15) << 1 | 1);
    memset(&program, 0, sizeof program);
    program.opcode = 27;
    program.write_flag = 1;
    program.flags = PRESENT | CRC | OPCODE | WITH_DATA;
    program.blksz = 16;
    program.blocks = 1;
    mmc_ioc_cmd_set_data(program, csd);
    if (ioctl(disk, MMC_IOC_CMD, &program) != 0) {
        perror("CMD27");
        return 1;
    }
    return 0;
}
