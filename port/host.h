/* SPDX-License-Identifier: MIT */
/* What the ports of a POSIX host have in common: time, chance, whole reads. */
#ifndef PORT_HOST_H
#define PORT_HOST_H

#include <sys/types.h>

#include "trueslate/port.h"

/* Port operations; the context is not used. */
uint64_t port_milliseconds(void *context);
enum slate_status port_random(void *context, void *bytes, size_t length);

/* The identity of a file: model is its name, cut where there is no room, serial
 * a digest of the whole path, so that long and similar paths do not collide. */
void port_name_file(const char *path, struct slate_identity *identity);

/* All of the range or nothing; false with errno set. A read behind the end of
 * the file gives zeros. */
bool port_read_all(int descriptor, void *data, size_t length, off_t at);
bool port_write_all(int descriptor, const void *data, size_t length, off_t at);

bool port_is_zero(const uint8_t *bytes, size_t length);

/* As port_write_all, but leaves a hole where all bytes are zero. */
bool port_write_sparse(int descriptor, const void *data, size_t length,
                       off_t at);

#endif
