/* SPDX-License-Identifier: MIT */
/* What can be wrong with a GPT and what announces it. */
#include "assess/judge/judge.h"
#include "base/base.h"

static bool is_gpt(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_GPT;
}

static bool is_sound(const struct slate_gpt_copy *copy)
{
    return copy->state == SLATE_GPT_SOUND;
}

static bool is_gpt_lost(const struct slate_facts *facts)
{
    return facts->layout.protective && !is_sound(&facts->layout.primary) &&
           !is_sound(&facts->layout.backup);
}

bool slate_is_gpt_primary_damaged(const struct slate_facts *facts)
{
    return is_gpt(facts) && !is_sound(&facts->layout.primary);
}

bool slate_is_gpt_backup_damaged(const struct slate_facts *facts)
{
    return is_gpt(facts) && !is_sound(&facts->layout.backup);
}

/* The device has grown since: the table ends where it ended then. */
static bool is_gpt_backup_misplaced(const struct slate_facts *facts)
{
    uint64_t last = facts->geometry.block_count - 1;

    return is_gpt(facts) && is_sound(&facts->layout.primary) &&
           facts->layout.primary.other_lba < last;
}

bool slate_is_protective_missing(const struct slate_facts *facts)
{
    return is_gpt(facts) && !facts->layout.protective;
}

/* One entry from block 1 to the end; hosts also write the largest number, and
 * what the device had before it grew or shrank is told elsewhere. */
bool slate_is_protective_wrong(const struct slate_facts *facts)
{
    uint64_t rest = facts->geometry.block_count - 1;

    if (!is_gpt(facts))
        return false;
    for (int i = 0; i < 4; i++) {
        const struct slate_mbr_entry *entry = &facts->layout.mbr[i];

        if (entry->type == SLATE_MBR_PROTECTIVE &&
            (entry->first != 1 ||
             (facts->layout.hybrid == 0 && entry->count != UINT32_MAX &&
              entry->count != rest)))
            return true;
    }
    return false;
}

bool slate_is_mirrored(const struct slate_facts *facts,
                       const struct slate_mbr_entry *entry)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].first == entry->first &&
            facts->partition[i].count == entry->count)
            return true;
    }
    return false;
}

bool slate_is_hybrid_disagrees(const struct slate_facts *facts)
{
    if (!is_gpt(facts))
        return false;
    for (int i = 0; i < 4; i++) {
        const struct slate_mbr_entry *entry = &facts->layout.mbr[i];

        if (entry->type != 0 && entry->type != SLATE_MBR_PROTECTIVE &&
            !slate_is_mirrored(facts, entry))
            return true;
    }
    return false;
}

static bool shadow_has_volume(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->shadow.count; i++) {
        if (slate_volume_is_known(facts->shadow_volume[i].kind))
            return true;
    }
    return false;
}

/* The GPT's volumes are there, the MBR's are not. */
bool slate_is_mbr_remains(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_MBR && facts->layout.found > 0 &&
           slate_facts_shadow(facts) != NULL &&
           slate_facts_volumes(facts) == 0 && shadow_has_volume(facts);
}

/* The start is gone, and with it the first copy and what announces it. */
bool slate_is_gpt_second_alone(const struct slate_facts *facts)
{
    return facts->layout.kind != SLATE_TABLE_GPT &&
           slate_facts_shadow(facts) == &facts->layout.backup &&
           facts->layout.found == 0 && !facts->marked &&
           !slate_volume_is_known(facts->whole.kind);
}

bool slate_is_gpt_remains(const struct slate_facts *facts)
{
    return facts->layout.kind != SLATE_TABLE_GPT &&
           slate_facts_shadow(facts) != NULL && !slate_is_mbr_remains(facts) &&
           !slate_is_gpt_second_alone(facts);
}

bool slate_is_gpt_copies_disagree(const struct slate_facts *facts)
{
    return slate_layout_copies_differ(&facts->layout);
}

const struct slate_rule slate_rules_gpt[] = {
    DEVICE(GPT_LOST, "gpt-lost", TROUBLE, is_gpt_lost, RENEW, 0,
           BECAUSE(BY(READ_ERRORS), BY(BLOCK_SIZE_MISMATCH)),
           "The GPT is lost: both of its copies are damaged, so hosts find no "
           "partition.",
           "Block 0 announces a GPT; {gpt-primary}; {gpt-backup}.",
           "Both ends of the device were overwritten, or only the start of it "
           "was copied from another one.",
           RENEW),
    DEVICE(GPT_PRIMARY_DAMAGED, "gpt-primary-damaged", TROUBLE,
           slate_is_gpt_primary_damaged, RENEW, 0, BECAUSE(BY(READ_ERRORS)),
           "The first copy of the GPT is damaged; some hosts use the second "
           "one, others show nothing.",
           "{gpt-primary}; {gpt-backup}.",
           "The start of the device was overwritten, or it was unplugged while "
           "the table was being written.",
           SAVE_FIRST),
    DEVICE(GPT_SECOND_ALONE, "gpt-second-alone", TROUBLE,
           slate_is_gpt_second_alone, RENEW, 0,
           BECAUSE(BY(READ_ERRORS), BY(BLOCK_SIZE_MISMATCH)),
           "The start of the device was erased, so hosts find no table; the "
           "second GPT still names {shadow-count}.",
           "{shadow}; {gpt-primary}.",
           "The start was overwritten or erased: by a tool that prepares "
           "devices, or by hand. What lies behind it may be whole.",
           "Write nothing to it while anything on it is needed: the first copy "
           "can be made anew from the second. If nobody needs it, renew the "
           "device."),
    DEVICE(
        GPT_BACKUP_MISPLACED, "gpt-backup-misplaced", TROUBLE,
        is_gpt_backup_misplaced, RENEW, 0, BECAUSE(IMAGE, MISCOUNT),
        "The table ends at {table-end} of {capacity}: the rest is out of "
        "reach.",
        "The first copy of the GPT says that the second stands at block "
        "{gpt-other}; the last block is {last-block}.",
        "A smaller device was copied onto this one, or the device has grown.",
        SAVE_FIRST),
    DEVICE(
        GPT_BACKUP_DAMAGED, "gpt-backup-damaged", NOTE,
        slate_is_gpt_backup_damaged, RENEW, 0,
        BECAUSE(BY(READ_ERRORS), BY(BEYOND_END), BY(GPT_BACKUP_MISPLACED),
                IMAGE, MISCOUNT),
        "The second copy of the GPT is damaged; hosts still use the first one.",
        "{gpt-backup}; {gpt-primary}.",
        "The end of the device was overwritten, or never written.", SAVE_FIRST),
    DEVICE(
        GPT_COPIES_DISAGREE, "gpt-copies-disagree", TROUBLE,
        slate_is_gpt_copies_disagree, BY_HAND, 0,
        BECAUSE(IMAGE, BY(GPT_BACKUP_MISPLACED)),
        "The two copies of the GPT are both sound, and tell of different "
        "partitions: which of them counts depends on the host.",
        "{gpt-primary}; {gpt-backup}; their entries have different checksums. "
        "Of the one that counts less, {shadow}.",
        "One copy was changed or restored without the other.",
        "Pick the copy that is right: what it names stays, and the other one "
        "is made the same. Copy off what is needed first."),
    DEVICE(PROTECTIVE_MISSING, "protective-missing", TROUBLE,
           slate_is_protective_missing, RENEW, 0, BECAUSE(BY(READ_ERRORS)),
           "The GPT is sound, but nothing in block 0 announces it: most hosts "
           "show an empty device.",
           "Block 0 has no protective entry; {gpt-primary}.",
           "Something has erased block 0 alone.", SAVE_FIRST),
    DEVICE(PROTECTIVE_WRONG, "protective-wrong", NOTE,
           slate_is_protective_wrong, RENEW, 0,
           BECAUSE(BY(BEYOND_END), BY(GPT_BACKUP_MISPLACED), IMAGE, MISCOUNT),
           "The protective entry in block 0 is not as it should be; strict "
           "hosts reject the GPT behind it.",
           "It covers {protective}; it should cover blocks 1 to {last-block}.",
           "Written by a tool that did not follow the standard, or for another "
           "device.",
           SAVE_FIRST),
    DEVICE(
        HYBRID_DISAGREES, "hybrid-disagrees", TROUBLE,
        slate_is_hybrid_disagrees, RENEW, 0, BECAUSE(IMAGE),
        "Two tables disagree: hosts that read the MBR see other partitions "
        "than hosts that read the GPT.",
        "The MBR's {hybrid} is no partition of the GPT.",
        "A hybrid table was made, and only one half of it was changed since.",
        SAVE_FIRST),
    DEVICE(MBR_REMAINS, "mbr-remains", TROUBLE, slate_is_mbr_remains, RENEW, 0,
           BECAUSE(IMAGE),
           "An old MBR stands in front of a GPT: hosts read the old one and "
           "find no volume.",
           "No partition of the MBR holds a volume; {shadow}.",
           "Block 0 was restored, or copied from another device.", SAVE_FIRST),
    DEVICE(GPT_REMAINS, "gpt-remains", NOTE, slate_is_gpt_remains, RENEW, 0,
           BECAUSE(IMAGE, BY(READ_ERRORS)),
           "Remains of an earlier GPT are on the device; some hosts may take "
           "them for the table.",
           "{shadow}; block 0 does not announce it.",
           "The device was set up anew without erasing the second copy at its "
           "end.",
           "Renewing the device erases them. Nothing has to be done as long as "
           "hosts show what they should."),
    RULES_END};
