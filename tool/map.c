/* SPDX-License-Identifier: MIT */
/* Maps to scale: from facts or a draft to stretches, from stretches to bars. */
#include <stdio.h>
#include <string.h>

#include "map.h"

#define SMALL_COLUMNS 10

/* Gaps are drawn when a person would miss the space: 8 MiB, or a twentieth. */
static bool gap_is_worth(const struct map *map, uint64_t blocks)
{
    return blocks * map->block_bytes >= 8388608 || blocks > map->blocks / 20;
}

static struct stretch *add(struct map *map, uint64_t first, uint64_t count,
                           enum paint paint)
{
    struct stretch *stretch = &map->stretch[map->count++];

    memset(stretch, 0, sizeof *stretch);
    stretch->first = first;
    stretch->count = count;
    stretch->paint = paint;
    return stretch;
}

static void add_gap(struct map *map, uint64_t first, uint64_t end,
                    const char *words)
{
    if (end <= first || !gap_is_worth(map, end - first))
        return;
    snprintf(add(map, first, end - first, PAINT_FREE)->words,
             sizeof map->stretch[0].words, "%s", words);
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

static void name_entry(struct stretch *stretch,
                       const struct slate_partition *partition)
{
    stretch->number = partition->number;
    if (partition->name[0] != '\0')
        snprintf(stretch->extra, sizeof stretch->extra, "%.40s",
                 partition->name);
    else if (partition->mbr_type != 0)
        snprintf(stretch->extra, sizeof stretch->extra, "%s%stype %02Xh",
                 partition->active ? "active, " : "",
                 partition->role == SLATE_ROLE_LOGICAL ? "logical, " : "",
                 partition->mbr_type);
}

static void map_table(const struct slate_facts *facts, struct map *map)
{
    struct slate_tour tour = {0};
    struct slate_stretch one;

    while (map->count < MAP_STRETCHES &&
           slate_layout_next(&facts->layout, map->blocks, &tour, &one)) {
        struct stretch *stretch;

        if (one.partition == NULL) {
            add_gap(map, one.first, one.first + one.count, "unallocated");
            continue;
        }
        stretch = add(map, one.first, one.count, PAINT_VOLUME);
        name_volume(stretch, &facts->volume[one.partition - facts->partition]);
        name_entry(stretch, one.partition);
    }
}

static void map_whole(const struct slate_facts *facts, struct map *map)
{
    const struct slate_volume *whole = &facts->whole;
    uint64_t blocks = whole->bytes / map->block_bytes;

    if (facts->marked) {
        snprintf(add(map, 0, map->blocks, PAINT_UNKNOWN)->words, 96,
                 "unfinished: the mark of an interrupted draft");
    } else if (!slate_volume_is_known(whole->kind)) {
        struct stretch *stretch = add(map, 0, map->blocks, PAINT_UNKNOWN);

        if (facts->edges_blank)
            stretch->paint = PAINT_FREE;
        snprintf(stretch->words, sizeof stretch->words, "%s",
                 facts->edges_blank
                     ? "blank"
                     : slate_volume_words(whole->kind == SLATE_VOLUME_NONE
                                              ? SLATE_VOLUME_OTHER
                                              : whole->kind));
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
    if (facts->layout.kind == SLATE_TABLE_NONE)
        map_whole(facts, map);
    else
        map_table(facts, map);
}

void map_of_draft(const struct slate_draft *draft, struct map *map)
{
    const struct slate_fat32 *volume = &draft->volume;
    struct stretch *stretch;

    memset(map, 0, sizeof *map);
    map->blocks = draft->basis.geometry.block_count;
    map->block_bytes = draft->basis.geometry.block_bytes;
    add_gap(map, 0, volume->first, "unallocated");
    stretch = add(map, volume->first, volume->blocks, PAINT_VOLUME);
    stretch->number = draft->table.count;
    if (volume->label[0] != '\0')
        snprintf(stretch->words, sizeof stretch->words, "FAT32 \"%s\"",
                 volume->label);
    else
        snprintf(stretch->words, sizeof stretch->words, "FAT32");
    if (draft->table.kind == SLATE_TABLE_MBR)
        snprintf(stretch->extra, sizeof stretch->extra, "type %02Xh",
                 draft->table.partition[0].mbr_type);
    add_gap(map, volume->first + volume->blocks, map->blocks, "unallocated");
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

/* Each stretch gets a column at least, as long as there are enough. */
static void print_columns(const struct map *map, int columns)
{
    int column = 0;

    printf("%s", paint_frame());
    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];
        int left = (int)(map->count - i - 1); /* one column for each to come */
        int end =
            map_column(stretch->first + stretch->count, map->blocks, columns);

        if (end <= column)
            end = column + 1;
        if (i + 1 == map->count || end > columns - left)
            end = columns - left;
        print_run(stretch->paint, end - column);
        column = end > column ? end : column;
    }
    printf("%*s%s", columns - column, "", paint_frame());
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
    int columns =
        rounded >= whole ? all : map_column(rounded, whole, all);

    if (columns == 0 && part > 0)
        columns = 1;
    printf("  %-11s%s", label, paint_frame());
    print_run(PAINT_VOLUME, columns);
    printf("%*s%s\n", all - columns, "", paint_frame());
}

/* What there is no room for goes to the next line. */
static void print_stretch_words(const struct stretch *stretch,
                                const char *size)
{
    int words = (int)strlen(stretch->words);
    int used = BAR_FRAME + (words < 23 ? 23 : words) + 21;

    printf(" %-23s %-20s", stretch->words, size);
    if (stretch->extra[0] == '\0')
        putchar('\n');
    else if (used + (int)strlen(stretch->extra) < paint_columns())
        printf(" %s\n", stretch->extra);
    else
        printf("\n%16s%s\n", "", stretch->extra);
}

void print_stretches(const struct map *map)
{
    for (uint32_t i = 0; i < map->count; i++) {
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
}
