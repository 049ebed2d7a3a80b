/* SPDX-License-Identifier: MIT */
/* A page that pictures are drawn on, by cairo: words, bars to scale, legends.
 */
#include "view/page.h"

#include "view/view.h"

#define BAR_HEIGHT 44.0
#define STRETCHES_APART 100u /* more are drawn in columns */
#define LEGENDS 12u          /* stretches that are named; the rest is counted */

#define STEP 10 /* points between lines, and between dots */

static void hatch(cairo_t *cairo, double x, double y, double width,
                  double height)
{
    int lines = (int)((width + height) / STEP) + 1;

    page_set_colour(cairo, 0xd98a1f);
    cairo_set_line_width(cairo, 2);
    for (int i = 0; i < lines; i++) {
        cairo_move_to(cairo, x - height + i * STEP, y + height);
        cairo_line_to(cairo, x + i * STEP, y);
    }
    cairo_stroke(cairo);
}

static void put_dot(cairo_t *cairo, double x, double y, int column, int row)
{
    cairo_rectangle(cairo, x + 4 + column * STEP, y + 4 + row * STEP, 3, 3);
}

static void dot(cairo_t *cairo, double x, double y, double width, double height)
{
    int columns = (int)(width / STEP) + 1, rows = (int)(height / STEP) + 1;

    page_set_colour(cairo, 0x5f4b8b);
    for (int i = 0; i < columns * rows; i++)
        put_dot(cairo, x, y, i % columns, i / columns);
    cairo_fill(cairo);
}

/* Each kind of stretch has a colour and a shape: full, dotted, hatched. */
void page_fill_box(cairo_t *cairo, double x, double y, double width,
                   double height, enum paint paint)
{
    static const uint32_t colours[] = {[PAINT_VOLUME] = PAGE_BLUE,
                                       [PAINT_UNKNOWN] = 0xa79ac8,
                                       [PAINT_FREE] = 0xf6e3c5};

    cairo_save(cairo);
    cairo_rectangle(cairo, x, y, width, height);
    cairo_clip(cairo);
    page_set_colour(cairo, colours[paint]);
    cairo_paint(cairo);
    if (paint == PAINT_FREE)
        hatch(cairo, x, y, width, height);
    if (paint == PAINT_UNKNOWN)
        dot(cairo, x, y, width, height);
    cairo_restore(cairo);
}

void page_frame(cairo_t *cairo, double x, double y, double width, double height)
{
    page_set_colour(cairo, PAGE_BLACK);
    cairo_set_line_width(cairo, 1.5);
    cairo_rectangle(cairo, x, y, width, height);
    cairo_stroke(cairo);
}

/* What a stretch is, in it, where there is room. */
static void put_name(struct page *page, const struct stretch *stretch, double x,
                     double y, double wide)
{
    double width, pen;

    page_set_font(page, 15, stretch->paint == PAINT_VOLUME);
    width = page_width_of(page, stretch->words);
    if (width + 24 > wide)
        return;
    page_set_colour(page->cairo, 0xffffff);
    if (stretch->paint != PAINT_VOLUME) {
        cairo_rectangle(page->cairo, x + 8, y + 11, width + 8, 22);
        cairo_fill(page->cairo);
        page_set_colour(page->cairo, PAGE_BLACK);
    }
    pen = page->y;
    page->y = y + 28;
    page_words(page, x + 12, stretch->words);
    page->y = pen;
}

/* A stretch too thin to be seen still gets three points. */
static void put_each(struct page *page, const struct map *map)
{
    double left = PAGE_MARGIN, whole = PAGE_WIDTH - 2 * PAGE_MARGIN,
           reached = left;

    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];
        double x =
            left + whole * ((double)stretch->first / (double)map->blocks);
        double wide = whole * ((double)stretch->count / (double)map->blocks);

        x = x < reached ? reached : x;
        wide = wide < 3 ? 3 : wide;
        if (x + wide > left + whole)
            wide = left + whole - x;
        page_fill_box(page->cairo, x, page->y, wide, BAR_HEIGHT,
                      stretch->paint);
        page_set_colour(page->cairo, 0xffffff);
        cairo_set_line_width(page->cairo, 1);
        cairo_move_to(page->cairo, x + wide, page->y);
        cairo_line_to(page->cairo, x + wide, page->y + BAR_HEIGHT);
        cairo_stroke(page->cairo);
        put_name(page, stretch, x, page->y, wide);
        reached = wide < 4 ? x + wide : reached;
    }
}

/* More stretches than can be told apart. */
static void put_columns(struct page *page, const struct map *map)
{
    double whole = PAGE_WIDTH - 2 * PAGE_MARGIN;
    int columns = (int)(whole / 2);

    for (int i = 0; i < columns; i++)
        page_fill_box(page->cairo, PAGE_MARGIN + 2 * i, page->y, 2, BAR_HEIGHT,
                      map_paint(map, i, columns));
}

/* The bar to scale. */
void page_map(struct page *page, const struct map *map)
{
    page->y += 10;
    if (page->drawing && map->count <= STRETCHES_APART)
        put_each(page, map);
    else if (page->drawing)
        put_columns(page, map);
    if (page->drawing)
        page_frame(page->cairo, PAGE_MARGIN, page->y,
                   PAGE_WIDTH - 2 * PAGE_MARGIN, BAR_HEIGHT);
    page->y += BAR_HEIGHT;
}

void page_legend(struct page *page, const struct map *map)
{
    char words[256];

    page_set_font(page, 15, false);
    page->y += 6;
    for (uint32_t i = 0; i < map->count && i < LEGENDS; i++) {
        const struct stretch *stretch = &map->stretch[i];

        page->y += PAGE_LINE;
        if (page->drawing) {
            page_fill_box(page->cairo, PAGE_MARGIN + 32, page->y - 13, 22, 16,
                          stretch->paint);
            page_frame(page->cairo, PAGE_MARGIN + 32, page->y - 13, 22, 16);
        }
        page_set_colour(page->cairo, PAGE_BLACK);
        if (stretch->number > 0) {
            snprintf(words, sizeof words, "%u", stretch->number);
            page_words(page, PAGE_MARGIN + 24 - page_width_of(page, words),
                       words);
        }
        page_words(page, PAGE_MARGIN + 66, stretch->words);
        page_words(page, PAGE_MARGIN + 430,
                   in_both(stretch->count * map->block_bytes).words);
        page_words(page, PAGE_MARGIN + 720, stretch->extra);
    }
    if (map->count > LEGENDS) {
        page->y += PAGE_LINE;
        snprintf(words, sizeof words, "and %u stretches more%s",
                 map->count - LEGENDS,
                 map->unlisted > 0 ? ", and partitions that are not listed"
                                   : "");
        page_words(page, PAGE_MARGIN + 66, words);
    }
}

void page_head(struct page *page, const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    const char *serial = target->is_file ? "" : facts->identity.serial;
    char words[320];
    double x = PAGE_MARGIN;

    page->y += 30;
    page_set_font(page, 24, true);
    page_set_colour(page->cairo, PAGE_BLACK);
    page_words(page, x, facts->tag);
    x += page_width_of(page, facts->tag) + 24;
    page_set_font(page, 18, false);
    snprintf(words, sizeof words, "%s%s%s, %s%s%s%s%s", facts->identity.maker,
             facts->identity.maker[0] == '\0' ? "" : " ", facts->identity.model,
             transport_words(facts->identity.transport),
             serial[0] == '\0' ? "" : ", serial ", serial,
             facts->opened == SLATE_OK ? ", " : "",
             facts->opened == SLATE_OK ? slate_table_words(facts->layout.kind)
                                       : "");
    page_words(page, x, words);
    page->y += 6;
}
