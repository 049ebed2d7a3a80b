/* SPDX-License-Identifier: MIT */
/* Who will read it? The uses of a device, and what each is best set up with. */
#ifndef TRUESLATE_USE_H
#define TRUESLATE_USE_H

#include "trueslate/format.h"
#include "trueslate/layout.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What the device will be used for; decides table and volume. */
enum slate_use {
    SLATE_USE_ANYTHING, /**< read by as many hosts as possible */
    SLATE_USE_CAMERA,
    SLATE_USE_PLAYER,
    SLATE_USE_CONSOLE,
    SLATE_USE_LOGGER,
    SLATE_USE_DESKTOP, /**< desktop systems of the one family that has NTFS */
    SLATE_USE_LINUX,
    SLATE_USE_MAC,
    SLATE_USE_OLD_PC,  /**< computers whose firmware starts from an MBR */
    SLATE_USE_STARTUP, /**< to start a computer's firmware from */
    SLATE_USE_VINTAGE  /**< systems that count cylinders, heads and sectors */
};

#define SLATE_USE_COUNT 11

/** What a device is, as advice goes by it. */
enum slate_device_kind {
    SLATE_DEVICE_OTHER, /**< an image, say */
    SLATE_DEVICE_CARD,
    SLATE_DEVICE_STICK,
    SLATE_DEVICE_DISK
};

#define SLATE_DEVICE_KINDS 4

/** One volume that would do, and what is to be said of it. */
struct slate_way {
    enum slate_volume_kind volume; /**< SLATE_VOLUME_NONE: no more */
    const char *why;               /**< one sentence; NULL: goes without one */
    const char *against;           /**< the same: what speaks against it */
};

#define SLATE_WAYS 4

/** What a use is best set up with. */
struct slate_advice {
    enum slate_table_kind table;      /**< where it reaches the whole device */
    const char *table_why;            /**< one sentence */
    struct slate_way way[SLATE_WAYS]; /**< the first one that can be composed
                                           and fits is taken */
    bool active;    /**< old machines start from the first partition */
    bool cylinders; /**< partitions begin and end with tracks and cylinders */
};

/** The name of a use as the command line takes it: "camera". Never NULL. */
const char *slate_use_name(enum slate_use use);

/** For whom a use is meant, in a few words. Never NULL. */
const char *slate_use_words(enum slate_use use);

/** Name of a kind of device for programs: "card". Never NULL. */
const char *slate_device_name(enum slate_device_kind kind);

#ifdef __cplusplus
}
#endif
#endif
