/* SPDX-License-Identifier: MIT */
/* A device drawn to scale: one bar, and a line for each stretch of it. */
#ifndef TOOL_MAP_H
#define TOOL_MAP_H

#include <trueslate/trueslate.h>

#include "term/paint.h"

struct stretch {
    uint64_t first, count; /* blocks */
    uint32_t number;       /* of the partition, from 1; 0: none */
    enum paint paint;
    char words[160]; /* what it is: FAT16 "TGBOOT" */
    char extra[48];  /* more about it: active, type 0Eh */
};

struct map {
    uint64_t blocks;
    uint32_t block_bytes;
    uint32_t count, room;
    struct stretch *stretch; /* each partition and each gap ahead of one */
    uint32_t unlisted;       /* partitions for which there was no room */
};

/* Stretches that are told in a line each; of more their number is told. */
#define MAP_LINES 32u

/* Columns of a bar, as the terminal has room; and around it. */
#define BAR_COLUMNS_MOST 144
#define BAR_FRAME 16
int bar_columns(void);

/* The column of a block, from 0: block * columns / blocks, without overflow. */
int map_column(uint64_t block, uint64_t blocks, int columns);

/* How a column of a bar is painted that shows more than one stretch: what
 * belongs to a partition is never painted as free. */
enum paint map_paint(const struct map *map, int column, int columns);

/* Gives back what a map holds. */
void map_forget(struct map *map);

/* The device as it was found; forget it afterwards, as the other one. */
void map_of_facts(const struct slate_facts *facts, struct map *map);

/* The device as it will be. */
void map_of_draft(const struct slate_draft *draft,
                  const struct slate_facts *facts, struct map *map);

/* What was found where no partition is, and nothing else. */
void map_of_lost(const struct slate_search *search, struct map *map);

/* The bar, behind a label: "Now  |##----|". */
void print_bar(const char *label, const struct map *map);

/* The same in a few columns, without a line end. */
void print_small_bar(const struct map *map);

/* A bar that shows the first part of a whole. */
void print_share(const char *label, uint64_t part, uint64_t whole);

/* One line for each stretch. */
void print_stretches(const struct map *map);

#endif
