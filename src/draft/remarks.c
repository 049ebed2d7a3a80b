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

static bool remark_label(const struct slate_draft *draft,
                         struct slate_text *text)
{
    if (slate_same_text(draft->goal.label, draft->volume.label))
        return false;
    slate_text_add(text, "The label becomes \"");
    slate_text_add(text, draft->volume.label);
    slate_text_add(text, "\": FAT32 keeps 11 upper-case characters of ASCII.");
    return true;
}

static uint32_t cluster_bytes(const struct slate_draft *draft)
{
    return draft->volume.cluster_blocks * draft->volume.block_bytes;
}

static bool remark_small_clusters(const struct slate_draft *draft,
                                  struct slate_text *text)
{
    if (draft->goal.cluster_bytes != 0 || cluster_bytes(draft) >= 4096)
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
    slate_text_add(text, "A single file on FAT32 can hold up to 4 GiB.");
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
    static const remark all[] = {remark_table,          remark_label,
                                 remark_small_clusters, remark_large_clusters,
                                 remark_file_limit,     remark_camera};
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

static void add_smallest(const struct slate_goal *goal,
                         const struct slate_basis *basis,
                         struct slate_text *text)
{
    uint32_t block = basis->geometry.block_bytes;
    uint64_t times = goal->cluster_bytes == 0 ? 1 : goal->cluster_bytes / block;

    slate_text_add(text, goal->cluster_bytes == 0 ? "FAT32 needs at least "
                                                  : "FAT32 needs about ");
    slate_text_size(text, slate_fat32_smallest(block) * times);
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
        slate_text_add(text, "FAT32 reaches ");
        slate_text_size(text, slate_fat32_largest(basis->geometry.block_bytes));
        slate_text_add(text, " with ");
        slate_text_number(text, basis->geometry.block_bytes);
        slate_text_add(text, "-byte blocks");
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
