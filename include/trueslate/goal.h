/* SPDX-License-Identifier: MIT */
/* What a device shall become: what a draft takes, and a finding recommends. */
#ifndef TRUESLATE_GOAL_H
#define TRUESLATE_GOAL_H

#include "trueslate/format.h"
#include "trueslate/table.h"

/** What the device will be used for; decides table and volume. */
enum slate_use {
    SLATE_USE_ANYTHING, /**< read by as many hosts as possible */
    SLATE_USE_CAMERA,
    SLATE_USE_PLAYER,
    SLATE_USE_CONSOLE,
    SLATE_USE_LOGGER
};

#define SLATE_USE_COUNT 5

/** How large a partition shall be. */
enum slate_size_kind {
    SLATE_SIZE_REST,  /**< all that the others leave: one of them, at most */
    SLATE_SIZE_BYTES, /**< so many bytes */
    SLATE_SIZE_SHARE  /**< so many thousandths of what the table leaves */
};

#define SLATE_SIZES 3

/** What is asked of one partition. All zero: the rest of the device, a volume
 * that fits, no label. */
struct slate_ask {
    uint32_t keep; /**< the number, as hosts count, of a partition that stays as
                        it is, to the last bit: nothing else is asked of it; 0:
                        a new one */
    enum slate_size_kind size_kind;
    uint64_t size;                 /**< bytes or thousandths */
    bool bare;                     /**< without a volume */
    enum slate_volume_kind volume; /**< SLATE_VOLUME_NONE: chosen to fit */
    uint32_t cluster_bytes;        /**< 0: chosen to fit */
    bool active;                   /**< MBR: machines start from it */
    char label[SLATE_LABEL_ROOM];  /**< UTF-8 as it was asked for */
};

/** What is wanted of the device. All zero: for anything, table chosen. */
struct slate_goal {
    enum slate_use use;
    bool table_given; /**< false: the table is chosen to fit */
    enum slate_table_kind table;
    uint32_t lift; /**< guards to lift though somebody may have set them on
                        purpose: a sum of SLATE_GUARD_BIT */
    bool lasting;  /**< where there is a choice, lifts survive power-off */
};

#endif
