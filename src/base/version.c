/* SPDX-License-Identifier: MIT */
/* Which version the library is. */
#include "trueslate/version.h"

#define TEXT_OF(number) #number
#define TEXT(number) TEXT_OF(number)

const char *slate_version(void)
{
    return TEXT(SLATE_VERSION_MAJOR) "." TEXT(SLATE_VERSION_MINOR) "." TEXT(
        SLATE_VERSION_PATCH);
}
