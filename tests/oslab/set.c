/* SPDX-License-Identifier: MIT */
/* For the OS lab: sets what protects. Usage: set read-only NODE | set freeze
 * NODE | set group NODE BYTE | set fat NODE CLUSTER | set array NODE, as md0
 * | set swap NODE. And waits: set marked NODE, until block 0 bears the
 * unfinished mark. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <linux/fs.h>
#include <linux/major.h>
#include <linux/mmc/ioctl.h>
#include <linux/raid/md_p.h>
#include <linux/raid/md_u.h>
#include <scsi/sg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <sys/swap.h>
#include <sys/sysmacros.h>
#include <unistd.h>

/* The host's own setting. */
static int read_only(int disk)
{
    int on = 1;

    return ioctl(disk, BLKROSET, &on) != 0;
}

/* SECURITY FREEZE LOCK through ATA PASS-THROUGH (16), no data. */
static int freeze(int disk)
{
    unsigned char cdb[16] = {0x85, 3 << 1}, sense[32];
    struct sg_io_hdr io;

    cdb[14] = 0xF5;
    memset(&io, 0, sizeof io);
    io.interface_id = 'S';
    io.cmd_len = 16;
    io.cmdp = cdb;
    io.sbp = sense;
    io.mx_sb_len = sizeof sense;
    io.dxfer_direction = SG_DXFER_NONE;
    io.timeout = 10000;
    return ioctl(disk, SG_IO, &io) != 0 || io.status != 0;
}

/* SET_WRITE_PROT (CMD28) for the group of an address. */
static int group(int disk, unsigned byte)
{
    struct mmc_ioc_cmd io;

    memset(&io, 0, sizeof io);
    io.opcode = 28;
    io.arg = byte;
    io.write_flag = 1;
    io.flags = 1u << 0 | 1u << 2 | 1u << 3 | 1u << 4; /* R1b */
    return ioctl(disk, MMC_IOC_CMD, &io) != 0;
}

/* Empties the entry of a cluster in the first table of a FAT32 volume: a file
 * that runs through it cannot be read to its end. */
static int break_fat(int volume, unsigned cluster)
{
    unsigned char boot[512], table[512];
    off_t at;

    if (pread(volume, boot, 512, 0) != 512)
        return 1;
    at = (boot[14] | boot[15] << 8) * 512 + (off_t)cluster / 128 * 512;
    if (pread(volume, table, 512, at) != 512)
        return 1;
    memset(table + cluster % 128 * 4, 0, 4);
    return pwrite(volume, table, 512, at) != 512 || fsync(volume) != 0;
}

/* A mirror of one member, which leaves no trace on it. */
static int array(int member)
{
    struct mdu_array_info_s info;
    struct mdu_disk_info_s disk;
    unsigned long long bytes;
    struct stat status;
    int md = open("/dev/md0", O_RDWR);

    if (md < 0 || fstat(member, &status) != 0 ||
        ioctl(member, BLKGETSIZE64, &bytes) != 0)
        return 1;
    memset(&info, 0, sizeof info);
    info.level = 1;
    info.size = (int)(bytes / 1024);
    info.nr_disks = info.raid_disks = 1;
    info.not_persistent = 1;
    memset(&disk, 0, sizeof disk);
    disk.major = (int)major(status.st_rdev);
    disk.minor = (int)minor(status.st_rdev);
    disk.state = 1 << MD_DISK_ACTIVE | 1 << MD_DISK_SYNC;
    return ioctl(md, SET_ARRAY_INFO, &info) != 0 ||
           ioctl(md, ADD_NEW_DISK, &disk) != 0 || ioctl(md, RUN_ARRAY, 0) != 0;
}

/* The first page of a swap area, and the host uses it. */
static int swap(int disk, const char *path)
{
    unsigned char page[4096] = {0};
    unsigned long long bytes;
    unsigned pages;

    if (ioctl(disk, BLKGETSIZE64, &bytes) != 0)
        return 1;
    pages = (unsigned)(bytes / 4096) - 1;
    page[1024] = 1; /* the version */
    memcpy(page + 1028, &pages, 4);
    memcpy(page + 4086, "SWAPSPACE2", 10);
    return pwrite(disk, page, 4096, 0) != 4096 || fsync(disk) != 0 ||
           swapon(path, 0) != 0;
}

/* Two minutes at most; past the host's cache. */
static int marked(int disk)
{
    static _Alignas(4096) unsigned char block[4096];

    for (int i = 0; i < 2400; i++) {
        if (pread(disk, block, sizeof block, 0) == (ssize_t)sizeof block &&
            memmem(block, sizeof block, "TRUE SLATE MARK", 15) != NULL)
            return 0;
        usleep(50000);
    }
    return 1;
}

int main(int count, char **words)
{
    unsigned number = count == 4 ? (unsigned)strtoul(words[3], NULL, 0) : 0;
    int disk, flags = O_RDONLY;

    if (count < 3)
        return 2;
    if (strcmp(words[1], "fat") == 0 || strcmp(words[1], "swap") == 0)
        flags = O_RDWR;
    if (strcmp(words[1], "marked") == 0)
        flags = O_RDONLY | O_DIRECT;
    disk = open(words[2], flags);
    if (disk < 0) {
        perror(words[2]);
        return 2;
    }
    if (strcmp(words[1], "read-only") == 0)
        return read_only(disk);
    if (strcmp(words[1], "freeze") == 0)
        return freeze(disk);
    if (strcmp(words[1], "group") == 0)
        return group(disk, number);
    if (strcmp(words[1], "fat") == 0)
        return break_fat(disk, number);
    if (strcmp(words[1], "marked") == 0)
        return marked(disk);
    if (strcmp(words[1], "array") == 0)
        return array(disk);
    if (strcmp(words[1], "swap") == 0)
        return swap(disk, words[2]);
    return 2;
}
