/* SPDX-License-Identifier: MIT */
/* Names, sentences and classes of the result codes. */
#include "trueslate/status.h"
#include "trueslate/version.h"

const char *slate_status_name(enum slate_status status)
{
    switch (status) {
    case SLATE_OK:
        return "SLATE_OK";
#define CASE(name, class, cause, sentence)                                     \
    case name:                                                                 \
        return #name;
        SLATE_STATUS_LIST(CASE)
#undef CASE
    default:
        return "SLATE_UNKNOWN";
    }
}

const char *slate_status_sentence(enum slate_status status)
{
    switch (status) {
    case SLATE_OK:
        return "done";
#define CASE(name, class, cause, sentence)                                     \
    case name:                                                                 \
        return sentence;
        SLATE_STATUS_LIST(CASE)
#undef CASE
    default:
        return "unknown result";
    }
}

enum slate_class slate_status_class(enum slate_status status)
{
    switch (status) {
    case SLATE_OK:
        return SLATE_CLASS_OK;
#define CASE(name, class, cause, sentence)                                     \
    case name:                                                                 \
        return class;
        SLATE_STATUS_LIST(CASE)
#undef CASE
    default:
        return SLATE_CLASS_INTERNAL;
    }
}

/* Which version the library is. */

#define TEXT_OF(number) #number
#define TEXT(number) TEXT_OF(number)

const char *slate_version(void)
{
    return TEXT(SLATE_VERSION_MAJOR) "." TEXT(SLATE_VERSION_MINOR) "." TEXT(
        SLATE_VERSION_PATCH);
}
