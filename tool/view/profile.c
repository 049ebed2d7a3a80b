/* SPDX-License-Identifier: MIT */
/* How fast a device is from its start to its end, and where it fails: a column
 * for each region, as high as its rate; slow ones hatched, marks below for
 * blocks that failed. */
#include "view/page.h"

#define HEIGHT 320.0
#define AXIS 64.0 /* left of it stand the rates */
#define MARK_HEIGHT 14.0

struct scale {
    double left, top, whole; /* the frame */
    uint64_t most;           /* bytes a second at its upper edge */
};

static uint64_t fastest(const struct slate_surface *surface)
{
    uint64_t most = 0;

    for (uint32_t i = 0; i < surface->count; i++) {
        uint64_t rate = slate_surface_rate(surface, i);

        most = rate > most ? rate : most;
    }
    return most;
}

/* The next of 1, 2 or 5 times a power of ten. */
static uint64_t round_up(uint64_t rate)
{
    uint64_t unit = 1;

    while (unit * 10 <= rate)
        unit *= 10;
    return unit >= rate       ? unit
           : 2 * unit >= rate ? 2 * unit
           : 5 * unit >= rate ? 5 * unit
                              : 10 * unit;
}

static double x_of(const struct scale *scale,
                   const struct slate_surface *surface, uint32_t index)
{
    return scale->left +
           scale->whole * ((double)index * (double)surface->cell_blocks /
                           (double)surface->block_count);
}

static void put_column(struct page *page, const struct scale *scale,
                       const struct slate_surface *surface, uint32_t i,
                       uint64_t median)
{
    double x = x_of(scale, surface, i), end = x_of(scale, surface, i + 1);
    uint64_t rate = slate_surface_rate(surface, i);
    double high = HEIGHT * ((double)rate / (double)scale->most);

    if (end > scale->left + scale->whole)
        end = scale->left + scale->whole;
    if (rate > 0)
        page_fill_box(page->cairo, x, scale->top + HEIGHT - high, end - x + 0.5,
                      high,
                      slate_surface_is_slow(surface, i, median) ? PAINT_UNKNOWN
                                                                : PAINT_VOLUME);
    if (surface->cell[i].failed == 0)
        return;
    page_set_colour(page->cairo, PAGE_AMBER);
    cairo_rectangle(page->cairo, x - 1, scale->top + HEIGHT + 4,
                    end - x < 3 ? 3 : end - x, MARK_HEIGHT);
    cairo_fill(page->cairo);
}

/* A rate beside the axis, and a line across. */
static void put_line(struct page *page, const struct scale *scale,
                     uint64_t rate, const char *words)
{
    double y = scale->top + HEIGHT * (1 - (double)rate / (double)scale->most);
    double pen = page->y;

    page_set_colour(page->cairo, PAGE_BLACK);
    cairo_set_line_width(page->cairo, 0.5);
    cairo_move_to(page->cairo, scale->left, y);
    cairo_line_to(page->cairo, scale->left + scale->whole, y);
    cairo_stroke(page->cairo);
    page->y = y + 5;
    page_set_font(page, 13, false);
    page_words(page, scale->left - 8 - page_width_of(page, words), words);
    page->y = pen;
}

static void put_rates(struct page *page, const struct scale *scale)
{
    char words[SLATE_SIZE_TEXT + 4];

    for (uint32_t i = 0; i <= 4; i++) {
        slate_size_decimal(scale->most / 4 * i, words);
        put_line(page, scale, scale->most / 4 * i, i == 0 ? "0" : words);
    }
}

static void put_ends(struct page *page, const struct scale *scale,
                     const struct slate_surface *surface)
{
    char words[SLATE_SIZE_TEXT];

    page->y = scale->top + HEIGHT + MARK_HEIGHT + 24;
    page_set_font(page, 13, false);
    page_set_colour(page->cairo, PAGE_BLACK);
    page_words(page, scale->left, "block 0");
    slate_size_decimal(surface->block_count * surface->block_bytes, words);
    page_words(page, scale->left + scale->whole - page_width_of(page, words),
               words);
}

void profile_put(struct page *page, const void *what)
{
    const struct profile *profile = what;
    const struct slate_surface *surface = profile->surface;
    const uint64_t median = slate_surface_median(surface);
    struct scale scale = {PAGE_MARGIN + AXIS, 0,
                          PAGE_WIDTH - 2 * PAGE_MARGIN - AXIS,
                          round_up(fastest(surface))};
    char words[200];

    page_head(page, profile->target);
    page->y += PAGE_LINE + 10;
    page_set_font(page, 16, true);
    page_set_colour(page->cairo, PAGE_BLACK);
    snprintf(words, sizeof words,
             "%s a second, from the first block to the last", profile->doing);
    page_words(page, PAGE_MARGIN, words);
    scale.top = page->y + 16;
    if (page->drawing && median > 0) {
        for (uint32_t i = 0; i < surface->count; i++)
            put_column(page, &scale, surface, i, median);
        put_rates(page, &scale);
        page_frame(page->cairo, scale.left, scale.top, scale.whole, HEIGHT);
    }
    put_ends(page, &scale, surface);
    page->y += PAGE_LINE;
    page_paragraph(page, profile->bad > 0 ? "You see" : "All well",
                   profile->bad > 0 ? PAGE_AMBER : PAGE_BLUE, profile->words);
    page_paragraph(page, "Legend", PAGE_BLACK,
                   "full: at the pace of most; pale: at a quarter of it or "
                   "less; a mark below the frame: blocks that failed there");
}
