/* SPDX-License-Identifier: MIT */
/* Runs a fuzz target over the seeds in a folder, each whole, cut short, and
 * with its checksums mended. Usage: replay FOLDER */
#include <dirent.h>
#include <stdio.h>
#include <string.h>

#include "target.h"

static uint8_t bytes[1 << 20];

static void run(const char *path, unsigned *runs)
{
    FILE *file = fopen(path, "rb");
    size_t length;

    demand(file != NULL);
    length = fread(bytes, 1, sizeof bytes, file);
    fclose(file);
    (void)LLVMFuzzerTestOneInput(bytes, length);
    for (size_t cut = length / 2; cut > 0; cut /= 2, (*runs)++)
        (void)LLVMFuzzerTestOneInput(bytes, cut);
    if (length > 1) {
        bytes[1] |= 1;
        (void)LLVMFuzzerTestOneInput(bytes, length);
    }
    *runs += 2;
}

int main(int count, char **words)
{
    DIR *folder = count == 2 ? opendir(words[1]) : NULL;
    struct dirent *entry;
    unsigned runs = 0;

    if (folder == NULL) {
        fprintf(stderr, "usage: replay FOLDER\n");
        return 2;
    }
    while ((entry = readdir(folder)) != NULL) {
        char path[4096];

        if (entry->d_name[0] == '.')
            continue;
        snprintf(path, sizeof path, "%s/%s", words[1], entry->d_name);
        run(path, &runs);
    }
    closedir(folder);
    printf("%u runs\n", runs);
    return runs > 0 ? 0 : 1;
}
