/* SPDX-License-Identifier: MIT */
/* The rules: which facts make which finding. One row for each cause, the one
 * that explains most first; their sentences are in words.c. */
#include "assess/optical.h"

/* Space behind the last partition that is worth a finding: both a hundredth of
 * the device and 8 MiB, so that the usual rounding at the end is not. */
#define HIDDEN_PERCENT 1u
#define HIDDEN_BYTES_MIN 8388608u

/* Below this every size occurs. */
#define ODD_SIZE_BYTES_MIN 16000000u

#define MBR_TYPE_EFI_SYSTEM 0xEF

static uint64_t bytes_of(const struct slate_facts *facts, uint64_t blocks)
{
    return blocks * facts->geometry.block_bytes;
}

static bool has_volume(const struct slate_volume *volume)
{
    return volume->kind != SLATE_VOLUME_NONE &&
           volume->kind != SLATE_VOLUME_OTHER;
}

/* Not every volume tells its size: then it is taken to fill the device. */
static uint64_t size_of(const struct slate_facts *facts,
                        const struct slate_volume *volume)
{
    return volume->bytes != 0 ? volume->bytes
                              : slate_geometry_bytes(&facts->geometry);
}

uint64_t slate_facts_shown_bytes(const struct slate_facts *facts)
{
    uint64_t shown = 0;

    if (facts->layout.kind == SLATE_TABLE_NONE)
        return has_volume(&facts->whole) ? size_of(facts, &facts->whole) : 0;
    for (uint32_t i = 0; i < facts->layout.count; i++)
        shown += facts->volume[i].bytes != 0
                     ? facts->volume[i].bytes
                     : bytes_of(facts, facts->partition[i].count);
    return shown;
}

uint64_t slate_facts_hidden_bytes(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t end = bytes_of(
        facts, slate_layout_end(&facts->layout, facts->geometry.block_count));

    if (facts->layout.kind == SLATE_TABLE_NONE)
        end = has_volume(&facts->whole) ? size_of(facts, &facts->whole) : all;
    return end < all ? all - end : 0;
}

bool slate_facts_hold_content(const struct slate_facts *facts)
{
    return facts->layout.found > 0 || facts->whole.kind != SLATE_VOLUME_NONE ||
           !facts->edges_blank;
}

static bool is_unfinished(const struct slate_facts *facts)
{
    return facts->marked;
}

static bool is_write_protected(const struct slate_facts *facts)
{
    return facts->read_only;
}

static bool is_small_table(const struct slate_facts *facts)
{
    uint64_t hidden = slate_facts_hidden_bytes(facts);

    return hidden >= HIDDEN_BYTES_MIN &&
           hidden / HIDDEN_PERCENT >=
               slate_geometry_bytes(&facts->geometry) / 100 &&
           (facts->layout.count > 0 || has_volume(&facts->whole));
}

/* Can a machine be started from one of the partitions? */
static bool has_start_up(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *partition = &facts->partition[i];

        if ((partition->active && facts->layout.boot_code) ||
            partition->mbr_type == MBR_TYPE_EFI_SYSTEM)
            return true;
    }
    return false;
}

/* A device that starts a machine and uses less than half of its capacity was
 * written with an image, not partitioned by a person. */
static bool is_boot_image(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    const struct slate_volume *optical = slate_optical_of(facts);

    if (optical->kind == SLATE_VOLUME_OPTICAL && optical->bootable)
        return true;
    return has_start_up(facts) && slate_facts_hidden_bytes(facts) > all / 2;
}

static bool is_optical_image(const struct slate_facts *facts)
{
    const struct slate_volume *optical = slate_optical_of(facts);

    return optical->kind == SLATE_VOLUME_OPTICAL && !optical->bootable;
}

static bool is_beyond_end(const struct slate_facts *facts)
{
    return (slate_layout_check(&facts->layout, facts->geometry.block_count) &
            SLATE_LAYOUT_BEYOND_END) != 0;
}

static bool is_overlap(const struct slate_facts *facts)
{
    return (slate_layout_check(&facts->layout, facts->geometry.block_count) &
            SLATE_LAYOUT_OVERLAP) != 0;
}

static bool is_gpt_remains(const struct slate_facts *facts)
{
    return facts->layout.kind != SLATE_TABLE_GPT &&
           (facts->layout.gpt_primary || facts->layout.gpt_backup);
}

/* Files and memory have any size; what is sold has one of a few. */
static bool is_odd_size(const struct slate_facts *facts)
{
    enum slate_transport transport = facts->identity.transport;
    uint64_t bytes = slate_geometry_bytes(&facts->geometry);

    return transport != SLATE_TRANSPORT_IMAGE &&
           transport != SLATE_TRANSPORT_MEMORY &&
           transport != SLATE_TRANSPORT_LOOP && bytes >= ODD_SIZE_BYTES_MIN &&
           slate_size_nominal(bytes) == 0;
}

static bool is_blank(const struct slate_facts *facts)
{
    return facts->edges_blank && facts->layout.found == 0 &&
           !has_volume(&facts->whole);
}

static bool is_unknown_content(const struct slate_facts *facts)
{
    return facts->layout.found == 0 && !facts->marked && !facts->edges_blank &&
           !has_volume(&facts->whole);
}

struct rule {
    enum slate_finding_id id;
    enum slate_severity severity;
    bool (*holds)(const struct slate_facts *facts);
    /* a finding that, when it leads, explains this one; HEALTHY for none */
    enum slate_finding_id explained_by[2];
};

#define UNEXPLAINED                                                            \
    {                                                                          \
        SLATE_FINDING_HEALTHY, SLATE_FINDING_HEALTHY                           \
    }

static const struct rule rules[] = {
    {SLATE_FINDING_UNFINISHED, SLATE_SEVERITY_TROUBLE, is_unfinished,
     UNEXPLAINED},
    {SLATE_FINDING_WRITE_PROTECTED, SLATE_SEVERITY_TROUBLE, is_write_protected,
     UNEXPLAINED},
    {SLATE_FINDING_BOOT_IMAGE, SLATE_SEVERITY_TROUBLE, is_boot_image,
     UNEXPLAINED},
    {SLATE_FINDING_OPTICAL_IMAGE, SLATE_SEVERITY_TROUBLE, is_optical_image,
     UNEXPLAINED},
    {SLATE_FINDING_SMALL_TABLE,
     SLATE_SEVERITY_TROUBLE,
     is_small_table,
     {SLATE_FINDING_BOOT_IMAGE, SLATE_FINDING_OPTICAL_IMAGE}},
    {SLATE_FINDING_BEYOND_END, SLATE_SEVERITY_TROUBLE, is_beyond_end,
     UNEXPLAINED},
    {SLATE_FINDING_OVERLAP, SLATE_SEVERITY_TROUBLE, is_overlap, UNEXPLAINED},
    {SLATE_FINDING_GPT_REMAINS, SLATE_SEVERITY_NOTE, is_gpt_remains,
     UNEXPLAINED},
    {SLATE_FINDING_BLANK, SLATE_SEVERITY_TROUBLE, is_blank, UNEXPLAINED},
    {SLATE_FINDING_UNKNOWN_CONTENT, SLATE_SEVERITY_TROUBLE, is_unknown_content,
     UNEXPLAINED},
    {SLATE_FINDING_ODD_SIZE, SLATE_SEVERITY_NOTE, is_odd_size, UNEXPLAINED},
};

static bool stands(const struct slate_finding *findings, uint32_t count,
                   enum slate_finding_id id)
{
    for (uint32_t i = 0; i < count; i++) {
        if (findings[i].id == id)
            return true;
    }
    return false;
}

uint32_t slate_assess_judge(const struct slate_facts *facts,
                            struct slate_finding findings[SLATE_FINDINGS_MAX])
{
    uint32_t count = 0;

    for (size_t i = 0; i < sizeof rules / sizeof rules[0]; i++) {
        const struct rule *rule = &rules[i];

        if (!rule->holds(facts))
            continue;
        findings[count].id = rule->id;
        findings[count].severity = rule->severity;
        findings[count].consequence =
            stands(findings, count, rule->explained_by[0]) ||
            stands(findings, count, rule->explained_by[1]);
        count++;
    }
    if (count == 0) {
        findings[count].id = SLATE_FINDING_HEALTHY;
        findings[count].severity = SLATE_SEVERITY_FINE;
        findings[count].consequence = false;
        count++;
    }
    return count;
}
