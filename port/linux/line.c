/* SPDX-License-Identifier: MIT */
/* The lines of which /sys is made. */

#include "linux.h"

void linux_read_line(const char *path, char *line, size_t room)
{
    FILE *file = fopen(path, "r");

    line[0] = '\0';
    if (file == NULL)
        return;
    if (fgets(line, (int)room, file) == NULL)
        line[0] = '\0';
    line[strcspn(line, "\n")] = '\0';
    fclose(file);
}
