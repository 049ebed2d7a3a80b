/* SPDX-License-Identifier: MIT */
/* A low-level format with all that belongs to it, in its order: what is there
 * is read, the interleave is measured, it is formatted, read, and judged. */
#ifndef TRUESLATE_REFORMAT_H
#define TRUESLATE_REFORMAT_H

#include "trueslate/drive.h"
#include "trueslate/lowlevel.h"
#include "trueslate/scan.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_reformat_phase {
    SLATE_REFORMAT_LOOK,    /**< all is read as it is */
    SLATE_REFORMAT_MEASURE, /**< the interleave; from here on content is lost */
    SLATE_REFORMAT_FORMAT,
    SLATE_REFORMAT_READ, /**< all of a drive with tracks; else some places */
    SLATE_REFORMAT_OVER
};

/** Reading all of a drive. */
struct slate_reading {
    bool done;
    struct slate_ranges bad; /**< the caller's room */
    uint64_t weak;           /**< blocks read at a second try only */
};

/** A low-level format and its surroundings. Placed by the caller, who fills in
 * the first part, all else being zero, and may read the others. */
struct slate_reformat {
    struct slate_lowlevel_wish wish; /**< its drive is set to the one below */
    bool has_drive;                  /**< it has tracks that are known: */
    struct slate_drive drive;        /**< as it shall be */
    const struct slate_drive
        *former;          /**< as it is; NULL: it is not looked at */
    uint32_t interleaves; /**< values to measure, from 1 on; 0: as drive says */
    struct slate_reading before, after;

    struct slate_media *media;
    uint8_t *work;
    uint32_t work_bytes;
    enum slate_reformat_phase phase;
    bool begun; /**< the phase has */
    struct slate_scan scan;
    struct slate_interleave measure;
    struct slate_lowlevel format;
    uint32_t place;                 /**< of some, those that were read */
    struct slate_defects_seen seen; /**< with a drive: what came of it */
};

/**
 * Begins. Sends nothing.
 *
 * @param reformat   its first part is filled in
 * @param media      an open device that is claimed; kept by reference
 * @param work       kept by reference
 * @param work_bytes as with slate_lowlevel_start and slate_interleave_start
 */
void slate_reformat_start(struct slate_reformat *reformat,
                          struct slate_media *media, void *work,
                          uint32_t work_bytes);

/**
 * A bounded amount of work, until the phase is SLATE_REFORMAT_OVER; the phase
 * tells what a failure is about. In the format, wait a little between two steps
 * once its own phase is SLATE_LOWLEVEL_WAITING.
 *
 * @param reformat a started one
 * @return SLATE_OK; as slate_scan_start and slate_scan_step,
 * slate_interleave_step (SLATE_ERR_READ: no value lets the track be read),
 *         slate_lowlevel_start and slate_lowlevel_step, slate_media_read
 */
SLATE_MUST_CHECK enum slate_status
slate_reformat_step(struct slate_reformat *reformat);

/** Leaves off, or ends. @param reformat a started one @return as
 * slate_scan_end */
SLATE_MUST_CHECK enum slate_status
slate_reformat_end(struct slate_reformat *reformat);

/** May content be gone already? @param reformat a started one */
bool slate_reformat_has_changed(const struct slate_reformat *reformat);

#ifdef __cplusplus
}
#endif
#endif
