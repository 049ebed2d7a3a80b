/* SPDX-License-Identifier: MIT */
/* Maps to scale: from facts or a draft to stretches, from stretches to bars. */

#include "term/term.h"
#include "view/view.h"
#include "draft/draft.h"

#define SMALL_COLUMNS 10
#define WORDS_ROOM sizeof(((struct stretch *)0)->words)

/* Gaps are drawn when a person would miss the space: 8 MiB, or a twentieth. */
static bool gap_is_worth(const struct map *map, uint64_t blocks)
{
    return blocks * map->block_bytes >= 8388608 || blocks > map->blocks / 20;
}

static struct stretch *add(struct map *map, uint64_t first, uint64_t count,
                           enum paint paint)
{
    struct stretch *stretch;

    if (map->count == map->room) {
        uint32_t room = map->room == 0 ? 16 : 2 * map->room;
        struct stretch *more =
            realloc(map->stretch, room * sizeof *map->stretch);

        if (more == NULL)
            exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
        map->stretch = more;
        map->room = room;
    }
    stretch = &map->stretch[map->count++];
    memset(stretch, 0, sizeof *stretch);
    stretch->first = first;
    stretch->count = count;
    stretch->paint = paint;
    return stretch;
}

void map_forget(struct map *map)
{
    free(map->stretch);
    memset(map, 0, sizeof *map);
}

static void add_gap(struct map *map, uint64_t first, uint64_t end,
                    const char *words)
{
    if (end <= first || !gap_is_worth(map, end - first))
        return;
    snprintf(add(map, first, end - first, PAINT_FREE)->words, WORDS_ROOM, "%s",
             words);
}

static void name_volume(struct stretch *stretch,
                        const struct slate_volume *volume)
{
    const char *kind = slate_volume_words(volume->kind);

    if (!slate_volume_is_known(volume->kind))
        stretch->paint = PAINT_UNKNOWN;
    if (volume->label[0] != '\0')
        snprintf(stretch->words, sizeof stretch->words, "%s \"%s\"", kind,
                 volume->label);
    else
        snprintf(stretch->words, sizeof stretch->words, "%s",
                 volume->kind == SLATE_VOLUME_NONE ? "empty partition" : kind);
}

static void say_type(struct stretch *stretch,
                     const struct slate_partition *partition)
{
    snprintf(stretch->extra, sizeof stretch->extra, "%s%stype %02Xh",
             partition->active ? "active, " : "",
             partition->role == SLATE_ROLE_LOGICAL ? "logical, " : "",
             partition->mbr_type);
}

static void name_entry(struct stretch *stretch,
                       const struct slate_partition *partition)
{
    stretch->number = partition->number;
    if (partition->name[0] != '\0')
        snprintf(stretch->extra, sizeof stretch->extra, "%.40s",
                 partition->name);
    else if (partition->mbr_type != 0)
        say_type(stretch, partition);
}

/* Where there is no room to list all partitions, those that follow may be
 * anywhere behind: nothing there is told to be free. */
static void add_unlisted(struct map *map, uint64_t first)
{
    if (first < map->blocks)
        snprintf(add(map, first, map->blocks - first, PAINT_UNKNOWN)->words,
                 WORDS_ROOM, "%u partition%s more, not listed", map->unlisted,
                 map->unlisted == 1 ? "" : "s");
}

static void map_table(const struct slate_facts *facts, struct map *map)
{
    struct slate_tour tour = {0};
    struct slate_stretch one;

    map->unlisted = facts->layout.found - facts->layout.count;
    while (slate_layout_next(&facts->layout, map->blocks, &tour, &one)) {
        struct stretch *stretch;

        if (one.partition == NULL && map->unlisted > 0 &&
            one.first + one.count == map->blocks) {
            add_unlisted(map, one.first);
            continue;
        }
        if (one.partition == NULL) {
            add_gap(map, one.first, one.first + one.count, "unallocated");
            continue;
        }
        stretch = add(map, one.first, one.count, PAINT_VOLUME);
        name_volume(stretch, &facts->volume[one.partition - facts->partition]);
        name_entry(stretch, one.partition);
    }
}

/* What begins further in, without a table that names it. What lies around it
 * was looked at in places only. */
static void map_found(const struct slate_facts *facts, struct map *map)
{
    const struct slate_sample *sample = &facts->sample;
    uint64_t rest = map->blocks - sample->volume_lba;
    uint64_t blocks = sample->volume.bytes / map->block_bytes;

    if (blocks == 0 || blocks > rest)
        blocks = rest;
    snprintf(add(map, 0, sample->volume_lba, PAINT_UNKNOWN)->words, WORDS_ROOM,
             "start without a table");
    name_volume(add(map, sample->volume_lba, blocks, PAINT_VOLUME),
                &sample->volume);
    snprintf(map->stretch[1].extra, sizeof map->stretch[1].extra,
             "no table names it");
    if (blocks < rest)
        snprintf(
            add(map, sample->volume_lba + blocks, rest - blocks, PAINT_UNKNOWN)
                ->words,
            WORDS_ROOM, "looked at in places only");
}

static const char *unknown_words(const struct slate_facts *facts)
{
    if (facts->blank)
        return "nothing was found";
    if (slate_volume_is_known(facts->whole.kind) ||
        facts->whole.kind != SLATE_VOLUME_NONE)
        return slate_volume_words(facts->whole.kind);
    return slate_volume_words(SLATE_VOLUME_OTHER);
}

static void map_whole(const struct slate_facts *facts, struct map *map)
{
    const struct slate_volume *whole = &facts->whole;
    uint64_t blocks = whole->bytes / map->block_bytes;

    if (facts->marked) {
        snprintf(add(map, 0, map->blocks, PAINT_UNKNOWN)->words, WORDS_ROOM,
                 "unfinished: an interrupted draft");
    } else if (facts->sample.volumes > 0) {
        map_found(facts, map);
    } else if (!slate_volume_is_known(whole->kind)) {
        snprintf(
            add(map, 0, map->blocks, facts->blank ? PAINT_FREE : PAINT_UNKNOWN)
                ->words,
            WORDS_ROOM, "%s", unknown_words(facts));
    } else {
        if (blocks > map->blocks || blocks == 0)
            blocks = map->blocks;
        name_volume(add(map, 0, blocks, PAINT_VOLUME), whole);
        add_gap(map, blocks, map->blocks, "behind the volume");
    }
}

void map_of_facts(const struct slate_facts *facts, struct map *map)
{
    memset(map, 0, sizeof *map);
    map->blocks = facts->geometry.block_count;
    map->block_bytes = facts->geometry.block_bytes;
    if (facts->layout.kind == SLATE_TABLE_NONE || facts->sample.volumes > 0)
        map_whole(facts, map);
    else
        map_table(facts, map);
}

/* One that stays is what it was. */
static void name_kept(const struct slate_facts *facts,
                      const struct slate_range *range, struct stretch *stretch)
{
    for (uint32_t i = 0; facts != NULL && i < facts->layout.count; i++) {
        const struct slate_partition *old = &facts->partition[i];

        if (old->first != range->first || old->count != range->count)
            continue;
        name_volume(stretch, &facts->volume[i]);
        if (old->role == SLATE_ROLE_EXTENDED)
            snprintf(stretch->words, sizeof stretch->words,
                     "logical partitions");
    }
}

static void add_part(const struct slate_draft *draft,
                     const struct slate_facts *facts, uint32_t i,
                     struct map *map)
{
    const struct slate_part *part = &draft->part[i];
    const struct slate_partition *entry = slate_draft_entry(draft, i);
    struct stretch *stretch =
        add(map, part->range.first, part->range.count, PAINT_VOLUME);
    struct slate_figures figures;

    if (part->ask.emptied) {
        snprintf(stretch->words, sizeof stretch->words, "overwritten");
    } else if (part->ask.keep != 0) {
        name_kept(facts, &part->range, stretch);
    } else if (part->format == NULL && entry == NULL) {
        stretch->paint = PAINT_FREE;
        snprintf(stretch->words, sizeof stretch->words,
                 "overwritten, nothing on it");
    } else if (part->format == NULL) {
        snprintf(stretch->words, sizeof stretch->words, "without a volume");
    } else {
        part->format->figures(&part->volume, &figures);
        snprintf(stretch->words, sizeof stretch->words,
                 figures.label[0] == '\0' ? "%s" : "%s \"%s\"",
                 slate_volume_words(part->format->kind), figures.label);
    }
    if (entry != NULL)
        stretch->number = entry->number;
    if (part->ask.keep != 0)
        snprintf(stretch->extra, sizeof stretch->extra,
                 part->ask.emptied ? "its entry stays" : "stays");
    else if (entry != NULL && draft->table.kind == SLATE_TABLE_MBR)
        say_type(stretch, entry);
}

/* New parts of a conversion, among what stays: numbered as that table does. */
static void map_of_conversion(const struct slate_draft *draft,
                              const struct slate_facts *facts, struct map *map)
{
    struct map now;
    uint32_t part = 0, stay = 0, number = 0;
    uint64_t reached = 0;

    map_of_facts(facts, &now);
    for (uint32_t i = 0; i < now.count; i++)
        stay += now.stretch[i].paint == PAINT_FREE ? 0u : 1u;
    for (uint32_t i = 0; i < now.count || part < draft->parts;) {
        const struct stretch *one = i < now.count ? &now.stretch[i] : NULL;
        const struct slate_range *range =
            part < draft->parts ? &draft->part[part].range : NULL;

        if (one != NULL && one->paint == PAINT_FREE) {
            i++;
        } else if (one == NULL ||
                   (range != NULL && range->first < one->first)) {
            add_gap(map, reached, range->first, "unallocated");
            add_part(draft, facts, part, map);
            map->stretch[map->count - 1].number = stay + ++part;
            reached = range->first + range->count;
        } else {
            struct stretch *copy;

            add_gap(map, reached, one->first, "unallocated");
            copy = add(map, one->first, one->count, one->paint);
            *copy = *one;
            copy->number = ++number;
            snprintf(copy->extra, sizeof copy->extra, "stays");
            reached = one->first + one->count;
            i++;
        }
    }
    add_gap(map, reached, map->blocks, "unallocated");
    map_forget(&now);
}

void map_of_draft(const struct slate_draft *draft,
                  const struct slate_facts *facts, struct map *map)
{
    const char *gap =
        draft->goal.overwrite.rounds > 0 && overwriting_emptied(draft) == 0
            ? "unallocated, overwritten"
            : "unallocated";
    uint64_t reached = 0;

    if (slate_draft_is_change(draft) && draft->parts == 0) {
        map_of_facts(facts, map); /* what is there stays */
        return;
    }
    memset(map, 0, sizeof *map);
    map->blocks = draft->basis.geometry.block_count;
    map->block_bytes = draft->basis.geometry.block_bytes;
    if (slate_draft_is_change(draft)) {
        map_of_conversion(draft, facts, map);
        return;
    }
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_range *range = &draft->part[i].range;

        add_gap(map, reached, range->first, gap);
        add_part(draft, facts, i, map);
        reached = range->first + range->count;
    }
    add_gap(map, reached, map->blocks, gap);
}

void map_of_lost(const struct slate_search *search, struct map *map)
{
    memset(map, 0, sizeof *map);
    map->blocks = search->facts->geometry.block_count;
    map->block_bytes = search->facts->geometry.block_bytes;
    for (uint32_t i = 0; i < search->count; i++)
        name_volume(add(map, search->lost[i].first, search->lost[i].count,
                        PAINT_VOLUME),
                    &search->lost[i].volume);
}

int bar_columns(void)
{
    return paint_columns() - BAR_FRAME;
}

int map_column(uint64_t block, uint64_t blocks, int columns)
{
    while (blocks > UINT64_MAX / BAR_COLUMNS_MOST) {
        blocks /= 2;
        block /= 2;
    }
    return (int)(block * (uint64_t)columns / blocks);
}

static void print_run(enum paint paint, int columns)
{
    for (int i = 0; i < columns; i++)
        painted(paint, "%s", paint_fill(paint));
}

static uint64_t block_of(const struct map *map, int column, int columns)
{
    uint64_t whole = map->blocks / (uint64_t)columns;
    uint64_t rest = map->blocks % (uint64_t)columns;

    return whole * (uint64_t)column +
           rest * (uint64_t)column / (uint64_t)columns;
}

enum paint map_paint(const struct map *map, int column, int columns)
{
    uint64_t from = block_of(map, column, columns);
    uint64_t to = block_of(map, column + 1, columns);
    enum paint paint = PAINT_FREE;

    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];

        if (stretch->first >= to || stretch->first + stretch->count <= from ||
            stretch->paint == PAINT_FREE)
            continue;
        if (stretch->paint == PAINT_VOLUME)
            return PAINT_VOLUME;
        paint = stretch->paint;
    }
    return paint;
}

/* Two of a kind side by side are told apart. */
static void print_edge(enum paint paint, int *column)
{
    painted(paint, "%s", paint_edge());
    ++*column;
}

/* Each stretch gets a column at least. */
static void print_each(const struct map *map, int columns)
{
    int column = 0;

    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];
        int left = (int)(map->count - i - 1); /* one column for each to come */
        int end =
            map_column(stretch->first + stretch->count, map->blocks, columns);

        if (end <= column)
            end = column + 1;
        if (i + 1 == map->count || end > columns - left)
            end = columns - left;
        if (i > 0 && end - column > 1 && stretch[-1].paint == stretch->paint)
            print_edge(stretch->paint, &column);
        print_run(stretch->paint, end - column);
        column = end > column ? end : column;
    }
    printf("%*s", columns - column, "");
}

static void print_columns(const struct map *map, int columns)
{
    printf("%s", paint_frame());
    if (map->count <= (uint32_t)columns / 2)
        print_each(map, columns);
    for (int i = 0; i < columns && map->count > (uint32_t)columns / 2; i++)
        print_run(map_paint(map, i, columns), 1);
    printf("%s", paint_frame());
}

void print_bar(const char *label, const struct map *map)
{
    printf("  %-11s", label);
    print_columns(map, bar_columns());
    putchar('\n');
}

void print_small_bar(const struct map *map)
{
    print_columns(map, SMALL_COLUMNS);
}

void print_share(const char *label, uint64_t part, uint64_t whole)
{
    int all = bar_columns();
    uint64_t rounded = part + whole / (uint64_t)all / 2;
    int columns = rounded >= whole ? all : map_column(rounded, whole, all);

    if (columns == 0 && part > 0)
        columns = 1;
    printf("  %-11s%s", label, paint_frame());
    print_run(PAINT_VOLUME, columns);
    printf("%*s%s\n", all - columns, "", paint_frame());
}

/* Columns of a stretch: its number and fill, its words, its size. */
#define STRETCH_LEFT 15
#define STRETCH_WORDS 23
#define STRETCH_SIZE 20

/* What there is no room for goes to the next line. */
static void print_stretch_words(const struct stretch *stretch, const char *size)
{
    int words = columns_of(stretch->words, strlen(stretch->words));
    int extra = columns_of(stretch->extra, strlen(stretch->extra));
    int used = STRETCH_LEFT + 1 +
               (words < STRETCH_WORDS ? STRETCH_WORDS : words) + 1 +
               STRETCH_SIZE;

    putchar(' ');
    print_padded(stretch->words, STRETCH_WORDS);
    printf(" %-*s", STRETCH_SIZE, size);
    if (stretch->extra[0] == '\0')
        putchar('\n');
    else if (used + 1 + extra <= paint_columns())
        printf(" %s\n", stretch->extra);
    else
        printf("\n%16s%s\n", "", stretch->extra);
}

static void print_rest(const struct map *map)
{
    uint32_t partitions = 0;
    uint64_t free_blocks = 0;

    for (uint32_t i = MAP_LINES; i < map->count; i++) {
        partitions += map->stretch[i].number > 0 ? 1u : 0u;
        if (map->stretch[i].paint == PAINT_FREE)
            free_blocks += map->stretch[i].count;
    }
    printf("%14sand %u more partitions; between and behind these, %s "
           "unallocated\n",
           "", partitions + map->unlisted,
           free_blocks == 0 ? "nothing"
                            : in_both(free_blocks * map->block_bytes).words);
}

void print_stretches(const struct map *map)
{
    for (uint32_t i = 0; i < map->count && i < MAP_LINES; i++) {
        const struct stretch *stretch = &map->stretch[i];
        char size[SLATE_SIZE_TEXT];

        slate_size_both(stretch->count * map->block_bytes, size);
        if (stretch->number > 0)
            printf("%13u ", stretch->number);
        else
            printf("%14s", "");
        painted(stretch->paint, "%s", paint_fill(stretch->paint));
        print_stretch_words(stretch, size);
    }
    if (map->count > MAP_LINES)
        print_rest(map);
}
