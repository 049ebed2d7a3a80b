/* SPDX-License-Identifier: MIT */
/* The drawing libraries, which are loaded when something is drawn. */
#define DRAWING_ITSELF
#include "term/drawing.h"

#include <dlfcn.h>
#include <stddef.h>
#include <stdio.h>
#include <string.h>

struct drawing drawing;

#ifdef TRUESLATE_STATIC

bool drawing_load(const char **why)
{
    *why = "this build is linked statically and loads no library";
    return false;
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

    fflush(stdout);
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

#endif
