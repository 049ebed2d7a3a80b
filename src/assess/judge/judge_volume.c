/* SPDX-License-Identifier: MIT */
/* What can be odd about a volume and its partition. */
#include "assess/judge/judge.h"
#include "volume/common/common.h"

/* Of vintage disks, no partition was ever aligned. */
#define ALIGNED_BYTES_MIN 1000000000u

static const struct slate_volume *volume_of(const struct slate_facts *facts,
                                            uint32_t i)
{
    uint64_t room;

    return slate_facts_volume(facts, i, &room);
}

static bool is_member(const struct slate_facts *facts, uint32_t i)
{
    return slate_volume_needs_more(volume_of(facts, i)) ||
           (facts->layout.kind != SLATE_TABLE_NONE &&
            slate_type_is_dynamic(facts, i));
}

/* Where hosts look for a volume and find none: they ask to format it. */
static bool is_no_volume(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind kind = volume_of(facts, i)->kind;

    return facts->layout.kind != SLATE_TABLE_NONE &&
           (kind == SLATE_VOLUME_NONE || kind == SLATE_VOLUME_OTHER) &&
           facts->partition[i].role != SLATE_ROLE_EXTENDED &&
           facts->partition[i].first < facts->geometry.block_count &&
           !slate_type_needs_no_volume(facts, i) && !is_member(facts, i);
}

/* Healthy, and yet other hosts than its own do not read it. */
static bool is_foreign(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind kind = volume_of(facts, i)->kind;

    if (slate_kind_of(kind)->mac_only)
        return true;
    return facts->layout.kind != SLATE_TABLE_NONE &&
           slate_volume_is_known(kind) && !is_member(facts, i) &&
           slate_type_is_general(facts, i) && !slate_type_fits(facts, i);
}

static bool is_random(const struct slate_facts *facts, uint32_t i)
{
    return volume_of(facts, i)->kind == SLATE_VOLUME_RANDOM;
}

static bool is_half_overwritten(const struct slate_facts *facts, uint32_t i)
{
    return volume_of(facts, i)->kind == SLATE_VOLUME_UNFINISHED;
}

bool slate_type_disagrees(const struct slate_facts *facts, uint32_t i)
{
    return facts->layout.kind != SLATE_TABLE_NONE &&
           slate_volume_is_known(facts->volume[i].kind) &&
           !slate_type_fits(facts, i) && !slate_type_is_general(facts, i) &&
           !is_member(facts, i);
}

static bool counts_in_own_blocks(const struct slate_facts *facts)
{
    return facts->made_for == 0;
}

static bool is_larger(const struct slate_facts *facts, uint32_t i)
{
    uint64_t room;
    const struct slate_volume *volume = slate_facts_volume(facts, i, &room);

    return counts_in_own_blocks(facts) && volume->bytes > room &&
           slate_volume_is_known(volume->kind) && !is_member(facts, i);
}

/* A volume without a table that is smaller than the device is a small table to
 * hosts, and told as such. */
bool slate_is_smaller(const struct slate_facts *facts, uint32_t i)
{
    uint64_t room;
    const struct slate_volume *volume = slate_facts_volume(facts, i, &room);

    return counts_in_own_blocks(facts) && volume->bytes > 0 &&
           facts->layout.kind != SLATE_TABLE_NONE && volume->bytes < room &&
           !slate_kind_of(volume->kind)->never_fills && !is_member(facts, i) &&
           slate_facts_is_worth(room - volume->bytes, room);
}

static bool has_attributes(const struct slate_facts *facts, uint32_t i)
{
    return facts->layout.kind != SLATE_TABLE_NONE &&
           slate_partition_hides(&facts->partition[i]);
}

static bool begins_unit(const struct slate_facts *facts, uint64_t block,
                        uint32_t per_unit)
{
    return (block + per_unit - facts->abilities.aligned_block % per_unit) %
               per_unit ==
           0;
}

/* Either will do: that the partition begins with a unit, or that the clusters
 * in it do, as cards come with odd partitions and even clusters. The unit is
 * the physical block where it is told; 4096 bytes, the page of every flash,
 * where it is not. */
static bool is_misaligned(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_geometry *geometry = &facts->geometry;
    uint32_t unit = geometry->physical_bytes > geometry->block_bytes
                        ? geometry->physical_bytes
                        : 4096;
    uint32_t per_unit = unit / geometry->block_bytes;
    uint64_t first;

    if (facts->layout.kind == SLATE_TABLE_NONE)
        return false;
    first = facts->partition[i].first;
    return per_unit > 1 &&
           slate_geometry_bytes(geometry) >= ALIGNED_BYTES_MIN &&
           slate_volume_is_known(facts->volume[i].kind) &&
           !begins_unit(facts, first, per_unit) &&
           !begins_unit(facts,
                        first + facts->volume[i].clusters_at /
                                    geometry->block_bytes,
                        per_unit);
}

static bool copy_differs(const struct slate_facts *facts, uint32_t i)
{
    enum slate_copy copy = volume_of(facts, i)->copy;

    return copy == SLATE_COPY_DIFFERENT ||
           (copy == SLATE_COPY_OUTSIDE && !is_larger(facts, i));
}

static bool is_dirty(const struct slate_facts *facts, uint32_t i)
{
    return volume_of(facts, i)->dirty;
}

const struct slate_rule slate_rules_volume[] = {
    VOLUME(MEMBER, "member", TROUBLE, is_member, RENEW, 0, NONE,
           "It holds {member}: {more}.", "Seen at {place}.",
           "The device is part of something larger, or locked with a key.",
           "Unlock or connect it on the system that it comes from. If nobody "
           "needs it any more, renew the device."),
    VOLUME(VOLUME_LARGER, "volume-larger", TROUBLE, is_larger, RENEW, 0,
           BECAUSE(IMAGE, MISCOUNT, BY(BEYOND_END), BY(MEMBER)),
           "The volume is larger than its room: files at its end are lost, and "
           "hosts may refuse it.",
           "{volume} at {place} claims {volume-bytes}, {slack} more than there "
           "is room for.",
           "The partition was made smaller without its volume, or copied onto "
           "a smaller device.",
           SAVE_FIRST),
    VOLUME(RANDOM_CONTENT, "random-content", TROUBLE, is_random, RENEW, 0, NONE,
           "It holds evenly random bytes: an encrypted volume without a "
           "header, or what an overwriting pass has left.",
           "Two samples of 4096 bytes at {place} show no pattern at all.",
           "Some ways of encrypting leave no trace of themselves.",
           "Ask its owner before anything else. If nobody has a key for it, "
           "renew the device."),
    VOLUME(HALF_OVERWRITTEN, "half-overwritten", TROUBLE, is_half_overwritten,
           RENEW, 0, NONE,
           "Overwriting of it was cut short: part of what was on it may still "
           "be there.",
           "{place} begins with the mark of a draft that is not finished.",
           "It was unplugged, or stopped, while what is in it was being "
           "overwritten.",
           "Enact the same draft again to finish, or overwrite it anew."),
    VOLUME(NO_VOLUME, "no-volume", TROUBLE, is_no_volume, RENEW, 0,
           BECAUSE(IMAGE, MISCOUNT, BY(READ_ERRORS), BY(BEYOND_END),
                   BY(GPT_COPIES_DISAGREE), BY(MBR_REMAINS), BY(MEMBER),
                   BY(CHAIN_BROKEN)),
           "A partition holds no volume that hosts can read: they ask to "
           "format it.",
           "{nothing-there}", "{nothing-cause}", "{nothing-help}"),
    VOLUME(TYPE_DISAGREES, "type-disagrees", TROUBLE, slate_type_disagrees,
           RENEW, 0, BECAUSE(IMAGE),
           "The table announces something else than what is there: hosts that "
           "go by the type do not show it.",
           "{place} has {type}, but holds {volume}.",
           "It was formatted without changing the type in the table.",
           SAVE_FIRST),
    VOLUME(
        VOLUME_SMALLER, "volume-smaller", TROUBLE, slate_is_smaller, RENEW, 0,
        BECAUSE(IMAGE, MISCOUNT, BY(MEMBER)),
        "The volume is smaller than its partition: {slack} of it are out of "
        "reach.",
        "{volume} at {place} claims {volume-bytes}; there is room for {room}.",
        "The partition was made larger without its volume, or an image was "
        "written into it.",
        "NTFS, ext4, XFS and Btrfs are extended by the systems that they "
        "belong to, with all that is in them. Else copy off what is needed, "
        "then renew "
        "the device: one volume over the full capacity."),
    VOLUME(ATTRIBUTES, "attributes", TROUBLE, has_attributes, RENEW, 0,
           BECAUSE(IMAGE), "A partition is marked {attributes}.",
           "{place} has {type}{attribute-bits}.",
           "Set by a tool on purpose, or left over from another use.",
           "The mark alone can be cleared in place, and all else stays. "
           "Otherwise copy off what matters, then renew the device."),
    VOLUME(FOREIGN, "foreign-volume", NOTE, is_foreign, NOTHING, 0,
           BECAUSE(IMAGE, BY(OTHER_TABLE), BY(TYPE_DISAGREES)),
           "It holds {volume}, which is made for one family of systems: others "
           "show it as unknown, and may ask to format it.",
           "Seen at {place}.", "It comes from a computer of that family.",
           "Nothing has to be done as long as it is used there. Let no other "
           "host format it."),
    VOLUME(MISALIGNED, "misaligned", NOTE, is_misaligned, RENEW, 0,
           BECAUSE(IMAGE, BY(BLOCK_SIZE_MISMATCH)),
           "A partition does not begin with a physical block: writing is "
           "slower, and wears flash out.",
           "The clusters of {place} begin between physical blocks of "
           "{unit-bytes} bytes.",
           "The partition was made in cylinders, as old tools do, or moved.",
           "Nothing has to be done; renewing aligns it."),
    VOLUME(
        COPY_DIFFERS, "copy-differs", NOTE, copy_differs, RENEW, 0,
        BECAUSE(IMAGE, MISCOUNT, BY(BEYOND_END), BY(READ_ERRORS), BY(MEMBER)),
        "The copy of what a volume begins with differs from it: a repair with "
        "it would go wrong.",
        "{volume} at {place}: {copy}.",
        "An older format has left it, or one of the two is damaged.",
        "Let the host that wrote it check the volume; or copy off what is "
        "needed and renew the device."),
    VOLUME(DIRTY, "dirty", NOTE, is_dirty, ELSEWHERE, 0,
           BECAUSE(IMAGE, MISCOUNT, BY(READ_ERRORS), BY(BEYOND_END)), "{dirty}",
           "{volume} at {place} {state}.", "{dirty-cause}", "{dirty-remedy}"),
    RULES_END};
