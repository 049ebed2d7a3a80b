/* SPDX-License-Identifier: MIT */
/* Asks Linux to make a mounted ext4 larger. Usage: grow_ext FOLDER UNITS */
#include <fcntl.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/ioctl.h>

#define RESIZE _IOW('f', 16, uint64_t) /* linux/fs/ext4/ext4.h */

int main(int argc, char **argv)
{
    uint64_t units = argc == 3 ? strtoull(argv[2], NULL, 10) : 0;
    int folder = argc == 3 ? open(argv[1], O_RDONLY | O_DIRECTORY) : -1;

    if (folder < 0 || ioctl(folder, RESIZE, &units) != 0) {
        perror("grow_ext");
        return 1;
    }
    return 0;
}
