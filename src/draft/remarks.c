/* SPDX-License-Identifier: MIT */
/* A draft in words: the uses, and remarks. */
#include "base/same.h"
#include "draft/place.h"

/* Cards above this nominal size are sold with another volume format. */
#define CAMERA_CARD_BYTES 34000000000u

struct use_row {
    const char *name;
    const char *words;
};

/* in the order of enum slate_use */
static const struct use_row uses[SLATE_USE_COUNT] = {
    {"anything", "any host: desktop, player, old machine"},
    {"camera", "cameras and sound recorders"},
    {"player", "music and video players, car radios"},
    {"console", "games consoles and set-top boxes"},
    {"logger", "data loggers and measuring devices"},
};

const char *slate_use_name(enum slate_use use)
{
    return uses[use].name;
}

const char *slate_use_words(enum slate_use use)
{
    return uses[use].words;
}

static bool remark_table(const struct slate_draft *draft,
                         struct slate_text *text)
{
    if (slate_draft_is_change(draft)) {
        slate_text_add(text, "Nothing but these blocks is written, and in them "
                             "nothing but what is cleared and the checksums "
                             "over it changes.");
        return true;
    }
    if (draft->switched) {
        slate_text_add(text, "The table stays as it is, but for the entries of "
                             "what goes and what is new.");
        return true;
    }
    switch (draft->table.kind) {
    case SLATE_TABLE_MBR:
        slate_text_add(text, "MBR: every host, camera and player reads it, and "
                             "it reaches the whole device.");
        return true;
    case SLATE_TABLE_GPT:
        slate_text_add(text,
                       "GPT: for everything new; cameras, players and old "
                       "firmware may not read it.");
        return true;
    case SLATE_TABLE_NONE:
    default:
        slate_text_add(text, "No table: the volume begins at block 0; a few "
                             "hosts insist on a table.");
        return true;
    }
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

static bool remark_logical(const struct slate_draft *draft,
                           struct slate_text *text)
{
    uint32_t logical = slate_draft_logical(draft);

    if (logical == 0)
        return false;
    slate_text_add(text, "An MBR has four entries: the last ");
    slate_text_number(text, logical);
    slate_text_add(text, " partitions are logical ones, in a container; some "
                         "players and cameras read the first partition only.");
    return true;
}

static bool label_is_adapted(const struct slate_draft *draft,
                             const struct slate_part *part,
                             struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) ||
        slate_same_text(part->ask.label, figures.label))
        return false;
    slate_text_add(text, "The label becomes \"");
    slate_text_add(text, figures.label);
    slate_text_add(text, "\": ");
    slate_text_add(text, words_of(part));
    slate_text_add(text, " ");
    slate_text_add(text, part->format->label_rule);
    slate_text_add(text, ".");
    return true;
}

static bool kind_is_smaller(const struct slate_draft *draft,
                            const struct slate_part *part,
                            struct slate_text *text)
{
    const char *room = draft->parts == 1 ? "device" : "partition";

    if (part->format == NULL || part->ask.volume != SLATE_VOLUME_NONE ||
        part->format->kind == SLATE_VOLUME_FAT32)
        return false;
    slate_text_add(text, words_of(part));
    if (part->ask.cluster_bytes == 0) {
        slate_text_add(text, ": the ");
        slate_text_add(text, room);
        slate_text_add(text, " is too small for FAT32; every host reads it.");
        return true;
    }
    slate_text_add(text, ": with clusters of ");
    slate_text_number(text, part->ask.cluster_bytes);
    slate_text_add(text, " bytes a ");
    slate_text_add(text, room);
    slate_text_add(text, " of this size has too few for FAT32.");
    return true;
}

static bool clusters_are_small(const struct slate_draft *draft,
                               const struct slate_part *part,
                               struct slate_text *text)
{
    struct slate_figures figures;

    if (!figures_of(part, &figures) || part->ask.cluster_bytes != 0 ||
        figures.cluster_bytes >= 4096 ||
        part->format->kind != SLATE_VOLUME_FAT32)
        return false;
    slate_text_add(text, "Clusters of ");
    slate_text_number(text, figures.cluster_bytes);
    slate_text_add(text, " bytes: with larger ones a ");
    slate_text_add(text, draft->parts == 1 ? "device" : "partition");
    slate_text_add(text, " of this size has too few for FAT32.");
    return true;
}

static bool clusters_are_large(const struct slate_draft *draft,
                               const struct slate_part *part,
                               struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) || figures.cluster_bytes <= 32768)
        return false;
    slate_text_add(text, "Clusters of 64 KiB: some old devices read at most "
                         "32 KiB.");
    return true;
}

static bool files_are_limited(const struct slate_draft *draft,
                              const struct slate_part *part,
                              struct slate_text *text)
{
    struct slate_figures figures;

    (void)draft;
    if (!figures_of(part, &figures) || figures.room_bytes <= figures.file_most)
        return false;
    slate_text_add(text, "A single file on ");
    slate_text_add(text, words_of(part));
    slate_text_add(text, " can hold up to ");
    slate_text_number(text, (figures.file_most >> 30) + 1);
    slate_text_add(text, " GiB.");
    return true;
}

static bool remark_camera(const struct slate_draft *draft,
                          struct slate_text *text)
{
    if (draft->goal.use != SLATE_USE_CAMERA ||
        slate_geometry_bytes(&draft->basis.geometry) <= CAMERA_CARD_BYTES)
        return false;
    slate_text_add(text, "Above 32 GB some cameras expect exFAT and offer to "
                         "format the card once more.");
    return true;
}

/* Of the draft, or of one of its parts. */
struct remark {
    bool (*of_draft)(const struct slate_draft *draft, struct slate_text *text);
    bool (*of_part)(const struct slate_draft *draft,
                    const struct slate_part *part, struct slate_text *text);
};

static const struct remark remarks[] = {
    {remark_table, NULL},       {remark_logical, NULL},
    {NULL, kind_is_smaller},    {NULL, label_is_adapted},
    {NULL, clusters_are_small}, {NULL, clusters_are_large},
    {NULL, files_are_limited},  {remark_camera, NULL}};

static bool make_remark(const struct slate_draft *draft,
                        const struct remark *remark, struct slate_text *text)
{
    if (remark->of_draft != NULL)
        return remark->of_draft(draft, text);
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (remark->of_part(draft, &draft->part[i], text))
            return true;
    }
    return false;
}

bool slate_draft_remark(const struct slate_draft *draft, uint32_t index,
                        struct slate_text *text)
{
    char words[256];

    for (size_t i = 0; i < sizeof remarks / sizeof remarks[0]; i++) {
        struct slate_text made;

        slate_text_start(&made, words, sizeof words);
        if (!make_remark(draft, &remarks[i], &made))
            continue;
        if (index-- == 0) {
            slate_text_add(text, words);
            return true;
        }
    }
    return false;
}
