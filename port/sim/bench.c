/* SPDX-License-Identifier: MIT */
/* The bench as a whole: which devices it has, and laying it out anew. */
#include <dirent.h>
#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "sim.h"

static int is_description(const struct dirent *entry)
{
    size_t length = strlen(entry->d_name);

    return length > 5 && entry->d_name[0] != '.' &&
           strcmp(entry->d_name + length - 5, ".json") == 0;
}

enum slate_status slate_sim_list(const char *bench,
                                 void (*found)(void *context, const char *name),
                                 void *context)
{
    struct dirent **entries;
    int count = scandir(bench, &entries, is_description, alphasort);

    if (count < 0)
        return SLATE_ERR_NO_DEVICE;
    for (int i = 0; i < count; i++) {
        entries[i]->d_name[strlen(entries[i]->d_name) - 5] = '\0';
        found(context, entries[i]->d_name);
        free(entries[i]);
    }
    free(entries);
    return SLATE_OK;
}

/* Copies the description as it is, so that comments of its own survive. */
static bool copy_description(const char *from, const char *to)
{
    json_t *object = json_load_file(from, 0, NULL);
    bool ok = object != NULL && json_dump_file(object, to, JSON_INDENT(2)) == 0;

    json_decref(object);
    return ok;
}

static enum slate_status lay_blocks(const struct sim_description *about,
                                    const char *path,
                                    char why[SLATE_SIM_WHY_ROOM])
{
    int descriptor =
        open(path, O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, S_IRUSR | S_IWUSR);
    enum slate_status status = SLATE_OK;

    if (descriptor < 0 ||
        ftruncate(descriptor, (off_t)(about->blocks * about->block_bytes)) != 0)
        status = SLATE_ERR_WRITE;
    if (status == SLATE_OK)
        status = sim_fill(about, descriptor, why);
    else
        snprintf(why, SLATE_SIM_WHY_ROOM, "%s", strerror(errno));
    if (descriptor >= 0)
        close(descriptor);
    return status;
}

struct laying {
    const char *from;
    const char *to;
    char *why;
    uint32_t count;
    enum slate_status status;
};

static void lay_one(void *context, const char *name)
{
    struct laying *laying = context;
    struct sim_description about = {0};
    char from[4096], to[4096], blocks[4096], why[SLATE_SIM_WHY_ROOM] = "";

    if (laying->status != SLATE_OK)
        return;
    if (!sim_path(from, sizeof from, laying->from, name, ".json") ||
        !sim_path(to, sizeof to, laying->to, name, ".json") ||
        !sim_path(blocks, sizeof blocks, laying->to, name, ".blocks"))
        laying->status = SLATE_ERR_WRITE;
    if (laying->status == SLATE_OK)
        laying->status = sim_describe(from, &about, why);
    if (laying->status == SLATE_OK)
        laying->status = lay_blocks(&about, blocks, why);
    if (laying->status == SLATE_OK && !copy_description(from, to))
        laying->status = SLATE_ERR_WRITE;
    sim_description_free(&about);
    laying->count++;
    if (laying->status != SLATE_OK)
        snprintf(laying->why, SLATE_SIM_WHY_ROOM, "%s: %.190s", name, why);
}

enum slate_status slate_sim_lay(const char *descriptions, const char *bench,
                                char why[SLATE_SIM_WHY_ROOM])
{
    struct laying laying = {descriptions, bench, why, 0, SLATE_OK};

    snprintf(why, SLATE_SIM_WHY_ROOM, "there are no descriptions in %.200s",
             descriptions);
    if (mkdir(bench, S_IRWXU | S_IRWXG | S_IRWXO) != 0 && errno != EEXIST) {
        snprintf(why, SLATE_SIM_WHY_ROOM, "%s", strerror(errno));
        return SLATE_ERR_WRITE;
    }
    if (slate_sim_list(descriptions, lay_one, &laying) != SLATE_OK ||
        laying.count == 0)
        return SLATE_ERR_NO_DEVICE;
    return laying.status;
}
