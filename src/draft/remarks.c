/* SPDX-License-Identifier: MIT */
/* A draft in words: the uses, the remarks, and why a goal was refused. */
#include "base/same.h"
#include "trueslate/draft.h"

#define GIB ((uint64_t)1 << 30)
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

typedef bool (*remark)(const struct slate_draft *draft,
                       struct slate_text *text);

static bool remark_table(const struct slate_draft *draft,
                         struct slate_text *text)
{
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

static const struct slate_format *format_of(const struct slate_draft *draft)
{
    return draft->part[0].format;
}

static void figures_of(const struct slate_draft *draft,
                       struct slate_figures *figures)
{
    format_of(draft)->figures(&draft->part[0].volume, figures);
}

static const char *words_of(const struct slate_draft *draft)
{
    return slate_volume_words(format_of(draft)->kind);
}

static bool remark_label(const struct slate_draft *draft,
                         struct slate_text *text)
{
    struct slate_figures figures;

    figures_of(draft, &figures);
    if (slate_same_text(draft->goal.label, figures.label))
        return false;
    slate_text_add(text, "The label becomes \"");
    slate_text_add(text, figures.label);
    slate_text_add(text, "\": ");
    slate_text_add(text, words_of(draft));
    slate_text_add(text, " ");
    slate_text_add(text, format_of(draft)->label_rule);
    slate_text_add(text, ".");
    return true;
}

static uint32_t cluster_bytes(const struct slate_draft *draft)
{
    struct slate_figures figures;

    figures_of(draft, &figures);
    return figures.cluster_bytes;
}

static bool remark_kind(const struct slate_draft *draft,
                        struct slate_text *text)
{
    if (draft->goal.volume != SLATE_VOLUME_NONE ||
        format_of(draft)->kind == SLATE_VOLUME_FAT32)
        return false;
    slate_text_add(text, words_of(draft));
    if (draft->goal.cluster_bytes == 0) {
        slate_text_add(text, ": the device is too small for FAT32; every host "
                             "reads it.");
        return true;
    }
    slate_text_add(text, ": with clusters of ");
    slate_text_number(text, draft->goal.cluster_bytes);
    slate_text_add(text, " bytes a device of this size has too few for FAT32.");
    return true;
}

static bool remark_small_clusters(const struct slate_draft *draft,
                                  struct slate_text *text)
{
    if (draft->goal.cluster_bytes != 0 || cluster_bytes(draft) >= 4096 ||
        format_of(draft)->kind != SLATE_VOLUME_FAT32)
        return false;
    slate_text_add(text, "Clusters of ");
    slate_text_number(text, cluster_bytes(draft));
    slate_text_add(text, " bytes: with larger ones a device of this size has "
                         "too few for FAT32.");
    return true;
}

static bool remark_large_clusters(const struct slate_draft *draft,
                                  struct slate_text *text)
{
    if (cluster_bytes(draft) <= 32768)
        return false;
    slate_text_add(text, "Clusters of 64 KiB: some old devices read at most "
                         "32 KiB.");
    return true;
}

static bool remark_file_limit(const struct slate_draft *draft,
                              struct slate_text *text)
{
    if (slate_geometry_bytes(&draft->basis.geometry) <= 4 * GIB)
        return false;
    slate_text_add(text, "A single file on ");
    slate_text_add(text, words_of(draft));
    slate_text_add(text, " can hold up to 4 GiB.");
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

bool slate_draft_remark(const struct slate_draft *draft, uint32_t index,
                        struct slate_text *text)
{
    static const remark all[] = {remark_table,          remark_kind,
                                 remark_label,          remark_small_clusters,
                                 remark_large_clusters, remark_file_limit,
                                 remark_camera};
    char ignored[256];

    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        struct slate_text skipped;

        slate_text_start(&skipped, ignored, sizeof ignored);
        if (!all[i](draft, &skipped))
            continue;
        if (index-- == 0) {
            slate_text_add(text, ignored);
            return true;
        }
    }
    return false;
}

/* Of the format that was asked for; of a choice, the smallest one's least and
 * the first one's most. */
static const char *limits_of(const struct slate_goal *goal, uint32_t block,
                             uint64_t *least, uint64_t *most)
{
    const struct slate_format *format = slate_format_of(
        goal->volume == SLATE_VOLUME_NONE ? SLATE_VOLUME_FAT32 : goal->volume);
    const struct slate_format *small = slate_format_of(
        goal->volume == SLATE_VOLUME_NONE ? SLATE_VOLUME_FAT12 : goal->volume);
    uint64_t ignored;

    format->limits(block, &ignored, most);
    small->limits(block, least, &ignored);
    return slate_volume_words(format->kind);
}

static void add_smallest(const struct slate_goal *goal,
                         const struct slate_basis *basis,
                         struct slate_text *text)
{
    uint32_t block = basis->geometry.block_bytes;
    uint64_t times = goal->cluster_bytes == 0 ? 1 : goal->cluster_bytes / block;
    uint64_t least, most;
    const char *words = limits_of(goal, block, &least, &most);

    slate_text_add(text,
                   goal->volume == SLATE_VOLUME_NONE ? "a volume" : words);
    slate_text_add(text, goal->cluster_bytes == 0 ? " needs at least "
                                                  : " needs about ");
    slate_text_size(text, least * times);
    if (goal->cluster_bytes == 0) {
        slate_text_add(text, " with ");
        slate_text_number(text, block);
        slate_text_add(text, "-byte blocks");
    } else {
        slate_text_add(text, " with clusters of ");
        slate_text_number(text, goal->cluster_bytes);
        slate_text_add(text, " bytes");
    }
}

static void add_largest(const struct slate_goal *goal,
                        const struct slate_basis *basis,
                        struct slate_text *text)
{
    uint32_t block = basis->geometry.block_bytes;
    uint64_t least, most;

    slate_text_add(text, limits_of(goal, block, &least, &most));
    slate_text_add(text, " reaches ");
    slate_text_size(text, most);
    slate_text_add(text, " with ");
    slate_text_number(text, block);
    slate_text_add(text, "-byte blocks");
}

/* What a person can do about it, without the stop of that sentence. */
static void add_obstacle(const struct slate_goal *goal,
                         const struct slate_basis *basis,
                         struct slate_text *text)
{
    uint32_t kind = slate_draft_obstacle(goal, basis);
    bool firm = (basis->firm >> kind & 1) != 0;

    if (kind == SLATE_GUARD_KINDS)
        return;
    slate_text_add(text, "it is protected by ");
    slate_text_add(text, slate_guard_name((enum slate_guard_kind)kind));
    slate_text_add(text, firm ? ": "
                              : ", which was set on purpose and is "
                                "lifted only when named: ");
    slate_text_add(text, slate_guard_words((enum slate_guard_kind)kind,
                                           SLATE_GUARD_COMMAND));
}

/* What of the device is left for a partition. */
static void add_room(const struct slate_goal *goal,
                     const struct slate_basis *basis, struct slate_text *text)
{
    enum slate_table_kind kind =
        goal->table_given ? goal->table : slate_table_choose(&basis->geometry);
    struct slate_range range;

    if (kind == SLATE_TABLE_NONE)
        return;
    if (slate_table_place(kind, &basis->geometry, &range) != SLATE_OK)
        range.count = 0;
    slate_text_add(text, ", of which ");
    slate_text_size(text, range.count * basis->geometry.block_bytes);
    slate_text_add(text, " are left for a partition");
}

void slate_draft_refusal_words(enum slate_status status,
                               const struct slate_goal *goal,
                               const struct slate_basis *basis,
                               struct slate_text *text)
{
    switch (status) {
    case SLATE_ERR_TOO_SMALL:
        add_smallest(goal, basis, text);
        break;
    case SLATE_ERR_TOO_LARGE:
        add_largest(goal, basis, text);
        break;
    case SLATE_ERR_GUARD:
        add_obstacle(goal, basis, text);
        return;
    default:
        slate_text_add(text, slate_status_sentence(status));
        return;
    }
    slate_text_add(text, "; this device has ");
    slate_text_size(text, slate_geometry_bytes(&basis->geometry));
    add_room(goal, basis, text);
}
