/* SPDX-License-Identifier: MIT */
/* Start-up code for a volume, from a file. */
#include "start_code.h"

#include <errno.h>
#include <stdio.h>
#include <string.h>

#include "plain.h"
#include "say.h"

static bool is_asked_for(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.start)
            return true;
    }
    return false;
}

/* One byte more than may be there is looked for. */
static int read_code(const char *path, struct slate_bytes *start)
{
    FILE *file = fopen(path, "rb");
    size_t count;
    bool longer;

    if (file == NULL)
        return fail(SLATE_ERR_ACCESS, "--start-code %s: %s", plain_word(path),
                    strerror(errno));
    count = fread(start->byte, 1, start->room, file);
    longer = count == start->room && fgetc(file) != EOF;
    if (ferror(file) != 0) {
        int why = errno;

        fclose(file);
        return fail(SLATE_ERR_ACCESS, "--start-code %s: %s", plain_word(path),
                    strerror(why));
    }
    fclose(file);
    if (longer || (count != 512 && count != start->room))
        return fail(SLATE_ERR_ARGUMENT,
                    "--start-code %s: expected 512 bytes, or for FAT32 perhaps "
                    "1536",
                    plain_word(path));
    start->count = (uint32_t)count;
    return 0;
}

int start_code_take(const struct options *options,
                    const struct slate_draft *former, struct slate_draft *draft)
{
    if (!is_asked_for(draft))
        return 0;
    if (options->start_code != NULL)
        return read_code(options->start_code, &draft->start);
    memcpy(draft->start.byte, former->start.byte, former->start.count);
    draft->start.count = former->start.count;
    return 0;
}
