/* SPDX-License-Identifier: MIT */
/* Mending a GPT, so that one copy is whole at any time; what is left of an
 * earlier one goes last of all (UEFI 2.10, 5.3.2). */

#include "assess/judge/judge.h"
#include "base/base.h"
#include "draft/mend/mend.h"
#include "table/table.h"

/* All else in it stays. */
static void put_header(const struct slate_gpt_place *place, uint8_t *block)
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

/* A first header that is sound leads to the second copy, wherever that is: the
 * entries behind it are made right first, and it is changed once both copies
 * are there. Otherwise the second copy stands at the end, and the first one is
 * written before that is touched. */
static enum slate_moment moment_of(const struct slate_mending *mending,
                                   bool backup, bool header)
{
    bool leads =
        mending->facts->layout.primary.state >= SLATE_GPT_ARRAY_DAMAGED;

    if (!leads)
        return backup ? SLATE_MOMENT_TABLE : SLATE_MOMENT_TABLE_COPY;
    if (backup)
        return SLATE_MOMENT_TABLE_COPY;
    return header ? SLATE_MOMENT_TABLE : SLATE_MOMENT_COPIES;
}

/* A block of a copy: of its array, or behind that the header. */
static enum slate_status put_block(const struct slate_mending *mending,
                                   const struct slate_gpt_places *places,
                                   bool backup, uint64_t index)
{
    const struct slate_patching *patching = &mending->patching;
    const struct slate_gpt_place *place =
        backup ? &places->backup : &places->primary;
    bool header = index == places->array_blocks;
    uint8_t *block;
    enum slate_status status = slate_media_read(
        patching->media,
        header ? places->from->lba : places->from->array_lba + index, 1,
        patching->work);

    SLATE_THEN(
        status,
        slate_mend_block(mending, header ? place->header : place->array + index,
                         moment_of(mending, backup, header),
                         backup ? SLATE_PATCH_TABLE_COPY : SLATE_PATCH_TABLE,
                         &block));
    SLATE_TRY(status);
    memcpy(block, patching->work, mending->facts->geometry.block_bytes);
    if (header)
        put_header(place, block);
    return status;
}

/* The entries of the copy that counts stay where they are: the checksum in its
 * header tells of a change. */
static enum slate_status put_copy(const struct slate_mending *mending,
                                  const struct slate_gpt_places *places,
                                  bool backup)
{
    const struct slate_gpt_place *place =
        backup ? &places->backup : &places->primary;
    bool own = place->array == places->from->array_lba;
    enum slate_status status = SLATE_OK;

    for (uint64_t i = own ? places->array_blocks : 0;
         i <= places->array_blocks && status == SLATE_OK; i++)
        status = put_block(mending, places, backup, i);
    return status;
}

/* What was the second copy of a smaller device stands in nobody's way, and
 * would be found again. */
static enum slate_status clear_former(const struct slate_mending *mending,
                                      const struct slate_gpt_places *places)
{
    const struct slate_gpt_copy *former = &mending->facts->layout.backup;
    uint8_t *block;
    enum slate_status status;

    if (former->state != SLATE_GPT_SOUND ||
        former->lba >= places->backup.array || former->lba <= 1 ||
        former->lba < places->end)
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
    struct slate_gpt_places places;
    enum slate_status status;

    if (slate_gpt_places(facts, &places) != NULL)
        return SLATE_ERR_ARGUMENT;
    status = put_copy(mending, &places, true);
    SLATE_THEN(status, put_copy(mending, &places, false));
    SLATE_THEN(status, clear_former(mending, &places));
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

/* A copy that a reader would find: its header goes, the rest is nobody's. */
static enum slate_status clear_copy(const struct slate_mending *mending,
                                    const struct slate_gpt_copy *copy)
{
    bool first = copy->lba == 1;
    uint8_t *block;
    enum slate_status status;

    if (copy->state != SLATE_GPT_SOUND &&
        copy->state != SLATE_GPT_ARRAY_DAMAGED &&
        copy->state != SLATE_GPT_HEADER_DAMAGED)
        return SLATE_OK;
    status = slate_mend_block(
        mending, copy->lba,
        first ? SLATE_MOMENT_TABLE : SLATE_MOMENT_TABLE_COPY,
        first ? SLATE_PATCH_TABLE : SLATE_PATCH_TABLE_COPY, &block);
    if (status == SLATE_OK)
        memset(block, 0, mending->facts->geometry.block_bytes);
    return status;
}

enum slate_status slate_mend_remains(const struct slate_mending *mending)
{
    const struct slate_layout *layout = &mending->facts->layout;
    enum slate_status status = clear_copy(mending, &layout->backup);

    return status == SLATE_OK ? clear_copy(mending, &layout->primary) : status;
}
