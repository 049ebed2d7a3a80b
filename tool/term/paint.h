/* SPDX-License-Identifier: MIT */
/* What the terminal can show: colours and fill characters. */
#ifndef TOOL_PAINT_H
#define TOOL_PAINT_H

#include <stdbool.h>

/* What a stretch of text or of a map stands for. */
enum paint {
    PAINT_PLAIN,
    PAINT_STRONG,  /* headings, tags */
    PAINT_FAINT,   /* remarks */
    PAINT_VOLUME,  /* a volume that hosts can use */
    PAINT_UNKNOWN, /* a partition or content without a known volume */
    PAINT_FREE,    /* belongs to nothing */
    PAINT_GOOD,
    PAINT_BAD
};

/* Looks at stdout, NO_COLOR, TERM and the locale; call once. */
void paint_begin(void);

/* Prints to stdout in the paint, where the terminal has colours. */
#if defined(__GNUC__)
__attribute__((format(printf, 2, 3)))
#endif
void painted(enum paint paint, const char *format, ...);

/* Where a stretch begins beside one of the same paint. */
const char *paint_edge(void);

/* The fill character of a map, one column wide; it differs by paint, so that
 * the map reads without colours too. */
const char *paint_fill(enum paint paint);

/* The frame at both ends of a map. */
const char *paint_frame(void);

/* Columns of the output, 60 to 160: those of the terminal; 80 where it is none.
 */
int paint_columns(void);

/* Prints a paragraph: an indented label column, then words wrapped to the
 * columns. */
#if defined(__GNUC__)
__attribute__((format(printf, 3, 4)))
#endif
void print_line(const char *label, enum paint paint, const char *format, ...);

#endif
