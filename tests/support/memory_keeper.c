/* SPDX-License-Identifier: MIT */
/* A journal that is kept in memory. */
#include "memory_keeper.h"

#include <stdlib.h>

#include "check.h"

struct memory memory;

static bool fails(void)
{
    return ++memory.calls == memory.fail_at;
}

static enum slate_status append(void *context, const void *bytes,
                                uint32_t count)
{
    (void)context;
    if (fails())
        return SLATE_ERR_KEEPER;
    if (memory.length + count > memory.room) {
        memory.room = 2 * (memory.length + count);
        memory.bytes = realloc(memory.bytes, memory.room);
        assert_non_null(memory.bytes);
    }
    memcpy(memory.bytes + memory.length, bytes, count);
    memory.length += count;
    memory.synced = false;
    return SLATE_OK;
}

static enum slate_status sync_all(void *context)
{
    (void)context;
    if (fails())
        return SLATE_ERR_KEEPER;
    memory.synced = true;
    return SLATE_OK;
}

static enum slate_status read_bytes(void *context, uint64_t at, void *bytes,
                                    uint32_t count)
{
    (void)context;
    if (++memory.reads == memory.fail_read_at || at > memory.length ||
        count > memory.length - at)
        return SLATE_ERR_KEEPER;
    memcpy(bytes, memory.bytes + at, count);
    return SLATE_OK;
}

const struct slate_keeper memory_keeper = {NULL, append, sync_all, read_bytes};

void memory_forget(void)
{
    free(memory.bytes);
    memory = (struct memory){0};
}
