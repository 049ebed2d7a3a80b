/* SPDX-License-Identifier: MIT */
/* The entries of a new table, and what is derived from the seed. */
#include "draft/place/place.h"
#include "base/base.h"
#include "table/table.h"
#include "volume/common/common.h"

/* 16 bytes out of the seed, for one purpose and part. */
void slate_draft_derive(const struct slate_draft *draft, const char *purpose,
                        uint32_t part, uint8_t out[16])
{
    struct slate_sha256 sha;
    uint8_t digest[SLATE_DIGEST_BYTES], number[4];

    slate_put_le32(number, part);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, draft->choices.seed, sizeof draft->choices.seed);
    slate_sha256_add(&sha, purpose, strlen(purpose));
    if (part > 0) /* the first one has the purpose to itself */
        slate_sha256_add(&sha, number, sizeof number);
    slate_sha256_end(&sha, digest);
    memcpy(out, digest, 16);
}

static void derive_guid(const struct slate_draft *draft, const char *purpose,
                        uint32_t part, struct slate_guid *guid)
{
    uint8_t bytes[16];

    slate_draft_derive(draft, purpose, part, bytes);
    slate_guid_random(bytes, guid);
}

static bool is_given(const struct slate_guid *guid)
{
    return !slate_is_zero(guid->bytes, sizeof guid->bytes);
}

/* What is asked of one entry has to be something that its table has. */
static enum slate_status check_ask(struct slate_draft *draft, uint32_t i)
{
    const struct slate_ask *ask = &draft->part[i].ask;
    bool gpt = is_given(&ask->gpt_type) || ask->attributes != 0 ||
               ask->name[0] != '\0';

    if (ask->keep != 0)
        return SLATE_OK;
    if (ask->bare && (ask->label[0] != '\0' || ask->cluster_bytes != 0 ||
                      ask->volume != SLATE_VOLUME_NONE))
        return slate_draft_refuse(
            draft, i,
            "without a volume it has neither label nor format nor clusters");
    if (gpt && draft->table.kind != SLATE_TABLE_GPT)
        return slate_draft_refuse(
            draft, i,
            "names, attributes and GUIDs of types are those of a GPT");
    if (ask->mbr_type != 0 && draft->table.kind != SLATE_TABLE_MBR)
        return slate_draft_refuse(draft, i,
                                  "a type of two digits is one of an MBR");
    if (slate_mbr_is_container(ask->mbr_type) ||
        ask->mbr_type == SLATE_MBR_PROTECTIVE)
        return slate_draft_refuse(
            draft, i, "this type stands for a container, or for a whole GPT");
    return SLATE_OK;
}

enum slate_status slate_draft_check_asked(struct slate_draft *draft)
{
    const struct slate_basis *basis = &draft->basis;
    bool mbr = draft->table.kind == SLATE_TABLE_MBR;
    bool has_id = mbr ? basis->disk_signature != 0 : is_given(&basis->disk_id);
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++)
        status = check_ask(draft, i);
    if (status != SLATE_OK || draft->switched)
        return status; /* where partitions stay, so do code and identifier */
    if (draft->table.kind == SLATE_TABLE_NONE &&
        (draft->goal.keep_id || draft->goal.keep_code))
        return slate_draft_refuse(
            draft, 0, "without a table neither code nor identifier can stay");
    if (draft->goal.keep_id && !has_id)
        return slate_draft_refuse(draft, 0,
                                  mbr ? "there is no disk signature to stay"
                                      : "there is no GUID of a disk to stay");
    if (draft->goal.keep_code && basis->image_of == SLATE_TABLE_NONE)
        return slate_draft_refuse(draft, 0,
                                  "there is no table whose code could stay");
    return SLATE_OK;
}

bool slate_draft_starts(const struct slate_draft *draft, uint32_t part)
{
    if (part > 0 || !draft->advice->active || draft->switched ||
        draft->table.kind != SLATE_TABLE_MBR)
        return false;
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.active)
            return false;
    }
    return true;
}

void slate_draft_fill_partition(const struct slate_draft *draft, uint32_t i,
                                struct slate_partition *partition)
{
    const struct slate_part *part = &draft->part[i];
    struct slate_figures figures = {.label = ""};

    memset(partition, 0, sizeof *partition);
    partition->number = i + 1;
    partition->first = part->range.first;
    partition->count = part->range.count;
    if (draft->table.kind == SLATE_TABLE_MBR) {
        partition->active = part->ask.active || slate_draft_starts(draft, i);
        partition->mbr_type = part->ask.mbr_type != 0
                                  ? part->ask.mbr_type
                                  : slate_draft_mbr_type(draft, part);
        return;
    }
    partition->type = is_given(&part->ask.gpt_type)
                          ? part->ask.gpt_type
                          : *slate_draft_gpt_type(draft, i);
    partition->attributes = part->ask.attributes;
    derive_guid(draft, "partition id", i, &partition->id);
    if (part->format != NULL)
        part->format->figures(&part->volume, &figures);
    memcpy(partition->name, figures.label, sizeof figures.label);
    if (part->ask.name[0] != '\0')
        memcpy(partition->name, part->ask.name, sizeof part->ask.name);
}

/* The container of the logical partitions, which begins with the first one's
 * link and ends with the last one. */
void slate_draft_fill_container(const struct slate_draft *draft,
                                const struct slate_range *range,
                                uint32_t number,
                                struct slate_partition *container)
{
    memset(container, 0, sizeof *container);
    container->number = number;
    container->role = SLATE_ROLE_EXTENDED;
    container->first = range->first;
    container->count = range->count;
    container->mbr_type =
        slate_draft_is_by_cylinder(draft, range->first + range->count)
            ? SLATE_MBR_EXTENDED
            : SLATE_MBR_EXTENDED_LBA;
}

static void contain(struct slate_draft *draft, uint32_t first)
{
    struct slate_partition *partition = draft->partition;
    const struct slate_partition *last = &partition[draft->parts];
    struct slate_range range = {.first = partition[first + 1].link};

    range.count = last->first + last->count - range.first;
    slate_draft_fill_container(draft, &range, first + 1, &partition[first]);
}

static void keep_what_is_asked(struct slate_draft *draft)
{
    const struct slate_basis *basis = &draft->basis;
    struct slate_table_plan *table = &draft->table;

    if (draft->goal.keep_id) {
        table->disk_signature = basis->disk_signature;
        table->disk_id = basis->disk_id;
    }
    if (!draft->goal.keep_code)
        return;
    table->code = basis->image.byte;
    table->code_bytes = basis->image.count < SLATE_MBR_DISK_SIGNATURE
                            ? basis->image.count
                            : SLATE_MBR_DISK_SIGNATURE;
}

void slate_draft_fill_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    uint32_t logical = slate_draft_logical(draft);
    uint8_t signature[16];

    slate_draft_derive(draft, "disk signature", 0, signature);
    table->disk_signature = slate_le32(signature);
    derive_guid(draft, "disk id", 0, &table->disk_id);
    keep_what_is_asked(draft);
    if (table->kind == SLATE_TABLE_NONE)
        return;
    table->count = draft->parts + (logical > 0 ? 1 : 0);
    for (uint32_t i = 0; i < draft->parts; i++) {
        bool is_logical = slate_draft_is_logical(draft, i);
        struct slate_partition *partition =
            &draft->partition[i + (is_logical ? 1 : 0)];

        slate_draft_fill_partition(draft, i, partition);
        if (!is_logical)
            continue;
        partition->number = SLATE_FIRST_LOGICAL + i - (draft->parts - logical);
        partition->role = SLATE_ROLE_LOGICAL;
        partition->link = partition->first - draft->grid.link;
    }
    if (logical > 0)
        contain(draft, draft->parts - logical);
}

/* How a partition's type tells of its volume: MBR types as hosts use them. */

/* Does a block lie where cylinder, head and sector reach? */
static bool is_in_reach(const struct slate_draft *draft, uint64_t end)
{
    bool cylinders = draft->grid.heads != 0;
    uint32_t heads = cylinders ? draft->grid.heads : SLATE_CHS_HEADS;
    uint32_t sectors =
        cylinders ? draft->grid.track_sectors : SLATE_CHS_SECTORS;

    return end <= (uint64_t)SLATE_CHS_CYLINDERS * heads * sectors;
}

bool slate_draft_is_by_cylinder(const struct slate_draft *draft, uint64_t end)
{
    return draft->grid.heads != 0 && is_in_reach(draft, end);
}

uint8_t slate_draft_mbr_type(const struct slate_draft *draft,
                             const struct slate_part *part)
{
    uint64_t end = part->range.first + part->range.count;
    const struct slate_reach reach = {is_in_reach(draft, end),
                                      slate_draft_is_by_cylinder(draft, end),
                                      part->range.count};
    const struct slate_kind *kind;

    if (part->format == NULL)
        return SLATE_MBR_LINUX;
    kind = slate_kind_of(part->format->kind);
    return kind->mbr_type == NULL ? kind->mbr[0] : kind->mbr_type(&reach);
}

/* Firmware starts from FAT. */
const struct slate_guid *slate_draft_gpt_type(const struct slate_draft *draft,
                                              uint32_t part)
{
    const struct slate_format *format = draft->part[part].format;

    if (format != NULL && part == 0 && !draft->switched &&
        draft->goal.use == SLATE_USE_STARTUP &&
        slate_kind_is_akin(format->kind, SLATE_VOLUME_FAT32))
        return &slate_efi_data;
    return slate_gpt_type_for(format == NULL ? SLATE_VOLUME_NONE
                                             : format->kind);
}
