/* SPDX-License-Identifier: MIT */
/* Opening the device that a command names. */
#include <stdarg.h>

#include "device/device.h"

LIKE_PRINTF(3, 4)
static enum slate_status note(struct target *target, enum slate_status status,
                              const char *format, ...)
{
    va_list arguments;

    va_start(arguments, format);
    vsnprintf(target->why, sizeof target->why, format, arguments);
    va_end(arguments);
    target->status = status;
    return status;
}

enum slate_status target_note_fault(struct target *target,
                                    enum slate_status status)
{
    char words[256] = "";
    struct slate_text text = SLATE_TEXT(words);

    if (target->media.fault.status == status)
        slate_fault_words(&target->media.fault, &text);
    else
        slate_text_add(&text, slate_status_sentence(status));
    return note(target, status, "%.200s: %s", target->address, words);
}

static enum slate_status open_media(struct target *target,
                                    const struct slate_port *port)
{
    enum slate_status status = slate_media_open(&target->media, port);

    return status == SLATE_OK ? SLATE_OK : target_note_fault(target, status);
}

static enum slate_status open_sim(struct target *target, const char *bench,
                                  const char *name)
{
    char why[SLATE_SIM_WHY_ROOM] = "";
    enum slate_status status;

    if (bench == NULL)
        bench = DEFAULT_BENCH;
    snprintf(target->address, sizeof target->address, "sim:%.70s", name);
    snprintf(target->body, sizeof target->body, "sim:%.*s",
             (int)strcspn(name, "/") % 70, name);
    status = slate_sim_open(bench, name, &target->sim, why);
    if (status != SLATE_OK)
        return note(target, status, "sim:%.70s on the bench in %.120s: %s",
                    name, bench, why);
    slate_sim_users(target->sim, target->users);
    return open_media(target, slate_sim_port(target->sim));
}

/* Known without opening it, so also when it may not be opened. */
static void take_about(struct target *target,
                       const struct slate_linux_about *about)
{
    snprintf(target->address, sizeof target->address, "dev:%s", about->name);
    snprintf(target->body, sizeof target->body, "%s", about->body);
    snprintf(target->users, sizeof target->users, "%s", about->users);
    target->system = about->system;
    target->media.identity = about->identity;
    target->media.units = 1;
}

static enum slate_status open_host(struct target *target, const char *name)
{
    char why[SLATE_LINUX_WHY_ROOM] = "";
    struct slate_linux_about about;
    enum slate_status status;

    snprintf(target->address, sizeof target->address, "dev:%.4096s", name);
    if (slate_linux_describe(name, &about))
        take_about(target, &about);
    status = slate_linux_open(name, &target->host, why);
    if (status != SLATE_OK)
        return note(target, status, "dev:%.200s: %s", name, why);
    take_about(target, slate_linux_about(target->host));
    return open_media(target, slate_linux_port(target->host));
}

static enum slate_status file_failed(struct target *target,
                                     enum slate_status status,
                                     uint32_t block_bytes)
{
    if (status == SLATE_ERR_NO_DEVICE)
        return note(
            target, status,
            "%.200s: there is no such image file; expected a regular file",
            target->address);
    if (status == SLATE_ERR_GEOMETRY)
        return note(target, status,
                    "%.200s: holds %llu bytes; expected a whole number of "
                    "%u-byte blocks, at least one",
                    target->address, (unsigned long long)target->file.bytes,
                    block_bytes);
    return target_note_fault(target, status);
}

static enum slate_status open_file_as(struct target *target, const char *path,
                                      uint32_t block_bytes)
{
    enum slate_status status;

    slate_file_close(&target->file);
    status = slate_file_open(&target->file, path, block_bytes);
    if (status != SLATE_OK)
        return file_failed(target, status, block_bytes);
    target->file.in_use = target->users[0] != '\0';
    return open_media(target, &target->file.port);
}

/* Without --block-size the content decides, where it tells. */
static enum slate_status open_file(struct target *target, const char *path,
                                   uint32_t block_bytes)
{
    uint32_t found = 0;
    enum slate_status status;

    target->is_file = true;
    snprintf(target->address, sizeof target->address, "file:%.4096s", path);
    (void)slate_linux_file_users(path, target->users, &target->system);
    status = open_file_as(target, path, block_bytes == 0 ? 512 : block_bytes);
    if (status != SLATE_OK || block_bytes != 0)
        return status;
    status = slate_assess_block_bytes(&target->media, target->work, &found);
    if (status != SLATE_OK)
        return target_note_fault(target, status);
    if (found == 4096 && target->file.bytes % found == 0)
        return open_file_as(target, path, found);
    return SLATE_OK;
}

/* The address of the one device that bears a tag. */
static enum slate_status find_tag(struct target *target, const char *bench,
                                  const char *tag, char *address, size_t room)
{
    switch (attached_find(bench, tag, address, room)) {
    case -1:
        return note(target, SLATE_ERR_NO_DEVICE,
                    "%s: there is no bench in %.200s; name it with --bench",
                    tag, bench == NULL ? "this host" : bench);
    case 0:
        return note(target, SLATE_ERR_NO_DEVICE,
                    "%s: no attached device has this tag; 'trueslate survey' "
                    "lists them",
                    tag);
    case 1:
        return SLATE_OK;
    default:
        return note(target, SLATE_ERR_OTHER_DEVICE,
                    "%s: several attached devices cannot be told apart by "
                    "their tag; unplug all but one, or name it by its address",
                    tag);
    }
}

static enum slate_status open_at(struct target *target, const char *address,
                                 const char *bench, uint32_t block_bytes)
{
    memset(target, 0, sizeof *target);
    target->work = aligned_alloc(4096, WORK_BYTES); /* as hosts want it */
    if (target->work == NULL)
        return note(target, SLATE_ERR_INTERNAL, "out of memory");
    if (strncmp(address, "sim:", 4) == 0)
        return open_sim(target, bench, address + 4);
    if (strncmp(address, "file:", 5) == 0)
        return open_file(target, address + 5, block_bytes);
    if (strncmp(address, "dev:", 4) == 0)
        return open_host(target, address + 4);
    return note(target, SLATE_ERR_ARGUMENT,
                "'%.100s' names no device; expected sim:NAME, file:PATH, "
                "dev:NAME, a path, or a tag such as TARUK-47",
                address);
}

/* " --bench DIR" where the environment does not say so already. */
static const char *bench_words(const char *bench)
{
    static _Thread_local char words[17000];
    const char *usual = getenv("TRUESLATE_BENCH");

    words[0] = '\0';
    if (bench != NULL && (usual == NULL || strcmp(usual, bench) != 0))
        snprintf(words, sizeof words, " --bench %s", plain_word(bench));
    return words;
}

/* By its tag, where that finds it: tags are looked for among the devices of the
 * host, or of one bench, and image files are not among them. */
static void take_name(struct target *target, const char *bench,
                      uint32_t block_bytes)
{
    bool by_tag = target->media.tag[0] != '\0' && !target->is_file &&
                  (target->sim == NULL ? bench == NULL : bench != NULL);

    target->bench =
        target->sim != NULL && bench == NULL ? DEFAULT_BENCH : bench;
    target->also = bench_words(target->sim == NULL ? NULL : bench);
    if (by_tag)
        snprintf(target->name, sizeof target->name, "%s", target->media.tag);
    else
        plain_quoted(target->address, target->name, sizeof target->name);
    if (target->is_file && block_bytes != 0)
        snprintf(target->name + strlen(target->name),
                 sizeof target->name - strlen(target->name), " --block-size %u",
                 block_bytes);
}

enum slate_status target_at(struct target *target, const char *address,
                            const char *bench, uint32_t block_bytes)
{
    enum slate_status status = open_at(target, address, bench, block_bytes);

    take_name(target, bench, block_bytes);
    return status;
}

/* Unplugging all but one is the only way to be sure. */
int target_refuse_twins(const struct target *target)
{
    bool alike;

    if (attached_twins_of(target, &alike) == 0)
        return 0;
    return fail(SLATE_ERR_OTHER_DEVICE,
                "%s: another attached device has the tag %s as well, and "
                "nothing tells the two apart: unplug one of them",
                target->address, target->media.tag);
}

enum slate_status target_try(struct target *target, const char *word,
                             const char *bench, uint32_t block_bytes)
{
    char address[4200], tag[SLATE_TAG_ROOM];
    enum slate_status status;

    memset(target, 0, sizeof *target);
    if (address_tag(word, tag) != strlen(word) || word[0] == '\0')
        return target_at(
            target, address_of(word, address, sizeof address) ? address : word,
            bench, block_bytes);
    status = find_tag(target, bench, tag, address, sizeof address);
    return status == SLATE_OK ? target_at(target, address, bench, block_bytes)
                              : status;
}

int target_open(struct target *target, const char *word, const char *bench,
                uint32_t block_bytes)
{
    enum slate_status status = target_try(target, word, bench, block_bytes);

    return status == SLATE_OK ? 0 : fail(status, "%s", target->why);
}

int target_named(struct target *target, const struct options *options)
{
    return target_open(target, options->operand, options->bench,
                       options->block_bytes);
}

void target_release(struct target *target)
{
    slate_file_close(&target->file);
    slate_sim_close(target->sim);
    slate_linux_close(target->host);
    free(target->work);
    target->media.port = NULL; /* who still asks it is found out */
    target->sim = NULL;
    target->host = NULL;
    target->work = NULL;
}

void target_close(struct target *target)
{
    target_release(target);
    free(target->room);
    free(target->regions[TARGET_WRITTEN].cell);
    free(target->regions[TARGET_READ].cell);
    memset(target, 0, sizeof *target);
}
