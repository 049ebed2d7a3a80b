/* SPDX-License-Identifier: MIT */
/* A port for the block devices of a Linux host: listing, plug-in events,
 * blocks and raw commands. */
#ifndef TRUESLATE_PORT_LINUX_H
#define TRUESLATE_PORT_LINUX_H

#include "trueslate/port.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Room for the lines that tell who uses a device. */
#define SLATE_LINUX_USERS_ROOM 2048

/** What the host says of a device without opening it. */
struct slate_linux_about {
    char name[32];  /**< as in /sys/block; changes from boot to boot */
    char body[256]; /**< the same for all units in one body */
    enum slate_transport transport;
    struct slate_identity identity; /**< as the host has it */
    uint64_t bytes;                 /**< 0: no medium */
    uint32_t unit;                  /**< logical unit in its body */
    bool removable;
    bool read_only;
    bool system; /**< the running system stands on it */
    /** who uses it, one a line, "and more" at the end where there is no room
     * for all; "" for nobody */
    char users[SLATE_LINUX_USERS_ROOM];
};

/**
 * Who uses an image file: loop devices over it, and what stands on these.
 *
 * @param path   of the file
 * @param users  receives them, as in struct slate_linux_about
 * @param system receives whether the running system stands on it
 * @return true when anybody does
 */
bool slate_linux_file_users(const char *path,
                            char users[SLATE_LINUX_USERS_ROOM], bool *system);

/** An open device. */
struct slate_linux;

/** Room for a sentence on why a device cannot be opened. */
#define SLATE_LINUX_WHY_ROOM 256

/**
 * Lists the devices of the host: whole devices only, each once, in order of
 * name. What is stacked on a device, and its partitions, stand in its users.
 * Devices that are no medium of their own (zram, mapped and stacked ones,
 * loop devices without a file) are left out.
 *
 * @param found   called with each device
 * @param context handed to @p found
 * @return SLATE_OK, SLATE_ERR_ACCESS when the host does not tell
 */
SLATE_MUST_CHECK enum slate_status slate_linux_list(
    void (*found)(void *context, const struct slate_linux_about *about),
    void *context);

/**
 * What the host says of one device, without opening it.
 *
 * @param name  as in /sys/block
 * @param about filled in
 * @return false when there is no such device
 */
bool slate_linux_describe(const char *name, struct slate_linux_about *about);

/**
 * Opens a device for reading, and for writing once it is claimed.
 *
 * Devices of the host's SCSI layer are spoken to with their own commands; so
 * are NVMe drives and SD cards, where the caller is root. All others are plain
 * blocks.
 *
 * @param name   as in /sys/block, or a path to the device node
 * @param device receives the device; close it with slate_linux_close
 * @param why    receives one sentence when it cannot be opened
 * @return SLATE_OK; SLATE_ERR_NO_DEVICE (not there, no block device, a
 *         partition), SLATE_ERR_NO_MEDIUM, SLATE_ERR_ACCESS,
 *         SLATE_ERR_INTERNAL
 */
SLATE_MUST_CHECK enum slate_status
slate_linux_open(const char *name, struct slate_linux **device,
                 char why[SLATE_LINUX_WHY_ROOM]);

/** The port of a device; valid until it is closed. @param device open */
const struct slate_port *slate_linux_port(const struct slate_linux *device);

/** What the host says of the device. @param device open */
const struct slate_linux_about *
slate_linux_about(const struct slate_linux *device);

/** Closes a device. @param device may be NULL */
void slate_linux_close(struct slate_linux *device);

/**
 * Would slate_linux_free get to its end? It would not on the device that the
 * running system stands on, for stacks of kinds that it cannot dissolve, and
 * while a program works in a place that is mounted. Changes nothing.
 *
 * @param name as with slate_linux_free
 * @param why  receives one sentence on what is in the way
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE, SLATE_ERR_BUSY
 */
SLATE_MUST_CHECK enum slate_status
slate_linux_may_free(const char *name, char why[SLATE_LINUX_WHY_ROOM]);

/**
 * Releases a device at the host: unmounts its volumes, stops swap on it, and
 * dissolves the mappings, RAIDs and loop devices that are stacked on it, from
 * the top of each stack down. Never the device that the running system stands
 * on. What was done before a failure stays done.
 *
 * @param name    as in /sys/block, or the path of an image file
 * @param done    called for each thing that was released; may be NULL
 * @param context handed to @p done
 * @param why     receives one sentence on failure: what will not go, and which
 *                program holds it
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE, SLATE_ERR_BUSY, SLATE_ERR_ACCESS
 */
SLATE_MUST_CHECK enum slate_status
slate_linux_free(const char *name,
                 void (*done)(void *context, const char *what), void *context,
                 char why[SLATE_LINUX_WHY_ROOM]);

/** Waiting for devices to come and go. */
struct slate_linux_watch;

/** Begins to watch. @return NULL when the host does not tell */
struct slate_linux_watch *slate_linux_watch_open(void);

/**
 * Waits until a block device has come, gone or changed.
 *
 * @param watch        may be NULL: then only the time passes
 * @param milliseconds at most this long
 * @return true when something happened
 */
bool slate_linux_watch_wait(struct slate_linux_watch *watch,
                            uint32_t milliseconds);

/** Ends watching. @param watch may be NULL */
void slate_linux_watch_close(struct slate_linux_watch *watch);

#ifdef __cplusplus
}
#endif
#endif
