/* SPDX-License-Identifier: MIT */
/* Finding and opening the device that a command names. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "say.h"
#include "target.h"

static int open_media(struct target *target, const struct slate_port *port)
{
    enum slate_status status = slate_media_open(&target->media, port);

    return status == SLATE_OK
               ? 0
               : fail_with_fault(status, &target->media, target->address);
}

static int open_sim(struct target *target, const char *bench, const char *name)
{
    char why[SLATE_SIM_WHY_ROOM] = "";
    enum slate_status status;

    snprintf(target->address, sizeof target->address, "sim:%.64s", name);
    status = slate_sim_open(bench, name, &target->sim, why);
    if (status != SLATE_OK)
        return fail(status, "sim:%s on the bench in %s: %s", name, bench, why);
    return open_media(target, slate_sim_port(target->sim));
}

static int file_failed(const struct target *target, enum slate_status status,
                       uint32_t block_bytes)
{
    if (status == SLATE_ERR_NO_DEVICE)
        return fail(status,
                    "%s: there is no such image file; expected a "
                    "regular file",
                    target->address);
    if (status == SLATE_ERR_GEOMETRY)
        return fail(status,
                    "%s: holds %llu bytes; expected a whole number of "
                    "%u-byte blocks, at least one",
                    target->address, (unsigned long long)target->file.bytes,
                    block_bytes);
    return fail_plainly(status, target->address);
}

static int open_file_as(struct target *target, const char *path,
                        uint32_t block_bytes)
{
    enum slate_status status;

    slate_file_close(&target->file);
    status = slate_file_open(&target->file, path, block_bytes);
    if (status != SLATE_OK)
        return file_failed(target, status, block_bytes);
    return open_media(target, &target->file.port);
}

/* Without --block-size the content decides, where it tells. */
static int open_file(struct target *target, const char *path,
                     uint32_t block_bytes)
{
    uint32_t found = 0;
    enum slate_status status;
    int code;

    target->is_file = true;
    target->file.descriptor = -1;
    snprintf(target->address, sizeof target->address, "file:%.4096s", path);
    code = open_file_as(target, path, block_bytes == 0 ? 512 : block_bytes);
    if (code != 0 || block_bytes != 0)
        return code;
    status = slate_assess_block_bytes(&target->media, target->work, &found);
    if (status != SLATE_OK)
        return fail_with_fault(status, &target->media, target->address);
    if (found == 4096 && target->file.bytes % found == 0)
        return open_file_as(target, path, found);
    return 0;
}

struct search {
    const char *bench;
    const char *tag;
    char name[65];
};

static void compare_tag(void *context, const char *name)
{
    struct search *search = context;
    char why[SLATE_SIM_WHY_ROOM];
    struct slate_media media;
    struct slate_sim *sim;

    if (search->name[0] != '\0' ||
        slate_sim_open(search->bench, name, &sim, why) != SLATE_OK)
        return;
    if (slate_media_open(&media, slate_sim_port(sim)) == SLATE_OK &&
        strcmp(media.tag, search->tag) == 0)
        snprintf(search->name, sizeof search->name, "%.64s", name);
    slate_sim_close(sim);
}

static int open_tag(struct target *target, const char *bench, const char *tag)
{
    struct search search = {bench, tag, ""};
    enum slate_status status = slate_sim_list(bench, compare_tag, &search);

    if (status != SLATE_OK)
        return fail(SLATE_ERR_NO_DEVICE,
                    "%s: there is no bench in %s; name it with --bench", tag,
                    bench);
    if (search.name[0] == '\0')
        return fail(SLATE_ERR_NO_DEVICE,
                    "%s: no attached device has this tag; 'trueslate survey' "
                    "lists them",
                    tag);
    return open_sim(target, bench, search.name);
}

/* ABABA-99, in the letters that slate_media_open gives out */
static bool is_tag(const char *word)
{
    return strlen(word) == SLATE_TAG_ROOM - 1 && word[5] == '-' &&
           strspn(word, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") == 5 &&
           strspn(word + 6, "0123456789") == 2;
}

int target_open(struct target *target, const char *word, const char *bench,
                uint32_t block_bytes)
{
    memset(target, 0, sizeof *target);
    target->work = malloc(WORK_BYTES);
    if (target->work == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    if (strncmp(word, "sim:", 4) == 0)
        return open_sim(target, bench, word + 4);
    if (strncmp(word, "file:", 5) == 0)
        return open_file(target, word + 5, block_bytes);
    if (is_tag(word))
        return open_tag(target, bench, word);
    return fail(SLATE_ERR_ARGUMENT,
                "'%s' names no device; expected sim:NAME, file:PATH or a tag "
                "such as TARUK-47",
                word);
}

int target_look(struct target *target)
{
    enum slate_status status = slate_assess_look(&target->media, target->work,
                                                 WORK_BYTES, &target->facts);

    return status == SLATE_OK
               ? 0
               : fail_with_fault(status, &target->media, target->address);
}

void target_close(struct target *target)
{
    if (target->is_file)
        slate_file_close(&target->file);
    slate_sim_close(target->sim);
    free(target->work);
    memset(target, 0, sizeof *target);
}
