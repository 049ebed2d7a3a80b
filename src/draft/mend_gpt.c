/* SPDX-License-Identifier: MIT */
/* Mending a GPT: its second copy first, so that one is whole at any time; what
 * is left of an earlier one last of all (UEFI 2.10, 5.3.2). */
#include <string.h>

#include "assess/judge.h"
#include "base/bytes.h"
#include "draft/mend.h"
#include "table/compose.h"
#include "table/gpt.h"
#include "table/mbr.h"

/* From which copy, and to where. */
struct renewal {
    const struct slate_gpt_copy *from;
    uint64_t blocks; /* of the array */
    struct slate_gpt_place primary, backup;
};

void slate_mend_put_header(const struct slate_gpt_place *place, uint8_t *block)
{
    uint32_t length = slate_le32(block + SLATE_GPT_HEADER_SIZE);

    slate_put_le64(block + SLATE_GPT_MY_LBA, place->header);
    slate_put_le64(block + SLATE_GPT_OTHER_LBA, place->other);
    slate_put_le64(block + SLATE_GPT_FIRST_USABLE, place->first_usable);
    slate_put_le64(block + SLATE_GPT_LAST_USABLE, place->last_usable);
    slate_put_le64(block + SLATE_GPT_ARRAY_LBA, place->array);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, 0);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, slate_crc32(0, block, length));
}

void slate_mend_put_protective(const struct slate_mending *mending,
                               uint8_t *block)
{
    const struct slate_geometry *geometry = &mending->facts->geometry;
    const struct slate_table_plan plan = {.kind = SLATE_TABLE_GPT,
                                          .block_bytes = geometry->block_bytes,
                                          .block_count = geometry->block_count};
    uint8_t *entries = block + SLATE_MBR_ENTRIES;

    memset(entries, 0, SLATE_MBR_SIGNATURE - SLATE_MBR_ENTRIES);
    slate_mbr_put_protective(&plan, block);
}

/* The copy that counts; of a table that does not, the sound one. */
static const struct slate_gpt_copy *find_source(const struct slate_facts *facts)
{
    const struct slate_layout *layout = &facts->layout;

    if (layout->primary.state == SLATE_GPT_SOUND)
        return &layout->primary;
    return layout->backup.state == SLATE_GPT_SOUND ? &layout->backup : NULL;
}

static uint64_t array_blocks(const struct slate_gpt_copy *copy,
                             uint32_t block_bytes)
{
    return ((uint64_t)copy->entry_count * copy->entry_bytes + block_bytes - 1) /
           block_bytes;
}

/* The first block behind all partitions. */
static uint64_t end_of_all(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_GPT ? facts->layout.end
                                                 : facts->shadow.end;
}

/* The room behind the last partition grows or shrinks with the device; what
 * stands ahead of the first one stays. */
static enum slate_status find_places(const struct slate_mending *mending,
                                     struct renewal *renewal)
{
    const struct slate_facts *facts = mending->facts;
    const struct slate_gpt_copy *from = renewal->from;
    uint64_t last = facts->geometry.block_count - 1;
    struct slate_gpt_place *primary = &renewal->primary;

    renewal->blocks = array_blocks(from, facts->geometry.block_bytes);
    if (last < 2 * renewal->blocks + 4)
        return slate_mend_refuse(mending,
                                 "the device is too small for this table");
    primary->header = 1;
    primary->other = last;
    primary->array = from == &facts->layout.primary ? from->array_lba : 2;
    primary->first_usable = from->first_usable;
    primary->last_usable = last - renewal->blocks - 1;
    if (primary->array < 2 ||
        primary->array + renewal->blocks > primary->first_usable)
        return slate_mend_refuse(mending,
                                 "there is no room for the table's entries "
                                 "ahead of its first usable block");
    if (end_of_all(facts) > primary->last_usable + 1)
        return slate_mend_refuse(mending,
                                 "a partition lies where the second copy of "
                                 "the table has to be");
    renewal->backup = *primary;
    renewal->backup.header = last;
    renewal->backup.other = 1;
    renewal->backup.array = last - renewal->blocks;
    return SLATE_OK;
}

static enum slate_status put_copy(const struct slate_mending *mending,
                                  const struct renewal *renewal, bool backup)
{
    const struct slate_patching *patching = &mending->patching;
    const struct slate_gpt_place *place =
        backup ? &renewal->backup : &renewal->primary;
    enum slate_moment moment =
        backup ? SLATE_MOMENT_TABLE_COPY : SLATE_MOMENT_TABLE;
    enum slate_patch_role role =
        backup ? SLATE_PATCH_TABLE_COPY : SLATE_PATCH_TABLE;
    uint32_t bytes = mending->facts->geometry.block_bytes;
    enum slate_status status = SLATE_OK;
    uint8_t *block;

    /* its own entries stay: the checksum in the header tells of a change */
    for (uint64_t i = place->array == renewal->from->array_lba ? renewal->blocks
                                                               : 0;
         i <= renewal->blocks && status == SLATE_OK; i++) {
        bool header = i == renewal->blocks;

        status = slate_media_read(patching->media,
                                  header ? renewal->from->lba
                                         : renewal->from->array_lba + i,
                                  1, patching->work);
        if (status == SLATE_OK)
            status = slate_mend_block(mending,
                                      header ? place->header : place->array + i,
                                      moment, role, &block);
        if (status != SLATE_OK)
            return status;
        memcpy(block, patching->work, bytes);
        if (header)
            slate_mend_put_header(place, block);
    }
    return status;
}

/* What was the second copy of a smaller device stands in nobody's way, and
 * would be found again. */
static enum slate_status clear_former(const struct slate_mending *mending,
                                      const struct renewal *renewal)
{
    const struct slate_gpt_copy *former = &mending->facts->layout.backup;
    uint8_t *block;
    enum slate_status status;

    if (former->state != SLATE_GPT_SOUND ||
        former->lba >= renewal->backup.array || former->lba <= 1 ||
        former->lba < end_of_all(mending->facts))
        return SLATE_OK;
    status = slate_mend_block(mending, former->lba, SLATE_MOMENT_COMMIT,
                              SLATE_PATCH_TABLE_COPY, &block);
    if (status == SLATE_OK)
        memset(block, 0, mending->facts->geometry.block_bytes);
    return status;
}

static enum slate_status protect(const struct slate_mending *mending,
                                 enum slate_moment moment)
{
    uint8_t *block;
    enum slate_status status =
        slate_mend_block(mending, 0, moment, SLATE_PATCH_TABLE, &block);

    if (status == SLATE_OK)
        slate_mend_put_protective(mending, block);
    return status;
}

enum slate_status slate_mend_gpt(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    struct renewal renewal = {.from = find_source(facts)};
    enum slate_status status;

    if (renewal.from == NULL)
        return slate_mend_refuse(mending, "no copy of the table is sound");
    status = find_places(mending, &renewal);
    if (status == SLATE_OK)
        status = put_copy(mending, &renewal, true);
    if (status == SLATE_OK)
        status = put_copy(mending, &renewal, false);
    if (status == SLATE_OK)
        status = clear_former(mending, &renewal);
    /* what makes it count again comes when both copies are there */
    if (status == SLATE_OK && facts->layout.hybrid == 0 &&
        (!facts->layout.protective || slate_is_protective_wrong(facts) ||
         facts->layout.kind != SLATE_TABLE_GPT))
        status = protect(mending, SLATE_MOMENT_COMMIT);
    return status;
}

enum slate_status slate_mend_hybrid(const struct slate_mending *mending)
{
    return protect(mending, SLATE_MOMENT_TABLE);
}

/* A copy that a reader would find: its signature goes, the rest is nobody's. */
static enum slate_status clear_copy(const struct slate_mending *mending,
                                    const struct slate_gpt_copy *copy)
{
    const struct slate_facts *facts = mending->facts;
    uint8_t *block;
    enum slate_status status;

    if (copy->state != SLATE_GPT_SOUND &&
        copy->state != SLATE_GPT_ARRAY_DAMAGED &&
        copy->state != SLATE_GPT_HEADER_DAMAGED)
        return SLATE_OK;
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (copy->lba >= one->first && copy->lba - one->first < one->count)
            return slate_mend_refuse(mending,
                                     "it lies in a partition: what is there "
                                     "may be a file");
    }
    status = slate_mend_block(
        mending, copy->lba,
        copy->lba == 1 ? SLATE_MOMENT_TABLE : SLATE_MOMENT_TABLE_COPY,
        copy->lba == 1 ? SLATE_PATCH_TABLE : SLATE_PATCH_TABLE_COPY, &block);
    if (status == SLATE_OK)
        memset(block, 0, facts->geometry.block_bytes);
    return status;
}

enum slate_status slate_mend_remains(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    enum slate_status status;

    if (facts->layout.kind == SLATE_TABLE_NONE &&
        slate_volume_is_known(facts->whole.kind))
        return slate_mend_refuse(mending,
                                 "a volume takes the whole device: what is "
                                 "there may be its own");
    status = clear_copy(mending, &facts->layout.backup);
    return status == SLATE_OK ? clear_copy(mending, &facts->layout.primary)
                              : status;
}
