/* SPDX-License-Identifier: MIT */
/* Labels as exFAT keeps them. */
#include <string.h>

#include "base/utf.h"
#include "volume/exfat.h"

/* What the names of files must not have (file system
 * specification 1.00, 7.7.3).
 */
static bool is_allowed(uint32_t point)
{
    static const char forbidden[] = "\"*/:<>?\\|";

    for (const char *p = forbidden; *p != '\0'; p++) {
        if (point == (uint32_t)*p)
            return false;
    }
    return point >= 0x20;
}

enum slate_status slate_exfat_label(const char *wanted,
                                    char label[SLATE_EXFAT_LABEL_ROOM])
{
    uint32_t units = 0;
    size_t used = 0;
    uint32_t point;

    while (*wanted == ' ')
        wanted++;
    memset(label, 0, SLATE_EXFAT_LABEL_ROOM);
    if (*wanted == '\0')
        return SLATE_OK;
    while ((point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        units += point > 0xFFFF ? 2 : 1;
        if (units <= SLATE_EXFAT_LABEL_UNITS)
            (void)slate_utf8_put(label, SLATE_EXFAT_LABEL_ROOM, &used,
                                 is_allowed(point) ? point : '_');
        else
            units = SLATE_EXFAT_LABEL_UNITS; /* the rest is looked at only */
    }
    while (used > 0 && label[used - 1] == ' ')
        label[--used] = '\0';
    return SLATE_OK;
}
