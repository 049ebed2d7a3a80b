/* SPDX-License-Identifier: MIT */
/* Devices drawn to scale, by cairo: a bar for what is on each, a bar for what
 * hosts show of it, and what its findings say. */
#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <cairo.h>
#include <fontconfig/fontconfig.h>
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "view/map.h"
#include "state/durable.h"
#include "view/picture.h"
#include "say.h"
#include "view/view.h"

#define WIDTH 1280.0
#define MARGIN 48.0
#define BAR_HEIGHT 44.0
#define THIN_HEIGHT 14.0
#define LINE 24.0
#define STRETCHES_APART 100u /* more are drawn in columns */
#define LEGENDS 12u          /* stretches that are named; the rest is counted */

enum picture_kind picture_kind(const char *path)
{
    static const char *const endings[] = {".svg", ".png", ".pdf"};
    size_t length = strlen(path);

    for (int i = 0; i < 3; i++) {
        if (length > 4 && strcmp(path + length - 4, endings[i]) == 0)
            return (enum picture_kind)(PICTURE_SVG + i);
    }
    return PICTURE_NONE;
}

/* Where the pen stands. drawing false: only the height is measured. */
struct page {
    cairo_t *cairo;
    double y;
    bool drawing;
};

static void set_colour(cairo_t *cairo, uint32_t rgb)
{
    cairo_set_source_rgb(cairo, (rgb >> 16 & 255) / 255.0,
                         (rgb >> 8 & 255) / 255.0, (rgb & 255) / 255.0);
}

static void set_font(cairo_t *cairo, double size, bool bold)
{
    cairo_select_font_face(cairo, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD
                                : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(cairo, size);
}

static double width_of(cairo_t *cairo, const char *words)
{
    cairo_text_extents_t extents;

    cairo_text_extents(cairo, words, &extents);
    return extents.x_advance;
}

static void put_words(struct page *page, double x, const char *words)
{
    if (!page->drawing)
        return;
    cairo_move_to(page->cairo, x, page->y);
    cairo_show_text(page->cairo, words);
}

/* A paragraph behind a label, wrapped at the right margin. */
static void put_paragraph(struct page *page, const char *label, uint32_t colour,
                          const char *words)
{
    double left = MARGIN + 120, right = WIDTH - MARGIN;
    char line[512] = "";

    page->y += LINE;
    set_font(page->cairo, 16, true);
    set_colour(page->cairo, colour);
    put_words(page, MARGIN, label);
    set_font(page->cairo, 16, false);
    set_colour(page->cairo, 0x1b1f24);
    while (*words != '\0') {
        size_t length = strcspn(words, " "), used = strlen(line);

        snprintf(line + used, sizeof line - used, "%s%.*s",
                 used == 0 ? "" : " ", (int)length, words);
        if (used > 0 && left + width_of(page->cairo, line) > right) {
            line[used] = '\0';
            put_words(page, left, line);
            page->y += LINE;
            line[0] = '\0';
            continue; /* the same word, on the next line */
        }
        words += length;
        words += strspn(words, " ");
    }
    put_words(page, left, line);
}

#define STEP 10 /* points between lines, and between dots */

static void hatch(cairo_t *cairo, double x, double y, double width,
                  double height)
{
    int lines = (int)((width + height) / STEP) + 1;

    set_colour(cairo, 0xd98a1f);
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

    set_colour(cairo, 0x5f4b8b);
    for (int i = 0; i < columns * rows; i++)
        put_dot(cairo, x, y, i % columns, i / columns);
    cairo_fill(cairo);
}

/* Each kind of stretch has a colour and a shape: full, dotted, hatched. */
static void fill_box(cairo_t *cairo, double x, double y, double width,
                     double height, enum paint paint)
{
    static const uint32_t colours[] = {[PAINT_VOLUME] = 0x2a78b8,
                                       [PAINT_UNKNOWN] = 0xa79ac8,
                                       [PAINT_FREE] = 0xf6e3c5};

    cairo_save(cairo);
    cairo_rectangle(cairo, x, y, width, height);
    cairo_clip(cairo);
    set_colour(cairo, colours[paint]);
    cairo_paint(cairo);
    if (paint == PAINT_FREE)
        hatch(cairo, x, y, width, height);
    if (paint == PAINT_UNKNOWN)
        dot(cairo, x, y, width, height);
    cairo_restore(cairo);
}

static void frame(cairo_t *cairo, double x, double y, double width,
                  double height)
{
    set_colour(cairo, 0x1b1f24);
    cairo_set_line_width(cairo, 1.5);
    cairo_rectangle(cairo, x, y, width, height);
    cairo_stroke(cairo);
}

/* What a stretch is, in it, where there is room. */
static void put_name(cairo_t *cairo, const struct stretch *stretch, double x,
                     double y, double wide)
{
    double width;

    set_font(cairo, 15, stretch->paint == PAINT_VOLUME);
    width = width_of(cairo, stretch->words);
    if (width + 24 > wide)
        return;
    set_colour(cairo, 0xffffff);
    if (stretch->paint != PAINT_VOLUME) {
        cairo_rectangle(cairo, x + 8, y + 11, width + 8, 22);
        cairo_fill(cairo);
        set_colour(cairo, 0x1b1f24);
    }
    cairo_move_to(cairo, x + 12, y + 28);
    cairo_show_text(cairo, stretch->words);
}

/* A stretch too thin to be seen still gets three points. */
static void put_each(struct page *page, const struct map *map)
{
    double left = MARGIN, whole = WIDTH - 2 * MARGIN, reached = left;

    for (uint32_t i = 0; i < map->count; i++) {
        const struct stretch *stretch = &map->stretch[i];
        double x =
            left + whole * ((double)stretch->first / (double)map->blocks);
        double wide = whole * ((double)stretch->count / (double)map->blocks);

        x = x < reached ? reached : x;
        wide = wide < 3 ? 3 : wide;
        if (x + wide > left + whole)
            wide = left + whole - x;
        fill_box(page->cairo, x, page->y, wide, BAR_HEIGHT, stretch->paint);
        set_colour(page->cairo, 0xffffff);
        cairo_set_line_width(page->cairo, 1);
        cairo_move_to(page->cairo, x + wide, page->y);
        cairo_line_to(page->cairo, x + wide, page->y + BAR_HEIGHT);
        cairo_stroke(page->cairo);
        put_name(page->cairo, stretch, x, page->y, wide);
        reached = wide < 4 ? x + wide : reached;
    }
}

/* More stretches than can be told apart. */
static void put_columns(struct page *page, const struct map *map)
{
    double whole = WIDTH - 2 * MARGIN;
    int columns = (int)(whole / 2);

    for (int i = 0; i < columns; i++)
        fill_box(page->cairo, MARGIN + 2 * i, page->y, 2, BAR_HEIGHT,
                 map_paint(map, i, columns));
}

/* The bar to scale. */
static void put_map(struct page *page, const struct map *map)
{
    page->y += 10;
    if (page->drawing && map->count <= STRETCHES_APART)
        put_each(page, map);
    else if (page->drawing)
        put_columns(page, map);
    if (page->drawing)
        frame(page->cairo, MARGIN, page->y, WIDTH - 2 * MARGIN, BAR_HEIGHT);
    page->y += BAR_HEIGHT;
}

/* What hosts show, against the capacity. */
static void put_share(struct page *page, const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t shown = slate_facts_shown_bytes(facts);
    double whole = WIDTH - 2 * MARGIN, wide;
    char part[SLATE_SIZE_TEXT], full[SLATE_SIZE_TEXT], words[256];

    wide = whole * ((double)shown / (double)all);
    wide = wide > whole ? whole : wide;
    slate_size_both(shown, part);
    slate_size_both(all, full);
    snprintf(words, sizeof words, "Hosts show %s of %s",
             shown == 0 ? "nothing" : part, full);
    page->y += 14;
    if (page->drawing) {
        if (shown > 0)
            fill_box(page->cairo, MARGIN, page->y, wide < 2 ? 2 : wide,
                     THIN_HEIGHT, PAINT_VOLUME);
        frame(page->cairo, MARGIN, page->y, whole, THIN_HEIGHT);
    }
    page->y += THIN_HEIGHT + 20;
    set_font(page->cairo, 16, true);
    set_colour(page->cairo, 0x1b1f24);
    put_words(page, MARGIN, words);
    page->y += 4;
}

static void put_legend(struct page *page, const struct map *map)
{
    char size[SLATE_SIZE_TEXT], words[256];

    set_font(page->cairo, 15, false);
    page->y += 6;
    for (uint32_t i = 0; i < map->count && i < LEGENDS; i++) {
        const struct stretch *stretch = &map->stretch[i];

        page->y += LINE;
        if (page->drawing) {
            fill_box(page->cairo, MARGIN + 32, page->y - 13, 22, 16,
                     stretch->paint);
            frame(page->cairo, MARGIN + 32, page->y - 13, 22, 16);
        }
        set_colour(page->cairo, 0x1b1f24);
        if (stretch->number > 0) {
            snprintf(words, sizeof words, "%u", stretch->number);
            put_words(page, MARGIN + 24 - width_of(page->cairo, words), words);
        }
        put_words(page, MARGIN + 66, stretch->words);
        slate_size_both(stretch->count * map->block_bytes, size);
        put_words(page, MARGIN + 430, size);
        put_words(page, MARGIN + 720, stretch->extra);
    }
    if (map->count > LEGENDS) {
        page->y += LINE;
        snprintf(words, sizeof words, "and %u stretches more%s",
                 map->count - LEGENDS,
                 map->unlisted > 0 ? ", and partitions that are not listed"
                                   : "");
        put_words(page, MARGIN + 66, words);
    }
}

static void put_head(struct page *page, const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    const char *serial = target->is_file ? "" : facts->identity.serial;
    char words[320];
    double x = MARGIN;

    page->y += 30;
    set_font(page->cairo, 24, true);
    set_colour(page->cairo, 0x1b1f24);
    put_words(page, x, facts->tag);
    x += width_of(page->cairo, facts->tag) + 24;
    set_font(page->cairo, 18, false);
    snprintf(words, sizeof words, "%s%s%s, %s%s%s%s%s", facts->identity.maker,
             facts->identity.maker[0] == '\0' ? "" : " ", facts->identity.model,
             transport_words(facts->identity.transport),
             serial[0] == '\0' ? "" : ", serial ", serial,
             facts->opened == SLATE_OK ? ", " : "",
             facts->opened == SLATE_OK ? slate_table_words(facts->layout.kind)
                                       : "");
    put_words(page, x, words);
    page->y += 6;
}

static void put_findings(struct page *page, const struct slate_facts *facts,
                         bool brief)
{
    struct told told;

    told_of(facts, &told);
    page->y += 8;
    put_paragraph(page, told.fine ? "All well" : "You see",
                  told.fine ? 0x2a78b8 : 0xb45f06, told.see);
    if (told.fine)
        return;
    put_paragraph(page, "Why", 0x1b1f24, told.why);
    if (brief)
        return;
    put_paragraph(page, "Seen in", 0x1b1f24, told.evidence);
    put_paragraph(page, "What helps", 0x2a78b8, told.help);
}

static void put_device(struct page *page, const struct target *target,
                       bool brief)
{
    struct map map;

    put_head(page, target);
    if (target->facts.opened == SLATE_OK) {
        map_of_facts(&target->facts, &map);
        put_map(page, &map);
        put_share(page, &target->facts);
        if (!brief)
            put_legend(page, &map);
        map_forget(&map);
    }
    put_findings(page, &target->facts, brief);
    page->y += LINE;
}

static double put_all(cairo_t *cairo, struct target *const *targets,
                      uint32_t count, bool drawing)
{
    struct page page = {cairo, MARGIN / 2, drawing};

    for (uint32_t i = 0; i < count; i++)
        put_device(&page, targets[i], count > 1);
    return page.y + MARGIN / 2;
}

/* The picture in memory, until all of it is there. */
struct drawn {
    char *bytes;
    size_t length;
};

static cairo_status_t take_bytes(void *context, const unsigned char *data,
                                 unsigned length)
{
    struct drawn *drawn = context;
    char *more = realloc(drawn->bytes, drawn->length + length);

    if (more == NULL)
        return CAIRO_STATUS_NO_MEMORY;
    drawn->bytes = more;
    memcpy(more + drawn->length, data, length);
    drawn->length += length;
    return CAIRO_STATUS_SUCCESS;
}

static cairo_surface_t *surface_of(const char *path, double height,
                                   struct drawn *drawn)
{
    switch (picture_kind(path)) {
    case PICTURE_SVG:
        return cairo_svg_surface_create_for_stream(take_bytes, drawn, WIDTH,
                                                   height);
    case PICTURE_PDF:
        return cairo_pdf_surface_create_for_stream(take_bytes, drawn, WIDTH,
                                                   height);
    case PICTURE_PNG:
    case PICTURE_NONE:
    default:
        return cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)WIDTH,
                                          (int)height);
    }
}

/* The height is measured on a surface of one point. */
static double measure(struct target *const *targets, uint32_t count)
{
    cairo_surface_t *surface =
        cairo_image_surface_create(CAIRO_FORMAT_RGB24, 1, 1);
    cairo_t *cairo = cairo_create(surface);
    double height = put_all(cairo, targets, count, false);

    cairo_destroy(cairo);
    cairo_surface_destroy(surface);
    return height;
}

static cairo_status_t draw(const char *path, struct target *const *targets,
                           uint32_t count, struct drawn *drawn)
{
    double height = measure(targets, count);
    cairo_surface_t *surface = surface_of(path, height, drawn);
    cairo_t *cairo = cairo_create(surface);
    cairo_status_t status;

    cairo_set_source_rgb(cairo, 1, 1, 1);
    cairo_paint(cairo);
    put_all(cairo, targets, count, true);
    status = cairo_status(cairo);
    cairo_destroy(cairo);
    if (status == CAIRO_STATUS_SUCCESS && picture_kind(path) == PICTURE_PNG)
        status = cairo_surface_write_to_png_stream(surface, take_bytes, drawn);
    cairo_surface_finish(surface);
    if (status == CAIRO_STATUS_SUCCESS)
        status = cairo_surface_status(surface);
    cairo_surface_destroy(surface);
    cairo_debug_reset_static_data(); /* what is kept for the next picture */
    FcFini();
    return status;
}

int picture_draw(const char *path, struct target *const *targets,
                 uint32_t count)
{
    struct drawn drawn = {NULL, 0};
    cairo_status_t status = draw(path, targets, count, &drawn);
    int code = 0;

    if (status != CAIRO_STATUS_SUCCESS)
        code = fail(SLATE_ERR_ACCESS, "%s could not be drawn: %s", path,
                    cairo_status_to_string(status));
    else if (!durable_write(path, drawn.bytes, drawn.length))
        code = fail(SLATE_ERR_ACCESS, "%s could not be written: %s", path,
                    strerror(errno));
    free(drawn.bytes);
    return code;
}
