/* SPDX-License-Identifier: MIT */
/* Fuzz target: draft files, which may come from anywhere. */
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "draft/draft.h"
#include "target.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static char path[64];
    static char address[ADDRESS_ROOM];
    struct slate_draft *draft = drafted_new();
    FILE *file;

    snprintf(path, sizeof path, "/tmp/fuzz-draft-%d", (int)getpid());
    file = fopen(path, "wb");
    demand(file != NULL);
    demand(fwrite(bytes, 1, length, file) == length);
    fclose(file);
    (void)draft_file_load(path, draft, address);
    unlink(path);
    if (slate_draft_restore(draft, bytes, length) == SLATE_OK)
        demand(slate_draft_blocks(draft, true) <=
               draft->basis.geometry.block_count);
    drafted_free(draft);
    return 0;
}
