/* SPDX-License-Identifier: MIT */
/* The device of a report: what it says of itself, and who uses it. */

#include "device/device.h"

const char *transport_words(enum slate_transport transport)
{
    switch (transport) {
    case SLATE_TRANSPORT_IMAGE:
        return "image file";
    case SLATE_TRANSPORT_MEMORY:
        return "memory";
    case SLATE_TRANSPORT_USB:
        return "USB";
    case SLATE_TRANSPORT_SD:
        return "SD";
    case SLATE_TRANSPORT_SATA:
        return "SATA";
    case SLATE_TRANSPORT_NVME:
        return "NVMe";
    case SLATE_TRANSPORT_SCSI:
        return "SCSI";
    case SLATE_TRANSPORT_LOOP:
        return "loop";
    case SLATE_TRANSPORT_OTHER:
        return "other";
    case SLATE_TRANSPORT_UNKNOWN:
    default:
        return "unknown";
    }
}

json_t *report_users(const struct target *target)
{
    json_t *list = report_made(json_array());
    const char *at = target->users;

    while (*at != '\0') {
        size_t length = strcspn(at, "\n");
        char line[SLATE_LINUX_USERS_ROOM];

        snprintf(line, sizeof line, "%.*s", (int)length, at);
        json_array_append_new(list, report_shown(line));
        at += length + (at[length] == '\n' ? 1 : 0);
    }
    return list;
}

json_t *report_device(const struct target *target)
{
    const struct slate_media *media = &target->media;
    uint64_t bytes = slate_geometry_bytes(&media->geometry);

    return report_pack(
        "{s:o, s:s, s:s, s:s, s:s, s:s, s:o, s:o, s:I, s:i, s:b, s:b}",
        "address", report_shown(target->address), "tag", media->tag,
        "transport", transport_words(media->identity.transport), "maker",
        media->identity.maker, "model", media->identity.model, "serial",
        target->is_file ? "" : media->identity.serial, "bytes",
        report_bytes(bytes), "nominal_bytes",
        report_bytes(slate_size_nominal(bytes)), "blocks",
        (json_int_t)media->geometry.block_count, "block_bytes",
        (int)media->geometry.block_bytes, "removable", media->removable,
        "write_protected", media->read_only);
}
