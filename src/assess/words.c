/* SPDX-License-Identifier: MIT */
/* The findings in words: what is so, where it was seen, what helps. */
#include "assess/optical.h"

const char *slate_severity_name(enum slate_severity severity)
{
    switch (severity) {
    case SLATE_SEVERITY_TROUBLE:
        return "trouble";
    case SLATE_SEVERITY_NOTE:
        return "note";
    case SLATE_SEVERITY_FINE:
    default:
        return "fine";
    }
}

static void add_capacity(const struct slate_facts *facts,
                         struct slate_text *text)
{
    slate_text_size(text, slate_geometry_bytes(&facts->geometry));
}

static void add_label(const struct slate_volume *volume,
                      struct slate_text *text)
{
    if (volume->label[0] == '\0')
        return;
    slate_text_add(text, " labelled \"");
    slate_text_add(text, volume->label);
    slate_text_add(text, "\"");
}

static void add_place(const struct slate_partition *partition,
                      struct slate_text *text)
{
    slate_text_add(text, "partition ");
    slate_text_number(text, partition->slot + 1u);
    slate_text_add(text, " (blocks ");
    slate_text_number(text, partition->first);
    slate_text_add(text, " to ");
    slate_text_number(text, partition->first + partition->count - 1);
    slate_text_add(text, ")");
}

static void unfinished_text(const struct slate_facts *facts,
                            struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "Renewing this device was interrupted: hosts see "
                         "nothing on it until it is finished.");
}

static void unfinished_evidence(const struct slate_facts *facts,
                                struct slate_text *text)
{
    slate_text_add(text, "Block 0 holds the unfinished mark of draft ");
    slate_text_bytes(text, facts->mark.seal, 6);
    slate_text_add(text, " for ");
    slate_text_add(text, facts->mark.tag);
    slate_text_add(text, ".");
}

static void protected_text(const struct slate_facts *facts,
                           struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "The device is write-protected: nothing on it can be "
                         "changed or renewed.");
}

static void protected_evidence(const struct slate_facts *facts,
                               struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "The device or its host reports write protection.");
}

static void boot_text(const struct slate_facts *facts, struct slate_text *text)
{
    const struct slate_volume *optical = slate_optical_of(facts);

    if (optical->kind == SLATE_VOLUME_OPTICAL) {
        slate_text_add(text, "A bootable optical-disc image");
        add_label(optical, text);
        slate_text_add(text, " was written over the device.");
        return;
    }
    slate_text_add(text, "A boot image was written over the device: it brought "
                         "its own small partition table along.");
}

static void boot_evidence(const struct slate_facts *facts,
                          struct slate_text *text)
{
    const struct slate_volume *optical = slate_optical_of(facts);

    if (optical->kind == SLATE_VOLUME_OPTICAL) {
        slate_text_add(text, "A volume descriptor and a boot record stand at "
                             "byte 32768; the image claims ");
        slate_text_size(text, optical->bytes);
        slate_text_add(text, ".");
        return;
    }
    slate_text_add(text, "Block 0 holds start-up code");
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (!facts->partition[i].active)
            continue;
        slate_text_add(text, "; ");
        add_place(&facts->partition[i], text);
        slate_text_add(text, " is active and holds ");
        slate_text_add(text, slate_volume_words(facts->volume[i].kind));
        add_label(&facts->volume[i], text);
    }
    slate_text_add(text, ".");
}

static void optical_text(const struct slate_facts *facts,
                         struct slate_text *text)
{
    slate_text_add(text, "An optical-disc image");
    add_label(slate_optical_of(facts), text);
    slate_text_add(text, " was written over the device; many hosts show it "
                         "read-only.");
}

static void optical_evidence(const struct slate_facts *facts,
                             struct slate_text *text)
{
    slate_text_add(text, "A volume descriptor stands at byte 32768; the image "
                         "claims ");
    slate_text_size(text, slate_optical_of(facts)->bytes);
    slate_text_add(text, ".");
}

static void small_text(const struct slate_facts *facts, struct slate_text *text)
{
    slate_text_add(text, "Hosts show ");
    slate_text_size(text, slate_facts_shown_bytes(facts));
    slate_text_add(text, " of ");
    add_capacity(facts, text);
    slate_text_add(text, facts->layout.kind == SLATE_TABLE_NONE
                             ? "; the rest lies behind the end of the volume."
                             : "; the rest belongs to no partition.");
}

static void small_evidence(const struct slate_facts *facts,
                           struct slate_text *text)
{
    if (facts->layout.kind == SLATE_TABLE_NONE) {
        slate_text_add(text, "The volume at block 0 claims ");
        slate_text_size(text, facts->whole.bytes);
    } else {
        slate_text_add(text, "The last partition ends ahead of block ");
        slate_text_number(text, slate_layout_end(&facts->layout,
                                                 facts->geometry.block_count));
    }
    slate_text_add(text, "; the device has ");
    slate_text_number(text, facts->geometry.block_count);
    slate_text_add(text, " blocks of ");
    slate_text_number(text, facts->geometry.block_bytes);
    slate_text_add(text, " bytes.");
}

static void beyond_text(const struct slate_facts *facts,
                        struct slate_text *text)
{
    (void)facts;
    slate_text_add(text,
                   "The table is for a larger device: a partition reaches "
                   "beyond the end of this one.");
}

static void beyond_evidence(const struct slate_facts *facts,
                            struct slate_text *text)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *partition = &facts->partition[i];

        if (partition->first < facts->geometry.block_count &&
            partition->count <= facts->geometry.block_count - partition->first)
            continue;
        slate_text_add(text, "The ");
        add_place(partition, text);
        slate_text_add(text, " does not fit; the device has ");
        slate_text_number(text, facts->geometry.block_count);
        slate_text_add(text, " blocks.");
        return;
    }
}

static void overlap_text(const struct slate_facts *facts,
                         struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "Two partitions share blocks: writing to one damages "
                         "the other.");
}

static void overlap_evidence(const struct slate_facts *facts,
                             struct slate_text *text)
{
    slate_text_add(text, "Seen in the table:");
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        slate_text_add(text, i == 0 ? " " : ", ");
        add_place(&facts->partition[i], text);
    }
    slate_text_add(text, ".");
}

static void remains_text(const struct slate_facts *facts,
                         struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "Remains of an earlier GPT are on the device; some "
                         "hosts may take them for the table.");
}

static void remains_evidence(const struct slate_facts *facts,
                             struct slate_text *text)
{
    slate_text_add(text, "A sound GPT header stands at block ");
    slate_text_number(
        text, facts->layout.gpt_primary ? 1 : facts->geometry.block_count - 1);
    slate_text_add(text, ", without a protective entry in block 0.");
}

static void odd_text(const struct slate_facts *facts, struct slate_text *text)
{
    slate_text_add(text, "The capacity of ");
    add_capacity(facts, text);
    slate_text_add(text, " is far from every size that devices are sold in.");
}

static void odd_evidence(const struct slate_facts *facts,
                         struct slate_text *text)
{
    slate_text_add(text, "The device reports ");
    slate_text_number(text, facts->geometry.block_count);
    slate_text_add(text, " blocks of ");
    slate_text_number(text, facts->geometry.block_bytes);
    slate_text_add(text, " bytes.");
}

static void blank_text(const struct slate_facts *facts, struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "The device is blank: it has no table and no volume, "
                         "so hosts ask to format it.");
}

static void blank_evidence(const struct slate_facts *facts,
                           struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "The first 32 KiB and the last 4 KiB hold one and the "
                         "same byte throughout.");
}

static void unknown_text(const struct slate_facts *facts,
                         struct slate_text *text)
{
    (void)facts;
    slate_text_add(text, "The device holds content, but neither a partition "
                         "table nor a volume that is known here.");
}

static void unknown_evidence(const struct slate_facts *facts,
                             struct slate_text *text)
{
    slate_text_add(text, facts->layout.kind == SLATE_TABLE_NONE
                             ? "Block 0 is neither a table nor a boot block, "
                               "and the ends of the device are not blank."
                             : "The table in block 0 has no partition.");
}

static void healthy_text(const struct slate_facts *facts,
                         struct slate_text *text)
{
    slate_text_add(text, "Nothing is wrong: the table and the volumes agree "
                         "with the capacity of ");
    add_capacity(facts, text);
    slate_text_add(text, ".");
}

static void healthy_evidence(const struct slate_facts *facts,
                             struct slate_text *text)
{
    slate_text_add(text, "Hosts show ");
    slate_text_size(text, slate_facts_shown_bytes(facts));
    slate_text_add(text, ".");
}

#define RENEW_LOSES_ALL                                                        \
    "Renew the device: one volume over the full capacity. Everything on it "   \
    "is lost."

struct wording {
    const char *name;
    void (*text)(const struct slate_facts *facts, struct slate_text *text);
    void (*evidence)(const struct slate_facts *facts, struct slate_text *text);
    const char *remedy;
};

/* in the order of enum slate_finding_id */
static const struct wording wordings[] = {
    {"unfinished", unfinished_text, unfinished_evidence,
     "Enact the same draft again; it goes on where it stopped."},
    {"write-protected", protected_text, protected_evidence,
     "Look for a slider on the case; without one, try another port or reader."},
    {"boot-image", boot_text, boot_evidence, RENEW_LOSES_ALL},
    {"optical-image", optical_text, optical_evidence, RENEW_LOSES_ALL},
    {"small-table", small_text, small_evidence, RENEW_LOSES_ALL},
    {"beyond-end", beyond_text, beyond_evidence, RENEW_LOSES_ALL},
    {"overlap", overlap_text, overlap_evidence, RENEW_LOSES_ALL},
    {"gpt-remains", remains_text, remains_evidence,
     "Nothing has to be done; renewing the device erases them."},
    {"odd-size", odd_text, odd_evidence,
     "Compare with the size on the case: part of it may be hidden, or a dock "
     "may translate its blocks."},
    {"blank", blank_text, blank_evidence,
     "Renew the device: one volume over the full capacity. Nothing is lost."},
    {"unknown-content", unknown_text, unknown_evidence, RENEW_LOSES_ALL},
    {"healthy", healthy_text, healthy_evidence, "Nothing has to be done."},
};

const char *slate_finding_name(enum slate_finding_id id)
{
    return wordings[id].name;
}

void slate_finding_words(const struct slate_facts *facts,
                         enum slate_finding_id id, enum slate_finding_part part,
                         struct slate_text *text)
{
    const struct wording *wording = &wordings[id];

    switch (part) {
    case SLATE_FINDING_TEXT:
        wording->text(facts, text);
        break;
    case SLATE_FINDING_EVIDENCE:
        wording->evidence(facts, text);
        break;
    case SLATE_FINDING_REMEDY:
        slate_text_add(text, wording->remedy);
        break;
    default:
        break;
    }
}
