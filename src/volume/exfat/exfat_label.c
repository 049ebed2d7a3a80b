/* SPDX-License-Identifier: MIT */
/* Labels as exFAT keeps them. */

#include "base/base.h"
#include "volume/exfat/exfat.h"

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

void slate_exfat_put_label(uint8_t *entry, const char *label)
{
    uint8_t units = 0;
    uint8_t *text = entry + SLATE_EXFAT_LABEL_TEXT;

    slate_utf8_to_utf16(label, text, SLATE_EXFAT_LABEL_UNITS);
    while (units < SLATE_EXFAT_LABEL_UNITS &&
           slate_le16(text + (size_t)2 * units) != 0)
        units++;
    entry[0] = units > 0 ? SLATE_EXFAT_ENTRY_LABEL : SLATE_EXFAT_ENTRY_NO_LABEL;
    entry[SLATE_EXFAT_LABEL_LENGTH] = units;
}
