/* SPDX-License-Identifier: MIT */
/* Where an ext4 volume keeps its label: in the superblock and each copy of it
 * (Linux kernel documentation, filesystems/ext4). The checksum over it stays as
 * it is, so that the label changes with one block: four bytes behind the end of
 * the text that tells where it was mounted last make up for it. */

#include "base/base.h"
#include "volume/ext/ext.h"
#include "volume/common/common.h"

#define LABEL_BYTES 16u
#define MOUNTED_AT 136u /* a text of 64 bytes */
#define SPARE_AT 196u   /* its last four */
#define POLYNOMIAL 0x82F63B78u
#define UNIT_SHIFT_MOST 6u

/* What has to be put into a checksum for it to become another one. */
static uint32_t bytes_between(uint32_t from, uint32_t to)
{
    for (int bit = 0; bit < 32; bit++)
        to = (to & 0x80000000u) != 0 ? (to ^ POLYNOMIAL) << 1 | 1 : to << 1;
    return from ^ to;
}

static bool is_sealed(const uint8_t *super)
{
    return (slate_le32(super + SLATE_EXT_READ_ONLY) &
            SLATE_EXT_HAS_CHECKSUMS) != 0;
}

/* Whole, with room behind the text; what is damaged is left alone. */
static bool is_fit(const uint8_t *super)
{
    return slate_le16(super + SLATE_EXT_MAGIC_AT) == SLATE_EXT_MAGIC &&
           (!is_sealed(super) ||
            (slate_le32(super + SLATE_EXT_CHECKSUM) ==
                 slate_crc32c(UINT32_MAX, super, SLATE_EXT_CHECKSUM) &&
             slate_ends_within((const char *)super + MOUNTED_AT,
                               SPARE_AT - MOUNTED_AT)));
}

/* A label of 16 bytes, whole characters. */
static enum slate_status take_label(const char *wanted,
                                    char label[SLATE_LABEL_ROOM])
{
    size_t used = 0;
    uint32_t point;

    while ((point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        if (!slate_utf8_put(label, LABEL_BYTES + 1, &used, point))
            break;
    }
    return SLATE_OK;
}

/* super: in the work buffer; it is changed there */
static void add_edits(struct slate_label_plan *plan, uint64_t byte, bool copy,
                      uint8_t *super)
{
    uint32_t wanted = slate_crc32c(UINT32_MAX, super, SPARE_AT + 4);
    struct slate_label_edit *label = &plan->edit[0], *spare = &plan->edit[1];

    memset(super + SLATE_EXT_LABEL, 0, LABEL_BYTES);
    memcpy(super + SLATE_EXT_LABEL, plan->label, strlen(plan->label));
    *label = (struct slate_label_edit){
        .byte = byte + SLATE_EXT_LABEL, .length = LABEL_BYTES, .copy = copy};
    memcpy(label->bytes, super + SLATE_EXT_LABEL, LABEL_BYTES);
    plan->edits = 1;
    if (!is_sealed(super))
        return;
    *spare = (struct slate_label_edit){
        .byte = byte + SPARE_AT, .length = 4, .copy = copy};
    slate_put_le32(
        spare->bytes,
        bytes_between(slate_crc32c(UINT32_MAX, super, SPARE_AT), wanted));
    plan->edits = 2;
}

/* The group of a copy, counted from 0, which is the first superblock itself. */
static uint64_t copy_group(const uint8_t *super, uint32_t round)
{
    bool few = (slate_le32(super + SLATE_EXT_READ_ONLY) &
                SLATE_EXT_HAS_FEW_COPIES) != 0;
    const struct slate_ext endless = {.groups = UINT32_MAX};
    uint32_t group = few ? 0 : round;

    for (uint32_t i = 0; few && i < round && group != UINT32_MAX; i++)
        group = slate_ext_next_copy(&endless, group);
    return group;
}

/* Where a copy stands; 0: there are no more. */
static uint64_t copy_at(const uint8_t *super, uint32_t round)
{
    uint64_t units = slate_le32(super + SLATE_EXT_UNITS);
    uint64_t unit = slate_le32(super + SLATE_EXT_FIRST_UNIT);
    uint32_t shift = slate_le32(super + SLATE_EXT_UNIT_SHIFT);

    if ((slate_le32(super + SLATE_EXT_INCOMPATIBLE) & SLATE_EXT_HAS_64_BITS) !=
        0)
        units |= (uint64_t)slate_le32(super + SLATE_EXT_UNITS_HIGH) << 32;
    unit +=
        copy_group(super, round) * slate_le32(super + SLATE_EXT_GROUP_UNITS);
    return unit < units ? unit << (10 + shift) : 0;
}

/* Are its sizes possible? */
static bool is_sized(const uint8_t *super)
{
    return slate_le32(super + SLATE_EXT_UNIT_SHIFT) <= UNIT_SHIFT_MOST &&
           slate_le32(super + SLATE_EXT_GROUP_UNITS) != 0 &&
           slate_le32(super + SLATE_EXT_UNITS_HIGH) < 0x1000u;
}

/* Of a volume whose log is to be replayed, the old label might come back. */
static bool has_replay(const uint8_t *super)
{
    return (slate_le32(super + SLATE_EXT_INCOMPATIBLE) &
            SLATE_EXT_HAS_REPLAY) != 0;
}

enum slate_status slate_ext_relabel(struct slate_media *media,
                                    const struct slate_relabel *wish,
                                    void *work, struct slate_label_plan *plan)
{
    struct slate_reader reader = {
        .media = media, .range = wish->range, .work = work};
    uint64_t at = SLATE_EXT_SUPER_AT, start;
    uint8_t *super;
    enum slate_status status;

    memset(plan, 0, sizeof *plan);
    status = take_label(wish->label, plan->label);
    SLATE_TRY(status);
    if (!slate_reader_cut(&reader) ||
        slate_reader_at(&reader, at, SLATE_EXT_SUPER_BYTES) == NULL)
        return reader.status != SLATE_OK ? reader.status : SLATE_ERR_CHANGED;
    super = reader.work + at % media->geometry.block_bytes;
    if (!is_fit(super) || !is_sized(super))
        return SLATE_ERR_CHANGED;
    if (has_replay(super))
        return SLATE_ERR_UNCLEAN;
    if (wish->round > 0) {
        at = copy_at(super, wish->round);
        if (at == 0)
            return SLATE_OK;
    }
    plan->more = true;
    if (slate_reader_at(&reader, at, SLATE_EXT_SUPER_BYTES) == NULL)
        return reader.status;
    super = reader.work + at % media->geometry.block_bytes;
    start = reader.range.first * media->geometry.block_bytes;
    if (is_fit(super))
        add_edits(plan, start + at, wish->round > 0, super);
    return SLATE_OK;
}
