/* SPDX-License-Identifier: MIT */
/* Words on a page: labels of every script, laid out by pango. */
#include "view/page.h"

#define FAMILY "DejaVu Sans" /* first; others stand in for what it lacks */

void page_set_colour(cairo_t *cairo, uint32_t rgb)
{
    cairo_set_source_rgb(cairo, (rgb >> 16 & 255) / 255.0,
                         (rgb >> 8 & 255) / 255.0, (rgb & 255) / 255.0);
}

void page_set_font(struct page *page, double size, bool bold)
{
    page->font_size = size;
    page->bold = bold;
}

/* Text of the present font; let go of with g_object_unref. */
static PangoLayout *lay_out(const struct page *page, const char *words)
{
    PangoLayout *layout = pango_cairo_create_layout(page->cairo);
    PangoFontDescription *font = pango_font_description_new();

    pango_font_description_set_family(font, FAMILY);
    pango_font_description_set_weight(font, page->bold ? PANGO_WEIGHT_BOLD
                                                       : PANGO_WEIGHT_NORMAL);
    pango_font_description_set_absolute_size(font,
                                             page->font_size * PANGO_SCALE);
    pango_layout_set_font_description(layout, font);
    pango_layout_set_text(layout, words, -1);
    pango_font_description_free(font);
    return layout;
}

double page_width_of(const struct page *page, const char *words)
{
    PangoLayout *layout = lay_out(page, words);
    int width = 0;

    pango_layout_get_size(layout, &width, NULL);
    g_object_unref(layout);
    return (double)width / PANGO_SCALE;
}

/* A line of it, with its foot on the pen. */
static void show_line(struct page *page, PangoLayout *layout, int line,
                      double x)
{
    if (!page->drawing)
        return;
    cairo_move_to(page->cairo, x, page->y);
    pango_cairo_show_layout_line(page->cairo,
                                 pango_layout_get_line_readonly(layout, line));
}

void page_words(struct page *page, double x, const char *words)
{
    PangoLayout *layout = lay_out(page, words);

    show_line(page, layout, 0, x);
    g_object_unref(layout);
}

void page_paragraph(struct page *page, const char *label, uint32_t colour,
                    const char *words)
{
    double left = PAGE_MARGIN + 120, right = PAGE_WIDTH - PAGE_MARGIN;
    PangoLayout *layout;
    int lines;

    page->y += PAGE_LINE;
    page_set_font(page, 16, true);
    page_set_colour(page->cairo, colour);
    page_words(page, PAGE_MARGIN, label);
    page_set_font(page, 16, false);
    page_set_colour(page->cairo, PAGE_BLACK);
    layout = lay_out(page, words);
    pango_layout_set_width(layout, (int)((right - left) * PANGO_SCALE));
    lines = pango_layout_get_line_count(layout);
    for (int i = 0; i < lines; i++) {
        page->y += i == 0 ? 0 : PAGE_LINE;
        show_line(page, layout, i, left);
    }
    g_object_unref(layout);
}
