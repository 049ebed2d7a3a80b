/* SPDX-License-Identifier: MIT */
/* Do facts from before and after tell of one medium? Its host may have written
 * to it meanwhile: as it let go of a volume, say. */

#include "assess/look/look.h"
#include "base/base.h"
#include "media/wire/wire.h"

static bool same_guid(const struct slate_guid *a, const struct slate_guid *b)
{
    return memcmp(a->bytes, b->bytes, sizeof a->bytes) == 0;
}

static bool is_set(const struct slate_guid *guid)
{
    static const struct slate_guid none;

    return !same_guid(guid, &none);
}

/* What no host changes when it lets go of a volume. */
static bool same_volume(const struct slate_volume *a,
                        const struct slate_volume *b)
{
    return a->kind == b->kind && a->serial == b->serial &&
           same_guid(&a->uuid, &b->uuid) && a->bytes == b->bytes &&
           a->cluster_bytes == b->cluster_bytes &&
           slate_same_text(a->label, b->label);
}

static bool same_partition(const struct slate_partition *a,
                           const struct slate_partition *b)
{
    return a->number == b->number && a->first == b->first &&
           a->count == b->count && a->mbr_type == b->mbr_type &&
           same_guid(&a->type, &b->type) && same_guid(&a->id, &b->id);
}

static bool has_name(const struct slate_volume *volume)
{
    return volume->serial != 0 || is_set(&volume->uuid);
}

/* Is there anything that another medium would hardly share? */
static bool can_tell(const struct slate_facts *facts)
{
    if (facts->layout.disk_signature != 0 || is_set(&facts->layout.disk_id) ||
        has_name(&facts->whole))
        return true;
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (has_name(&facts->volume[i]))
            return true;
    }
    return false;
}

bool slate_facts_unchanged(const struct slate_facts *before,
                           const struct slate_facts *after)
{
    return memcmp(before->identity_digest, after->identity_digest,
                  SLATE_DIGEST_BYTES) == 0 &&
           slate_evidence_equal(&before->evidence, &after->evidence);
}

bool slate_facts_same_medium(const struct slate_facts *before,
                             const struct slate_facts *after)
{
    const struct slate_layout *a = &before->layout, *b = &after->layout;

    if (memcmp(before->identity_digest, after->identity_digest,
               SLATE_DIGEST_BYTES) != 0)
        return false;
    if (slate_facts_unchanged(before, after))
        return true;
    if (!can_tell(before) || before->marked != after->marked ||
        a->kind != b->kind || a->found != b->found || a->count != b->count ||
        a->disk_signature != b->disk_signature ||
        !same_guid(&a->disk_id, &b->disk_id) ||
        !same_volume(&before->whole, &after->whole))
        return false;
    for (uint32_t i = 0; i < a->count; i++) {
        if (!same_partition(&before->partition[i], &after->partition[i]) ||
            !same_volume(&before->volume[i], &after->volume[i]))
            return false;
    }
    return true;
}
