/* SPDX-License-Identifier: MIT */
/* Can files and folders stand on a volume by their names? */
#include "base/base.h"
#include "volume/files/files.h"
#include "volume/exfat/exfat.h"

/* NULL: the name can stand on a volume. */
static const char *wrong_with(const char *name)
{
    uint32_t units = 0, point, last = 0;

    if (name[0] == '\0')
        return "is empty";
    while ((point = slate_utf8_next(&name)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return "is not UTF-8";
        if (point < 0x20)
            return "has a control character";
        if (slate_is_among(point, SLATE_EXFAT_FORBIDDEN))
            return "has one of the characters \" * / : < > ? \\ |";
        units += point > 0xFFFF ? 2 : 1;
        last = point;
    }
    if (last == ' ' || last == '.') /* hosts leave them out */
        return "ends in a space or a stop";
    return units > SLATE_NAME_UNITS_MOST ? "is longer than 255 characters"
                                         : NULL;
}

static enum slate_status refuse(struct slate_files *files, uint32_t item,
                                const char *why)
{
    files->refused = item;
    files->why = why;
    return SLATE_ERR_NAME;
}

/* The next unit of a name, in upper case; 0 at its end. rest: a unit that is
 * still to come */
static uint16_t next_folded(const char **name, uint16_t *rest)
{
    uint32_t point;

    if (*rest != 0) {
        uint16_t unit = *rest;

        *rest = 0;
        return unit;
    }
    point = slate_utf8_next(name);
    if (point <= 0xFFFF)
        return slate_upcase((uint16_t)point);
    *rest = (uint16_t)(0xDC00 + ((point - 0x10000) & 0x3FF));
    return (uint16_t)(0xD800 + ((point - 0x10000) >> 10));
}

/* By their folders, then by their names without regard to case. */
static int compare(const struct slate_files *files, uint32_t a, uint32_t b)
{
    const char *of_a = slate_item_name(files, a);
    const char *of_b = slate_item_name(files, b);
    uint16_t rest_a = 0, rest_b = 0;

    if (files->item[a].parent != files->item[b].parent)
        return files->item[a].parent < files->item[b].parent ? -1 : 1;
    for (;;) {
        uint16_t unit_a = next_folded(&of_a, &rest_a);
        uint16_t unit_b = next_folded(&of_b, &rest_b);

        if (unit_a != unit_b)
            return unit_a < unit_b ? -1 : 1;
        if (unit_a == 0)
            return 0;
    }
}

static void swap(struct slate_spot *a, struct slate_spot *b)
{
    uint32_t order = a->order;

    a->order = b->order;
    b->order = order;
}

/* Lets an element sink to its place among the first count of a heap. */
static void sink(const struct slate_files *files, slate_item_compare compares,
                 uint32_t at, uint32_t count)
{
    struct slate_spot *heap = files->spot;

    for (;;) {
        uint32_t child = 2 * at + 1;

        if (child >= count)
            return;
        if (child + 1 < count &&
            compares(files, heap[child].order, heap[child + 1].order) < 0)
            child++;
        if (compares(files, heap[at].order, heap[child].order) >= 0)
            return;
        swap(&heap[at], &heap[child]);
        at = child;
    }
}

void slate_files_sort(struct slate_files *files, slate_item_compare compares)
{
    for (uint32_t i = 0; i < files->count; i++)
        files->spot[i].order = i;
    for (uint32_t i = files->count / 2; i-- > 0;)
        sink(files, compares, i, files->count);
    for (uint32_t last = files->count; last-- > 1;) {
        swap(&files->spot[0], &files->spot[last]);
        sink(files, compares, 0, last);
    }
}

static bool stamp_is_possible(const struct slate_stamp *stamp)
{
    return stamp->month == 0 ||
           (stamp->year >= 1980 && stamp->year <= 2107 && stamp->month <= 12 &&
            stamp->day >= 1 && stamp->day <= 31 && stamp->hour < 24 &&
            stamp->minute < 60 && stamp->second < 60);
}

/* Items and their names may come from a file. */
static bool item_is_possible(const struct slate_item *item)
{
    return item->bytes <= INT64_MAX && (!item->folder || item->bytes == 0) &&
           item->attributes < 2 * SLATE_ITEM_SYSTEM &&
           stamp_is_possible(&item->changed);
}

/* Folder by folder, each of them ahead of what is in it; the names in the same
 * order. */
static bool is_tree(const struct slate_files *files)
{
    const struct slate_item *item = files->item;
    uint32_t in_root = 0, name = 1;

    if (!item[0].folder || item[0].parent != 0 || item[0].name != 0 ||
        files->names.count == 0 || files->names.byte[0] != '\0' ||
        !item_is_possible(&item[0]))
        return false;
    for (uint32_t i = 1; i < files->count; i++) {
        in_root += item[i].parent == 0 ? 1u : 0u;
        if (item[i].name != name || !item_is_possible(&item[i]) ||
            item[i].parent >= i || !item[item[i].parent].folder ||
            item[i].parent < item[i - 1].parent)
            return false;
        while (name < files->names.count && files->names.byte[name] != '\0')
            name++;
        if (name++ == files->names.count)
            return false;
    }
    return files->ahead <= in_root;
}

enum slate_status slate_files_check(struct slate_files *files)
{
    files->refused = 0;
    files->why = NULL;
    if (files->count == 0)
        return SLATE_OK;
    if (files->count > files->room || !is_tree(files))
        return SLATE_ERR_ARGUMENT;
    for (uint32_t i = 1; i < files->count; i++) {
        const char *why = wrong_with(slate_item_name(files, i));

        if (why != NULL)
            return refuse(files, i, why);
    }
    slate_files_sort(files,
                     compare); /* the root stays first: nothing is less */
    for (uint32_t i = 2; i < files->count; i++) {
        uint32_t item = files->spot[i].order;

        if (compare(files, files->spot[i - 1].order, item) == 0)
            return refuse(files, item,
                          "differs in case alone from another one beside it");
    }
    return SLATE_OK;
}
