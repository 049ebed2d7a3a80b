/* SPDX-License-Identifier: MIT */
/* The device of a report: what it says of itself, and who uses it. */

#include "device/device.h"

const char *transport_words(enum slate_transport transport)
{
    static const char *const words[] = {[SLATE_TRANSPORT_UNKNOWN] = "unknown",
                                        [SLATE_TRANSPORT_IMAGE] = "image file",
                                        [SLATE_TRANSPORT_MEMORY] = "memory",
                                        [SLATE_TRANSPORT_USB] = "USB",
                                        [SLATE_TRANSPORT_SD] = "SD",
                                        [SLATE_TRANSPORT_SATA] = "SATA",
                                        [SLATE_TRANSPORT_NVME] = "NVMe",
                                        [SLATE_TRANSPORT_SCSI] = "SCSI",
                                        [SLATE_TRANSPORT_LOOP] = "loop",
                                        [SLATE_TRANSPORT_OTHER] = "other"};

    return words[transport];
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
