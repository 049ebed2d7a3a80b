/* SPDX-License-Identifier: MIT */
/* Composing the MBR with its chain of logical partitions, and what stands in
 * its place under a GPT. */

#include "base/base.h"
#include "table/table.h"

static uint32_t heads_of(const struct slate_table_plan *plan)
{
    return plan->heads == 0 ? SLATE_CHS_HEADS : plan->heads;
}

static uint32_t sectors_of(const struct slate_table_plan *plan)
{
    return plan->track_sectors == 0 ? SLATE_CHS_SECTORS : plan->track_sectors;
}

static void put_chs(const struct slate_table_plan *plan, uint8_t *field,
                    uint64_t lba)
{
    slate_chs_put(field, slate_chs_of(lba, heads_of(plan), sectors_of(plan)));
}

static void put_range(const struct slate_table_plan *plan, uint8_t *entry,
                      uint64_t first, uint64_t count)
{
    put_chs(plan, entry + SLATE_MBR_ENTRY_CHS_FIRST, first);
    put_chs(plan, entry + SLATE_MBR_ENTRY_CHS_LAST, first + count - 1);
    slate_put_le32(entry + SLATE_MBR_ENTRY_FIRST, (uint32_t)first);
    slate_put_le32(entry + SLATE_MBR_ENTRY_COUNT,
                   count > UINT32_MAX ? UINT32_MAX : (uint32_t)count);
}

void slate_mbr_put_entry(const struct slate_table_plan *plan,
                         const struct slate_partition *partition,
                         uint8_t *entry)
{
    entry[SLATE_MBR_ENTRY_BOOT] = partition->active ? SLATE_MBR_ACTIVE : 0;
    entry[SLATE_MBR_ENTRY_TYPE] = partition->mbr_type;
    put_range(plan, entry, partition->first, partition->count);
}

static void put_mbr(const struct slate_table_plan *plan, uint8_t *block)
{
    /* A machine started from this device asks its firmware for the next one:
     * INT 18h, then halt for ever. */
    static const uint8_t code[] = {0xCD, 0x18, 0xF4, 0xEB, 0xFD};

    if (plan->code == NULL)
        memcpy(block, code, sizeof code);
    else
        memcpy(block, plan->code, plan->code_bytes);
    slate_put_le32(block + SLATE_MBR_DISK_SIGNATURE, plan->disk_signature);
    for (uint32_t i = 0; i < plan->count; i++) {
        size_t slot = plan->partition[i].number - 1;

        if (slot < SLATE_MBR_PRIMARIES)
            slate_mbr_put_entry(plan, &plan->partition[i],
                                block + SLATE_MBR_ENTRIES +
                                    SLATE_MBR_ENTRY_BYTES * slot);
    }
    slate_put_le16(block + SLATE_MBR_SIGNATURE, SLATE_MBR_SIGNATURE_VALUE);
}

/* UEFI 2.10, table 5.4 */
void slate_mbr_put_protective(const struct slate_table_plan *plan,
                              uint8_t *block)
{
    uint8_t *entry = block + SLATE_MBR_ENTRIES;

    if (plan->code != NULL) /* firmware that starts from an MBR may run it */
        memcpy(block, plan->code, plan->code_bytes);
    entry[SLATE_MBR_ENTRY_TYPE] = SLATE_MBR_PROTECTIVE;
    put_range(plan, entry, 1, plan->block_count - 1);
    slate_put_le16(block + SLATE_MBR_SIGNATURE, SLATE_MBR_SIGNATURE_VALUE);
}

/* The chain: each logical partition has a link ahead of it, with its entry,
 * relative to the link, and one that leads to the next link, relative to the
 * container. */
static const struct slate_partition *
container_of(const struct slate_table_plan *plan)
{
    for (uint32_t i = 0; i < plan->count; i++) {
        if (plan->partition[i].role == SLATE_ROLE_EXTENDED)
            return &plan->partition[i];
    }
    return NULL;
}

static bool is_logical(const struct slate_table_plan *plan, uint32_t i)
{
    return i < plan->count && plan->partition[i].role == SLATE_ROLE_LOGICAL;
}

/* The first logical partition whose link is not ahead of a block; links ascend,
 * behind the container. */
static uint32_t link_from(const struct slate_table_plan *plan, uint64_t lba)
{
    const struct slate_partition *container = container_of(plan);
    uint32_t low, high = plan->count;

    if (container == NULL)
        return plan->count;
    low = (uint32_t)(container - plan->partition) + 1;
    SLATE_BISECT(low, high, i, plan->partition[i].link < lba);
    return low;
}

/* UEFI knows no chain; the layout is that of every system since it came up. */
void slate_mbr_put_logical(const struct slate_table_plan *plan,
                           const struct slate_partition *here, uint8_t *entry)
{
    entry[SLATE_MBR_ENTRY_TYPE] = here->mbr_type;
    put_range(plan, entry, here->first, here->count);
    slate_put_le32(entry + SLATE_MBR_ENTRY_FIRST,
                   (uint32_t)(here->first - here->link));
}

void slate_mbr_put_next(const struct slate_table_plan *plan,
                        const struct slate_partition *next, uint64_t container,
                        uint8_t *entry)
{
    entry[SLATE_MBR_ENTRY_TYPE] = SLATE_MBR_EXTENDED;
    put_range(plan, entry, next->link, next->first + next->count - next->link);
    slate_put_le32(entry + SLATE_MBR_ENTRY_FIRST,
                   (uint32_t)(next->link - container));
}

static void put_link(const struct slate_table_plan *plan, uint32_t i,
                     uint8_t *block)
{
    uint8_t *entry = block + SLATE_MBR_ENTRIES;

    slate_mbr_put_logical(plan, &plan->partition[i], entry);
    if (is_logical(plan, i + 1))
        slate_mbr_put_next(plan, &plan->partition[i + 1],
                           container_of(plan)->first,
                           entry + SLATE_MBR_ENTRY_BYTES);
    slate_put_le16(block + SLATE_MBR_SIGNATURE, SLATE_MBR_SIGNATURE_VALUE);
}

enum role {
    ROLE_LINK,
    ROLE_FIRST
};

static bool mbr_next(const void *plan, enum slate_moment moment, uint64_t *at,
                     struct slate_extent *extent)
{
    const struct slate_table_plan *table = plan;
    uint32_t i = link_from(table, *at);

    extent->count = 1;
    extent->zero = false;
    if (moment == SLATE_MOMENT_COMMIT && *at == 0) {
        extent->first = 0;
        extent->role = ROLE_FIRST;
        *at = 1;
        return true;
    }
    if (moment != SLATE_MOMENT_TABLE || i == table->count)
        return false;
    extent->first = table->partition[i].link;
    extent->role = ROLE_LINK;
    *at = extent->first + 1;
    return true;
}

static bool mbr_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    const struct slate_table_plan *table = plan;
    uint32_t i = link_from(table, lba);
    uint64_t link = i < table->count ? table->partition[i].link : UINT64_MAX;

    *until = lba == 0 || lba == link ? lba + 1 : link;
    return lba == 0 || lba == link;
}

static enum slate_status mbr_fill(const void *plan, uint64_t first,
                                  uint32_t count, void *data)
{
    const struct slate_table_plan *table = plan;
    uint8_t *to = data;

    memset(data, 0, (size_t)count * table->block_bytes);
    for (uint32_t i = 0; i < count; i++) {
        if (first + i == 0)
            put_mbr(table, to);
        else
            put_link(table, link_from(table, first + i), to);
        to += table->block_bytes;
    }
    return SLATE_OK;
}

static const char *const steps[] = {[ROLE_LINK] =
                                        "write the links to logical partitions",
                                    [ROLE_FIRST] = "write the true block 0"};

const struct slate_composer slate_mbr_composer = {"mbr", mbr_next, mbr_covers,
                                                  mbr_fill, steps};
