/* SPDX-License-Identifier: MIT */
/* Fuzz target: everything that is read of a device, what is concluded of it,
 * and all words on that. */
#include <string.h>

#include "sparse.h"
#include "target.h"

static void say_all(struct slate_draft *draft, const struct slate_facts *facts)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    uint32_t count = slate_assess_judge(facts, findings);

    demand(count >= 1 && count <= SLATE_FINDINGS_MAX);
    for (uint32_t i = 0; i < count; i++) {
        struct slate_remedy remedy;

        for (int part = 0; part <= SLATE_FINDING_HELP; part++) {
            char words[1024];
            struct slate_text text;

            slate_text_start(&text, words, sizeof words);
            slate_finding_words(facts, &findings[i],
                                (enum slate_finding_part)part, &text);
            demand(strlen(words) > 0);
        }
        slate_advise_remedy(draft, facts, &findings[i], &remedy);
    }
}

/* Stretches come in order, and cover the device. */
static void tour(const struct slate_facts *facts)
{
    struct slate_tour tour = {0};
    struct slate_stretch one;
    uint64_t blocks = facts->geometry.block_count, first = 0, reached = 0;

    while (slate_layout_next(&facts->layout, blocks, &tour, &one)) {
        demand(one.count >= 1 && one.first >= first && one.first <= reached &&
               one.count <= blocks - one.first);
        first = one.first;
        if (one.first + one.count > reached)
            reached = one.first + one.count;
    }
    demand(reached == blocks);
}

/* Each can be cleared, or is refused with nothing added. */
static void clear_attributes(struct slate_draft *draft,
                             const struct slate_facts *facts,
                             struct slate_media *media, uint8_t *work)
{
    struct slate_attribute attribute;
    uint32_t count = 0;

    demand(slate_draft_base(draft, facts) == SLATE_OK);
    while (slate_attribute_next(facts, count, &attribute)) {
        enum slate_status status;

        demand(attribute.partition == SLATE_ATTRIBUTE_WHOLE ||
               attribute.partition < facts->layout.count);
        demand(++count <= SLATE_ATTRIBUTE_KINDS * SLATE_FACTS_PARTITIONS);
        status = slate_draft_clear(draft, facts, &attribute, media, work);
        if (status == SLATE_ERR_BUFFER)
            return;
        demand(status == SLATE_OK || status == SLATE_ERR_ONE_COPY);
    }
    if (slate_draft_is_change(draft) && slate_draft_make(draft) == SLATE_OK)
        demand(slate_draft_blocks(draft, true) == draft->change.patches);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static struct sparse sparse;
    static struct slate_media media;
    static struct slate_facts facts;
    static struct slate_partition listed[SLATE_FACTS_PARTITIONS];
    static struct slate_volume volumes[SLATE_FACTS_PARTITIONS];
    static struct slate_seen ranges[SLATE_EVIDENCE_RANGES];
    const struct slate_facts_room facts_room = {
        listed, volumes, SLATE_FACTS_PARTITIONS, ranges, SLATE_EVIDENCE_RANGES};
    static uint8_t work[SLATE_WORK_MIN];
    static struct slate_draft draft;
    static uint64_t room[131072];
    const struct slate_ask ask = {.volume = SLATE_VOLUME_NONE};

    if (!sparse_open(&sparse, bytes, length) ||
        slate_media_open(&media, &sparse.port) != SLATE_OK)
        return 0;
    slate_facts_place(&facts, &facts_room);
    demand(slate_assess_look(&media, SLATE_DEPTH_FULL, work, sizeof work,
                             &facts) == SLATE_OK);
    demand(media.traffic.commands <= 256 &&
           media.traffic.blocks_read * media.geometry.block_bytes <= 4194304);
    slate_draft_place(&draft, room, sizeof room);
    say_all(&draft, &facts);
    tour(&facts);
    slate_draft_place(&draft, room, sizeof room);
    clear_attributes(&draft, &facts, &media, work);
    demand(slate_facts_hidden_bytes(&facts) <=
           slate_geometry_bytes(&facts.geometry));
    slate_draft_place(&draft, room, sizeof room);
    demand(slate_draft_ask(&draft, &ask) == SLATE_OK);
    demand(slate_draft_base(&draft, &facts) == SLATE_OK);
    if (slate_draft_make(&draft) == SLATE_OK)
        demand(slate_draft_blocks(&draft, true) <= facts.geometry.block_count);
    return 0;
}
