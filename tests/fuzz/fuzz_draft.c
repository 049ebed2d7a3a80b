/* SPDX-License-Identifier: MIT */
/* Fuzz target: draft files, which may come from anywhere. */
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "draft_file.h"
#include "target.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static char path[64];
    static struct draft_file loaded;
    FILE *file;

    snprintf(path, sizeof path, "/tmp/fuzz-draft-%d", (int)getpid());
    file = fopen(path, "wb");
    demand(file != NULL);
    demand(fwrite(bytes, 1, length, file) == length);
    fclose(file);
    (void)draft_file_load(path, &loaded);
    unlink(path);
    return 0;
}
