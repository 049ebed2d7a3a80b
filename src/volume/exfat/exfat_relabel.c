/* SPDX-License-Identifier: MIT */
/* Where an exFAT volume keeps its label: an entry of the root directory alone
 * (file system specification 1.00, 7.3). */
#include "base/base.h"
#include "volume/common/common.h"
#include "volume/exfat/exfat.h"

#define IN_USE 0x80
#define ENTRY_MASK 0xFFFFFFFFu
#define DIRECTORY_MOST (UINT64_C(256) << 20)
#define CLUSTER_SHIFT_MOST 25

/* An entry for a label that is not there is as good as one. */
static enum slate_entry_kind judge(const uint8_t *entry)
{
    if (entry[0] == 0)
        return SLATE_ENTRY_END;
    if (entry[0] == SLATE_EXFAT_ENTRY_LABEL ||
        entry[0] == SLATE_EXFAT_ENTRY_NO_LABEL)
        return SLATE_ENTRY_LABEL;
    return (entry[0] & IN_USE) == 0 ? SLATE_ENTRY_FREE : SLATE_ENTRY_OTHER;
}

static bool open_root(struct slate_directory *root, struct slate_reader *reader,
                      const uint8_t *boot)
{
    uint32_t block = boot[SLATE_EXFAT_BLOCK_SHIFT];
    uint32_t cluster = block + boot[SLATE_EXFAT_CLUSTER_SHIFT];

    if (memcmp(boot + SLATE_EXFAT_NAME, "EXFAT   ", 8) != 0 || block < 9 ||
        block > 12 || cluster > CLUSTER_SHIFT_MOST)
        return false;
    memset(root, 0, sizeof *root);
    root->reader = reader;
    root->most = DIRECTORY_MOST;
    root->chain = (uint64_t)slate_le32(boot + SLATE_EXFAT_TABLE_AT) << block;
    root->mask = ENTRY_MASK;
    root->clusters = slate_le32(boot + SLATE_EXFAT_CLUSTERS);
    root->clusters_at = (uint64_t)slate_le32(boot + SLATE_EXFAT_CLUSTERS_AT)
                        << block;
    root->cluster_bytes = (uint32_t)1 << cluster;
    slate_directory_begin(root, slate_le32(boot + SLATE_EXFAT_ROOT_CLUSTER));
    return true;
}

enum slate_status slate_exfat_relabel(struct slate_media *media,
                                      const struct slate_relabel *wish,
                                      void *work, struct slate_label_plan *plan)
{
    struct slate_reader reader = {
        .media = media, .range = wish->range, .work = work};
    struct slate_label_edit *edit = &plan->edit[0];
    struct slate_directory root;
    uint8_t entry[SLATE_ENTRY_BYTES];
    const uint8_t *boot;
    uint64_t at;
    enum slate_status status;

    memset(plan, 0, sizeof *plan);
    status = slate_exfat_label(wish->label, plan->label);
    SLATE_TRY(status);
    boot = slate_reader_cut(&reader)
               ? slate_reader_at(&reader, 0, SLATE_PIECE_BYTES)
               : NULL;
    if (boot == NULL || !open_root(&root, &reader, boot))
        return reader.status != SLATE_OK ? reader.status : SLATE_ERR_CHANGED;
    status = slate_directory_find(&root, judge, &at, entry);
    if (plan->label[0] == '\0' &&
        (status == SLATE_ERR_ROOT_FULL ||
         (status == SLATE_OK && entry[0] != SLATE_EXFAT_ENTRY_LABEL)))
        return SLATE_OK; /* there is none */
    SLATE_TRY(status);
    plan->edits = 1;
    edit->byte = reader.range.first * media->geometry.block_bytes + at;
    edit->length = SLATE_EXFAT_ENTRY_BYTES;
    slate_exfat_put_label(edit->bytes, plan->label);
    return SLATE_OK;
}

/* Labels as exFAT keeps them. */

static bool is_allowed(uint32_t point)
{
    return !slate_is_among(point, SLATE_EXFAT_FORBIDDEN) && point >= 0x20;
}

enum slate_status slate_exfat_label(const char *wanted,
                                    char label[SLATE_EXFAT_LABEL_ROOM])
{
    uint32_t units = 0;
    size_t used = 0;
    uint32_t point;

    while (*wanted == ' ')
        wanted++;
    memset(label, 0, SLATE_EXFAT_LABEL_ROOM);
    if (*wanted == '\0')
        return SLATE_OK;
    while ((point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        units += point > 0xFFFF ? 2 : 1;
        if (units <= SLATE_EXFAT_LABEL_UNITS)
            (void)slate_utf8_put(label, SLATE_EXFAT_LABEL_ROOM, &used,
                                 is_allowed(point) ? point : '_');
        else
            units = SLATE_EXFAT_LABEL_UNITS; /* the rest is looked at only */
    }
    while (used > 0 && label[used - 1] == ' ')
        label[--used] = '\0';
    return SLATE_OK;
}

void slate_exfat_put_label(uint8_t *entry, const char *label)
{
    uint8_t units = 0;
    uint8_t *text = entry + SLATE_EXFAT_LABEL_TEXT;

    slate_utf8_to_utf16(label, text, SLATE_EXFAT_LABEL_UNITS);
    while (units < SLATE_EXFAT_LABEL_UNITS &&
           slate_le16(text + (size_t)2 * units) != 0)
        units++;
    entry[0] = units > 0 ? SLATE_EXFAT_ENTRY_LABEL : SLATE_EXFAT_ENTRY_NO_LABEL;
    entry[SLATE_EXFAT_LABEL_LENGTH] = units;
}
