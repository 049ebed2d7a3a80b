/* SPDX-License-Identifier: MIT */
/* The bench as a whole: which devices it has, laying it out anew, plugging
 * devices in and out. */
#include <dirent.h>
#include <errno.h>
#include <sys/stat.h>
#include <unistd.h>

#include "sim.h"

static int is_description(const struct dirent *entry)
{
    size_t length = strlen(entry->d_name);

    return length > 5 && entry->d_name[0] != '.' &&
           strcmp(entry->d_name + length - 5, ".json") == 0;
}

static enum slate_status list(const char *folder,
                              void (*found)(void *context, const char *name),
                              void *context)
{
    struct dirent **entries;
    int count = scandir(folder, &entries, is_description, alphasort);

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

struct listing {
    const char *bench;
    void (*found)(void *context, const char *name);
    void *context;
};

/* Devices that are not plugged in are not there. */
static void list_plugged(void *context, const char *name)
{
    struct listing *listing = context;
    struct sim_state state;
    char path[4096];
    bool plugged;

    if (!sim_path(path, sizeof path, listing->bench, name, ".state"))
        return;
    sim_state_open(&state, path);
    plugged = sim_state_get(&state, "unplugged") == 0;
    sim_state_close(&state);
    if (plugged)
        listing->found(listing->context, name);
}

enum slate_status slate_sim_list(const char *bench,
                                 void (*found)(void *context, const char *name),
                                 void *context)
{
    struct listing listing = {bench, found, context};

    return list(bench, list_plugged, &listing);
}

enum slate_status slate_sim_plug(const char *bench, const char *name, bool in)
{
    char path[4096], kept[4096];
    struct sim_state state;

    if (strchr(name, '/') != NULL ||
        !sim_path(path, sizeof path, bench, name, ".json") ||
        access(path, F_OK) != 0 ||
        !sim_path(kept, sizeof kept, bench, name, ".state"))
        return SLATE_ERR_NO_DEVICE;
    sim_state_open(&state, kept);
    sim_state_set(&state, "unplugged", in ? 0 : 1);
    if (in)
        sim_guards_power_cycle(&state);
    sim_state_close(&state);
    return SLATE_OK;
}

/* Copies the description as it is, so that notes of its own survive. */
static bool copy_description(const char *from, const char *to)
{
    json_t *object = json_load_file(from, 0, NULL);
    bool ok = object != NULL && json_dump_file(object, to, JSON_INDENT(2)) == 0;

    json_decref(object);
    return ok;
}

static enum slate_status lay_unit(const struct sim_description *about,
                                  uint32_t number, const char *bench,
                                  char why[SLATE_SIM_WHY_ROOM])
{
    const struct sim_unit *unit = &about->unit[number];
    uint32_t stride =
        unit->stored_bytes == 0 ? unit->block_bytes : unit->stored_bytes;
    struct sim_store *store =
        sim_store_open(bench, about->name, number, unit->blocks * stride, true);
    enum slate_status status;

    if (store == NULL) {
        snprintf(why, SLATE_SIM_WHY_ROOM, "%s", strerror(errno));
        return SLATE_ERR_WRITE;
    }
    status = sim_fill(unit, store, why);
    sim_store_close(store);
    return status;
}

struct laying {
    const char *from;
    const char *to;
    char *why;
    uint32_t count;
    enum slate_status status;
};

static enum slate_status lay_device(const struct laying *laying,
                                    const char *name,
                                    char why[SLATE_SIM_WHY_ROOM])
{
    struct sim_description about = {0};
    char from[4096], to[4096], state[4096];
    enum slate_status status;

    if (!sim_path(from, sizeof from, laying->from, name, ".json") ||
        !sim_path(to, sizeof to, laying->to, name, ".json") ||
        !sim_path(state, sizeof state, laying->to, name, ".state"))
        return SLATE_ERR_WRITE;
    status = sim_describe(from, &about, why);
    for (uint32_t i = 0; i < about.units && status == SLATE_OK; i++)
        status = lay_unit(&about, i, laying->to, why);
    if (status == SLATE_OK && !copy_description(from, to))
        status = SLATE_ERR_WRITE;
    sim_description_free(&about);
    unlink(state);
    return status;
}

static void lay_one(void *context, const char *name)
{
    struct laying *laying = context;
    char why[SLATE_SIM_WHY_ROOM] = "";

    if (laying->status != SLATE_OK)
        return;
    laying->status = lay_device(laying, name, why);
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
    if (list(descriptions, lay_one, &laying) != SLATE_OK || laying.count == 0)
        return SLATE_ERR_NO_DEVICE;
    return laying.status;
}
