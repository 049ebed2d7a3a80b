/* SPDX-License-Identifier: MIT */
/* Labels as FAT keeps them. */

#include "base/base.h"
#include "volume/fat/fat.h"
#include "volume/common/common.h"

/* Short-name characters, and the space (FAT specification 1.03, 6.1). */
static bool is_allowed(uint32_t point)
{
    static const char forbidden[] = "\"*+,./:;<=>?[\\]|";

    for (const char *p = forbidden; *p != '\0'; p++) {
        if (point == (uint32_t)*p)
            return false;
    }
    return point >= 0x20 && point < 0x7F;
}

enum slate_status slate_fat_label(const char *wanted,
                                  char label[SLATE_FAT_LABEL_ROOM])
{
    size_t used = 0;
    uint32_t point;

    while (*wanted == ' ')
        wanted++;
    memset(label, 0, SLATE_FAT_LABEL_ROOM);
    if (*wanted == '\0')
        return SLATE_OK;
    while ((point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        if (used == SLATE_FAT_LABEL_ROOM - 1)
            continue;
        if (point >= 'a' && point <= 'z')
            point -= 'a' - 'A';
        label[used++] = (char)(is_allowed(point) ? point : '_');
    }
    while (used > 0 && label[used - 1] == ' ')
        label[--used] = '\0';
    return SLATE_OK;
}

void slate_fat_put_label(uint8_t *field, const char *label)
{
    size_t length = strlen(label);

    memset(field, ' ', 11);
    memcpy(field, label, length < 11 ? length : 11);
}

void slate_fat_put_label_entry(uint8_t *entry, const char *label,
                               const struct slate_stamp *stamp)
{
    slate_fat_put_label(entry, label);
    entry[11] = SLATE_FAT_LABEL_ATTRIBUTE;
    slate_put_le16(entry + 22, slate_packed_time(stamp));
    slate_put_le16(entry + 24, slate_packed_date(stamp));
}
