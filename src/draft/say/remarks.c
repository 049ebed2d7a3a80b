/* SPDX-License-Identifier: MIT */
/* A draft in words: why this table and this volume, what was adapted, what to
 * expect. */

#include "base/base.h"
#include "draft/place/place.h"
#include "volume/common/common.h"
#include "table/table.h"

/* Of data that stays. */
static void remark_stay(const struct slate_draft *draft,
                        struct slate_text *text)
{
    if (!draft->switched)
        return;
    slate_text_add(
        text,
        slate_draft_is_change(draft) && draft->parts > 0
            ? "The partitions that are there stay to the last bit; what is new "
              "comes where none is."
        : slate_draft_is_change(draft)
            ? "Nothing but these blocks is written, and in them nothing "
              "changes but what is asked for, and what the checksums over it "
              "need."
        : draft->table_stays
            ? "The table is not written to, nor is any partition that stays."
            : "The table stays as it is, but for the entries of what goes and "
              "what is new.");
}

/* The table that was asked for. */
static const char *given_table(const struct slate_draft *draft)
{
    switch (draft->table.kind) {
    case SLATE_TABLE_MBR:
        return "MBR: every host, camera and player reads it.";
    case SLATE_TABLE_GPT:
        return "GPT: for everything new; cameras, players and old firmware may "
               "not read it.";
    case SLATE_TABLE_NONE:
    default:
        return draft->part[0].ask.bare
                   ? "No table and no volume: hosts will ask to set it up."
                   : "No table: the volume begins at block 0; a few hosts "
                     "insist on a table.";
    }
}

/* Of a device that has fewer blocks than it claims. */
static void remark_within(const struct slate_draft *draft,
                          struct slate_text *text)
{
    const struct slate_geometry *geometry = &draft->basis.geometry;

    if (geometry->block_count >= slate_draft_claimed(draft))
        return;
    SLATE_SAY(text,
              "The device claims {}; of that the first {} alone are used. It "
              "is no healthy device: nothing stops hosts from writing beyond "
              "them. Mark it by hand.",
              AS_DECIMAL(slate_draft_claimed(draft) * geometry->block_bytes),
              AS_DECIMAL(slate_geometry_bytes(geometry)));
}

static void remark_table(const struct slate_draft *draft,
                         struct slate_text *text)
{
    if (draft->switched)
        return;
    if (draft->goal.table_given)
        slate_text_add(text, given_table(draft));
    else if (draft->table.kind == draft->advice->table)
        slate_text_add(text, draft->advice->table_why);
    else
        slate_text_add(text,
                       "GPT: an MBR does not reach all of this device; "
                       "cameras, players and old firmware may not read it.");
}

/* What a table that was asked for does not reach. */
static void remark_reach(const struct slate_draft *draft,
                         struct slate_text *text)
{
    const struct slate_geometry *geometry = &draft->basis.geometry;
    struct slate_range usable;

    if (draft->switched || draft->table.kind != SLATE_TABLE_MBR ||
        slate_table_choose(geometry) == SLATE_TABLE_MBR)
        return;
    slate_table_usable(SLATE_TABLE_MBR, 0, geometry, &usable);
    SLATE_SAY(text,
              "An MBR reaches the first {}: the other {} of this device cannot "
              "be used; a GPT would reach them.",
              AS_DECIMAL((usable.first + usable.count) * geometry->block_bytes),
              AS_DECIMAL((geometry->block_count - usable.first - usable.count) *
                         geometry->block_bytes));
}

static void remark_entries(const struct slate_draft *draft,
                           struct slate_text *text)
{
    uint32_t entries = draft->goal.entries;

    if (draft->table.kind != SLATE_TABLE_GPT || entries == 0 || entries >= 128)
        return;
    SLATE_SAY(
        text,
        "A GPT of {} entries: some hosts take only tables of 128 or more.",
        AS_NUMBER(entries));
}

static void remark_cylinders(const struct slate_draft *draft,
                             struct slate_text *text)
{
    if (draft->grid.heads == 0)
        return;
    SLATE_SAY(
        text,
        "Partitions begin and end with cylinders of {} heads and {} sectors.",
        AS_NUMBER(draft->grid.heads), AS_NUMBER(draft->grid.track_sectors));
}

static void remark_active(const struct slate_draft *draft,
                          struct slate_text *text)
{
    if (!slate_draft_starts(draft, 0) || draft->parts == 0)
        return;
    slate_text_add(
        text, "The first partition is active, as what starts from it expects.");
}

/* Remarks on one part are made of the first one that they are true of. */
static bool figures_of(const struct slate_part *part,
                       struct slate_figures *figures)
{
    if (part->format == NULL)
        return false;
    part->format->figures(&part->volume, figures);
    return true;
}

static const char *words_of(const struct slate_part *part)
{
    return slate_volume_words(part->format->kind);
}

static void remark_logical(const struct slate_draft *draft,
                           struct slate_text *text)
{
    uint32_t logical = 0;

    for (uint32_t i = 0; i < draft->parts; i++)
        logical +=
            slate_draft_is_logical(draft, i) && draft->part[i].ask.keep == 0
                ? 1u
                : 0u;
    if (logical == 0)
        return;
    SLATE_SAY(text,
              "An MBR has four entries: {}{}, in a container; some players and "
              "cameras read the first partition only.",
              AS_NUMBER(logical),
              AS_TEXT(logical == 1 ? " new partition is a logical one"
                                   : " new partitions are logical ones"));
}

#define NUMBERS_TOLD 4u

/* Hosts count logical partitions in the order of their links. */
static void remark_numbers(const struct slate_draft *draft,
                           struct slate_text *text)
{
    uint32_t changed = 0;

    for (uint32_t i = 0; i < draft->parts && draft->switched; i++) {
        uint32_t keep = draft->part[i].ask.keep;
        const struct slate_partition *entry = slate_draft_entry(draft, i);

        if (keep == 0 || entry == NULL || entry->number == keep)
            continue;
        if (changed++ >= NUMBERS_TOLD)
            continue;
        SLATE_SAY(
            text, "{}{} becomes {}",
            AS_TEXT(changed == 1
                        ? "Logical partitions are counted in their order: "
                        : ", "),
            AS_NUMBER(keep), AS_NUMBER(entry->number));
    }
    if (changed > NUMBERS_TOLD)
        slate_text_add(text, ", and so on");
    if (changed > 0)
        slate_text_add(text, "; what names them by number has to be told.");
}

static void remark_label(const struct slate_draft *draft,
                         const struct slate_part *part, struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) ||
        slate_same_text(part->ask.label, figures.label))
        return;
    SLATE_SAY(text, "The label becomes \"{}\": {} {}.", AS_TEXT(figures.label),
              AS_TEXT(words_of(part)), AS_TEXT(part->format->label_rule));
}

static void remark_kind(const struct slate_draft *draft,
                        const struct slate_part *part, struct slate_text *text)
{
    const char *room = draft->parts == 1 ? "device" : "partition";

    if (part->format == NULL || part->ask.volume != SLATE_VOLUME_NONE ||
        part->format->kind == SLATE_VOLUME_FAT32 || draft->card != NULL ||
        !slate_kind_is_akin(part->format->kind, SLATE_VOLUME_FAT32) ||
        (part->way != NULL && part->way->why != NULL))
        return;
    slate_text_add(text, words_of(part));
    if (part->ask.cluster_bytes == 0) {
        SLATE_SAY(text, ": the {} is too small for FAT32; every host reads it.",
                  AS_TEXT(room));
        return;
    }
    SLATE_SAY(
        text,
        ": with clusters of {} bytes a {} of this size has too few for FAT32.",
        AS_NUMBER(part->ask.cluster_bytes), AS_TEXT(room));
}

static void remark_small_clusters(const struct slate_draft *draft,
                                  const struct slate_part *part,
                                  struct slate_text *text)
{
    struct slate_figures figures;

    if (!figures_of(part, &figures) || part->ask.cluster_bytes != 0 ||
        figures.cluster_bytes >= 4096 ||
        part->format->kind != SLATE_VOLUME_FAT32)
        return;
    SLATE_SAY(text,
              "Clusters of {} bytes: with larger ones a {} of this size has "
              "too few for FAT32.",
              AS_NUMBER(figures.cluster_bytes),
              AS_TEXT(draft->parts == 1 ? "device" : "partition"));
}

static void remark_large_clusters(const struct slate_draft *draft,
                                  const struct slate_part *part,
                                  struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) || figures.cluster_bytes <= 32768 ||
        !slate_kind_is_akin(part->format->kind, SLATE_VOLUME_FAT32))
        return;
    slate_text_add(text,
                   "Clusters of 64 KiB: some old devices read at most 32 KiB.");
}

static void remark_limit(const struct slate_draft *draft,
                         const struct slate_part *part, struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) || figures.room_bytes <= figures.file_most)
        return;
    SLATE_SAY(text, "A single file on {} can hold up to {} GiB.",
              AS_TEXT(words_of(part)),
              AS_NUMBER((figures.file_most >> 30) + 1));
}

static void remark_type(const struct slate_draft *draft,
                        const struct slate_part *part, struct slate_text *text)
{
    const struct slate_guid *gpt =
        slate_draft_gpt_type(draft, (uint32_t)(part - draft->part));
    bool by_hand = (part->ask.mbr_type != 0 &&
                    part->ask.mbr_type != slate_draft_mbr_type(draft, part)) ||
                   (!slate_is_zero(part->ask.gpt_type.bytes, 16) &&
                    memcmp(part->ask.gpt_type.bytes, gpt->bytes, 16) != 0);

    if (part->format == NULL || !by_hand)
        return;
    SLATE_SAY(text,
              "The type that was asked for is not the one that goes with {}: "
              "hosts may not show the volume.",
              AS_TEXT(words_of(part)));
}

/* Why this volume remark_why the use, and what speaks against it. */
static void remark_why(const struct slate_draft *draft,
                       const struct slate_part *part, struct slate_text *text)
{
    (void)draft;
    if (part->way == NULL || part->way->why == NULL)
        return;
    slate_text_add(text, part->way->why);
}

static void remark_drawback(const struct slate_draft *draft,
                            const struct slate_part *part,
                            struct slate_text *text)
{
    (void)draft;
    if (part->way == NULL || part->way->against == NULL)
        return;
    slate_text_add(text, part->way->against);
}

/* Bad blocks, and what they take. */
static void remark_bad(const struct slate_draft *draft,
                       const struct slate_part *part, struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) || figures.bad_clusters == 0)
        return;
    SLATE_SAY(text, "{}{} bad blocks and will not be used: {} less for files.",
              AS_NUMBER(figures.bad_clusters),
              AS_TEXT(figures.bad_clusters == 1 ? " cluster holds"
                                                : " clusters hold"),
              AS_SIZE(figures.bad_clusters * figures.cluster_bytes));
}

/* Whether a machine starts by it depends on more than the volume. */
static void remark_start_code(const struct slate_draft *draft,
                              const struct slate_part *part,
                              struct slate_text *text)
{
    if (!part->ask.start)
        return;
    slate_text_add(text, "The volume's boot block has the start-up code that "
                         "was given; what it does was not looked at.");
    if (draft->table.kind == SLATE_TABLE_MBR && !draft->goal.keep_code)
        slate_text_add(text, " Block 0 will have no code that leads to it, "
                             "unless what is there is kept.");
}

/* What mends a volume after a power cut, and what is without it. */
static void remark_no_journal(const struct slate_draft *draft,
                              const struct slate_part *part,
                              struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) || !figures.no_journal)
        return;
    slate_text_add(text, "Without a journal: after a power cut the volume has "
                         "to be checked as a whole.");
}

/* As a card of this capacity is laid out. */
static void remark_card(const struct slate_draft *draft,
                        struct slate_text *text)
{
    if (draft->card == NULL)
        return;
    SLATE_SAY(text,
              "Laid out as the card specification has it for this capacity: "
              "the partition begins at block {}, its clusters at a whole unit "
              "of {}; so a card keeps its speed class.",
              AS_NUMBER(draft->part[0].range.first),
              AS_SIZE(draft->card->boundary_blocks * UINT64_C(512)));
}

/* Of the draft, and of one of its parts; nothing is added where it does not
 * apply. */
typedef void remark(const struct slate_draft *draft, struct slate_text *text);
typedef void remark_on(const struct slate_draft *draft,
                       const struct slate_part *part, struct slate_text *text);

static remark *const of_draft[] = {remark_within,
                                   slate_draft_remark_reserve,
                                   slate_draft_remark_gap,
                                   slate_draft_remark_left,
                                   slate_draft_remark_unread,
                                   remark_stay,
                                   remark_table,
                                   remark_reach,
                                   remark_entries,
                                   remark_cylinders,
                                   remark_card,
                                   remark_active,
                                   remark_logical,
                                   remark_numbers};
static remark_on *const of_part[] = {remark_why,
                                     remark_drawback,
                                     remark_kind,
                                     remark_label,
                                     remark_small_clusters,
                                     remark_large_clusters,
                                     remark_limit,
                                     remark_bad,
                                     remark_type,
                                     remark_start_code,
                                     remark_no_journal};

#define OF_DRAFT (sizeof of_draft / sizeof of_draft[0])
#define REMARKS (OF_DRAFT + sizeof of_part / sizeof of_part[0])

static void make_remark(const struct slate_draft *draft, size_t which,
                        struct slate_text *text)
{
    if (which < OF_DRAFT)
        of_draft[which](draft, text);
    for (uint32_t i = 0;
         i < draft->parts && which >= OF_DRAFT && text->used == 0; i++)
        of_part[which - OF_DRAFT](draft, &draft->part[i], text);
}

bool slate_draft_remark(const struct slate_draft *draft, uint32_t index,
                        struct slate_text *text)
{
    char words[256];

    for (size_t i = 0; i < REMARKS; i++) {
        struct slate_text made;

        slate_text_start(&made, words, sizeof words);
        make_remark(draft, i, &made);
        if (made.used > 0 && index-- == 0) {
            slate_text_add(text, words);
            return true;
        }
    }
    return false;
}
