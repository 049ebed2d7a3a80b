/* SPDX-License-Identifier: MIT */
/* Files and folders to be placed: their list, and their digests. */
#include "volume/files/files.h"

#include "base/base.h"

void slate_files_add_up(const struct slate_files *files,
                        struct slate_files_sum *sum)
{
    memset(sum, 0, sizeof *sum);
    for (uint32_t i = 1; i < files->count; i++) {
        sum->bytes += files->item[i].bytes;
        sum->folders += files->item[i].folder ? 1u : 0u;
        sum->files += files->item[i].folder ? 0u : 1u;
    }
}

enum slate_status slate_files_add(struct slate_files *files,
                                  const struct slate_item *item,
                                  const char *name)
{
    size_t length = strlen(name) + 1;
    struct slate_bytes *names = &files->names;

    if (files->count == files->room || length > names->room - names->count)
        return SLATE_ERR_ROOM;
    files->item[files->count] = *item;
    files->item[files->count++].name = names->count;
    memcpy(names->byte + names->count, name, length);
    names->count += (uint32_t)length;
    return SLATE_OK;
}

uint32_t slate_name_units(const char *name, uint32_t first, uint16_t *unit,
                          uint32_t count)
{
    uint32_t at = 0, point;

    memset(unit, 0, count * sizeof *unit);
    while ((point = slate_utf8_next(&name)) != 0) {
        bool pair = point > 0xFFFF;

        for (uint32_t half = 0; half < (pair ? 2u : 1u); half++, at++) {
            uint32_t value = !pair       ? point
                             : half == 0 ? 0xD800 + ((point - 0x10000) >> 10)
                                         : 0xDC00 + ((point - 0x10000) & 0x3FF);

            if (at >= first && at - first < count)
                unit[at - first] = (uint16_t)value;
        }
    }
    return at;
}

/* The first file from one on; their number when there is none. */
static uint32_t file_from(const struct slate_files *files, uint32_t item)
{
    while (item < files->count && files->item[item].folder)
        item++;
    return item;
}

static void begin_file(struct slate_files_reading *reading, uint32_t item)
{
    reading->item = file_from(reading->files, item);
    reading->at = 0;
    slate_sha256_start(&reading->sha);
}

void slate_files_read_start(struct slate_files_reading *reading,
                            struct slate_files *files, bool checks)
{
    struct slate_files_sum sum;

    memset(reading, 0, sizeof *reading);
    slate_files_add_up(files, &sum);
    reading->files = files;
    reading->checks = checks;
    reading->total = sum.bytes;
    begin_file(reading, 0);
}

/* The file that is read has come to its end. */
static enum slate_status end_file(struct slate_files_reading *reading)
{
    struct slate_item *item = &reading->files->item[reading->item];
    uint8_t digest[SLATE_DIGEST_BYTES];

    slate_sha256_end(&reading->sha, digest);
    if (reading->checks && memcmp(digest, item->digest, sizeof digest) != 0)
        return SLATE_ERR_SOURCE;
    memcpy(item->digest, digest, sizeof digest);
    begin_file(reading, reading->item + 1);
    return SLATE_OK;
}

enum slate_status slate_files_read_step(struct slate_files_reading *reading,
                                        void *work, size_t work_bytes,
                                        bool *finished)
{
    struct slate_files *files = reading->files;
    struct slate_item *item = &files->item[reading->item];
    uint32_t count =
        (uint32_t)(work_bytes < INT32_MAX ? work_bytes : INT32_MAX);

    *finished = reading->item >= files->count;
    if (*finished)
        return SLATE_OK;
    if (item->bytes - reading->at < count)
        count = (uint32_t)(item->bytes - reading->at);
    SLATE_TRY(files->source->read(files->source->context, reading->item,
                                  reading->at, count, work));
    slate_sha256_add(&reading->sha, work, count);
    reading->at += count;
    reading->done += count;
    if (reading->at == item->bytes)
        SLATE_TRY(end_file(reading));
    *finished = reading->item >= files->count;
    return SLATE_OK;
}

enum slate_status slate_files_look(const struct slate_files *files)
{
    struct slate_source *source = files->source;
    uint8_t none;

    for (uint32_t i = file_from(files, 0); i < files->count;
         i = file_from(files, i + 1)) {
        if (source == NULL)
            return SLATE_ERR_SOURCE;
        source->failed = i;
        if (source->read(source->context, i, 0, 0, &none) != SLATE_OK)
            return SLATE_ERR_SOURCE;
    }
    return SLATE_OK;
}
