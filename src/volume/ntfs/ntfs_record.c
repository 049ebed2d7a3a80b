/* SPDX-License-Identifier: MIT */
/* The first records of NTFS's file table, a stride at a time. */
#include "volume/ntfs/ntfs.h"

#include <string.h>

#define HEAD_BYTES 48u /* of a record, then its fix-ups */
#define UPDATE 1u      /* what stands at the end of each stride */
#define OUTSIDE_BYTES 64u
#define HIDDEN_SYSTEM 0x06u
#define IS_FOLDER 0x10000000u
#define IS_INDEXED 0x20000000u
#define ANY_NAME 3u /* long and short alike */
#define MAJOR 3u
#define MINOR 1u
#define END UINT32_MAX

static const struct {
    const char *name;
    uint16_t flags; /* of its record */
} files[] = {
    {"$MFT", 0},     {"$MFTMirr", 0},
    {"$LogFile", 0}, {"$Volume", 0},
    {"$AttrDef", 0}, {".", SLATE_NTFS_FOLDER},
    {"$Bitmap", 0},  {"$Boot", 0},
    {"$BadClus", 0}, {"$Secure", SLATE_NTFS_INDEXED},
    {"$UpCase", 0},  {"$Extend", SLATE_NTFS_FOLDER},
};
static const char *const more_files[] = {"$Quota", "$ObjId", "$Reparse"};

static bool is_in_extend(uint32_t record)
{
    return record >= SLATE_NTFS_QUOTA_RECORD &&
           record <= SLATE_NTFS_REPARSE_RECORD;
}

static bool has_name(uint32_t record)
{
    return record <= SLATE_NTFS_EXTEND_RECORD || is_in_extend(record);
}

const char *slate_ntfs_name_of(uint32_t record)
{
    if (record <= SLATE_NTFS_EXTEND_RECORD)
        return files[record].name;
    return more_files[record == SLATE_NTFS_QUOTA_RECORD     ? 0
                      : record == SLATE_NTFS_OBJECTS_RECORD ? 1
                                                            : 2];
}

static uint16_t flags_of(uint32_t record)
{
    if (is_in_extend(record))
        return SLATE_NTFS_EXTENDS | SLATE_NTFS_INDEXED;
    return record <= SLATE_NTFS_EXTEND_RECORD ? files[record].flags
                                              : (uint16_t)0;
}

/* Those that are kept for later versions count as in use. */
static bool is_used(const struct slate_ntfs *ntfs, uint32_t record)
{
    return record < SLATE_NTFS_KEPT_RECORD + 4u ||
           (record >= SLATE_NTFS_QUOTA_RECORD &&
            record < SLATE_NTFS_PARTS_RECORD + ntfs->bad_parts);
}

static uint16_t sequence_of(uint32_t record)
{
    return record == 0 || record >= SLATE_NTFS_QUOTA_RECORD ? (uint16_t)1
                                                            : (uint16_t)record;
}

uint64_t slate_ntfs_reference(uint32_t record)
{
    return (uint64_t)sequence_of(record) << 48 | record;
}

static uint32_t file_flags(uint32_t record)
{
    return HIDDEN_SYSTEM |
           ((flags_of(record) & SLATE_NTFS_FOLDER) != 0 ? IS_FOLDER : 0) |
           ((flags_of(record) & SLATE_NTFS_INDEXED) != 0 ? IS_INDEXED : 0);
}

/* The stream that a file's nameless data are. False: it has none outside. */
static bool stream_of(uint32_t record, enum slate_ntfs_stream *stream)
{
    static const struct {
        uint8_t record, stream;
    } of[] = {{SLATE_NTFS_TABLE_RECORD, SLATE_NTFS_RECORDS},
              {SLATE_NTFS_MIRROR_RECORD, SLATE_NTFS_MIRROR},
              {SLATE_NTFS_LOG_RECORD, SLATE_NTFS_LOG},
              {SLATE_NTFS_DEFINITIONS_RECORD, SLATE_NTFS_DEFINITIONS},
              {SLATE_NTFS_BITMAP_RECORD, SLATE_NTFS_BITMAP},
              {SLATE_NTFS_BOOT_RECORD, SLATE_NTFS_BOOT},
              {SLATE_NTFS_UPCASE_RECORD, SLATE_NTFS_UPCASE}};

    for (size_t i = 0; i < sizeof of / sizeof of[0]; i++) {
        if (of[i].record == record) {
            *stream = (enum slate_ntfs_stream)of[i].stream;
            return true;
        }
    }
    return false;
}

void slate_ntfs_write_name(const struct slate_ntfs *ntfs, uint32_t record,
                           struct slate_pen *pen)
{
    uint32_t folder = is_in_extend(record) ? SLATE_NTFS_EXTEND_RECORD
                                           : SLATE_NTFS_ROOT_RECORD;
    const char *name = slate_ntfs_name_of(record);
    enum slate_ntfs_stream stream;
    uint64_t bytes = 0, allocated = 0;

    if (stream_of(record, &stream)) {
        bytes = slate_ntfs_bytes(ntfs, stream);
        allocated =
            (uint64_t)slate_ntfs_clusters(ntfs, stream) * ntfs->cluster_bytes;
    }
    slate_pen_le(pen, slate_ntfs_reference(folder), 8);
    for (int i = 0; i < 4; i++)
        slate_pen_le(pen, ntfs->time, 8);
    slate_pen_le(pen, allocated, 8);
    slate_pen_le(pen, bytes, 8);
    slate_pen_le(pen, file_flags(record), 4);
    slate_pen_skip(pen, 4);
    slate_pen_le(pen, strlen(name), 1);
    slate_pen_le(pen, ANY_NAME, 1);
    slate_pen_text(pen, name);
}

static void write_standard(const struct slate_ntfs *ntfs, uint32_t record,
                           struct slate_pen *pen)
{
    uint32_t rights = record == SLATE_NTFS_ROOT_RECORD ? SLATE_NTFS_ROOT_RIGHTS
                      : is_in_extend(record) ? SLATE_NTFS_EXTEND_RIGHTS
                                             : SLATE_NTFS_SYSTEM_RIGHTS;

    for (int i = 0; i < 4; i++)
        slate_pen_le(pen, ntfs->time, 8);
    slate_pen_le(pen, file_flags(record) & ~IS_FOLDER, 4);
    slate_pen_skip(pen, 16);
    slate_pen_le(pen, rights, 4);
    slate_pen_skip(pen, 16);
}

/* Attributes, one after the other; each has the next number. */
struct sheet {
    const struct slate_ntfs *ntfs;
    struct slate_pen *pen;
    uint32_t record, id;
};

static void write_head(struct sheet *sheet, uint32_t type, const char *name,
                       uint32_t bytes, bool outside)
{
    struct slate_pen *pen = sheet->pen;

    slate_pen_le(pen, type, 4);
    slate_pen_le(pen, bytes, 4);
    slate_pen_le(pen, outside, 1);
    slate_pen_le(pen, strlen(name), 1);
    slate_pen_le(pen, outside ? OUTSIDE_BYTES : SLATE_NTFS_HEAD_BYTES, 2);
    slate_pen_skip(pen, 2);
    slate_pen_le(pen, sheet->id++, 2);
}

static uint32_t name_room(const char *name)
{
    return ((uint32_t)strlen(name) * 2 + 7) / 8 * 8;
}

/* The head of an attribute whose value of so many bytes follows. */
static void begin_inside(struct sheet *sheet, uint32_t type, const char *name,
                         uint32_t bytes)
{
    uint32_t at = SLATE_NTFS_HEAD_BYTES + name_room(name);

    write_head(sheet, type, name, at + (bytes + 7) / 8 * 8, false);
    slate_pen_le(sheet->pen, bytes, 4);
    slate_pen_le(sheet->pen, at, 2);
    slate_pen_le(sheet->pen, type == SLATE_NTFS_NAME, 2); /* is in an index */
    slate_pen_text(sheet->pen, name);
    slate_pen_align(sheet->pen, 8);
}

/* Mapping of clusters that the record has no value for. */
struct mapping {
    uint64_t first, clusters; /* of the file */
    uint64_t allocated, bytes, valid;
    uint32_t map_bytes;
};

static void begin_outside(struct sheet *sheet, uint32_t type, const char *name,
                          const struct mapping *mapping)
{
    struct slate_pen *pen = sheet->pen;
    uint32_t at = OUTSIDE_BYTES + name_room(name);

    write_head(sheet, type, name, at + (mapping->map_bytes + 7) / 8 * 8, true);
    slate_pen_le(pen, mapping->first, 8);
    slate_pen_le(pen, mapping->first + mapping->clusters - 1, 8);
    slate_pen_le(pen, at, 2);
    slate_pen_skip(pen, 6);
    slate_pen_le(pen, mapping->allocated, 8);
    slate_pen_le(pen, mapping->bytes, 8);
    slate_pen_le(pen, mapping->valid, 8);
    slate_pen_text(pen, name);
    slate_pen_align(pen, 8);
}

/* A stream: one run of clusters. */
static void write_stream(struct sheet *sheet, uint32_t type, const char *name,
                         enum slate_ntfs_stream stream)
{
    const struct slate_ntfs *ntfs = sheet->ntfs;
    uint32_t clusters = slate_ntfs_clusters(ntfs, stream);
    uint64_t bytes = slate_ntfs_bytes(ntfs, stream);
    struct mapping mapping = {.clusters = clusters,
                              .allocated =
                                  (uint64_t)clusters * ntfs->cluster_bytes,
                              .bytes = bytes,
                              .valid = bytes};
    struct slate_pen measure = {0};

    slate_ntfs_write_run(clusters, ntfs->at[stream], 0, &measure);
    mapping.map_bytes = measure.at + 1;
    begin_outside(sheet, type, name, &mapping);
    slate_ntfs_write_run(clusters, ntfs->at[stream], 0, sheet->pen);
    slate_pen_skip(sheet->pen, 1);
    slate_pen_align(sheet->pen, 8);
}

/* Of the file of bad clusters; none of it holds anything. */
static void write_bad(struct sheet *sheet, uint32_t part)
{
    const struct slate_ntfs *ntfs = sheet->ntfs;
    uint64_t all = (uint64_t)ntfs->clusters * ntfs->cluster_bytes;
    struct slate_pen measure = {0};
    struct slate_ntfs_span span;
    struct mapping mapping = {0};

    slate_ntfs_find_span(ntfs, part, &span);
    slate_ntfs_write_map(ntfs, &span, &measure);
    mapping.first = span.first;
    mapping.clusters = span.end - span.first;
    mapping.allocated = mapping.bytes = part == 0 ? all : 0;
    mapping.map_bytes = measure.at;
    begin_outside(sheet, SLATE_NTFS_DATA, "$Bad", &mapping);
    slate_ntfs_write_map(ntfs, &span, sheet->pen);
    slate_pen_align(sheet->pen, 8);
}

static void write_view(struct sheet *sheet, const char *name,
                       enum slate_ntfs_view view)
{
    struct slate_pen measure = {0};

    slate_ntfs_write_view(sheet->ntfs, view, &measure);
    begin_inside(sheet, SLATE_NTFS_INDEX, name, measure.at);
    slate_ntfs_write_view(sheet->ntfs, view, sheet->pen);
}

static void write_empty(struct sheet *sheet)
{
    begin_inside(sheet, SLATE_NTFS_DATA, "", 0);
}

static void write_volume(struct sheet *sheet)
{
    uint8_t label[2 * SLATE_NTFS_LABEL_UNITS];
    uint32_t units = slate_ntfs_label_units(sheet->ntfs->label, label);

    begin_inside(sheet, SLATE_NTFS_VOLUME_NAME, "", 2 * units);
    slate_pen_put(sheet->pen, label, 2 * units);
    slate_pen_align(sheet->pen, 8);
    begin_inside(sheet, SLATE_NTFS_INFORMATION, "", 12);
    slate_pen_skip(sheet->pen, 8);
    slate_pen_le(sheet->pen, MAJOR, 1);
    slate_pen_le(sheet->pen, MINOR, 1);
    slate_pen_skip(sheet->pen, 2); /* it is clean */
    slate_pen_align(sheet->pen, 8);
    write_empty(sheet);
}

static void write_root_folder(struct sheet *sheet)
{
    struct slate_pen measure = {0};

    slate_ntfs_write_root_head(sheet->ntfs, &measure);
    begin_inside(sheet, SLATE_NTFS_INDEX, "$I30", measure.at);
    slate_ntfs_write_root_head(sheet->ntfs, sheet->pen);
    write_stream(sheet, SLATE_NTFS_INDEX_BLOCKS, "$I30", SLATE_NTFS_ROOT);
    begin_inside(sheet, SLATE_NTFS_BITS, "$I30", 8);
    slate_pen_le(sheet->pen, 1, 8);
}

static void write_extend_folder(struct sheet *sheet)
{
    struct slate_pen measure = {0};

    slate_ntfs_write_extend(sheet->ntfs, &measure);
    begin_inside(sheet, SLATE_NTFS_INDEX, "$I30", measure.at);
    slate_ntfs_write_extend(sheet->ntfs, sheet->pen);
}

/* What a file has behind its name. */
static void write_content(struct sheet *sheet)
{
    enum slate_ntfs_stream stream;

    if (stream_of(sheet->record, &stream))
        write_stream(sheet, SLATE_NTFS_DATA, "", stream);
    switch (sheet->record) {
    case SLATE_NTFS_TABLE_RECORD:
        write_stream(sheet, SLATE_NTFS_BITS, "", SLATE_NTFS_RECORD_BITS);
        return;
    case SLATE_NTFS_VOLUME_RECORD:
        write_volume(sheet);
        return;
    case SLATE_NTFS_ROOT_RECORD:
        write_root_folder(sheet);
        return;
    case SLATE_NTFS_BAD_RECORD:
        write_empty(sheet);
        if (sheet->ntfs->bad_parts == 0)
            write_bad(sheet, 0);
        return;
    case SLATE_NTFS_SECURITY_RECORD:
        write_stream(sheet, SLATE_NTFS_DATA, "$SDS", SLATE_NTFS_SECURITY);
        write_view(sheet, "$SDH", SLATE_NTFS_BY_HASH);
        write_view(sheet, "$SII", SLATE_NTFS_BY_NUMBER);
        return;
    case SLATE_NTFS_EXTEND_RECORD:
        write_extend_folder(sheet);
        return;
    case SLATE_NTFS_QUOTA_RECORD:
        write_view(sheet, "$O", SLATE_NTFS_BY_OWNER);
        write_view(sheet, "$Q", SLATE_NTFS_QUOTAS);
        return;
    case SLATE_NTFS_OBJECTS_RECORD:
        write_view(sheet, "$O", SLATE_NTFS_OBJECTS);
        return;
    case SLATE_NTFS_REPARSE_RECORD:
        write_view(sheet, "$R", SLATE_NTFS_REPARSED);
        return;
    default:
        if (sheet->record >= SLATE_NTFS_KEPT_RECORD)
            write_empty(sheet);
        return;
    }
}

static void write_file(struct sheet *sheet)
{
    uint32_t record = sheet->record;
    uint32_t part = record - SLATE_NTFS_PARTS_RECORD;

    if (!is_used(sheet->ntfs, record))
        return;
    if (record >= SLATE_NTFS_PARTS_RECORD) {
        write_bad(sheet, part);
        return;
    }
    begin_inside(sheet, SLATE_NTFS_STANDARD, "", 72);
    write_standard(sheet->ntfs, record, sheet->pen);
    if (record == SLATE_NTFS_BAD_RECORD && sheet->ntfs->bad_parts > 0)
        write_stream(sheet, SLATE_NTFS_LIST, "", SLATE_NTFS_PARTS);
    else
        sheet->id++; /* so that each one has the same number in both cases */
    if (has_name(record)) {
        begin_inside(sheet, SLATE_NTFS_NAME, "",
                     SLATE_NTFS_NAME_BYTES +
                         2 * (uint32_t)strlen(slate_ntfs_name_of(record)));
        slate_ntfs_write_name(sheet->ntfs, record, sheet->pen);
        slate_pen_align(sheet->pen, 8);
    }
    write_content(sheet);
}

static uint32_t attributes_at(const struct slate_ntfs_page *page)
{
    return (page->fixups_at + 2 * (page->bytes / SLATE_NTFS_STRIDE + 1) + 7) /
           8 * 8;
}

static void write_record(const struct slate_ntfs_page *page,
                         struct slate_pen *pen)
{
    const struct slate_ntfs *ntfs = page->ntfs;
    uint32_t number = page->number, used;
    bool part = number >= SLATE_NTFS_PARTS_RECORD && is_used(ntfs, number);
    struct slate_pen measure = {.at = attributes_at(page)};
    struct sheet sheet = {ntfs, &measure, number, 0};
    uint16_t flags = flags_of(number);

    write_file(&sheet);
    used = measure.at + 8;
    if (is_used(ntfs, number))
        flags |= SLATE_NTFS_IN_USE;
    slate_pen_put(pen, "FILE", 4);
    slate_pen_le(pen, page->fixups_at, 2);
    slate_pen_le(pen, page->bytes / SLATE_NTFS_STRIDE + 1, 2);
    slate_pen_skip(pen, 8); /* never logged */
    slate_pen_le(pen, sequence_of(number), 2);
    slate_pen_le(pen, has_name(number), 2); /* names that it has */
    slate_pen_le(pen, attributes_at(page), 2);
    slate_pen_le(pen, flags, 2);
    slate_pen_le(pen, used, 4);
    slate_pen_le(pen, page->bytes, 4);
    slate_pen_le(pen, part ? slate_ntfs_reference(SLATE_NTFS_BAD_RECORD) : 0,
                 8);
    slate_pen_le(pen, sheet.id, 2);
    slate_pen_skip(pen, 2);
    slate_pen_le(pen, number, 4);
    slate_pen_skip(pen, attributes_at(page) - pen->at);
    sheet = (struct sheet){ntfs, pen, number, 0};
    write_file(&sheet);
    slate_pen_le(pen, END, 4);
}

void slate_ntfs_put_record(const struct slate_ntfs *ntfs, uint32_t record,
                           uint32_t stride, uint8_t *out)
{
    const struct slate_ntfs_page page = {ntfs, record, ntfs->record_bytes,
                                         HEAD_BYTES, write_record};

    slate_ntfs_put_stride(&page, stride, out);
}

/* The update number stands at the end of each stride; what stood there follows
 * the number's first place. */
void slate_ntfs_put_stride(const struct slate_ntfs_page *page, uint32_t stride,
                           uint8_t *out)
{
    struct slate_pen pen = {out, stride * SLATE_NTFS_STRIDE, SLATE_NTFS_STRIDE,
                            0};
    uint8_t *fixup = out + page->fixups_at;

    page->write(page, &pen);
    if (stride == 0) {
        *fixup = UPDATE;
        for (uint32_t end = SLATE_NTFS_STRIDE; end <= page->bytes;
             end += SLATE_NTFS_STRIDE) {
            struct slate_pen two = {fixup += 2, end - 2, 2, 0};

            page->write(page, &two);
        }
    }
    out[SLATE_NTFS_STRIDE - 2] = UPDATE;
    out[SLATE_NTFS_STRIDE - 1] = 0;
}
