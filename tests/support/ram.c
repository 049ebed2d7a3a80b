/* SPDX-License-Identifier: MIT */
/* A device in RAM for tests: sparse, of any size, with faults to order. */
#include <stdlib.h>
#include <string.h>

#include "ram.h"

static enum slate_status facts(void *context, struct slate_port_facts *out)
{
    const struct ram *ram = context;

    *out = ram->facts;
    return SLATE_OK;
}

static bool is_zero(const uint8_t *bytes, size_t length)
{
    return bytes[0] == 0 && memcmp(bytes, bytes + 1, length - 1) == 0;
}

void ram_get(const struct ram *ram, uint64_t byte, void *data, size_t length)
{
    uint8_t *to = data;

    while (length > 0) {
        size_t at = (size_t)(byte % RAM_PAGE_BYTES);
        size_t n = RAM_PAGE_BYTES - at < length ? RAM_PAGE_BYTES - at : length;
        const uint8_t *page = ram->pages[byte / RAM_PAGE_BYTES];

        if (page == NULL)
            memset(to, 0, n);
        else
            memcpy(to, page + at, n);
        to += n;
        byte += n;
        length -= n;
    }
}

void ram_put(struct ram *ram, uint64_t byte, const void *data, size_t length)
{
    const uint8_t *from = data;

    while (length > 0) {
        size_t at = (size_t)(byte % RAM_PAGE_BYTES);
        size_t n = RAM_PAGE_BYTES - at < length ? RAM_PAGE_BYTES - at : length;
        uint8_t **page = &ram->pages[byte / RAM_PAGE_BYTES];

        if (*page == NULL && !is_zero(from, n))
            *page = calloc(1, RAM_PAGE_BYTES);
        if (*page != NULL)
            memcpy(*page + at, from, n);
        from += n;
        byte += n;
        length -= n;
    }
}

static bool is_worn(const struct ram *ram, uint64_t lba, uint32_t count)
{
    for (size_t i = 0; i < sizeof ram->worn / sizeof ram->worn[0]; i++) {
        const struct slate_range *worn = &ram->worn[i];

        if (lba < worn->first + worn->count && worn->first < lba + count)
            return true;
    }
    return false;
}

static enum slate_status read_blocks(void *context, uint64_t lba,
                                     uint32_t count, void *data)
{
    struct ram *ram = context;
    uint32_t size = ram->facts.block_bytes;

    ram->read_us += (uint64_t)count * ram->read_pace_us;
    if ((ram->fail_read >= lba && ram->fail_read < lba + count &&
         ram->fail_read != 0) ||
        (ram->worn_reads && is_worn(ram, lba, count)))
        return SLATE_ERR_READ;
    ram_get(ram, lba * size, data, (size_t)count * size);
    return SLATE_OK;
}

static enum slate_status write_blocks(void *context, uint64_t lba,
                                      uint32_t count, const void *data)
{
    struct ram *ram = context;
    uint32_t size = ram->facts.block_bytes;
    bool failing;

    ram->writes++;
    ram->blocks_written += count;
    ram->write_us += (uint64_t)count * ram->write_pace_us;
    failing = ram->fail_write != 0 &&
              (ram->writes == ram->fail_write ||
               (ram->fail_for_ever && ram->writes > ram->fail_write));
    if (ram->worn_writes && is_worn(ram, lba, count))
        return SLATE_ERR_WRITE;
    if (failing && !ram->tear)
        return SLATE_ERR_WRITE;
    ram_put(ram, lba * size, data, (size_t)(failing ? 1 : count) * size);
    return failing ? SLATE_ERR_WRITE : SLATE_OK;
}

static enum slate_status clear(void *context, uint64_t lba, uint64_t count,
                               enum slate_clear how)
{
    struct ram *ram = context;
    uint32_t size = ram->facts.block_bytes;
    static const uint8_t zeros[RAM_PAGE_BYTES];

    ram->clears++;
    ram->discarded += how == SLATE_CLEAR_DISCARD ? count : 0;
    if (ram->clearing == RAM_REFUSES)
        return SLATE_ERR_COMMAND;
    for (uint64_t i = 0; i < count && ram->clearing == RAM_CLEARS; i++)
        ram_put(ram, (lba + i) * size, zeros, size);
    return SLATE_OK;
}

static enum slate_status flush(void *context)
{
    struct ram *ram = context;

    ram->flushes++;
    return SLATE_OK;
}

static enum slate_status claim(void *context)
{
    struct ram *ram = context;

    if (ram->busy || ram->claimed)
        return SLATE_ERR_BUSY;
    ram->claimed = true;
    return SLATE_OK;
}

static enum slate_status release(void *context)
{
    struct ram *ram = context;

    ram->claimed = false;
    return SLATE_OK;
}

/* Time stands still, unless transfers take some. */
static uint64_t milliseconds(void *context)
{
    const struct ram *ram = context;

    return 7 + (ram->read_us + ram->write_us) / 1000;
}

static enum slate_status random_bytes(void *context, void *bytes, size_t length)
{
    (void)context;
    memset(bytes, 0x5A, length);
    return SLATE_OK;
}

static const struct slate_port_ops all_ops = {.size = sizeof all_ops,
                                              .facts = facts,
                                              .read = read_blocks,
                                              .write = write_blocks,
                                              .flush = flush,
                                              .claim = claim,
                                              .release = release,
                                              .milliseconds = milliseconds,
                                              .random = random_bytes};

static const struct slate_port_ops clearing_ops = {.size = sizeof clearing_ops,
                                                   .facts = facts,
                                                   .read = read_blocks,
                                                   .write = write_blocks,
                                                   .flush = flush,
                                                   .clear = clear,
                                                   .claim = claim,
                                                   .release = release,
                                                   .milliseconds = milliseconds,
                                                   .random = random_bytes};

/* Made when it is waited for, from what the data is then. */
static enum slate_status submit(void *context, struct slate_request *request)
{
    struct ram *ram = context;

    if (ram->behind != NULL)
        abort();
    ram->submits++;
    ram->doubles += ram->under_way != NULL ? 1 : 0;
    if (ram->under_way == NULL)
        ram->under_way = request;
    else
        ram->behind = request;
    return SLATE_OK;
}

static enum slate_status wait_for(void *context, struct slate_request *request)
{
    struct ram *ram = context;

    if (ram->under_way != request)
        abort();
    ram->under_way = ram->behind;
    ram->behind = NULL;
    return request->write ? write_blocks(context, request->lba, request->count,
                                         request->data)
                          : read_blocks(context, request->lba, request->count,
                                        request->data);
}

static const struct slate_port_ops overlapping_ops = {
    .size = sizeof overlapping_ops,
    .facts = facts,
    .read = read_blocks,
    .write = write_blocks,
    .flush = flush,
    .claim = claim,
    .release = release,
    .milliseconds = milliseconds,
    .random = random_bytes,
    .submit = submit,
    .wait = wait_for};

static const struct slate_port_ops few_ops = {.size = sizeof few_ops,
                                              .facts = facts,
                                              .read = read_blocks,
                                              .write = write_blocks};

void ram_open(struct ram *ram, uint32_t block_bytes, uint64_t blocks,
              bool all_operations)
{
    memset(ram, 0, sizeof *ram);
    ram->facts.identity.transport = SLATE_TRANSPORT_MEMORY;
    strcpy(ram->facts.identity.maker, "Halyard");
    strcpy(ram->facts.identity.model, "Logger card");
    strcpy(ram->facts.identity.serial, "LC-0031");
    ram->facts.block_bytes = block_bytes;
    ram->facts.block_count = blocks;
    ram->page_count =
        (size_t)((blocks * block_bytes + RAM_PAGE_BYTES - 1) / RAM_PAGE_BYTES);
    ram->pages = calloc(ram->page_count, sizeof *ram->pages);
    ram->port.ops = all_operations ? &all_ops : &few_ops;
    ram->port.context = ram;
}

void ram_let_overlap(struct ram *ram)
{
    ram->port.ops = &overlapping_ops;
}

void ram_let_clear(struct ram *ram, enum ram_clearing clearing)
{
    ram->clearing = clearing;
    ram->port.ops = &clearing_ops;
}

void ram_close(struct ram *ram)
{
    for (size_t i = 0; i < ram->page_count; i++)
        if (ram->pages[i] != NULL) /* most are not there */
            free(ram->pages[i]);
    free(ram->pages);
    ram->pages = NULL;
    ram->page_count = 0;
}

void ram_copy(struct ram *to, const struct ram *from)
{
    ram_open(to, from->facts.block_bytes, from->facts.block_count,
             from->port.ops == &all_ops);
    to->port.ops = from->port.ops;
    to->clearing = from->clearing;
    to->facts = from->facts;
    memcpy(to->worn, from->worn, sizeof to->worn);
    to->worn_reads = from->worn_reads;
    to->worn_writes = from->worn_writes;
    for (size_t i = 0; i < from->page_count; i++) {
        if (from->pages[i] != NULL)
            ram_put(to, i * RAM_PAGE_BYTES, from->pages[i], RAM_PAGE_BYTES);
    }
}

bool ram_equal(const struct ram *a, const struct ram *b)
{
    static const uint8_t zeros[RAM_PAGE_BYTES];

    for (size_t i = 0; i < a->page_count; i++) {
        const uint8_t *one = a->pages[i] == NULL ? zeros : a->pages[i];
        const uint8_t *two = b->pages[i] == NULL ? zeros : b->pages[i];

        if (one != two && memcmp(one, two, RAM_PAGE_BYTES) != 0)
            return false;
    }
    return a->page_count == b->page_count;
}

bool ram_same(const struct ram *a, const struct ram *b, uint64_t byte,
              uint64_t length)
{
    static uint8_t one[RAM_PAGE_BYTES], two[RAM_PAGE_BYTES];

    while (length > 0) {
        uint64_t left = RAM_PAGE_BYTES - byte % RAM_PAGE_BYTES;
        size_t n = (size_t)(left < length ? left : length);
        size_t page = (size_t)(byte / RAM_PAGE_BYTES);

        if (a->pages[page] != NULL || b->pages[page] != NULL) {
            ram_get(a, byte, one, n);
            ram_get(b, byte, two, n);
            if (memcmp(one, two, n) != 0)
                return false;
        }
        byte += n;
        length -= n;
    }
    return true;
}

void ram_put_entry(struct ram *ram, unsigned slot, uint8_t type, bool active,
                   uint32_t first, uint32_t count)
{
    static const uint8_t signature[2] = {0x55, 0xAA};
    uint8_t entry[16] = {0};

    entry[0] = active ? 0x80 : 0;
    entry[4] = type;
    for (int i = 0; i < 4; i++) {
        entry[8 + i] = (uint8_t)(first >> 8 * i);
        entry[12 + i] = (uint8_t)(count >> 8 * i);
    }
    ram_put(ram, 446 + 16 * slot, entry, sizeof entry);
    ram_put(ram, 510, signature, 2);
}
