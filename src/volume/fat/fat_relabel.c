/* SPDX-License-Identifier: MIT */
/* Where a FAT volume keeps its label (FAT32 specification 1.03, 3.1 and 6.1):
 * an entry of the root directory, and a field of the boot block and its copy.
 */
#include <string.h>

#include "volume/common/common.h"
#include "volume/fat/fat.h"
#include "base/base.h"

#define ENTRY_MASK 0x0FFFFFFFu
#define DELETED 0xE5
#define ATTRIBUTES 11
#define LONG_NAME 0x0F
#define FOLDER 0x10
#define DIRECTORY_MOST (UINT64_C(65536) * SLATE_FAT_ENTRY_BYTES)
#define LABEL_BYTES 11u

static enum slate_entry_kind judge(const uint8_t *entry)
{
    uint8_t attributes = entry[ATTRIBUTES];

    if (entry[0] == 0)
        return SLATE_ENTRY_END;
    if (entry[0] == DELETED)
        return SLATE_ENTRY_FREE;
    return attributes != LONG_NAME &&
                   (attributes & (SLATE_FAT_LABEL_ATTRIBUTE | FOLDER)) ==
                       SLATE_FAT_LABEL_ATTRIBUTE
               ? SLATE_ENTRY_LABEL
               : SLATE_ENTRY_OTHER;
}

static void open_root(struct slate_directory *root, struct slate_reader *reader,
                      const struct slate_fat_shape *shape)
{
    bool fixed = shape->root_entries != 0;

    memset(root, 0, sizeof *root);
    root->reader = reader;
    root->most = DIRECTORY_MOST;
    if (fixed) {
        root->at = (uint64_t)shape->root_at * shape->block_bytes;
        root->left = (uint64_t)shape->root_entries * SLATE_FAT_ENTRY_BYTES;
        return;
    }
    root->chain = (uint64_t)shape->reserved_blocks * shape->block_bytes;
    root->mask = ENTRY_MASK;
    root->clusters = shape->clusters;
    root->clusters_at = (uint64_t)shape->clusters_at * shape->block_bytes;
    root->cluster_bytes = shape->cluster_blocks * shape->block_bytes;
    slate_directory_begin(root, shape->root_cluster);
}

static struct slate_label_edit *add(struct slate_label_plan *plan,
                                    const struct slate_reader *reader,
                                    uint64_t byte, uint32_t length, bool copy)
{
    struct slate_label_edit *edit = &plan->edit[plan->edits++];

    edit->byte =
        reader->range.first * reader->media->geometry.block_bytes + byte;
    edit->length = length;
    edit->copy = copy;
    return edit;
}

/* The entry keeps all but its name; a label that goes is a deleted entry. */
static void edit_root(struct slate_label_plan *plan,
                      const struct slate_reader *reader, uint64_t at,
                      uint8_t *entry, const struct slate_stamp *stamp)
{
    bool there = judge(entry) == SLATE_ENTRY_LABEL;
    struct slate_label_edit *edit;

    if (plan->label[0] == '\0' && !there)
        return;
    edit = add(plan, reader, at, there ? LABEL_BYTES : SLATE_FAT_ENTRY_BYTES,
               false);
    memset(edit->bytes, 0, sizeof edit->bytes);
    if (plan->label[0] == '\0') {
        edit->length = 1;
        edit->bytes[0] = DELETED;
        return;
    }
    slate_fat_put_label_entry(edit->bytes, plan->label, stamp);
}

static void edit_boot(struct slate_label_plan *plan,
                      const struct slate_reader *reader, uint64_t block_at,
                      const struct slate_fat_shape *shape, bool copy)
{
    uint32_t field = slate_fat_kind(shape) == SLATE_VOLUME_FAT32
                         ? SLATE_FAT32_LABEL
                         : SLATE_FAT16_LABEL;

    slate_fat_put_label(
        add(plan, reader, block_at + field, LABEL_BYTES, copy)->bytes,
        plan->label[0] == '\0' ? SLATE_FAT_NO_LABEL : plan->label);
}

/* Boot blocks of before 1987 have no label. */
static bool has_label(const uint8_t *boot, const struct slate_fat_shape *shape)
{
    return boot[slate_fat_kind(shape) == SLATE_VOLUME_FAT32
                    ? SLATE_FAT32_EXTENDED
                    : SLATE_FAT16_EXTENDED] == 0x29;
}

/* The copy is changed where it is one: a boot block of the same shape. */
static bool has_copy(struct slate_reader *reader,
                     const struct slate_fat_shape *shape)
{
    struct slate_fat_shape other;
    const uint8_t *copy;

    if (slate_fat_kind(shape) != SLATE_VOLUME_FAT32 || shape->copy_block == 0 ||
        shape->copy_block >= shape->reserved_blocks)
        return false;
    copy = slate_reader_at(reader,
                           (uint64_t)shape->copy_block * shape->block_bytes,
                           SLATE_PIECE_BYTES);
    return copy != NULL && slate_fat_take_shape(copy, &other) &&
           memcmp(shape, &other, sizeof other) == 0 && has_label(copy, shape);
}

enum slate_status slate_fat_relabel(struct slate_media *media,
                                    const struct slate_relabel *wish,
                                    void *work, struct slate_label_plan *plan)
{
    struct slate_reader reader = {
        .media = media, .range = wish->range, .work = work};
    struct slate_fat_shape shape;
    struct slate_directory root;
    uint8_t entry[SLATE_ENTRY_BYTES];
    const uint8_t *boot;
    bool extended;
    uint64_t at;
    enum slate_status status;

    memset(plan, 0, sizeof *plan);
    memset(&shape, 0, sizeof shape);
    status = slate_fat_label(wish->label, plan->label);
    SLATE_TRY(status);
    boot = slate_reader_cut(&reader)
               ? slate_reader_at(&reader, 0, SLATE_PIECE_BYTES)
               : NULL;
    if (boot == NULL || !slate_fat_take_shape(boot, &shape))
        return reader.status != SLATE_OK ? reader.status : SLATE_ERR_CHANGED;
    extended = has_label(boot, &shape);
    open_root(&root, &reader, &shape);
    status = slate_directory_find(&root, judge, &at, entry);
    if (status == SLATE_ERR_ROOT_FULL && plan->label[0] == '\0')
        status = SLATE_OK;
    else if (status == SLATE_OK)
        edit_root(plan, &reader, at, entry, &wish->stamp);
    if (status == SLATE_OK && has_copy(&reader, &shape))
        edit_boot(plan, &reader, (uint64_t)shape.copy_block * shape.block_bytes,
                  &shape, true);
    if (status == SLATE_OK && extended)
        edit_boot(plan, &reader, 0, &shape, false);
    return status == SLATE_OK ? reader.status : status;
}

/* Labels as FAT keeps them. */

/* Short-name characters, and the space (FAT specification 1.03, 6.1). */
static bool is_allowed(uint32_t point)
{
    static const char forbidden[] = "\"*+,./:;<=>?[\\]|";

    return !slate_is_among(point, forbidden) && point >= 0x20 && point < 0x7F;
}

enum slate_status slate_fat_label(const char *wanted,
                                  char label[SLATE_FAT_LABEL_ROOM])
{
    size_t used = 0;
    uint32_t point;

    while (*wanted == ' ')
        wanted++;
    memset(label, 0, SLATE_FAT_LABEL_ROOM);
    if (*wanted == '\0')
        return SLATE_OK;
    while ((point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        if (used == SLATE_FAT_LABEL_ROOM - 1)
            continue;
        if (point >= 'a' && point <= 'z')
            point -= 'a' - 'A';
        label[used++] = (char)(is_allowed(point) ? point : '_');
    }
    while (used > 0 && label[used - 1] == ' ')
        label[--used] = '\0';
    return SLATE_OK;
}

void slate_fat_put_label(uint8_t *field, const char *label)
{
    size_t length = strlen(label);

    memset(field, ' ', 11);
    memcpy(field, label, length < 11 ? length : 11);
}

void slate_fat_put_label_entry(uint8_t *entry, const char *label,
                               const struct slate_stamp *stamp)
{
    slate_fat_put_label(entry, label);
    entry[11] = SLATE_FAT_LABEL_ATTRIBUTE;
    slate_put_le16(entry + 22, slate_packed_time(stamp));
    slate_put_le16(entry + 24, slate_packed_date(stamp));
}
