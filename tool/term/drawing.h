/* SPDX-License-Identifier: MIT */
/* The drawing libraries, which are loaded when something is drawn: other
 * commands go without them. Their functions have their usual names here. */
#ifndef TOOL_DRAWING_H
#define TOOL_DRAWING_H

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <cairo.h>
#include <pango/pangocairo.h>
#include <stdbool.h>

#define DRAWING_FUNCTIONS(X)                                                   \
    X(cairo_clip)                                                              \
    X(cairo_create)                                                            \
    X(cairo_destroy)                                                           \
    X(cairo_fill)                                                              \
    X(cairo_image_surface_create)                                              \
    X(cairo_line_to)                                                           \
    X(cairo_move_to)                                                           \
    X(cairo_paint)                                                             \
    X(cairo_pdf_surface_create_for_stream)                                     \
    X(cairo_rectangle)                                                         \
    X(cairo_restore)                                                           \
    X(cairo_save)                                                              \
    X(cairo_set_line_width)                                                    \
    X(cairo_set_source_rgb)                                                    \
    X(cairo_status)                                                            \
    X(cairo_status_to_string)                                                  \
    X(cairo_stroke)                                                            \
    X(cairo_surface_destroy)                                                   \
    X(cairo_surface_finish)                                                    \
    X(cairo_surface_status)                                                    \
    X(cairo_surface_write_to_png_stream)                                       \
    X(cairo_svg_surface_create_for_stream)                                     \
    X(g_object_unref)                                                          \
    X(pango_cairo_create_layout)                                               \
    X(pango_cairo_show_layout_line)                                            \
    X(pango_font_description_free)                                             \
    X(pango_font_description_new)                                              \
    X(pango_font_description_set_absolute_size)                                \
    X(pango_font_description_set_family)                                       \
    X(pango_font_description_set_weight)                                       \
    X(pango_layout_get_line_count)                                             \
    X(pango_layout_get_line_readonly)                                          \
    X(pango_layout_get_size)                                                   \
    X(pango_layout_set_font_description)                                       \
    X(pango_layout_set_text)                                                   \
    X(pango_layout_set_width)

#define DRAWING_FIELD(name) __typeof__(name) *(name);
struct drawing {
    DRAWING_FUNCTIONS(DRAWING_FIELD)
};
#undef DRAWING_FIELD

extern struct drawing drawing;

/* Makes the functions usable; false: there is no such library, and why. What
 * the library and its fonts keep is never given back: they have threads of
 * their own, which use it until the program is gone. All that was said goes out
 * first, so that nothing is taken along by somebody else's code. */
bool drawing_load(const char **why);

#ifndef DRAWING_ITSELF
#define cairo_clip drawing.cairo_clip
#define cairo_create drawing.cairo_create
#define cairo_destroy drawing.cairo_destroy
#define cairo_fill drawing.cairo_fill
#define cairo_image_surface_create drawing.cairo_image_surface_create
#define cairo_line_to drawing.cairo_line_to
#define cairo_move_to drawing.cairo_move_to
#define cairo_paint drawing.cairo_paint
#define cairo_pdf_surface_create_for_stream                                    \
    drawing.cairo_pdf_surface_create_for_stream
#define cairo_rectangle drawing.cairo_rectangle
#define cairo_restore drawing.cairo_restore
#define cairo_save drawing.cairo_save
#define cairo_set_line_width drawing.cairo_set_line_width
#define cairo_set_source_rgb drawing.cairo_set_source_rgb
#define cairo_status drawing.cairo_status
#define cairo_status_to_string drawing.cairo_status_to_string
#define cairo_stroke drawing.cairo_stroke
#define cairo_surface_destroy drawing.cairo_surface_destroy
#define cairo_surface_finish drawing.cairo_surface_finish
#define cairo_surface_status drawing.cairo_surface_status
#define cairo_surface_write_to_png_stream                                      \
    drawing.cairo_surface_write_to_png_stream
#define cairo_svg_surface_create_for_stream                                    \
    drawing.cairo_svg_surface_create_for_stream
#undef g_object_unref
#define g_object_unref drawing.g_object_unref
#define pango_cairo_create_layout drawing.pango_cairo_create_layout
#define pango_cairo_show_layout_line drawing.pango_cairo_show_layout_line
#define pango_font_description_free drawing.pango_font_description_free
#define pango_font_description_new drawing.pango_font_description_new
#define pango_font_description_set_absolute_size                               \
    drawing.pango_font_description_set_absolute_size
#define pango_font_description_set_family                                      \
    drawing.pango_font_description_set_family
#define pango_font_description_set_weight                                      \
    drawing.pango_font_description_set_weight
#define pango_layout_get_line_count drawing.pango_layout_get_line_count
#define pango_layout_get_line_readonly drawing.pango_layout_get_line_readonly
#define pango_layout_get_size drawing.pango_layout_get_size
#define pango_layout_set_font_description                                      \
    drawing.pango_layout_set_font_description
#define pango_layout_set_text drawing.pango_layout_set_text
#define pango_layout_set_width drawing.pango_layout_set_width
#endif

#endif
