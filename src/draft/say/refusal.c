/* SPDX-License-Identifier: MIT */
/* Why a draft was refused, in words, with the numbers that matter. */
#include "base/base.h"
#include "trueslate/draft.h"
#include "volume/common/common.h"
#include "table/table.h"

/* Of the format that was asked for; of a choice, the smallest one's least and
 * the largest one's most. */
static const char *limits_of(const struct slate_ask *ask, uint32_t block,
                             uint64_t *least, uint64_t *most)
{
    const struct slate_format *large = slate_format_largest(ask->volume);
    const struct slate_format *small = slate_format_smallest(ask->volume);
    uint64_t ignored;

    large->limits(block, &ignored, most);
    small->limits(block, least, &ignored);
    return slate_volume_words(large->kind);
}

static void add_smallest(const struct slate_ask *ask, uint32_t block,
                         struct slate_text *text)
{
    uint64_t times = ask->cluster_bytes == 0 ? 1 : ask->cluster_bytes / block;
    uint64_t least, most;
    const char *words = limits_of(ask, block, &least, &most);

    SLATE_SAY(
        text, "{}{}{}",
        AS_TEXT(ask->volume == SLATE_VOLUME_NONE ? "a volume" : words),
        AS_TEXT(ask->cluster_bytes == 0 ? " needs at least " : " needs about "),
        AS_SIZE(least * times));
    if (ask->cluster_bytes == 0)
        SLATE_SAY(text, " with {}-byte blocks", AS_NUMBER(block));
    else
        SLATE_SAY(text, " with clusters of {} bytes",
                  AS_NUMBER(ask->cluster_bytes));
}

static void add_largest(const struct slate_ask *ask, uint32_t block,
                        struct slate_text *text)
{
    uint64_t least, most;

    slate_text_add(text, limits_of(ask, block, &least, &most));
    if (ask->cluster_bytes != 0) { /* fewer of them than it can count */
        SLATE_SAY(text,
                  " with clusters of {} bytes does not reach that far; with "
                  "larger ones up to ",
                  AS_NUMBER(ask->cluster_bytes));
    } else {
        slate_text_add(text, " reaches ");
    }
    SLATE_SAY(text, "{} with {}-byte blocks", AS_SIZE(most), AS_NUMBER(block));
}

/* What a person can do about it, without the stop of that sentence. */
static void add_obstacle(const struct slate_draft *draft,
                         struct slate_text *text)
{
    uint32_t kind = slate_draft_obstacle(draft);
    bool firm;

    if (kind == SLATE_GUARD_KINDS)
        return;
    firm = (draft->basis.firm >> kind & 1) != 0;
    SLATE_SAY(
        text, "it is protected by {}{}{}",
        AS_TEXT(slate_guard_name((enum slate_guard_kind)kind)),
        AS_TEXT(
            firm
                ? ": "
                : ", which was set on purpose and is lifted only when named: "),
        AS_TEXT(slate_guard_words((enum slate_guard_kind)kind,
                                  SLATE_GUARD_COMMAND)));
}

/* What of the device is left for partitions. */
static void add_room(const struct slate_draft *draft, struct slate_text *text)
{
    const struct slate_geometry *geometry = &draft->basis.geometry;
    struct slate_range range;

    SLATE_SAY(text, "; this device has {}",
              AS_SIZE(slate_geometry_bytes(geometry)));
    if (draft->table.kind == SLATE_TABLE_NONE)
        return;
    if (draft->switched) {
        slate_text_add(text, ", and what stays takes its part of it");
        return;
    }
    if (slate_table_place(draft->table.kind, geometry, &draft->grid, &range) !=
        SLATE_OK)
        range.count = 0;
    SLATE_SAY(text, ", of which {}{}",
              AS_SIZE(range.count * geometry->block_bytes),
              AS_TEXT(draft->parts == 1 ? " are left for a partition"
                                        : " are left for partitions"));
}

/* Which of several: one that stays by its number, new ones as they were asked
 * for. */
static void add_part(const struct slate_draft *draft, struct slate_text *text)
{
    uint32_t keep = draft->part[draft->refused].ask.keep, fresh = 1;
    bool any_stays = false;

    for (uint32_t i = 0; i < draft->parts; i++) {
        bool stays = draft->part[i].ask.keep != 0;

        any_stays = any_stays || stays;
        fresh += i < draft->refused && !stays ? 1u : 0u;
    }
    if (draft->parts < 2 && !any_stays)
        return;
    SLATE_SAY(text, "{}{}: ",
              AS_TEXT(any_stays && keep == 0 ? "new partition " : "partition "),
              AS_NUMBER(keep != 0 ? keep : fresh));
}

/* A part that has no room at all asks for more than there is. */
static bool has_room(const struct slate_draft *draft)
{
    return (draft->parts == 1 && !draft->switched) ||
           draft->part[draft->refused].range.count > 0;
}

/* "SURVEY/log.txt", from the root on; long paths lose their middle. */
static void add_path(const struct slate_files *files, uint32_t item,
                     struct slate_text *text)
{
    uint32_t top = item;

    while (files->item[top].parent != 0)
        top = files->item[top].parent;
    if (top != item) {
        slate_text_shown(text, slate_item_name(files, top));
        slate_text_add(text, files->item[item].parent == top ? "/" : "/.../");
    }
    if (item == 0)
        slate_text_add(text, "the root directory");
    else
        slate_text_shown(text, slate_item_name(files, item));
}

static void add_file_size(const struct slate_draft *draft,
                          struct slate_text *text)
{
    const struct slate_files *files = &draft->files;

    add_path(files, files->refused, text);
    SLATE_SAY(
        text,
        " has {}, and a FAT volume holds files below {} alone; exFAT holds it",
        AS_SIZE(files->item[files->refused].bytes),
        AS_SIZE((uint64_t)UINT32_MAX + 1));
}

/* What has to go on the volume, beside what it has room for. */
static void add_files(const struct slate_draft *draft, struct slate_text *text)
{
    const struct slate_files *files = &draft->files;
    struct slate_files_sum sum;

    if (files->why != NULL) {
        add_path(files, files->refused, text);
        SLATE_SAY(text, " {}", AS_TEXT(files->why));
        return;
    }
    slate_files_add_up(files, &sum);
    SLATE_SAY(text,
              "the files have {}, and with whole clusters for each of {}{} "
              "they do not fit on this volume of {}",
              AS_SIZE(sum.bytes), AS_NUMBER(sum.files),
              AS_TEXT(sum.files == 1 ? " file" : " files"),
              AS_SIZE(draft->part[draft->refused].range.count *
                      draft->basis.geometry.block_bytes));
}

/* Each family whose formats place files. */
static void add_placing(struct slate_text *text)
{
    const struct slate_format *format;
    const char *before = NULL;

    slate_text_add(text, "files are placed on ");
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        const char *words = slate_kind_of(format->kind)->family->words;

        if (!format->files || words == before)
            continue;
        SLATE_SAY(text, "{}{}", AS_TEXT(before == NULL ? "" : " and "),
                  AS_TEXT(words));
        before = words;
    }
    slate_text_add(text, " volumes alone");
}

/* True when it was the files that were in the way. */
static bool add_of_files(const struct slate_draft *draft,
                         enum slate_status status, struct slate_text *text)
{
    if (status == SLATE_ERR_NAME) {
        add_path(&draft->files, draft->files.refused, text);
        SLATE_SAY(text, ": its name {}", AS_TEXT(draft->files.why));
    } else if (status == SLATE_ERR_FILE_SIZE) {
        add_file_size(draft, text);
    } else if (status == SLATE_ERR_FILES) {
        add_files(draft, text);
    } else if (status == SLATE_ERR_START) {
        slate_text_add(
            text,
            "the start-up code is not for such a volume; expected a boot block "
            "of 512 bytes (for FAT32, perhaps three) that ends in 55h AAh and "
            "begins with a jump over the parameters of its kind");
    } else if (status == SLATE_ERR_FORMAT) {
        add_placing(text);
    } else if (status == SLATE_ERR_ROOT_FULL) {
        slate_text_add(text, "the root directory of such a volume has no room "
                             "for so many entries; put files in a folder");
    } else {
        return false;
    }
    return true;
}

void slate_draft_refusal_words(const struct slate_draft *draft,
                               enum slate_status status,
                               struct slate_text *text)
{
    static const struct slate_ask nothing = {.keep = 0};
    const struct slate_ask *ask;
    uint32_t block = draft->basis.geometry.block_bytes;

    if (status == SLATE_ERR_GUARD) {
        add_obstacle(draft, text);
        return;
    }
    if (status == SLATE_ERR_ROOM && draft->shortage.of != NULL) {
        SLATE_SAY(text,
                  "the room for {} is too small: {} bytes are needed, and {} "
                  "are there",
                  AS_TEXT(draft->shortage.of),
                  AS_NUMBER(draft->shortage.needed),
                  AS_NUMBER(draft->shortage.room));
        return;
    }
    if (status == SLATE_ERR_CAPACITY) {
        SLATE_SAY(text,
                  "it was proved to have {} of the {} that it claims; no draft "
                  "goes beyond that",
                  AS_SIZE(draft->basis.proved * block),
                  AS_SIZE(slate_draft_claimed(draft) * block));
        return;
    }
    if (draft->parts > 0)
        add_part(draft, text);
    ask = draft->parts > 0 ? &draft->part[draft->refused].ask : &nothing;
    if (add_of_files(draft, status, text))
        return;
    if (status == SLATE_ERR_TOO_SMALL && has_room(draft)) {
        add_smallest(ask, block, text);
    } else if (status == SLATE_ERR_TOO_SMALL) {
        slate_text_add(text, "there is no room for it");
    } else if (status == SLATE_ERR_TOO_LARGE) {
        add_largest(ask, block, text);
    } else if (status == SLATE_ERR_BAD_BLOCK) {
        SLATE_SAY(text,
                  "block {} is bad, and table or volume cannot do without it",
                  AS_NUMBER(draft->refused_block));
        return;
    } else {
        slate_text_add(text, draft->why != NULL
                                 ? draft->why
                                 : slate_status_sentence(status));
        return;
    }
    add_room(draft, text);
}
