/* SPDX-License-Identifier: MIT */
/* What a boot block of ours does when a machine is started from it. */
#ifndef SLATE_VOLUME_START_H
#define SLATE_VOLUME_START_H

#include <string.h>

/* It asks the firmware for the next device: int 18h, else it stops. */
static inline void slate_start_put(uint8_t *code)
{
    static const uint8_t start[] = {0xCD, 0x18, 0xF4, 0xEB, 0xFD};

    memcpy(code, start, sizeof start);
}

#endif
