/* SPDX-License-Identifier: MIT */
/* What can be odd about what a device holds. */
#include "assess/judge/judge.h"
#include "volume/common/kind.h"

/* Of vintage disks, no partition was ever aligned. */
#define ALIGNED_BYTES_MIN 1000000000u

bool slate_is_unfinished(const struct slate_facts *facts)
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
bool slate_is_boot_image(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    const struct slate_volume *optical = slate_facts_optical(facts);

    if (optical->kind == SLATE_VOLUME_OPTICAL && optical->bootable)
        return true;
    return has_start_up(facts) && slate_facts_hidden_bytes(facts) > all / 2;
}

bool slate_is_optical_image(const struct slate_facts *facts)
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

bool slate_is_empty_table(const struct slate_facts *facts)
{
    return facts->layout.kind != SLATE_TABLE_NONE && facts->layout.found == 0;
}

bool slate_is_blank(const struct slate_facts *facts)
{
    return facts->blank && holds_nothing_known(facts) &&
           facts->layout.kind == SLATE_TABLE_NONE;
}

bool slate_is_unknown_content(const struct slate_facts *facts)
{
    return !facts->blank && holds_nothing_known(facts) &&
           facts->layout.kind == SLATE_TABLE_NONE &&
           facts->whole.kind != SLATE_VOLUME_RANDOM && facts->made_for == 0 &&
           !slate_is_start_erased(facts);
}

/* Nothing at the start names what begins, or lies, further in. */
bool slate_is_start_erased(const struct slate_facts *facts)
{
    const struct slate_sample *sample = &facts->sample;

    return holds_nothing_known(facts) && facts->made_for == 0 &&
           sample->held > 0 && (sample->volumes > 0 || !sample->start_held);
}

bool slate_is_no_table(const struct slate_facts *facts)
{
    return facts->layout.kind == SLATE_TABLE_NONE &&
           slate_volume_is_known(facts->whole.kind) &&
           !slate_is_boot_image(facts) && !slate_is_optical_image(facts) &&
           !slate_volume_needs_more(&facts->whole);
}

static const struct slate_volume *volume_of(const struct slate_facts *facts,
                                            uint32_t i)
{
    uint64_t room;

    return slate_facts_volume(facts, i, &room);
}

bool slate_is_member(const struct slate_facts *facts, uint32_t i)
{
    return slate_volume_needs_more(volume_of(facts, i)) ||
           (facts->layout.kind != SLATE_TABLE_NONE &&
            slate_type_is_dynamic(facts, i));
}

/* Where hosts look for a volume and find none: they ask to format it. */
bool slate_is_no_volume(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind kind = volume_of(facts, i)->kind;

    return facts->layout.kind != SLATE_TABLE_NONE &&
           (kind == SLATE_VOLUME_NONE || kind == SLATE_VOLUME_OTHER) &&
           facts->partition[i].role != SLATE_ROLE_EXTENDED &&
           facts->partition[i].first < facts->geometry.block_count &&
           !slate_type_needs_no_volume(facts, i) && !slate_is_member(facts, i);
}

/* Healthy, and yet other hosts than its own do not read it. */
bool slate_is_foreign(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind kind = volume_of(facts, i)->kind;

    if (slate_kind_of(kind)->mac_only)
        return true;
    return facts->layout.kind != SLATE_TABLE_NONE &&
           slate_volume_is_known(kind) && !slate_is_member(facts, i) &&
           slate_type_is_general(facts, i) && !slate_type_fits(facts, i);
}

bool slate_is_random(const struct slate_facts *facts, uint32_t i)
{
    return volume_of(facts, i)->kind == SLATE_VOLUME_RANDOM;
}

bool slate_is_half_overwritten(const struct slate_facts *facts, uint32_t i)
{
    return volume_of(facts, i)->kind == SLATE_VOLUME_UNFINISHED;
}

bool slate_type_disagrees(const struct slate_facts *facts, uint32_t i)
{
    return facts->layout.kind != SLATE_TABLE_NONE &&
           slate_volume_is_known(facts->volume[i].kind) &&
           !slate_type_fits(facts, i) && !slate_type_is_general(facts, i) &&
           !slate_is_member(facts, i);
}

static bool counts_in_own_blocks(const struct slate_facts *facts)
{
    return facts->made_for == 0;
}

bool slate_is_larger(const struct slate_facts *facts, uint32_t i)
{
    uint64_t room;
    const struct slate_volume *volume = slate_facts_volume(facts, i, &room);

    return counts_in_own_blocks(facts) && volume->bytes > room &&
           slate_volume_is_known(volume->kind) && !slate_is_member(facts, i);
}

/* A volume without a table that is smaller than the device is a small table to
 * hosts, and told as such. */
bool slate_is_smaller(const struct slate_facts *facts, uint32_t i)
{
    uint64_t room;
    const struct slate_volume *volume = slate_facts_volume(facts, i, &room);

    return counts_in_own_blocks(facts) && volume->bytes > 0 &&
           facts->layout.kind != SLATE_TABLE_NONE && volume->bytes < room &&
           !slate_kind_of(volume->kind)->never_fills &&
           !slate_is_member(facts, i) &&
           slate_facts_is_worth(room - volume->bytes, room);
}

bool slate_has_attributes(const struct slate_facts *facts, uint32_t i)
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
bool slate_is_misaligned(const struct slate_facts *facts, uint32_t i)
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

bool slate_copy_differs(const struct slate_facts *facts, uint32_t i)
{
    enum slate_copy copy = volume_of(facts, i)->copy;

    return copy == SLATE_COPY_DIFFERENT ||
           (copy == SLATE_COPY_OUTSIDE && !slate_is_larger(facts, i));
}

bool slate_is_cut_short(const struct slate_facts *facts)
{
    return facts->cut_short && facts->depth == SLATE_DEPTH_FULL;
}

bool slate_is_dirty(const struct slate_facts *facts, uint32_t i)
{
    return volume_of(facts, i)->dirty;
}
