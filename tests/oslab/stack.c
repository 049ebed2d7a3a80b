/* SPDX-License-Identifier: MIT */
/* For the OS lab: stacks a linear mapping on a block device, or takes it away.
 * Usage: stack NAME NODE | stack NAME */
#include <fcntl.h>
#include <linux/dm-ioctl.h>
#include <linux/fs.h>
#include <stdio.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

/* One request with one target behind it. */
struct request {
    struct dm_ioctl head;
    struct dm_target_spec target;
    char words[128];
};

static int ask(int control, unsigned long command, const char *name,
               const char *node, unsigned long long sectors)
{
    struct request r;

    memset(&r, 0, sizeof r);
    r.head.version[0] = DM_VERSION_MAJOR;
    r.head.data_size = sizeof r;
    r.head.data_start = sizeof r.head;
    snprintf(r.head.name, sizeof r.head.name, "%s", name);
    if (node != NULL) {
        r.head.target_count = 1;
        r.target.length = sectors;
        strcpy(r.target.target_type, "linear");
        snprintf(r.words, sizeof r.words, "%s 0", node);
    }
    return ioctl(control, command, &r);
}

int main(int count, char **words)
{
    int control = open("/dev/mapper/control", O_RDWR), node;
    unsigned long long bytes = 0;

    if (count == 2)
        return ask(control, DM_DEV_REMOVE, words[1], NULL, 0) != 0;
    if (count != 3)
        return 2;
    node = open(words[2], O_RDONLY);
    if (ioctl(node, BLKGETSIZE64, &bytes) != 0)
        return 1;
    close(node);
    return ask(control, DM_DEV_CREATE, words[1], NULL, 0) != 0 ||
           ask(control, DM_TABLE_LOAD, words[1], words[2], bytes / 512) != 0 ||
           ask(control, DM_DEV_SUSPEND, words[1], NULL, 0) != 0; /* resumes */
}
