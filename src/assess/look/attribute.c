/* SPDX-License-Identifier: MIT */
/* Attributes out of the facts, and in words: one row for each kind. */
#include "base/base.h"
#include "trueslate/attribute.h"
#include "volume/common/common.h"
#include "table/table.h"

struct row {
    const char *name;
    uint64_t bits;   /* of a GPT entry; 0 for others */
    bool basic_data; /* defined for that type of partition alone */
    const char *words, *advice;
};

/* in the order of enum slate_attribute_kind */
static const struct row rows[] = {
    {"gpt-required", SLATE_GPT_REQUIRED, false,
     "The table marks the partition as required by its computer: hosts keep it "
     "from being deleted.",
     "Clearing it lets hosts delete the partition; the computer that wants it "
     "may not start."},
    {"gpt-no-block-io", SLATE_GPT_NO_BLOCK_IO, false,
     "The table tells firmware to offer no access to the partition.",
     "Clearing it shows the partition to firmware."},
    {"gpt-read-only", SLATE_GPT_READ_ONLY, true,
     "The table marks the partition as read-only: hosts do not write to it.",
     "Clearing it lets hosts write; nothing in the partition changes."},
    {"gpt-hidden", SLATE_GPT_HIDDEN, true,
     "The table marks the partition as hidden: hosts do not show it.",
     "Clearing it shows the partition; nothing in it changes."},
    {"gpt-no-letter", SLATE_GPT_NO_LETTER, true,
     "The table asks hosts not to mount the partition by themselves.",
     "Clearing it lets hosts mount the partition; nothing in it changes."},
    {"mbr-hidden-type", 0, false,
     "The partition has a hidden type: hosts that know it do not show the "
     "volume.",
     "The visible type is 10h less; nothing in the partition changes."},
    {"dirty", 0, false,
     "The volume is marked as mounted now, or not unmounted properly: hosts "
     "want to check it, and some mount it read-only until then.",
     "Clearing the mark repairs nothing: copy off what matters first, and let "
     "a host check the volume if files look wrong."},
    {"read-only-volume", 0, false,
     "The volume is flagged as never to be written.",
     "Clearing the flag lets hosts write; no file changes."},
};

SLATE_ROWS_FOR(rows, SLATE_ATTRIBUTE_KINDS);

SLATE_FROM_ROW(uint64_t, slate_attribute_bits, enum slate_attribute_kind, rows,
               bits)

static bool has_bits(const struct slate_facts *facts,
                     const struct slate_partition *partition,
                     const struct row *row)
{
    return facts->layout.kind == SLATE_TABLE_GPT &&
           (partition->attributes & row->bits) != 0 &&
           (!row->basic_data || slate_partition_is_basic(partition));
}

/* The state of FAT12 and ext is not a matter of bits: that takes a check, or a
 * replay of the log, as it may of NTFS. */
static bool is_dirty(const struct slate_volume *volume)
{
    return volume->dirty && !volume->replay &&
           slate_kind_of(volume->kind)->flagged;
}

static bool has_attribute(const struct slate_facts *facts, uint32_t i,
                          enum slate_attribute_kind kind)
{
    bool whole = i == SLATE_ATTRIBUTE_WHOLE;
    const struct slate_volume *volume =
        whole ? &facts->whole : &facts->volume[i];

    if (kind == SLATE_ATTRIBUTE_DIRTY)
        return is_dirty(volume);
    if (kind == SLATE_ATTRIBUTE_READ_ONLY_VOLUME)
        return volume->read_only;
    if (whole)
        return false;
    if (kind == SLATE_ATTRIBUTE_HIDDEN_TYPE)
        return facts->layout.kind == SLATE_TABLE_MBR &&
               slate_mbr_is_hidden(facts->partition[i].mbr_type);
    return has_bits(facts, &facts->partition[i], &rows[kind]);
}

bool slate_attribute_next(const struct slate_facts *facts, uint32_t index,
                          struct slate_attribute *attribute)
{
    bool whole = facts->layout.kind == SLATE_TABLE_NONE;
    uint32_t count = whole ? 1 : facts->layout.count;

    for (uint32_t i = 0; i < count; i++) {
        for (uint32_t kind = 0; kind < SLATE_ATTRIBUTE_KINDS; kind++) {
            attribute->kind = (enum slate_attribute_kind)kind;
            attribute->partition = whole ? SLATE_ATTRIBUTE_WHOLE : i;
            if (has_attribute(facts, attribute->partition, attribute->kind) &&
                index-- == 0)
                return true;
        }
    }
    return false;
}

SLATE_FROM_ROW(const char *, slate_attribute_name, enum slate_attribute_kind,
               rows, name)
SLATE_FROM_ROW(const char *, slate_attribute_words, enum slate_attribute_kind,
               rows, words)
SLATE_FROM_ROW(const char *, slate_attribute_advice, enum slate_attribute_kind,
               rows, advice)
