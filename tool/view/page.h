/* SPDX-License-Identifier: MIT */
/* A page that pictures are drawn on, by cairo: words, bars to scale, legends.
 */
#ifndef TOOL_PAGE_H
#define TOOL_PAGE_H

#include "device/device.h"
#include "term/drawing.h"
#include "view/view.h"

#define PAGE_WIDTH 1280.0
#define PAGE_MARGIN 48.0
#define PAGE_LINE 24.0

#define PAGE_BLACK 0x1b1f24u
#define PAGE_BLUE 0x2a78b8u
#define PAGE_AMBER 0xb45f06u

/* Where the pen stands. drawing false: only the height is measured. */
struct page {
    cairo_t *cairo;
    double y;
    bool drawing;
    double font_size;
    bool bold;
};

void page_set_colour(cairo_t *cairo, uint32_t rgb);
void page_set_font(struct page *page, double size, bool bold);
double page_width_of(const struct page *page, const char *words);

void page_words(struct page *page, double x, const char *words);

/* A paragraph behind a label, wrapped at the right margin. */
void page_paragraph(struct page *page, const char *label, uint32_t colour,
                    const char *words);

/* Each kind of stretch has a colour and a shape: full, dotted, hatched. */
void page_fill_box(cairo_t *cairo, double x, double y, double width,
                   double height, enum paint paint);
void page_frame(cairo_t *cairo, double x, double y, double width,
                double height);

/* The bar to scale, and a line for each stretch. */
void page_map(struct page *page, const struct map *map);
void page_legend(struct page *page, const struct map *map);

/* Tag, names and table of a device. */
void page_head(struct page *page, const struct target *target);

/* A profile: the device, the rates to scale, what they mean. */
void profile_put(struct page *page, const void *profile);

#endif
