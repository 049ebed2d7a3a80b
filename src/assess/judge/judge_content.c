/* SPDX-License-Identifier: MIT */
/* What can be odd about what a device holds. */
#include "assess/judge/judge.h"
#include "volume/common/common.h"

static bool is_unfinished(const struct slate_facts *facts)
{
    return facts->marked;
}

/* Can a machine be started from one of the partitions? */
static bool has_start_up(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *partition = &facts->partition[i];

        if ((partition->active && facts->layout.boot_code) ||
            partition->mbr_type == SLATE_MBR_EFI_SYSTEM)
            return true;
    }
    return false;
}

/* A device that starts a machine and uses less than half of its capacity was
 * written with an image, not partitioned by a person. */
static bool is_boot_image(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    const struct slate_volume *optical = slate_facts_optical(facts);

    if (optical->kind == SLATE_VOLUME_OPTICAL && optical->bootable)
        return true;
    return has_start_up(facts) && slate_facts_hidden_bytes(facts) > all / 2;
}

static bool is_optical_image(const struct slate_facts *facts)
{
    const struct slate_volume *optical = slate_facts_optical(facts);

    /* UDF in the device's own blocks was put there to be used as it is */
    return (optical->kind == SLATE_VOLUME_UDF &&
            optical->block_bytes != facts->geometry.block_bytes) ||
           (optical->kind == SLATE_VOLUME_OPTICAL && !optical->bootable);
}

static bool holds_nothing_known(const struct slate_facts *facts)
{
    return facts->layout.found == 0 && !facts->marked &&
           facts->unread.count == 0 &&
           facts->whole.kind != SLATE_VOLUME_UNREAD &&
           !slate_volume_is_known(facts->whole.kind);
}

static bool is_empty_table(const struct slate_facts *facts)
{
    return facts->layout.kind != SLATE_TABLE_NONE && facts->layout.found == 0;
}

static bool is_blank(const struct slate_facts *facts)
{
    return facts->blank && holds_nothing_known(facts) &&
           facts->layout.kind == SLATE_TABLE_NONE;
}

/* Nothing at the start names what begins, or lies, further in. */
static bool is_start_erased(const struct slate_facts *facts)
{
    const struct slate_sample *sample = &facts->sample;

    return holds_nothing_known(facts) && facts->made_for == 0 &&
           sample->held > 0 && (sample->volumes > 0 || !sample->start_held);
}

static bool is_unknown_content(const struct slate_facts *facts)
{
    return !facts->blank && holds_nothing_known(facts) &&
           facts->layout.kind == SLATE_TABLE_NONE &&
           facts->whole.kind != SLATE_VOLUME_RANDOM && facts->made_for == 0 &&
           !is_start_erased(facts);
}

static bool is_no_table(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_NONE &&
           slate_volume_is_known(facts->whole.kind) && !is_boot_image(facts) &&
           !is_optical_image(facts) && !slate_volume_needs_more(&facts->whole);
}

static bool is_halfway(const struct slate_facts *facts)
{
    return facts->halfway;
}

static bool is_cut_short(const struct slate_facts *facts)
{
    return facts->cut_short && facts->depth == SLATE_DEPTH_FULL;
}

const struct slate_rule slate_rules_content[] = {
    DEVICE(UNFINISHED, "unfinished", TROUBLE, is_unfinished, RESUME, 0, NONE,
           "Renewing this device was interrupted: hosts see nothing on it "
           "until it is finished.",
           "{mark-seen}.",
           "It was unplugged, or stopped, while it was being renewed.",
           "Enact the same draft again; it goes on where it stopped."),
    DEVICE(HALFWAY, "halfway", TROUBLE, is_halfway, RESUME, 0, NONE,
           "Changing this device in place was interrupted: a part of it is as "
           "it shall be, a part as it was.",
           "Its draft is kept on this machine, and the device holds a part of "
           "what that writes.",
           "It was unplugged, or stopped, while it was being changed.",
           "Go on with that change, or put back what was there, ahead of "
           "anything else."),
    DEVICE(BOOT_IMAGE, "boot-image", TROUBLE, is_boot_image, RENEW, 0, NONE,
           "A boot image{optical-label} was written over the device, and "
           "brought its own small layout along.",
           "{boot}",
           "That is how a start-up stick is made: the image overwrites the "
           "table that was there.",
           RENEW),
    DEVICE(OPTICAL_IMAGE, "optical-image", TROUBLE, is_optical_image, RENEW, 0,
           NONE,
           "An optical-disc image{optical-label} was written over the device; "
           "many hosts show it read-only.",
           "A volume descriptor stands at byte 32768; the image claims "
           "{optical-bytes}.",
           "The image of a disc was copied onto the device as a whole.", RENEW),
    DEVICE(START_ERASED, "start-erased", TROUBLE, is_start_erased, RENEW, 0,
           BECAUSE(BY(READ_ERRORS), BY(GPT_SECOND_ALONE)),
           "The device has no table that names what is on it: {found}.",
           "{sample}",
           "The table was erased or overwritten, or the device was used "
           "without one.",
           "Write nothing to it while anything on it is needed: a table that "
           "names the right block brings a volume back. If nobody needs it, "
           "renew the device."),
    DEVICE(
        EMPTY_TABLE, "empty-table", TROUBLE, is_empty_table, RENEW,
        SLATE_FOLLOW_SEARCH,
        BECAUSE(BY(GPT_REMAINS), BY(READ_ERRORS), BY(GPT_SECOND_ALONE),
                BY(START_ERASED)),
        "The table has no partition: hosts show nothing, or ask to format the "
        "device.",
        "The {table} of the device names no partition. {sample}",
        "All partitions were deleted, or the device was only prepared for use.",
        RENEW),
    DEVICE(
        BLANK, "blank", TROUBLE, is_blank, RENEW, 0,
        BECAUSE(BY(GPT_SECOND_ALONE)),
        "No table, no volume and nothing else was found on the device; hosts "
        "ask to format it.",
        "{sample}",
        "It is new, was overwritten, or what is on it lies between the places.",
        RENEW),
    DEVICE(UNKNOWN_CONTENT, "unknown-content", TROUBLE, is_unknown_content,
           RENEW, SLATE_FOLLOW_SEARCH,
           BECAUSE(BY(GPT_REMAINS), BY(GPT_SECOND_ALONE)),
           "The device holds content, but neither a partition table nor a "
           "volume that is known here.",
           "{sample}",
           "A device of a machine with a format of its own, or a start that "
           "was overwritten.",
           "Ask whose it is, and copy off what is needed; then renew the "
           "device: one volume over the full capacity."),
    DEVICE(NO_TABLE, "no-table", NOTE, is_no_table, RENEW, 0,
           BECAUSE(BY(BLOCK_SIZE_MISMATCH)),
           "The volume begins at block 0, without a table; some cameras and "
           "players want one.",
           "{volume} stands at block 0.", "It was formatted as a whole.",
           "Nothing has to be done as long as hosts show it."),
    DEVICE(CUT_SHORT, "cut-short", NOTE, is_cut_short, ELSEWHERE, 0,
           BECAUSE(BY(READ_ERRORS)),
           "Not everything was looked at: it would have taken more than a look "
           "may take.",
           "{cut-short}",
           "The device has many volumes, or answers only after several tries.",
           "What is told here holds for what was looked at. Try another port "
           "or cable if the device is slow to answer."),
    RULES_END};
