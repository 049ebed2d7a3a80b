/* SPDX-License-Identifier: MIT */
/* Which version this is: the one place where it stands. */
#ifndef TRUESLATE_VERSION_H
#define TRUESLATE_VERSION_H

#ifdef __cplusplus
extern "C" {
#endif

#define SLATE_VERSION_MAJOR 0
#define SLATE_VERSION_MINOR 1
#define SLATE_VERSION_PATCH 0

/** "0.1.0", as the headers have it that a program is compiled with. */
#define SLATE_VERSION "0.1.0"

/** "0.1.0", as the library has it that a program is linked with. Never NULL. */
const char *slate_version(void);

#ifdef __cplusplus
}
#endif
#endif
