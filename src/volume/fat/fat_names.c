/* SPDX-License-Identifier: MIT */
/* The short names of files on FAT (specification 1.03, 6.1 and 7): one that
 * fits is its own; the others are shortened, and numbered so that no two in a
 * folder are alike. */

#include "base/base.h"
#include "volume/fat/fat.h"

#define BODY 8u /* characters ahead of the stop */
#define SHORT (BODY + 3u)
#define STEM 6u /* of a shortened name, ahead of a one-digit number */
#define STEM_MOST 9u
#define WIDE_STEM 2u /* ahead of a number of five digits */
#define WIDE_DIGITS 5u

/* 0: stands in no short name. */
static uint8_t short_character(uint32_t point)
{
    static const char allowed[] = "$%'-_@~`!(){}^#&";

    if (point >= 'a' && point <= 'z')
        return (uint8_t)(point - ('a' - 'A'));
    return (point >= 'A' && point <= 'Z') || (point >= '0' && point <= '9') ||
                   slate_is_among(point, allowed)
               ? (uint8_t)point
               : 0;
}

/* Where the extension begins: behind the last stop that is not the first
 * character; the name's end when there is none. */
static const char *extension_of(const char *name)
{
    const char *extension = NULL;

    for (const char *p = name + (name[0] == '.'); *p != '\0'; p++) {
        if (*p == '.')
            extension = p + 1;
    }
    return extension == NULL ? name + strlen(name) : extension;
}

/* Takes characters up to a place: false when one was lost or replaced. */
static bool shorten(const char **name, const char *end, uint8_t *field,
                    uint32_t room)
{
    bool whole = true;
    uint32_t used = 0;

    while (*name < end) {
        uint32_t point = slate_utf8_next(name);
        uint8_t character = short_character(point);

        if (point == ' ' || point == '.') {
            whole = false;
            continue;
        }
        whole = whole && character != 0;
        if (used == room)
            return false;
        field[used++] = character != 0 ? character : '_';
    }
    return whole && used > 0;
}

/* The name in short form, without a number. Does it fit as it is, but for its
 * case? */
static bool short_form(const char *name, uint8_t form[SHORT])
{
    const char *extension = extension_of(name);
    const char *end = name + strlen(name);
    const char *stop = extension == end ? end : extension - 1;
    bool fits;

    memset(form, ' ', SHORT);
    fits = shorten(&name, stop, form, BODY);
    if (extension < end && !shorten(&extension, end, form + BODY, 3))
        fits = false;
    if (form[0] == ' ')
        form[0] = '_';
    return fits;
}

static bool fits(const struct slate_files *files, uint32_t item)
{
    return files->spot[item].entries != 0;
}

/* Those that fit first, then those with the same stem and extension. */
static int compare(const struct slate_files *files, uint32_t a, uint32_t b)
{
    const uint8_t *of_a = files->spot[a].short_name;
    const uint8_t *of_b = files->spot[b].short_name;
    int order;

    if (files->item[a].parent != files->item[b].parent)
        return files->item[a].parent < files->item[b].parent ? -1 : 1;
    if (fits(files, a) != fits(files, b))
        return fits(files, a) ? -1 : 1;
    if (fits(files, a))
        return memcmp(of_a, of_b, SHORT);
    order = memcmp(of_a, of_b, STEM);
    if (order == 0)
        order = memcmp(of_a + BODY, of_b + BODY, SHORT - BODY);
    if (order != 0)
        return order;
    return a < b ? -1 : a > b;
}

/* Of the sorted items, those of one folder that fit. */
struct fitting {
    uint32_t first, count;
};

static bool is_taken(const struct slate_files *files,
                     const struct fitting *fitting, const uint8_t *name)
{
    uint32_t low = fitting->first, high = low + fitting->count;

    while (low < high) {
        uint32_t middle = low + (high - low) / 2;
        uint32_t item = files->spot[middle].order;
        int order = memcmp(files->spot[item].short_name, name, SHORT);

        if (order == 0)
            return true;
        if (order < 0)
            low = middle + 1;
        else
            high = middle;
    }
    return false;
}

static void number(uint8_t *name, uint32_t stem, uint32_t value,
                   uint32_t digits)
{
    while (stem > 1 && name[stem - 1] == ' ')
        stem--;
    memset(name + stem, ' ', BODY - stem);
    name[stem++] = '~';
    for (uint32_t i = digits; i-- > 0; value /= 10)
        name[stem + i] = (uint8_t)('0' + value % 10);
}

/* At most nine that begin alike end in one digit; the others are counted over
 * their folder, where there are enough numbers for all. */
struct numbering {
    uint32_t folder, leader; /* the first one of those that begin alike */
    uint32_t near, wide;
    struct fitting fitting;
};

static bool begins_alike(const struct slate_files *files, const uint8_t *a,
                         uint32_t b)
{
    const uint8_t *of_b = files->spot[b].short_name;

    return memcmp(a, of_b, STEM) == 0 &&
           memcmp(a + BODY, of_b + BODY, SHORT - BODY) == 0;
}

/* form: as it was before it was numbered */
static void number_next(struct slate_files *files, struct numbering *numbering,
                        uint32_t item)
{
    uint8_t *name = files->spot[item].short_name;
    uint8_t form[SHORT];

    memcpy(form, name, SHORT);
    while (numbering->near < STEM_MOST) {
        memcpy(name, form, SHORT);
        number(name, STEM, ++numbering->near, 1);
        if (!is_taken(files, &numbering->fitting, name))
            return;
    }
    /* padded, so that the number stands where no one-digit number's stroke
     * does */
    do {
        memcpy(name, form, SHORT);
        name[1] = name[1] == ' ' ? '_' : name[1];
        number(name, WIDE_STEM, ++numbering->wide, WIDE_DIGITS);
    } while (is_taken(files, &numbering->fitting, name));
}

/* Those that fit are ahead of the others of their folder. */
static void number_all(struct slate_files *files)
{
    struct numbering numbering = {0};
    uint8_t form[SHORT] = {0};

    for (uint32_t i = 0; i < files->count; i++) {
        uint32_t item = files->spot[i].order;
        uint32_t folder = files->item[item].parent;

        if (i == 0 || folder != numbering.folder)
            numbering = (struct numbering){.folder = folder, .fitting = {i, 0}};
        if (fits(files, item)) {
            numbering.fitting.count++;
            continue;
        }
        if (numbering.leader == 0 || !begins_alike(files, form, item)) {
            memcpy(form, files->spot[item].short_name, SHORT);
            numbering.leader = item;
            numbering.near = 0;
        }
        number_next(files, &numbering, item);
    }
}

void slate_fat_shorten(struct slate_files *files)
{
    files->spot[0].entries = 1; /* the root has no name, and needs none */
    memset(files->spot[0].short_name, 0, SHORT);
    for (uint32_t i = 1; i < files->count; i++)
        files->spot[i].entries =
            short_form(slate_item_name(files, i), files->spot[i].short_name);
    slate_files_sort(files, compare);
    number_all(files);
}

bool slate_fat_is_short(const struct slate_files *files, uint32_t item)
{
    const uint8_t *form = files->spot[item].short_name;
    char text[SHORT + 2];
    size_t used = 0;

    for (uint32_t i = 0; i < SHORT; i++) {
        if (form[i] == ' ')
            continue;
        if (i == BODY)
            text[used++] = '.';
        text[used++] = (char)form[i];
    }
    text[used] = '\0';
    return slate_same_text(slate_item_name(files, item), text);
}
