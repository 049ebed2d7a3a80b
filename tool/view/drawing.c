/* SPDX-License-Identifier: MIT */
/* The drawing libraries, which are loaded when something is drawn. */
#define DRAWING_ITSELF
#include "view/drawing.h"

#include <dlfcn.h>
#include <stddef.h>
#include <string.h>

struct drawing drawing;

#ifdef TRUESLATE_STATIC

bool drawing_load(const char **why)
{
#define TAKE(name) drawing.name = name;
    DRAWING_FUNCTIONS(TAKE)
#undef TAKE
    *why = "";
    return true;
}

void drawing_forget(void)
{
    pango_cairo_font_map_set_default(NULL);
    cairo_debug_reset_static_data();
}

#else

static void *library;

/* A function's address as dlsym gives it: the same bytes. */
static bool take(const char *name, void *field)
{
    void *found = dlsym(library, name);

    memcpy(field, &found, sizeof found);
    return found != NULL;
}

bool drawing_load(const char **why)
{
    bool all = true;

    if (library != NULL)
        return true;
    library = dlopen("libpangocairo-1.0.so.0", RTLD_NOW | RTLD_LOCAL);
    *why = library == NULL ? dlerror() : "it lacks a function";
    if (library == NULL)
        return false;
#define TAKE(name) all = take(#name, &drawing.name) && all;
    DRAWING_FUNCTIONS(TAKE)
#undef TAKE
    return all;
}

/* The fonts are found by a library that cairo brings along. */
void drawing_forget(void)
{
    void *fonts = dlopen("libfontconfig.so.1", RTLD_NOW | RTLD_NOLOAD);
    void (*done)(void) = NULL;
    void *found = fonts == NULL ? NULL : dlsym(fonts, "FcFini");

    drawing.pango_cairo_font_map_set_default(NULL);
    drawing.cairo_debug_reset_static_data();
    memcpy(&done, &found, sizeof found);
    if (done != NULL)
        done();
    if (fonts != NULL)
        dlclose(fonts);
}

#endif
