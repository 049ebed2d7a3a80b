/* SPDX-License-Identifier: MIT */
/* The rows of all kinds, and what is asked of them; those of what is no volume
 * stand here. */
#include "volume/common/common.h"

/* C12A7328-F81F-11D2-BA4B-00A0C93EC93B */
const struct slate_guid slate_efi_data = {{0x28, 0x73, 0x2A, 0xC1, 0x1F, 0xF8,
                                           0xD2, 0x11, 0xBA, 0x4B, 0x00, 0xA0,
                                           0xC9, 0x3E, 0xC9, 0x3B}};
/* 0FC63DAF-8483-4772-8E79-3D69D8477DE4 */
const struct slate_guid slate_linux_data = {{0xAF, 0x3D, 0xC6, 0x0F, 0x83, 0x84,
                                             0x72, 0x47, 0x8E, 0x79, 0x3D, 0x69,
                                             0xD8, 0x47, 0x7D, 0xE4}};

static const struct slate_family none = {.words = NULL};

const struct slate_kind slate_kind_none = {.words = "nothing", .family = &none};
const struct slate_kind slate_kind_unread = {.words = "content not read",
                                             .family = &none};
const struct slate_kind slate_kind_other = {.words = "unknown content",
                                            .family = &none};
const struct slate_kind slate_kind_random = {.words = "random content",
                                             .family = &none};
const struct slate_kind slate_kind_unfinished = {
    .words = "unfinished overwriting", .family = &none};

#define ROW(NAME, row) &slate_kind_##row,
static const struct slate_kind *const kinds[] = {SLATE_VOLUME_LIST(ROW)};

const struct slate_kind *slate_kind_of(enum slate_volume_kind kind)
{
    return (unsigned)kind < SLATE_VOLUME_KINDS ? kinds[kind] : kinds[0];
}

const struct slate_family *slate_family_at(uint32_t index)
{
    const struct slate_family *family = kinds[index]->family;

    return index > 0 && kinds[index - 1]->family == family ? NULL : family;
}

bool slate_kind_is_akin(enum slate_volume_kind kind,
                        enum slate_volume_kind other)
{
    return slate_kind_of(kind)->family == slate_kind_of(other)->family;
}

const char *slate_volume_words(enum slate_volume_kind kind)
{
    return (unsigned)kind < SLATE_VOLUME_KINDS ? kinds[kind]->words : "";
}

bool slate_volume_is_known(enum slate_volume_kind kind)
{
    return slate_kind_of(kind)->known;
}

bool slate_volume_needs_more(const struct slate_volume *volume)
{
    return slate_kind_of(volume->kind)->needs_more || volume->has_members ||
           volume->mirror;
}

const struct slate_format *slate_format_at(uint32_t index)
{
    for (uint32_t i = 0; i < SLATE_VOLUME_KINDS; i++) {
        if (kinds[i]->format != NULL && index-- == 0)
            return kinds[i]->format;
    }
    return NULL;
}

const struct slate_format *slate_format_of(enum slate_volume_kind kind)
{
    return slate_kind_of(kind)->format;
}

const struct slate_guid *slate_gpt_type_for(enum slate_volume_kind kind)
{
    const struct slate_guid *first = slate_kind_of(kind)->gpt[0];

    return first == NULL ? &slate_basic_data : first;
}

uint8_t slate_mbr_type_for(enum slate_volume_kind kind)
{
    uint8_t first = slate_kind_of(kind)->mbr[0];

    return first == 0 ? SLATE_MBR_LINUX : first;
}

/* Which format a volume gets where none was asked for. */

/* What is chosen; then where that needs more room, and where it has too much.
 */
static const enum slate_volume_kind smaller[] = {
    SLATE_VOLUME_FAT32, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT12};
static const enum slate_volume_kind larger[] = {SLATE_VOLUME_FAT32,
                                                SLATE_VOLUME_EXFAT};

#define LENGTH(list) (sizeof(list) / sizeof(list)[0])

/* The first one that fits its room. */
static enum slate_status choose(const struct slate_wish *wish,
                                const struct slate_format **format,
                                union slate_volume_plan *plan)
{
    enum slate_status status;
    const enum slate_volume_kind *kind;
    bool too_much;
    size_t count;

    *format = slate_format_of(smaller[0]);
    status = (*format)->plan(wish, plan);
    too_much = status == SLATE_ERR_TOO_LARGE || status == SLATE_ERR_FILE_SIZE;
    kind = too_much ? larger : smaller;
    count = too_much ? LENGTH(larger) : LENGTH(smaller);
    if (status != SLATE_ERR_TOO_SMALL && !too_much)
        return status;
    for (size_t i = 1; i < count; i++) {
        const struct slate_format *other = slate_format_of(kind[i]);

        if (other->plan(wish, plan) == SLATE_OK) {
            *format = other;
            return SLATE_OK;
        }
    }
    return status;
}

enum slate_status slate_format_plan(enum slate_volume_kind kind,
                                    const struct slate_wish *wish,
                                    const struct slate_format **format,
                                    union slate_volume_plan *plan)
{
    if (kind == SLATE_VOLUME_NONE)
        return choose(wish, format, plan);
    *format = slate_format_of(kind);
    return *format == NULL ? SLATE_ERR_ARGUMENT : (*format)->plan(wish, plan);
}

const struct slate_format *slate_format_smallest(enum slate_volume_kind kind)
{
    return slate_format_of(
        kind == SLATE_VOLUME_NONE ? smaller[LENGTH(smaller) - 1] : kind);
}

const struct slate_format *slate_format_largest(enum slate_volume_kind kind)
{
    return slate_format_of(
        kind == SLATE_VOLUME_NONE ? larger[LENGTH(larger) - 1] : kind);
}
