/* SPDX-License-Identifier: MIT */
/* Fuzz target: what is mended in place, converted, searched for and put back,
 * on tables and volumes of any content. What a draft takes touches no block of
 * a partition, but the first ones of a volume that come back, and links. */
#include <string.h>

#include "sparse.h"
#include "target.h"

#define FOUND 4u
#define STEPS 6 /* of a search */

static struct slate_facts facts;
static struct slate_media media;
static struct slate_draft draft;
static uint8_t work[SLATE_WORK_MIN];

static void place(void)
{
    static uint64_t room[1048576];

    slate_draft_place(&draft, room, sizeof room);
    demand(slate_draft_base(&draft, &facts) == SLATE_OK);
}

static bool is_in(uint64_t lba, uint64_t first, uint64_t count)
{
    return lba >= first && lba - first < count;
}

/* Does a patch touch what stays? */
static bool touches_data(uint64_t lba)
{
    for (uint32_t i = 0; i < facts.layout.count; i++) {
        const struct slate_partition *one = &facts.partition[i];

        if (one->role != SLATE_ROLE_EXTENDED &&
            is_in(lba, one->first, one->count))
            return true;
    }
    return false;
}

/* Made, it stays within the device, and parts and patches apart. */
static void hold(bool sound)
{
    const struct slate_change *change = &draft.change;

    demand(slate_draft_make(&draft) != SLATE_ERR_ARGUMENT);
    for (uint32_t i = 0; i < change->patches; i++) {
        uint64_t lba = change->patch[i].lba;

        demand(lba < facts.geometry.block_count);
        demand(i == 0 || lba > change->patch[i - 1].lba);
        demand(!sound || !touches_data(lba));
        for (uint32_t n = 0; n < draft.parts; n++)
            demand(!is_in(lba, draft.part[n].range.first,
                          draft.part[n].range.count));
    }
    for (uint32_t n = 0; sound && n < draft.parts; n++) {
        demand(!touches_data(draft.part[n].range.first));
        demand(draft.part[n].range.count <=
               facts.geometry.block_count - draft.part[n].range.first);
    }
}

/* Overlapping tables are not converted; a start is in its partition. */
static bool is_of_table(enum slate_mend_kind kind)
{
    return kind == SLATE_MEND_TO_GPT || kind == SLATE_MEND_TO_MBR;
}

static void try_one(struct slate_mend mend, bool beside)
{
    const struct slate_ask ask = {.volume = SLATE_VOLUME_NONE};
    enum slate_status status;

    if (!slate_mend_holds(&facts, &mend))
        return;
    place();
    if (beside)
        demand(slate_draft_ask(&draft, &ask) == SLATE_OK);
    status = slate_draft_mend(&draft, &facts, &mend, &media, work);
    demand(status != SLATE_ERR_INTERNAL);
    demand(status != SLATE_ERR_IN_THE_WAY || draft.obstacle.why != NULL ||
           draft.why != NULL);
    if (status == SLATE_OK)
        hold(is_of_table(mend.kind));
}

static void try_all(void)
{
    struct slate_mend mend;

    for (uint32_t i = 0; slate_mend_next(&facts, i, &mend) && i < 64; i++)
        try_one(mend, false);
    for (int kind = 0; kind < SLATE_MEND_KINDS; kind++) {
        for (uint32_t i = 0; i <= facts.layout.count && i < 8; i++) {
            mend.kind = (enum slate_mend_kind)kind;
            mend.partition =
                i == facts.layout.count ? SLATE_ATTRIBUTE_WHOLE : i;
            try_one(mend, false);
            if (is_of_table(mend.kind))
                try_one(mend, true);
        }
    }
}

static void put_back(const struct slate_lost *lost, uint32_t count,
                     enum slate_table_kind table)
{
    enum slate_status status;

    place();
    status =
        slate_draft_put_back(&draft, &facts, lost, count, table, &media, work);
    demand(status != SLATE_ERR_INTERNAL && status != SLATE_ERR_ARGUMENT);
    if (status != SLATE_OK)
        return;
    hold(true);
    for (uint32_t i = 0; i < draft.change.patches; i++) {
        for (uint32_t n = 0; n < count; n++)
            demand(!is_in(draft.change.patch[i].lba, lost[n].first,
                          lost[n].count));
    }
}

static void search(void)
{
    static struct slate_lost lost[FOUND];
    struct slate_search search;
    char words[400];
    struct slate_text text;

    if (slate_search_start(&search, &media, &facts, 0, 0, lost, FOUND, work) !=
        SLATE_OK)
        return;
    for (int i = 0; i < STEPS && !search.finished; i++)
        demand(slate_search_step(&search) == SLATE_OK);
    for (uint32_t i = 0; i < search.count; i++) {
        demand(lost[i].count > 0 && !touches_data(lost[i].first));
        slate_text_start(&text, words, sizeof words);
        slate_lost_words(&lost[i], &text);
        demand(words[0] != '\0');
        put_back(&lost[i], 1, SLATE_TABLE_MBR);
        put_back(&lost[i], 1, SLATE_TABLE_GPT);
    }
    if (search.count > 1)
        put_back(lost, search.count, SLATE_TABLE_GPT);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static struct sparse sparse;
    static struct slate_partition listed[SLATE_FACTS_PARTITIONS];
    static struct slate_volume volumes[SLATE_FACTS_PARTITIONS];
    static struct slate_seen ranges[SLATE_EVIDENCE_RANGES];
    const struct slate_facts_room room = {
        listed, volumes, SLATE_FACTS_PARTITIONS, ranges, SLATE_EVIDENCE_RANGES};

    if (!sparse_open(&sparse, bytes, length) ||
        slate_media_open(&media, &sparse.port) != SLATE_OK)
        return 0;
    slate_facts_place(&facts, &room);
    demand(slate_assess_look(&media, SLATE_DEPTH_FULL, work, sizeof work,
                             &facts) == SLATE_OK);
    try_all();
    search();
    return 0;
}
