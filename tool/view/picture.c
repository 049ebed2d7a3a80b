/* SPDX-License-Identifier: MIT */
/* Pictures, by cairo: devices with a bar for what is on each and one for what
 * hosts show of it, and what their findings say; a draft with before and after.
 */
#include <errno.h>

#include "view/view.h"
#include "view/page.h"

#define THIN_HEIGHT 14.0

/* What hosts show, against the capacity. */
static void put_share(struct page *page, const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t shown = slate_facts_shown_bytes(facts);
    double whole = PAGE_WIDTH - 2 * PAGE_MARGIN, wide;
    char full[SLATE_SIZE_TEXT], words[256];

    wide = whole * ((double)shown / (double)all);
    wide = wide > whole ? whole : wide;
    slate_size_both(all, full);
    snprintf(words, sizeof words, "Hosts show %s of %s",
             shown == 0 ? "nothing" : in_both(shown).words, full);
    page->y += 14;
    if (page->drawing) {
        if (shown > 0)
            page_fill_box(page->cairo, PAGE_MARGIN, page->y,
                          wide < 2 ? 2 : wide, THIN_HEIGHT, PAINT_VOLUME);
        page_frame(page->cairo, PAGE_MARGIN, page->y, whole, THIN_HEIGHT);
    }
    page->y += THIN_HEIGHT + 20;
    page_set_font(page, 16, true);
    page_set_colour(page->cairo, PAGE_BLACK);
    page_words(page, PAGE_MARGIN, words);
    page->y += 4;
}

static void put_findings(struct page *page, const struct target *target,
                         bool brief)
{
    struct told told;

    told_of(target, &told);
    page->y += 8;
    page_paragraph(page, told.fine ? "All well" : "You see",
                   told.fine ? PAGE_BLUE : PAGE_AMBER, told.see);
    if (told.fine)
        return;
    page_paragraph(page, "Why", PAGE_BLACK, told.why);
    if (brief)
        return;
    page_paragraph(page, "Seen in", PAGE_BLACK, told.evidence);
    page_paragraph(page, "What helps", PAGE_BLUE, told.help);
}

static void put_device(struct page *page, const struct target *target,
                       bool brief)
{
    struct map map;

    page_head(page, target);
    if (target->facts.opened == SLATE_OK) {
        map_of_facts(&target->facts, &map);
        page_map(page, &map);
        put_share(page, &target->facts);
        if (!brief)
            page_legend(page, &map);
        map_forget(&map);
    }
    put_findings(page, target, brief);
    page->y += PAGE_LINE;
}

/* Devices, one below the other. */
struct devices {
    struct target *const *target;
    uint32_t count;
};

static void put_devices(struct page *page, const void *what)
{
    const struct devices *devices = what;

    for (uint32_t i = 0; i < devices->count; i++)
        put_device(page, devices->target[i], devices->count > 1);
}

struct drafting {
    const struct target *target;
    const struct slate_draft *draft;
};

static void put_title(struct page *page, const char *words)
{
    page->y += PAGE_LINE + 10;
    page_set_font(page, 16, true);
    page_set_colour(page->cairo, PAGE_BLACK);
    page_words(page, PAGE_MARGIN, words);
}

static void put_bar(struct page *page, const char *title, struct map *map)
{
    put_title(page, title);
    page_map(page, map);
    page_legend(page, map);
    map_forget(map);
}

/* What is done, with amounts and times in columns. */
static void put_steps(struct page *page, const struct target *target,
                      const struct slate_draft *draft)
{
    struct steps steps;
    char words[160], time[16];

    put_title(page, "Steps");
    page_set_font(page, 15, false);
    steps_of(target, draft, &steps);
    for (uint32_t i = 0; i < steps.count; i++) {
        const struct step *step = &steps.step[i];

        page->y += PAGE_LINE;
        snprintf(words, sizeof words, "%u", i + 1);
        page_words(page, PAGE_MARGIN + 24 - page_width_of(page, words), words);
        page_words(page, PAGE_MARGIN + 40, step->words);
        page_words(
            page, PAGE_MARGIN + 520,
            in_decimal(step->blocks * draft->basis.geometry.block_bytes).words);
        step_time(slate_advise_seconds(draft, step->blocks, false), time);
        page_words(page, PAGE_MARGIN + 640, time);
    }
}

static void put_draft(struct page *page, const void *what)
{
    const struct drafting *drafting = what;
    const struct slate_facts *facts = &drafting->target->facts;
    struct slate_text text;
    struct loss loss;
    struct map map;
    char words[1024];

    page_head(page, drafting->target);
    map_of_facts(facts, &map);
    put_bar(page, "Now", &map);
    map_of_draft(drafting->draft, facts, &map);
    put_bar(page, "Then", &map);
    page->y += 10;
    loss_of(drafting->target, drafting->draft, &loss);
    for (uint32_t i = 0; i < loss.count; i++)
        page_paragraph(page, i == 0 ? "Is lost" : "",
                       loss.bad ? PAGE_AMBER : PAGE_BLUE, loss.line[i]);
    slate_text_start(&text, words, sizeof words);
    for (uint32_t i = 0; slate_draft_remark(drafting->draft, i, &text); i++)
        slate_text_add(&text, " ");
    page_paragraph(page, "Remarks", PAGE_BLUE, words);
    put_steps(page, drafting->target, drafting->draft);
}

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
        return cairo_svg_surface_create_for_stream(take_bytes, drawn,
                                                   PAGE_WIDTH, height);
    case PICTURE_PDF:
        return cairo_pdf_surface_create_for_stream(take_bytes, drawn,
                                                   PAGE_WIDTH, height);
    case PICTURE_PNG:
    case PICTURE_NONE:
    default:
        return cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)PAGE_WIDTH,
                                          (int)height);
    }
}

/* What a picture shows, on a page. */
struct content {
    void (*put)(struct page *page, const void *what);
    const void *what;
};

static double put_all(cairo_t *cairo, const struct content *content, bool draws)
{
    struct page page = {cairo, PAGE_MARGIN / 2, draws, 16, false};

    content->put(&page, content->what);
    return page.y + PAGE_MARGIN / 2;
}

/* The height is measured on a surface of one point. */
static double measure(const struct content *content)
{
    cairo_surface_t *surface =
        cairo_image_surface_create(CAIRO_FORMAT_RGB24, 1, 1);
    cairo_t *cairo = cairo_create(surface);
    double height = put_all(cairo, content, false);

    cairo_destroy(cairo);
    cairo_surface_destroy(surface);
    return height;
}

static cairo_status_t draw(const char *path, const struct content *content,
                           struct drawn *drawn)
{
    double height = measure(content);
    cairo_surface_t *surface = surface_of(path, height, drawn);
    cairo_t *cairo = cairo_create(surface);
    cairo_status_t status;

    cairo_set_source_rgb(cairo, 1, 1, 1);
    cairo_paint(cairo);
    put_all(cairo, content, true);
    status = cairo_status(cairo);
    cairo_destroy(cairo);
    if (status == CAIRO_STATUS_SUCCESS && picture_kind(path) == PICTURE_PNG)
        status = cairo_surface_write_to_png_stream(surface, take_bytes, drawn);
    cairo_surface_finish(surface);
    if (status == CAIRO_STATUS_SUCCESS)
        status = cairo_surface_status(surface);
    cairo_surface_destroy(surface);
    return status;
}

/* SVG as text, to be freed; NULL: it cannot be drawn here. */
static char *draw_text(const struct content *content)
{
    struct drawn drawn = {NULL, 0};
    const char *why;
    char *text = NULL;

    if (drawing_load(&why) &&
        draw("text.svg", content, &drawn) == CAIRO_STATUS_SUCCESS &&
        drawn.bytes != NULL)
        text = strndup(drawn.bytes, drawn.length);
    free(drawn.bytes);
    return text;
}

char *picture_text_of_draft(const struct target *target,
                            const struct slate_draft *draft)
{
    const struct drafting drafting = {target, draft};
    const struct content content = {put_draft, &drafting};

    return draw_text(&content);
}

char *picture_text_of_profile(const struct profile *profile)
{
    const struct content content = {profile_put, profile};

    return draw_text(&content);
}

char *picture_text_of_device(struct target *target)
{
    struct target *targets[] = {target};
    const struct devices devices = {targets, 1};
    const struct content content = {put_devices, &devices};

    return draw_text(&content);
}

static int save(const char *path, const struct content *content)
{
    struct drawn drawn = {NULL, 0};
    const char *why;
    cairo_status_t status;
    int code = 0;

    if (!drawing_load(&why))
        return fail(SLATE_ERR_ACCESS,
                    "%s cannot be drawn, that needs libpangocairo: %s", path,
                    why);
    status = draw(path, content, &drawn);

    if (status != CAIRO_STATUS_SUCCESS)
        code = fail(SLATE_ERR_ACCESS, "%s could not be drawn: %s", path,
                    cairo_status_to_string(status));
    else if (!durable_write(path, drawn.bytes, drawn.length))
        code = fail(SLATE_ERR_ACCESS, "%s could not be written: %s", path,
                    strerror(errno));
    free(drawn.bytes);
    return code;
}

int picture_draw(const char *path, struct target *const *targets,
                 uint32_t count)
{
    const struct devices devices = {targets, count};
    const struct content content = {put_devices, &devices};

    return save(path, &content);
}

int picture_draft(const char *path, const struct target *target,
                  const struct slate_draft *draft)
{
    const struct drafting drafting = {target, draft};
    const struct content content = {put_draft, &drafting};

    return save(path, &content);
}

int picture_profile(const char *path, const struct profile *profile)
{
    const struct content content = {profile_put, profile};

    return save(path, &content);
}
