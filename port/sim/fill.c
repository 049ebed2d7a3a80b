/* SPDX-License-Identifier: MIT */
/* Giving a device the content that its description tells of: patches. */

#include "sim.h"

static int digit_value(char c)
{
    const char *digits = "0123456789abcdef";
    const char *found = c == '\0' ? NULL : strchr(digits, c);

    return found == NULL ? -1 : (int)(found - digits);
}

static bool hex_bytes(const char *hex, uint8_t *bytes, size_t room,
                      size_t *length)
{
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

/* Bytes of a patch, given as small hexadecimal digits or as text. */
static bool patch_bytes(const json_t *patch, uint8_t *bytes, size_t room,
                        size_t *length)
{
    const char *text = json_string_value(json_object_get(patch, "text"));
    const char *hex = json_string_value(json_object_get(patch, "hex"));

    if (hex != NULL)
        return hex_bytes(hex, bytes, room, length);
    *length = text == NULL ? 0 : strlen(text);
    if (*length == 0 || *length > room)
        return false;
    memcpy(bytes, text, *length);
    return true;
}

static bool fits(const struct sim_unit *unit, json_int_t at, size_t length)
{
    uint32_t stride =
        unit->stored_bytes == 0 ? unit->block_bytes : unit->stored_bytes;
    uint64_t bytes = unit->blocks * stride;

    return at >= 0 && length <= bytes && (uint64_t)at <= bytes - length;
}

enum slate_status sim_fill(const struct sim_unit *unit, struct sim_store *store,
                           char why[SLATE_SIM_WHY_ROOM])
{
    json_t *patch;
    size_t index;

    json_array_foreach (unit->content, index, patch) {
        json_int_t at = json_integer_value(json_object_get(patch, "at"));
        uint8_t bytes[4096];
        size_t length;

        if (!patch_bytes(patch, bytes, sizeof bytes, &length) ||
            !fits(unit, at, length)) {
            snprintf(why, SLATE_SIM_WHY_ROOM,
                     "patch %zu of \"content\" must have \"at\" within the "
                     "device, and \"hex\" or \"text\" of up to 4096 bytes",
                     index + 1);
            return SLATE_ERR_GEOMETRY;
        }
        if (!sim_store_write(store, (uint64_t)at, bytes, length))
            return SLATE_ERR_WRITE;
    }
    return sim_store_flush(store) ? SLATE_OK : SLATE_ERR_WRITE;
}
