/* SPDX-License-Identifier: MIT */
/* Attributes in the content as a change in place: which bits, in which blocks,
 * under which checksums. */

#include "base/base.h"
#include "draft/make/make.h"
#include "draft/mend/mend.h"
#include "table/table.h"
#include "volume/ext/ext.h"

#define HIDDEN 0x10
#define SUPER_AT 1024u
#define SUPER_BYTES 1024u

/* The type of a partition's entry: in block 0, or in the link of the chain. */
static uint64_t type_byte(const struct slate_media *media,
                          const struct slate_partition *partition)
{
    uint64_t link = 0, number = partition->number - 1;

    if (partition->role == SLATE_ROLE_LOGICAL) {
        link = partition->link;
        number = 0;
    }
    return link * media->geometry.block_bytes + SLATE_MBR_ENTRIES +
           SLATE_MBR_ENTRY_BYTES * number + SLATE_MBR_ENTRY_TYPE;
}

static enum slate_status clear_type(const struct slate_patching *patching,
                                    const struct slate_partition *partition)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    uint64_t byte = type_byte(patching->media, partition);
    struct slate_patch patch = {byte / block_bytes, SLATE_MOMENT_TABLE,
                                SLATE_PATCH_TABLE};
    uint8_t *block;
    enum slate_status status;

    SLATE_TRY(slate_patch_read(patching, patch.lba, patching->work));
    if (patching->work[byte % block_bytes] != partition->mbr_type)
        return SLATE_ERR_CHANGED;
    status = slate_patch_block(patching, &patch, &block);
    if (status == SLATE_OK)
        block[byte % block_bytes] &= (uint8_t)~HIDDEN;
    return status;
}

static void lower(const struct slate_flag *flag, uint8_t *byte)
{
    if (flag->set)
        *byte |= flag->mask;
    else
        *byte &= (uint8_t)~flag->mask;
}

static enum slate_status lower_flag(const struct slate_patching *patching,
                                    const struct slate_flag *flag, bool copy)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    struct slate_patch patch = {flag->byte / block_bytes,
                                copy ? SLATE_MOMENT_COPIES : SLATE_MOMENT_BODY,
                                copy ? SLATE_PATCH_VOLUME_COPY
                                     : SLATE_PATCH_VOLUME};
    uint8_t *block;
    enum slate_status status = slate_patch_block(patching, &patch, &block);

    if (status == SLATE_OK)
        lower(flag, block + flag->byte % block_bytes);
    return status;
}

/* The flag of an ext superblock is under its checksum, which may stand in
 * another block. */
static enum slate_status lower_sealed(const struct slate_patching *patching,
                                      const struct slate_flag *flag,
                                      uint64_t super)
{
    uint8_t *bytes;

    SLATE_TRY(slate_patch_get(patching, super, SUPER_BYTES, &bytes));
    lower(flag, bytes + (flag->byte - super));
    slate_ext_seal(bytes);
    return slate_patch_put(patching, super, bytes, SUPER_BYTES);
}

static enum slate_status clear_flags(const struct slate_patching *patching,
                                     const struct slate_range *range,
                                     enum slate_flag_kind kind)
{
    struct slate_flag flag[SLATE_FLAGS_MAX];
    uint64_t super =
        range->first * patching->media->geometry.block_bytes + SUPER_AT;
    uint32_t count, of_kind = 0;
    enum slate_status status = slate_volume_flags(patching->media, range,
                                                  patching->work, flag, &count);

    SLATE_TRY(status);
    for (uint32_t i = 0; i < count; i++) {
        if (flag[i].kind == kind)
            flag[of_kind++] = flag[i];
    }
    for (uint32_t i = 0; i < of_kind && status == SLATE_OK; i++)
        status = kind == SLATE_FLAG_READ_ONLY
                     ? lower_sealed(patching, &flag[i], super)
                     : lower_flag(patching, &flag[i], i + 1 < of_kind);
    return of_kind == 0 ? SLATE_ERR_CHANGED : status;
}

static enum slate_status clear(const struct slate_patching *patching,
                               const struct slate_facts *facts,
                               const struct slate_attribute *attribute)
{
    bool whole = attribute->partition == SLATE_ATTRIBUTE_WHOLE;
    const struct slate_partition *partition =
        whole ? NULL : &facts->partition[attribute->partition];
    struct slate_range range = {0, facts->geometry.block_count};
    struct slate_gpt_change change = {.type = NULL};

    if (!whole) {
        range.first = partition->first;
        range.count = partition->count;
    }
    if (attribute->kind == SLATE_ATTRIBUTE_DIRTY)
        return clear_flags(patching, &range, SLATE_FLAG_DIRTY);
    if (attribute->kind == SLATE_ATTRIBUTE_READ_ONLY_VOLUME)
        return clear_flags(patching, &range, SLATE_FLAG_READ_ONLY);
    if (whole)
        return SLATE_ERR_ARGUMENT;
    if (attribute->kind == SLATE_ATTRIBUTE_HIDDEN_TYPE)
        return clear_type(patching, partition);
    change.number = partition->number;
    change.clear = slate_attribute_bits(attribute->kind);
    return slate_patch_gpt(patching, partition, &change);
}

enum slate_status slate_draft_clear(struct slate_draft *draft,
                                    const struct slate_facts *facts,
                                    const struct slate_attribute *attribute,
                                    struct slate_media *media, void *work)
{
    struct slate_patching patching = {draft, media, work};
    struct slate_change *change = &draft->change;
    bool whole = attribute->partition == SLATE_ATTRIBUTE_WHOLE;
    /* zeros must not stand for what is kept */
    const struct slate_policy strict = {.unread = NULL};
    struct slate_policy before;
    enum slate_status status;

    if (work == NULL)
        return SLATE_ERR_BUFFER;
    SLATE_TRY(slate_draft_grow(draft, "attributes that are cleared",
                               &change->clear, (uint64_t)change->clears + 1,
                               sizeof *change->clear));
    if ((unsigned)attribute->kind >= SLATE_ATTRIBUTE_KINDS ||
        (!whole && attribute->partition >= facts->layout.count))
        return SLATE_ERR_ARGUMENT;
    before = slate_media_read_by(media, &strict);
    status = clear(&patching, facts, attribute);
    (void)slate_media_read_by(media, &before);
    SLATE_TRY(status);
    change->clear[change->clears].kind = attribute->kind;
    change->clear[change->clears++].number =
        whole ? 0 : facts->partition[attribute->partition].number;
    return SLATE_OK;
}
