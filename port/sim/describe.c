/* SPDX-License-Identifier: MIT */
/* Reading a device's description: docs/bench.md tells what it holds. */
#include "sim.h"

#define DESCRIPTION_VERSION 1
#define ERASE_MOST 1073741824u

static bool is_name(const char *name)
{
    size_t length = strlen(name);

    return length > 0 && length < 64 &&
           strspn(name, "abcdefghijklmnopqrstuvwxyz0123456789-") == length;
}

/* Copies a text into a field; false when it is longer. */
static bool take(char *field, size_t room, const json_t *object,
                 const char *key)
{
    const char *text = sim_text_of(object, key);

    if (strlen(text) >= room)
        return false;
    memcpy(field, text, strlen(text) + 1);
    return true;
}

static const char *take_texts(struct sim_description *about,
                              const json_t *object)
{
    if (!is_name(sim_text_of(object, "name")) ||
        !take(about->name, sizeof about->name, object, "name"))
        return "\"name\" must be 1 to 63 small letters, digits and dashes";
    if (!take(about->story, sizeof about->story, object, "story"))
        return "\"story\" must be at most 255 bytes";
    if (!take(about->maker, sizeof about->maker, object, "maker"))
        return "\"maker\" must be at most 8 characters";
    if (!take(about->model, sizeof about->model, object, "model"))
        return "\"model\" must be at most 40 characters";
    if (!take(about->revision, sizeof about->revision, object, "revision"))
        return "\"revision\" must be at most 8 characters";
    if (!take(about->disk_model, sizeof about->disk_model, object,
              "disk_model") ||
        !take(about->disk_serial, sizeof about->disk_serial, object,
              "disk_serial"))
        return "\"disk_model\" and \"disk_serial\" must be at most 40 and 32 "
               "characters";
    if (!take(about->serial, sizeof about->serial, object, "serial"))
        return "\"serial\" must be at most 32 characters";
    return NULL;
}

struct way {
    const char *name;
    enum slate_transport transport;
    enum slate_command_set commands;
};

static const char *take_way(struct sim_description *about, const json_t *object)
{
    static const struct way ways[] = {
        {"usb", SLATE_TRANSPORT_USB, SLATE_COMMANDS_SCSI},
        {"scsi", SLATE_TRANSPORT_SCSI, SLATE_COMMANDS_SCSI},
        {"sata", SLATE_TRANSPORT_SATA, SLATE_COMMANDS_ATA},
        {"nvme", SLATE_TRANSPORT_NVME, SLATE_COMMANDS_NVME},
        {"sd", SLATE_TRANSPORT_SD, SLATE_COMMANDS_SD},
        {"sd-spi", SLATE_TRANSPORT_SD, SLATE_COMMANDS_SD_SPI}};
    const char *attached = sim_text_of(object, "attached");

    for (size_t i = 0; i < sizeof ways / sizeof ways[0]; i++) {
        if (strcmp(attached, ways[i].name) == 0) {
            about->transport = ways[i].transport;
            about->commands = ways[i].commands;
            return NULL;
        }
    }
    return "\"attached\" must be usb, scsi, sata, nvme, sd or sd-spi";
}

static void take_habits(struct sim_description *about, const json_t *object)
{
    about->bytes_per_second = sim_number_of(object, "bytes_per_second");
    about->removable = sim_flag_of(object, "removable");
    about->rotating = sim_flag_of(object, "rotating");
    about->discard = sim_flag_of(object, "discard");
    about->few_commands = sim_flag_of(object, "few_commands");
    about->protection = sim_flag_of(object, "protection_information");
    about->dock = sim_flag_of(object, "dock");
    about->zoned = sim_flag_of(object, "zoned");
    about->erase_bytes = (uint32_t)sim_number_of(object, "erase_bytes");
    about->drop_after = sim_number_of(object, "drop_after_commands");
    about->power_cut_at = sim_number_of(object, "power_cut_at_command");
    about->torn = sim_flag_of(object, "torn_write");
    about->torn_unreadable = sim_flag_of(object, "torn_unreadable");
    about->refuse_after = sim_number_of(object, "refuses_writes_after");
    about->forget_after = sim_number_of(object, "forgets_writes_after");
    about->power_cut_in = sim_number_of(object, "power_cut_in_write");
    about->short_transfer_every = sim_number_of(object, "short_transfer_every");
    about->attentions = (uint32_t)sim_number_of(object, "unit_attentions");
    about->busy = (uint32_t)sim_number_of(object, "busy_commands");
    about->becoming_ready = (uint32_t)sim_number_of(object, "becoming_ready");
    if (json_object_get(object, "unit_attentions") == NULL)
        about->attentions = 1; /* every device was powered on */
}

/* { "ways": [NAME...], "steps": N, "does": NAME, ... } */
static const char *take_erasing(struct sim_erasing *erasing,
                                const json_t *object)
{
    static const char *const ways[] = {
        "sanitize-overwrite", "sanitize-block", "sanitize-crypto",  "format",
        "format-crypto",      "security",       "security-enhanced"};
    static const char *const does[] = {"all", "nothing", "half", "fails",
                                       "refuses"};
    const json_t *name, *about = json_object_get(object, "erases");
    const char *what = sim_text_of(about, "does");
    size_t index;

    erasing->steps = (uint32_t)sim_number_of(about, "steps");
    if (erasing->steps == 0)
        erasing->steps = 8;
    erasing->minutes = (uint32_t)sim_number_of(about, "minutes");
    erasing->cut_at = (uint32_t)sim_number_of(about, "power_cut_at_step");
    erasing->reset_at = (uint32_t)sim_number_of(about, "reset_at_step");
    erasing->formats_all = sim_flag_of(about, "formats_all");
    erasing->mute = sim_flag_of(about, "mute");
    erasing->waits = sim_flag_of(about, "waits");
    erasing->plain = sim_flag_of(about, "plain");
    if (what[0] != '\0')
        erasing->does = (enum sim_erase_does)(sim_place_of(what, does, 5) % 5);
    json_array_foreach (json_object_get(about, "ways"), index, name) {
        uint32_t way =
            json_is_string(name)
                ? sim_place_of(json_string_value(name), ways, SIM_ERASE_WAYS)
                : SIM_ERASE_WAYS;

        if (way == SIM_ERASE_WAYS)
            return "\"erases\" must list \"ways\" of those in docs/bench.md";
        erasing->ways |= 1u << way;
    }
    return NULL;
}

/* { "at_command": N, "with": NAME, "told": true } */
static const char *take_swap(struct sim_description *about,
                             const json_t *object)
{
    const json_t *swap = json_object_get(object, "swap");

    if (swap == NULL)
        return NULL;
    about->swap_at = sim_number_of(swap, "at_command");
    about->swap_told = sim_flag_of(swap, "told");
    return is_name(sim_text_of(swap, "with")) &&
                   take(about->swap_with, sizeof about->swap_with, swap, "with")
               ? NULL
               : "\"swap\" must name the device whose blocks come in";
}

/* { "at": PLACE, "at_command": N, "held_by": PROGRAM } */
static const char *take_mounted(struct sim_description *about,
                                const json_t *object)
{
    const json_t *mounted = json_object_get(object, "mounted");

    if (mounted == NULL)
        return NULL;
    about->mount_at = sim_number_of(mounted, "at_command");
    return sim_text_of(mounted, "at")[0] == '/' &&
                   take(about->mounted, sizeof about->mounted, mounted, "at") &&
                   take(about->held_by, sizeof about->held_by, mounted,
                        "held_by")
               ? NULL
               : "\"mounted\" must say \"at\" which folder, in up to 63 bytes";
}

static bool take_beyond(struct sim_unit *unit, const json_t *object)
{
    static const char *const names[] = {"wrap", "drop", "zeros", "noise"};
    const char *beyond = sim_text_of(object, "beyond");
    uint32_t place = sim_place_of(beyond, names, 4);

    unit->beyond = (enum sim_beyond)(place % 4);
    return place < 4 || beyond[0] == '\0';
}

static const char *take_fault(struct sim_unit *unit, const json_t *object)
{
    static const char *const names[] = {"read", "write", "slow"};
    struct sim_fault *fault = &unit->fault[unit->fault_count];
    uint32_t kind = sim_place_of(sim_text_of(object, "kind"), names, 3);

    if (unit->fault_count == SIM_FAULTS)
        return "\"faults\" must be at most 32";
    if (kind == 3)
        return "the \"kind\" of a fault must be read, write or slow";
    fault->kind = (enum sim_fault_kind)kind;
    fault->first = sim_number_of(object, "first");
    fault->count = sim_number_of(object, "blocks");
    fault->times = sim_number_of(object, "times");
    fault->bytes_per_second = sim_number_of(object, "bytes_per_second");
    if (fault->count == 0)
        fault->count = 1;
    if (fault->first > unit->blocks ||
        fault->count > unit->blocks - fault->first)
        return "a fault must lie within the device";
    unit->fault_count++;
    return NULL;
}

static bool is_block_size(uint64_t bytes)
{
    return bytes >= 512 && bytes <= 8192;
}

/* What a command set has room for: 4 bits of logical blocks in a physical one
 * (SBC-3, READ CAPACITY (16)). */
static bool is_physical(uint64_t bytes, uint64_t block_bytes)
{
    uint64_t ratio = bytes / block_bytes;

    return bytes == 0 || (bytes % block_bytes == 0 && ratio <= 32768 &&
                          (ratio & (ratio - 1)) == 0);
}

static const char *take_numbers(struct sim_unit *unit, const json_t *object)
{
    uint64_t bytes = sim_number_of(object, "block_bytes");
    uint64_t stored = sim_number_of(object, "stored_block_bytes");
    uint64_t widest;

    if (!is_block_size(bytes) || (stored != 0 && !is_block_size(stored)))
        return "\"block_bytes\" must be 512 to 8192";
    if (!is_physical(sim_number_of(object, "physical_bytes"), bytes))
        return "\"physical_bytes\" must be a block times a power of two, up to "
               "32768";
    unit->blocks = sim_number_of(object, "blocks");
    widest = bytes > stored ? bytes : stored;
    if (widest == 0 || unit->blocks < 1 || unit->blocks > UINT64_MAX / widest ||
        sim_number_of(object, "native_blocks") > UINT64_MAX / widest ||
        sim_number_of(object, "factory_blocks") > UINT64_MAX / widest)
        return "\"blocks\" must be 1 or more, and 16 EiB at most";
    unit->block_bytes = (uint32_t)bytes;
    unit->stored_bytes = (uint32_t)stored;
    unit->physical_bytes = (uint32_t)sim_number_of(object, "physical_bytes");
    unit->true_blocks = sim_number_of(object, "true_blocks");
    unit->native_blocks = sim_number_of(object, "native_blocks");
    unit->accessible_max = sim_flag_of(object, "accessible_max");
    unit->factory_blocks = sim_number_of(object, "factory_blocks");
    if (unit->factory_blocks != 0 &&
        (unit->native_blocks == 0 ||
         unit->factory_blocks < unit->native_blocks))
        return "\"factory_blocks\" must be at least \"native_blocks\"";
    if (unit->native_blocks != 0 && unit->native_blocks < unit->blocks)
        return "\"native_blocks\" must be at least \"blocks\"";
    unit->beyond_cache = (uint32_t)sim_number_of(object, "beyond_cache");
    if (unit->beyond_cache > 65536)
        return "\"beyond_cache\" must be at most 65536 blocks";
    if (!take_beyond(unit, object))
        return "\"beyond\" must be wrap, drop, zeros or noise";
    return NULL;
}

static const char *take_guards(struct sim_unit *unit, const json_t *object)
{
    const json_t *name, *names = json_object_get(object, "guards");
    size_t index;

    json_array_foreach (names, index, name) {
        enum sim_guard guard;

        if (!json_is_string(name) ||
            !sim_guard_named(json_string_value(name), &guard))
            return "\"guards\" must be a list of those in docs/bench.md";
        unit->guards |= 1u << guard;
    }
    unit->stubborn = sim_flag_of(object, "stubborn");
    unit->refuses_lifts = sim_flag_of(object, "refuses_lifts");
    unit->removal_held = sim_flag_of(object, "removal_held");
    unit->groups = json_object_get(object, "protected_groups") != NULL;
    unit->protected_groups = sim_number_of(object, "protected_groups");
    return take(unit->password, sizeof unit->password, object, "password")
               ? NULL
               : "\"password\" must be at most 32 bytes";
}

static const char *take_unit(struct sim_unit *unit, const json_t *object)
{
    const json_t *fault, *faults = json_object_get(object, "faults");
    const char *wrong = take_numbers(unit, object);
    size_t index;

    unit->write_protected = sim_flag_of(object, "write_protected");
    unit->no_medium = sim_flag_of(object, "no_medium");
    unit->unknown_capacity = sim_flag_of(object, "unknown_capacity");
    unit->ignore_writes = sim_flag_of(object, "ignore_writes");
    unit->refuses_writes = sim_flag_of(object, "refuses_writes");
    if (wrong == NULL)
        wrong = take_guards(unit, object);
    json_array_foreach (faults, index, fault) {
        if (wrong == NULL)
            wrong = take_fault(unit, fault);
    }
    unit->content = json_object_get(object, "content");
    if (wrong == NULL && unit->content != NULL && !json_is_array(unit->content))
        wrong = "\"content\" must be a list of patches";
    json_incref(unit->content);
    return wrong;
}

/* "units" is a list of units; without it the description itself is one. */
static const char *take_units(struct sim_description *about,
                              const json_t *object)
{
    const json_t *units = json_object_get(object, "units");
    const char *wrong = NULL;

    if (units == NULL) {
        about->units = 1;
        return take_unit(&about->unit[0], object);
    }
    if (!json_is_array(units) || json_array_size(units) < 1 ||
        json_array_size(units) > SIM_UNITS)
        return "\"units\" must be a list of 1 to 4 units";
    about->units = (uint32_t)json_array_size(units);
    for (uint32_t i = 0; i < about->units && wrong == NULL; i++)
        wrong = take_unit(&about->unit[i], json_array_get(units, i));
    return wrong;
}

/* A card has blocks of 512 bytes, and as many as its registers can tell
 * (Physical Layer 6.00, 5.3). */
static const char *check_whole(const struct sim_description *about)
{
    bool card = about->transport == SLATE_TRANSPORT_SD;

    for (uint32_t i = 0; i < about->units; i++) {
        const struct sim_unit *unit = &about->unit[i];

        if (card && (unit->block_bytes != 512 ||
                     (unit->stored_bytes != 0 && unit->stored_bytes != 512)))
            return "\"block_bytes\" must be 512 for a card";
        if ((about->commands == SLATE_COMMANDS_ATA ||
             about->commands == SLATE_COMMANDS_NVME) &&
            (unit->block_bytes & (unit->block_bytes - 1)) != 0)
            return "\"block_bytes\" must be a power of two for sata and nvme";
        if (card && unit->blocks > UINT32_MAX)
            return "\"blocks\" must be at most 4294967295 for a card";
    }
    return about->erase_bytes > ERASE_MOST
               ? "\"erase_bytes\" must be at most 1 GiB"
               : NULL;
}

static const char *take_description(struct sim_description *about,
                                    const json_t *object)
{
    const char *wrong = NULL;

    if (json_integer_value(json_object_get(object, "description")) !=
        DESCRIPTION_VERSION)
        return "\"description\" must be 1, the version of the format";
    wrong = take_way(about, object);
    if (wrong == NULL)
        wrong = take_texts(about, object);
    if (wrong == NULL)
        wrong = take_units(about, object);
    if (wrong == NULL)
        wrong = take_swap(about, object);
    if (wrong == NULL)
        wrong = take_mounted(about, object);
    if (wrong == NULL)
        wrong = take_erasing(&about->erasing, object);
    if (wrong == NULL)
        wrong = sim_describe_tracks(about, object);
    take_habits(about, object);
    return wrong == NULL ? check_whole(about) : wrong;
}

enum slate_status sim_describe(const char *path, struct sim_description *about,
                               char why[SLATE_SIM_WHY_ROOM])
{
    json_error_t error;
    json_t *object = json_load_file(path, JSON_REJECT_DUPLICATES, &error);
    const char *wrong;

    memset(about, 0, sizeof *about);
    if (object == NULL) {
        snprintf(why, SLATE_SIM_WHY_ROOM, "line %d: %s", error.line,
                 error.text);
        return error.line < 0 ? SLATE_ERR_NO_DEVICE : SLATE_ERR_GEOMETRY;
    }
    wrong = take_description(about, object);
    json_decref(object);
    if (wrong == NULL)
        return SLATE_OK;
    snprintf(why, SLATE_SIM_WHY_ROOM, "%s", wrong);
    sim_description_free(about);
    return SLATE_ERR_GEOMETRY;
}

void sim_description_free(struct sim_description *about)
{
    for (uint32_t i = 0; i < SIM_UNITS; i++) {
        json_decref(about->unit[i].content);
        about->unit[i].content = NULL;
    }
}

/* Fields of a description. */

const char *sim_text_of(const json_t *object, const char *key)
{
    const char *text = json_string_value(json_object_get(object, key));

    return text == NULL ? "" : text;
}

uint64_t sim_number_of(const json_t *object, const char *key)
{
    json_int_t number = json_integer_value(json_object_get(object, key));

    return number < 0 ? 0 : (uint64_t)number;
}

bool sim_flag_of(const json_t *object, const char *key)
{
    return json_is_true(json_object_get(object, key));
}

uint32_t sim_place_of(const char *text, const char *const *names,
                      uint32_t count)
{
    uint32_t i = 0;

    while (i < count && strcmp(text, names[i]) != 0)
        i++;
    return i;
}
