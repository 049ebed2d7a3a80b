/* SPDX-License-Identifier: MIT */
/* Start-up code for a volume, from a file. */
#include "draft/draft.h"

#define BLOCK 512u
#define FILE_MOST 1048576u /* what is longer by far is not read */

static bool is_asked_for(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.start)
            return true;
    }
    return false;
}

static int read_code(const char *path, struct slate_draft *draft)
{
    struct given given;
    bool taken;

    if (!given_read(path, GIVEN_BYTES, FILE_MOST, &given))
        return given_fail(&given, "--start-code", path);
    taken = (given.length == BLOCK || given.length == (size_t)3 * BLOCK) &&
            slate_draft_start(draft, (const uint8_t *)given.bytes,
                              (uint32_t)given.length) == SLATE_OK;
    given_free(&given);
    return taken ? 0
                 : fail(SLATE_ERR_ARGUMENT,
                        "--start-code %s: expected 512 bytes, or for FAT32 "
                        "perhaps 1536",
                        plain_word(path));
}

int start_code_take(const struct options *options,
                    const struct slate_draft *former, struct slate_draft *draft)
{
    if (!is_asked_for(draft))
        return 0;
    if (options->start_code != NULL)
        return read_code(options->start_code, draft);
    return slate_draft_start(draft, former->start.byte, former->start.count) ==
                   SLATE_OK
               ? 0
               : fail(SLATE_ERR_INTERNAL, "out of memory");
}
