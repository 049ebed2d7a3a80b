/* SPDX-License-Identifier: MIT */
/* Clearing attributes in place, under a claim, and reading them back. */
#include "attribute/attribute.h"
#include "table/mbr.h"
#include "base/bytes.h"

#define TYPE_AT 4
#define HIDDEN 0x10
#define SUPER_AT 1024u
#define SUPER_BYTES 1024u

/* Bytes of the device, read, changed and written as whole blocks at once. */
struct span {
    struct slate_media *media;
    uint8_t *work;
    uint64_t lba;
    uint32_t blocks;
    uint8_t *bytes; /* the first one, in the work buffer */
};

static enum slate_status span_read(struct span *span, uint64_t byte,
                                   uint32_t length)
{
    uint32_t block = span->media->geometry.block_bytes;

    span->lba = byte / block;
    span->blocks = (uint32_t)((byte % block + length + block - 1) / block);
    span->bytes = span->work + byte % block;
    return slate_media_read(span->media, span->lba, span->blocks, span->work);
}

static enum slate_status span_write(const struct span *span)
{
    return slate_media_write(span->media, span->lba, span->blocks, span->work);
}

/* The entry of a partition: in block 0, or in the link of the chain. */
static uint64_t entry_byte(const struct slate_media *media,
                           const struct slate_partition *partition)
{
    if (partition->role == SLATE_ROLE_LOGICAL)
        return partition->link * media->geometry.block_bytes +
               SLATE_MBR_ENTRIES;
    return SLATE_MBR_ENTRIES +
           SLATE_MBR_ENTRY_BYTES * (uint64_t)(partition->number - 1);
}

static enum slate_status clear_type(struct span *span,
                                    const struct slate_partition *partition)
{
    uint64_t byte = entry_byte(span->media, partition);
    enum slate_status status = span_read(span, byte, 16);

    if (status != SLATE_OK)
        return status;
    if (span->bytes[TYPE_AT] != partition->mbr_type)
        return SLATE_ERR_CHANGED;
    span->bytes[TYPE_AT] &= (uint8_t)~HIDDEN;
    status = span_write(span);
    if (status == SLATE_OK)
        status = slate_media_flush(span->media);
    if (status == SLATE_OK)
        status = span_read(span, byte, 16);
    if (status == SLATE_OK &&
        span->bytes[TYPE_AT] != (uint8_t)(partition->mbr_type & ~HIDDEN))
        status = SLATE_ERR_STILL_GUARDED;
    return status;
}

/* A flag of an ext superblock is under its checksum: that is written with it,
 * at once. */
static enum slate_status lower(struct span *span, const struct slate_flag *flag,
                               uint64_t super)
{
    bool sealed = flag->kind == SLATE_FLAG_READ_ONLY;
    uint64_t from = sealed ? super : flag->byte;
    enum slate_status status = span_read(span, from, sealed ? SUPER_BYTES : 1);
    uint8_t *byte = span->bytes + (flag->byte - from);

    if (status != SLATE_OK)
        return status;
    if (flag->set)
        *byte |= flag->mask;
    else
        *byte &= (uint8_t)~flag->mask;
    if (sealed)
        slate_ext_seal(span->bytes);
    return span_write(span);
}

static uint32_t count_of(const struct slate_flag *flag, uint32_t count,
                         enum slate_flag_kind kind)
{
    uint32_t found = 0;

    for (uint32_t i = 0; i < count; i++)
        found += flag[i].kind == kind ? 1u : 0u;
    return found;
}

static enum slate_status clear_flags(struct span *span,
                                     const struct slate_range *range,
                                     enum slate_flag_kind kind)
{
    struct slate_flag flag[SLATE_FLAGS_MAX];
    uint64_t super =
        range->first * span->media->geometry.block_bytes + SUPER_AT;
    uint32_t count;
    enum slate_status status =
        slate_volume_flags(span->media, range, span->work, flag, &count);

    if (status == SLATE_OK && count_of(flag, count, kind) == 0)
        status = SLATE_ERR_CHANGED;
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (flag[i].kind == kind)
            status = lower(span, &flag[i], super);
    }
    if (status == SLATE_OK)
        status = slate_media_flush(span->media);
    if (status == SLATE_OK)
        status =
            slate_volume_flags(span->media, range, span->work, flag, &count);
    if (status == SLATE_OK && count_of(flag, count, kind) != 0)
        status = SLATE_ERR_STILL_GUARDED;
    return status;
}

static enum slate_status clear(struct span *span,
                               const struct slate_facts *facts,
                               const struct slate_attribute *attribute)
{
    bool whole = attribute->partition == SLATE_ATTRIBUTE_WHOLE;
    const struct slate_partition *partition =
        whole ? NULL : &facts->partition[attribute->partition];
    struct slate_range range = {0, facts->geometry.block_count};

    if (!whole) {
        range.first = partition->first;
        range.count = partition->count;
    }
    if (attribute->kind == SLATE_ATTRIBUTE_DIRTY)
        return clear_flags(span, &range, SLATE_FLAG_DIRTY);
    if (attribute->kind == SLATE_ATTRIBUTE_READ_ONLY_VOLUME)
        return clear_flags(span, &range, SLATE_FLAG_READ_ONLY);
    if (whole)
        return SLATE_ERR_ARGUMENT;
    if (attribute->kind == SLATE_ATTRIBUTE_HIDDEN_TYPE)
        return clear_type(span, partition);
    return slate_attribute_clear_gpt(span->media, partition,
                                     slate_attribute_bits(attribute->kind),
                                     span->work);
}

enum slate_status slate_attribute_clear(struct slate_media *media,
                                        const struct slate_facts *facts,
                                        const struct slate_attribute *attribute,
                                        void *work, size_t work_bytes)
{
    struct span span = {.media = media, .work = work};
    enum slate_status status, release;

    if (work == NULL || work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    if (attribute->partition != SLATE_ATTRIBUTE_WHOLE &&
        attribute->partition >= facts->layout.count)
        return SLATE_ERR_ARGUMENT;
    if (media->read_only)
        return SLATE_ERR_PROTECTED;
    media->unread = NULL; /* zeros must not stand for what is kept */
    status = slate_media_claim(media);
    if (status != SLATE_OK)
        return status;
    status = clear(&span, facts, attribute);
    release = slate_media_release(media);
    return status != SLATE_OK ? status : release;
}
