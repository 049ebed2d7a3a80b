/* SPDX-License-Identifier: MIT */
/* Reading a device's description, and giving it the content it tells of. */
#include <stdio.h>
#include <string.h>

#include "../host.h"
#include "sim.h"

#define DESCRIPTION_VERSION 1

static const char *text_of(const json_t *object, const char *key)
{
    const char *text = json_string_value(json_object_get(object, key));

    return text == NULL ? "" : text;
}

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
    const char *text = text_of(object, key);

    if (strlen(text) >= room)
        return false;
    memcpy(field, text, strlen(text) + 1);
    return true;
}

static const char *take_texts(struct sim_description *about,
                              const json_t *object)
{
    if (!is_name(text_of(object, "name")) ||
        !take(about->name, sizeof about->name, object, "name"))
        return "\"name\" must be 1 to 63 small letters, digits and dashes";
    if (!take(about->story, sizeof about->story, object, "story"))
        return "\"story\" must be at most 255 bytes";
    if (!take(about->maker, sizeof about->maker, object, "maker"))
        return "\"maker\" must be at most 8 characters";
    if (!take(about->model, sizeof about->model, object, "model"))
        return "\"model\" must be at most 16 characters";
    if (!take(about->revision, sizeof about->revision, object, "revision"))
        return "\"revision\" must be at most 4 characters";
    if (!take(about->serial, sizeof about->serial, object, "serial"))
        return "\"serial\" must be at most 32 characters";
    return NULL;
}

static const char *take_numbers(struct sim_description *about,
                                const json_t *object)
{
    json_int_t blocks = json_integer_value(json_object_get(object, "blocks"));
    json_int_t bytes =
        json_integer_value(json_object_get(object, "block_bytes"));
    json_int_t rate =
        json_integer_value(json_object_get(object, "bytes_per_second"));

    if (bytes != 512 && bytes != 1024 && bytes != 2048 && bytes != 4096)
        return "\"block_bytes\" must be 512, 1024, 2048 or 4096";
    if (blocks < 1 || blocks > INT64_MAX / bytes)
        return "\"blocks\" must be 1 or more, and 8 EiB at most";
    if (rate < 0)
        return "\"bytes_per_second\" must be 0 or more";
    about->blocks = (uint64_t)blocks;
    about->block_bytes = (uint32_t)bytes;
    about->bytes_per_second = (uint64_t)rate;
    about->removable = json_is_true(json_object_get(object, "removable"));
    about->write_protected =
        json_is_true(json_object_get(object, "write_protected"));
    return NULL;
}

static const char *take_description(struct sim_description *about,
                                    const json_t *object)
{
    const char *wrong;

    if (json_integer_value(json_object_get(object, "description")) !=
        DESCRIPTION_VERSION)
        return "\"description\" must be 1, the version of the format";
    if (strcmp(text_of(object, "commands"), "scsi") != 0)
        return "\"commands\" must be \"scsi\"";
    wrong = take_texts(about, object);
    if (wrong == NULL)
        wrong = take_numbers(about, object);
    if (wrong != NULL)
        return wrong;
    about->content = json_object_get(object, "content");
    if (about->content != NULL && !json_is_array(about->content))
        return "\"content\" must be a list of patches";
    json_incref(about->content);
    return NULL;
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
    return SLATE_ERR_GEOMETRY;
}

void sim_description_free(struct sim_description *about)
{
    json_decref(about->content);
    about->content = NULL;
}

static int digit_value(char c)
{
    const char *digits = "0123456789abcdef";
    const char *found = c == '\0' ? NULL : strchr(digits, c);

    return found == NULL ? -1 : (int)(found - digits);
}

/* Bytes of a patch, given as small hexadecimal digits or as text. */
static bool patch_bytes(const json_t *patch, uint8_t *bytes, size_t room,
                        size_t *length)
{
    const char *text = text_of(patch, "text");
    const char *hex = text_of(patch, "hex");

    *length = strlen(text);
    if (*length > 0) {
        if (*length > room)
            return false;
        memcpy(bytes, text, *length);
        return true;
    }
    *length = strlen(hex) / 2;
    if (*length == 0 || *length > room || strlen(hex) % 2 != 0)
        return false;
    for (size_t i = 0; i < *length; i++) {
        int high = digit_value(hex[2 * i]), low = digit_value(hex[2 * i + 1]);

        if (high < 0 || low < 0)
            return false;
        bytes[i] = (uint8_t)(high * 16 + low);
    }
    return true;
}

enum slate_status sim_fill(const struct sim_description *about, int descriptor,
                           char why[SLATE_SIM_WHY_ROOM])
{
    json_t *patch;
    size_t index;

    json_array_foreach(about->content, index, patch)
    {
        json_int_t at = json_integer_value(json_object_get(patch, "at"));
        uint8_t bytes[4096];
        size_t length;

        if (!patch_bytes(patch, bytes, sizeof bytes, &length) || at < 0 ||
            length > about->blocks * about->block_bytes ||
            (uint64_t)at > about->blocks * about->block_bytes - length) {
            snprintf(why, SLATE_SIM_WHY_ROOM,
                     "patch %zu of \"content\" must have \"at\" within the "
                     "device, and \"hex\" or \"text\" of up to 4096 bytes",
                     index + 1);
            return SLATE_ERR_GEOMETRY;
        }
        if (!port_write_all(descriptor, bytes, length, (off_t)at))
            return SLATE_ERR_WRITE;
    }
    return SLATE_OK;
}
