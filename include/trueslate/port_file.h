/* SPDX-License-Identifier: MIT */
/* A port for image files on a POSIX host. */
#ifndef TRUESLATE_PORT_FILE_H
#define TRUESLATE_PORT_FILE_H

#include "trueslate/port.h"

#ifdef __cplusplus
extern "C" {
#endif

/** An open image file; placed by the caller, who may read every field. */
struct slate_file {
    struct slate_port port; /**< hand this to slate_media_open */
    int descriptor;         /**< for reading; -1: none */
    int writer;             /**< while it is claimed; else -1 */
    char path[4096];
    uint64_t bytes;       /**< length of the file */
    uint32_t block_bytes; /**< the device that the image stands for */
    bool read_only;       /**< the file may be read only */
    bool in_use;          /**< set by a caller who knows that the host has
                               something of it mounted, ahead of
                               slate_media_open */
    struct slate_identity identity;
};

/**
 * Opens an image file for reading; claiming it opens it for writing, too. A
 * file that may not be written says so in its facts. Stretches of zeros are
 * kept as holes.
 *
 * The identity of an image is where it lies: model is the file's name, serial
 * a digest of its full path. A copy elsewhere is another device.
 *
 * @param file        filled in; close it, also when this fails
 * @param path        of a regular file
 * @param block_bytes 512, 1024, 2048 or 4096
 * @return SLATE_OK; SLATE_ERR_NO_DEVICE (not there, or no regular file),
 *         SLATE_ERR_ACCESS, SLATE_ERR_GEOMETRY (empty, or not a whole number
 *         of blocks: @c bytes tells)
 */
SLATE_MUST_CHECK enum slate_status slate_file_open(struct slate_file *file,
                                                   const char *path,
                                                   uint32_t block_bytes);

/**
 * Closes the file.
 *
 * @param file as slate_file_open left it, closed already, or zeroed
 */
void slate_file_close(struct slate_file *file);

#ifdef __cplusplus
}
#endif
#endif
