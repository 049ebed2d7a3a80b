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

/** What is wanted. All zero: for anything, table and clusters chosen, no label.
 */
struct slate_goal {
    enum slate_use use;
    bool table_given; /**< false: the table is chosen to fit */
    enum slate_table_kind table;
    enum slate_volume_kind volume; /**< SLATE_VOLUME_NONE: chosen to fit */
    uint32_t cluster_bytes;        /**< 0: chosen to fit */
    char label[SLATE_LABEL_ROOM];  /**< UTF-8 as it was asked for */
    uint32_t lift; /**< guards to lift though somebody may have set them on
                        purpose: a sum of SLATE_GUARD_BIT */
    bool lasting;  /**< where there is a choice, lifts survive power-off */
};

#endif
