/* SPDX-License-Identifier: MIT */
/* Filling the templates: what the table says. */
#include "assess/say/fill.h"
#include "base/base.h"
#include "table/table.h"

#define LISTED 3u /* partitions, pairs and gaps that are named one by one */

void slate_say_partition(const struct slate_partition *partition,
                         struct slate_text *text)
{
    SLATE_SAY(text, "partition {} (blocks {} to {})",
              AS_NUMBER(partition->number), AS_NUMBER(partition->first),
              AS_NUMBER(partition->first + partition->count - 1));
}

static void fill_table(const struct slate_telling *to)
{
    slate_text_add(to->text, slate_table_words(to->facts->layout.kind));
}

static void fill_partition_count(const struct slate_telling *to)
{
    slate_say_count(to->facts->layout.found, "partition", to->text);
}

static void fill_partition_list(const struct slate_telling *to)
{
    slate_text_add(to->text, "The table has ");
    for (uint32_t i = 0; i < to->facts->layout.count && i < LISTED; i++) {
        slate_text_add(to->text, i == 0 ? "" : ", ");
        slate_say_partition(&to->facts->partition[i], to->text);
    }
    if (to->facts->layout.found > LISTED)
        slate_text_add(to->text, " and more");
}

static void fill_end(const struct slate_telling *to)
{
    if (to->facts->layout.kind == SLATE_TABLE_NONE) {
        SLATE_SAY(to->text, "The volume at block 0 claims {}",
                  AS_SIZE(to->facts->whole.bytes));
        return;
    }
    SLATE_SAY(to->text, "The last partition ends ahead of block {}",
              AS_NUMBER(slate_layout_end(&to->facts->layout,
                                         to->facts->geometry.block_count)));
}

static void fill_rest(const struct slate_telling *to)
{
    slate_text_add(to->text, to->facts->layout.kind == SLATE_TABLE_NONE
                                 ? "the rest lies behind the end of the volume"
                                 : "the rest belongs to no partition");
}

static void fill_unallocated(const struct slate_telling *to)
{
    slate_text_size(
        to->text,
        to->facts->layout.kind == SLATE_TABLE_NONE
            ? slate_facts_hidden_bytes(to->facts)
            : slate_facts_bytes(to->facts, slate_facts_unallocated(to->facts)));
}

static void fill_gaps(const struct slate_telling *to)
{
    struct slate_tour tour = {0};
    struct slate_stretch gap;
    uint32_t named = 0;

    if (to->facts->layout.kind == SLATE_TABLE_NONE) {
        fill_end(to);
        slate_text_add(to->text, ".");
        return;
    }
    while (slate_layout_next(&to->facts->layout,
                             to->facts->geometry.block_count, &tour, &gap)) {
        if (!slate_is_gap(to->facts, &gap) || named == LISTED)
            continue;
        SLATE_SAY(to->text, "{}{} to {}",
                  AS_TEXT(named++ == 0 ? "Free are blocks " : ", "),
                  AS_NUMBER(gap.first), AS_NUMBER(gap.first + gap.count - 1));
    }
    slate_text_add(to->text, ".");
}

static void fill_beyond_mbr(const struct slate_telling *to)
{
    slate_text_size(
        to->text, slate_facts_bytes(to->facts, to->facts->geometry.block_count -
                                                   ((uint64_t)1 << 32)));
}

static void fill_table_end(const struct slate_telling *to)
{
    slate_text_size(
        to->text,
        slate_facts_bytes(to->facts, to->facts->layout.primary.other_lba + 1));
}

static void fill_gpt_other(const struct slate_telling *to)
{
    slate_text_number(to->text, to->facts->layout.primary.other_lba);
}

static void say_copy(const struct slate_gpt_copy *copy, const char *which,
                     struct slate_text *text)
{
    SLATE_SAY(text, "{} copy, block {}", AS_TEXT(which), AS_NUMBER(copy->lba));
    switch (copy->state) {
    case SLATE_GPT_SOUND:
        slate_text_add(text, ", is sound");
        break;
    case SLATE_GPT_UNREADABLE:
        slate_text_add(text, ", was not read");
        break;
    case SLATE_GPT_HEADER_DAMAGED:
        slate_text_add(text, ", has a header that is damaged");
        break;
    case SLATE_GPT_ARRAY_DAMAGED:
        slate_text_add(text, ", has entries that are damaged");
        break;
    case SLATE_GPT_ABSENT:
    default:
        slate_text_add(text, ", is not there");
        break;
    }
}

static void fill_gpt_primary(const struct slate_telling *to)
{
    say_copy(&to->facts->layout.primary, "the first", to->text);
}

static void fill_gpt_backup(const struct slate_telling *to)
{
    say_copy(&to->facts->layout.backup, "the second", to->text);
}

static void fill_shadow(const struct slate_telling *to)
{
    const struct slate_gpt_copy *copy = slate_facts_shadow(to->facts);
    uint32_t known = 0;

    for (uint32_t i = 0; i < to->facts->shadow.count; i++)
        known +=
            slate_volume_is_known(to->facts->shadow_volume[i].kind) ? 1u : 0u;
    SLATE_SAY(to->text, "a sound copy of a GPT at block {} names {}{}",
              AS_NUMBER(copy == NULL ? 1 : copy->lba),
              AS_COUNT(to->facts->shadow.found, "partition"),
              AS_TEXT(known > 0 ? ", and volumes stand there"
                                : ", but no volume stands there"));
}

static void fill_shadow_count(const struct slate_telling *to)
{
    slate_say_count(to->facts->shadow.found, "partition", to->text);
}

static void fill_twice(const struct slate_telling *to)
{
    uint32_t told = 0;

    for (uint32_t i = 0; i < to->facts->layout.count; i++) {
        for (uint32_t j = 0; j < i && told < LISTED; j++) {
            if (to->facts->partition[i].first !=
                    to->facts->partition[j].first ||
                to->facts->partition[i].count != to->facts->partition[j].count)
                continue;
            slate_text_add(to->text,
                           told++ == 0 ? "The same blocks are " : "; ");
            slate_say_partition(&to->facts->partition[j], to->text);
            slate_text_add(to->text, " and ");
            slate_say_partition(&to->facts->partition[i], to->text);
        }
    }
    slate_text_add(to->text, ".");
}

#define TWO_TIB ((uint64_t)1 << 41)

/* A dock that counts with 32 bits shows what is left of a larger disk. */
static void fill_beyond_cause(const struct slate_telling *to)
{
    uint64_t end =
        to->facts->layout.end > UINT64_MAX / to->facts->geometry.block_bytes
            ? UINT64_MAX
            : slate_facts_bytes(to->facts, to->facts->layout.end);

    slate_text_add(to->text, "The start of a larger device was copied onto "
                             "this one, or this one used to show more");
    if (end > TWO_TIB && slate_geometry_bytes(&to->facts->geometry) <= TWO_TIB)
        slate_text_add(
            to->text, "; or the dock cannot count beyond 2 TiB and shows a "
                      "part of the disk: try another one before anything else");
    slate_text_add(to->text, ".");
}

static void fill_beyond(const struct slate_telling *to)
{
    uint64_t blocks = to->facts->geometry.block_count;

    for (uint32_t i = 0; i < to->facts->layout.count; i++) {
        if (!slate_partition_is_beyond(&to->facts->partition[i], blocks))
            continue;
        slate_text_add(to->text, "Not all of ");
        slate_say_partition(&to->facts->partition[i], to->text);
        SLATE_SAY(to->text, " fits; the device has {}.",
                  AS_COUNT(blocks, "block"));
        return;
    }
    SLATE_SAY(to->text,
              "The GPT says that its second copy stands at block {}; the "
              "device has {}.",
              AS_NUMBER(to->facts->layout.primary.other_lba),
              AS_COUNT(blocks, "block"));
}

static void say_entry(const struct slate_mbr_entry *entry,
                      struct slate_text *text)
{
    SLATE_SAY(text, "blocks {} to {}", AS_NUMBER(entry->first),
              AS_NUMBER((uint64_t)entry->first + entry->count - 1));
}

static void fill_protective(const struct slate_telling *to)
{
    for (uint32_t i = 0; i < 4; i++) {
        if (to->facts->layout.mbr[i].type == SLATE_MBR_PROTECTIVE) {
            say_entry(&to->facts->layout.mbr[i], to->text);
            return;
        }
    }
}

static void fill_hybrid(const struct slate_telling *to)
{
    for (uint32_t i = 0; i < 4; i++) {
        const struct slate_mbr_entry *entry = &to->facts->layout.mbr[i];

        if (entry->type == 0 || entry->type == SLATE_MBR_PROTECTIVE ||
            slate_is_mirrored(to->facts, entry))
            continue;
        SLATE_SAY(to->text, "entry {} (", AS_NUMBER(i + 1u));
        say_entry(entry, to->text);
        slate_text_add(to->text, ")");
        return;
    }
}

static void fill_chain(const struct slate_telling *to)
{
    SLATE_SAY(to->text, "{}{}",
              AS_TEXT(to->facts->layout.chain == SLATE_CHAIN_LOOP
                          ? "It runs in a circle: it comes back to block "
                          : "It leads to block "),
              AS_NUMBER(to->facts->layout.chain_lba));
    if (to->facts->layout.chain == SLATE_CHAIN_BROKEN)
        slate_text_add(to->text, to->facts->layout.chain_lba >=
                                         to->facts->geometry.block_count
                                     ? ", beyond the end of the device"
                                     : ", which holds no table");
}

static void fill_overlaps(const struct slate_telling *to)
{
    uint32_t told = 0;

    for (uint32_t i = 0; i < to->facts->layout.count; i++) {
        for (uint32_t j = 0; j < i && told < LISTED; j++) {
            if (!slate_partitions_overlap(&to->facts->partition[j],
                                          &to->facts->partition[i]))
                continue;
            slate_text_add(to->text, told++ == 0 ? "Seen in " : "; ");
            slate_say_partition(&to->facts->partition[j], to->text);
            slate_text_add(to->text, " and ");
            slate_say_partition(&to->facts->partition[i], to->text);
        }
    }
    slate_text_add(to->text, ".");
}

static void say_outside(const struct slate_facts *facts,
                        struct slate_text *text)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (!slate_layout_is_outside(&facts->layout, i))
            continue;
        slate_text_add(text, "Logical ");
        slate_say_partition(&facts->partition[i], text);
        slate_text_add(
            text, " lies outside the extended one that should contain it.");
        return;
    }
}

static void fill_outside(const struct slate_telling *to)
{
    const struct slate_gpt_copy *copy = slate_layout_gpt(&to->facts->layout);

    if (to->facts->layout.kind != SLATE_TABLE_GPT) {
        say_outside(to->facts, to->text);
        return;
    }
    SLATE_SAY(to->text, "The GPT leaves blocks {} to {} to partitions.",
              AS_NUMBER(copy->first_usable), AS_NUMBER(copy->last_usable));
}

static void say_chs(const uint8_t *bytes, struct slate_text *text)
{
    SLATE_SAY(text, "{}/{}/{}",
              AS_NUMBER(bytes[2] | (uint32_t)(bytes[1] & 0xC0) << 2),
              AS_NUMBER(bytes[0]), AS_NUMBER(bytes[1] & 0x3F));
}

static void fill_chs(const struct slate_telling *to)
{
    for (uint32_t i = 0; i < 4; i++) {
        const struct slate_mbr_entry *entry = &to->facts->layout.mbr[i];
        uint32_t heads, sectors;

        if (entry->type == 0 || entry->type == SLATE_MBR_PROTECTIVE ||
            slate_mbr_chs_agrees(entry, &heads, &sectors))
            continue;
        SLATE_SAY(to->text, "Entry {}, ", AS_NUMBER(i + 1u));
        say_entry(entry, to->text);
        slate_text_add(to->text, ", says cylinder/head/sector ");
        say_chs(entry->chs_first, to->text);
        slate_text_add(to->text, " to ");
        say_chs(entry->chs_last, to->text);
        return;
    }
}

static void fill_unusual(const struct slate_telling *to)
{
    const struct slate_gpt_copy *copy = slate_layout_gpt(&to->facts->layout);

    if ((slate_layout_check(&to->facts->layout,
                            to->facts->geometry.block_count) &
         SLATE_LAYOUT_DUPLICATE) != 0) {
        slate_text_add(to->text, "Two of its entries have the same identifier");
        return;
    }
    SLATE_SAY(
        to->text, "Its header has {}, it has {} entries of {}, revision {}h",
        AS_COUNT(copy->header_bytes, "byte"), AS_NUMBER(copy->entry_count),
        AS_COUNT(copy->entry_bytes, "byte"), AS_HEX(copy->revision, 8));
}

const struct slate_fill slate_fills_of_table[] = {
    {"table", fill_table},
    {"partition-count", fill_partition_count},
    {"partition-list", fill_partition_list},
    {"end", fill_end},
    {"rest", fill_rest},
    {"unallocated", fill_unallocated},
    {"gaps", fill_gaps},
    {"beyond-mbr", fill_beyond_mbr},
    {"table-end", fill_table_end},
    {"gpt-other", fill_gpt_other},
    {"gpt-primary", fill_gpt_primary},
    {"gpt-backup", fill_gpt_backup},
    {"shadow", fill_shadow},
    {"shadow-count", fill_shadow_count},
    {"twice", fill_twice},
    {"beyond-cause", fill_beyond_cause},
    {"beyond", fill_beyond},
    {"protective", fill_protective},
    {"hybrid", fill_hybrid},
    {"chain", fill_chain},
    {"overlaps", fill_overlaps},
    {"outside", fill_outside},
    {"chs", fill_chs},
    {"unusual", fill_unusual},
    {NULL, NULL}};
