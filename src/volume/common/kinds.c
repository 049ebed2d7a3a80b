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
