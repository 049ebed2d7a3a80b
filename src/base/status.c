/* SPDX-License-Identifier: MIT */
/* Names, sentences and classes of the result codes; the version. */
#include "trueslate/status.h"
#include "trueslate/version.h"

struct row {
    const char *name, *sentence;
    enum slate_class class;
};

static struct row row_of(enum slate_status status)
{
    switch (status) {
    case SLATE_OK:
        return (struct row){"SLATE_OK", "done", SLATE_CLASS_OK};
#define CASE(name, class, cause, sentence)                                     \
    case name:                                                                 \
        return (struct row){#name, sentence, class};
        SLATE_STATUS_LIST(CASE)
#undef CASE
    default:
        return (struct row){"SLATE_UNKNOWN", "unknown result",
                            SLATE_CLASS_INTERNAL};
    }
}

const char *slate_status_name(enum slate_status status)
{
    return row_of(status).name;
}

const char *slate_status_sentence(enum slate_status status)
{
    return row_of(status).sentence;
}

enum slate_class slate_status_class(enum slate_status status)
{
    return row_of(status).class;
}

/* Which version the library is. */

#define TEXT_OF(number) #number
#define TEXT(number) TEXT_OF(number)

const char *slate_version(void)
{
    return TEXT(SLATE_VERSION_MAJOR) "." TEXT(SLATE_VERSION_MINOR) "." TEXT(
        SLATE_VERSION_PATCH);
}
