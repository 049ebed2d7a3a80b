/* SPDX-License-Identifier: MIT */
/* What the host says of a block device, out of sysfs. */
#include <limits.h>

#include "../host.h"
#include "linux.h"

static void attribute(const char *name, const char *what, char *line,
                      size_t room)
{
    char path[LINUX_FOLDER_ROOM];

    line[0] = '\0';
    if (linux_path(path, sizeof path, "/sys/block/%.31s/%s", name, what))
        linux_read_line(path, line, room);
}

static uint64_t number(const char *name, const char *what)
{
    char line[32];

    attribute(name, what, line, sizeof line);
    return strtoull(line, NULL, 10);
}

/* Printable ASCII without spaces at either end. */
static void take(char *field, size_t room, const char *text)
{
    size_t n = 0;

    text += strspn(text, " ");
    for (; n < room - 1 && text[n] != '\0'; n++)
        field[n] = (char)(text[n] >= 0x20 && text[n] < 0x7F ? text[n] : '?');
    while (n > 0 && field[n - 1] == ' ')
        n--;
    field[n] = '\0';
}

static void take_identity(const char *name, struct slate_identity *identity)
{
    char line[PATH_MAX];

    attribute(name, "device/vendor", line, sizeof line);
    if (strncmp(line, "0x", 2) != 0) /* NVMe shows the bus's number there */
        take(identity->maker, sizeof identity->maker, line);
    attribute(name, "device/model", line, sizeof line);
    if (line[0] == '\0')
        attribute(name, "device/name", line, sizeof line); /* SD */
    take(identity->model, sizeof identity->model, line);
    attribute(name, "device/serial", line, sizeof line);
    take(identity->serial, sizeof identity->serial, line);
    attribute(name, "device/rev", line, sizeof line);
    take(identity->revision, sizeof identity->revision, line);
    attribute(name, "loop/backing_file", line, sizeof line);
    if (line[0] != '\0')
        port_name_file(line, identity);
}

static enum slate_transport transport_of(const char *name, const char *path)
{
    if (strncmp(name, "mmcblk", 6) == 0)
        return SLATE_TRANSPORT_SD;
    if (strncmp(name, "nvme", 4) == 0)
        return SLATE_TRANSPORT_NVME;
    if (strncmp(name, "loop", 4) == 0)
        return SLATE_TRANSPORT_LOOP;
    if (strstr(path, "/usb") != NULL)
        return SLATE_TRANSPORT_USB;
    if (strstr(path, "/ata") != NULL)
        return SLATE_TRANSPORT_SATA;
    return strncmp(name, "sd", 2) == 0 ? SLATE_TRANSPORT_SCSI
                                       : SLATE_TRANSPORT_OTHER;
}

/* The units of one body share the path up to the SCSI target, "h:c:t:l" being
 * the last part of it; every other device is a body of its own. */
static void take_body(const char *name, struct slate_linux_about *about)
{
    char link[LINUX_FOLDER_ROOM], path[PATH_MAX], *last;

    if (!linux_path(link, sizeof link, "/sys/block/%.31s/device", name) ||
        realpath(link, path) == NULL)
        snprintf(path, sizeof path, "/sys/block/%.31s", name);
    about->transport = transport_of(name, path);
    last = strrchr(path, ':');
    if (strncmp(name, "sd", 2) == 0 && last != NULL) {
        about->unit = (uint32_t)strtoul(last + 1, NULL, 10);
        *strrchr(path, '/') = '\0';
    }
    snprintf(about->body, sizeof about->body, "%.250s", path);
}

static bool is_left_out(const char *name)
{
    static const char *const kinds[] = {"ram", "zram", "dm-", "md",
                                        "sr",  "fd",   "nbd", "mtd"};

    for (size_t i = 0; i < sizeof kinds / sizeof kinds[0]; i++) {
        if (strncmp(name, kinds[i], strlen(kinds[i])) == 0)
            return true;
    }
    return strstr(name, "boot") != NULL || strstr(name, "rpmb") != NULL;
}

static void find_users(struct slate_linux_about *about)
{
    struct linux_nodes nodes;
    struct linux_users users;

    linux_find_nodes(about->name, &nodes);
    linux_find_users(&nodes, &users);
    linux_forget_nodes(&nodes);
    memcpy(about->users, users.lines, sizeof about->users);
    about->system = users.system;
}

bool slate_linux_describe(const char *name, struct slate_linux_about *about)
{
    char size[32];

    memset(about, 0, sizeof *about);
    if (name[0] == '\0' || strchr(name, '/') != NULL || strlen(name) > 31)
        return false;
    attribute(name, "size", size, sizeof size);
    if (is_left_out(name) || size[0] == '\0')
        return false;
    snprintf(about->name, sizeof about->name, "%.31s", name);
    about->bytes = strtoull(size, NULL, 10) * 512; /* whatever the block is */
    if (strncmp(name, "loop", 4) == 0 && about->bytes == 0)
        return false;
    about->removable = number(name, "removable") != 0;
    about->read_only = number(name, "ro") != 0;
    take_body(name, about);
    take_identity(name, &about->identity);
    about->identity.transport = about->transport;
    find_users(about);
    return true;
}

static bool read_register(const char *name, const char *what, uint8_t value[16])
{
    char line[64];

    attribute(name, what, line, sizeof line);
    if (strspn(line, "0123456789abcdef") != 32)
        return false;
    for (size_t i = 0; i < 16; i++) {
        char pair[3] = {line[2 * i], line[2 * i + 1], '\0'};

        value[i] = (uint8_t)strtoul(pair, NULL, 16);
    }
    return true;
}

bool linux_read_card(struct slate_linux *device)
{
    const char *name = device->about.name;
    char type[16], address[16];

    attribute(name, "device/type", type, sizeof type);
    attribute(name, "device/rca", address, sizeof address);
    device->card_address = (uint16_t)strtoul(address, NULL, 16);
    return device->about.transport == SLATE_TRANSPORT_SD &&
           strcmp(type, "SD") == 0 &&
           read_register(name, "device/cid", device->cid) &&
           read_register(name, "device/csd", device->csd);
}

/* Read-only, though nobody has set that at the host: the host keeps its own
 * setting for a card apart, and shows the two as one. */
bool linux_has_slider(const char *name)
{
    char set[16];

    attribute(name, "force_ro", set, sizeof set);
    return strcmp(set, "0") == 0 && number(name, "ro") != 0;
}
