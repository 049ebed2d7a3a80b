/* SPDX-License-Identifier: MIT */
/* What stood in the blocks of a table that a change in place replaces. */
#include "base/base.h"
#include "ledger/ledger.h"

#define ENTRY 128u /* bytes of an entry of a GPT, as a rule (UEFI, 5.3.3) */
#define GPT_SIGN "EFI PART"
#define ACTIVE 0x80u

static bool is_entry(const uint8_t *slot, uint64_t blocks)
{
    uint64_t first = slate_le64(slot + 32), last = slate_le64(slot + 40);

    return slate_is_zero(slot, ENTRY) ||
           (!slate_is_zero(slot, 16) && first > 0 && first <= last &&
            last <= blocks);
}

/* A header, entries, or what is left of them. */
static bool is_of_gpt(const struct slate_facts *facts, uint64_t lba,
                      const uint8_t *block)
{
    const struct slate_layout *layout = &facts->layout;
    uint32_t bytes = facts->geometry.block_bytes;

    if (memcmp(block, GPT_SIGN, 8) == 0)
        return true;
    if (lba == layout->primary.lba || lba == layout->backup.lba)
        return slate_is_zero(block, bytes);
    for (uint32_t at = 0; at < bytes; at += ENTRY) {
        if (!is_entry(block + at, facts->geometry.block_count))
            return false;
    }
    return true;
}

static bool is_in_partition(const struct slate_facts *facts, uint64_t lba)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (lba >= one->first && lba - one->first < one->count)
            return true;
    }
    return false;
}

/* The entry that firmware starts from (docs/tables.md). */
static bool has_active(const uint8_t *block)
{
    for (uint32_t i = 0; i < 4; i++) {
        if (block[446 + 16 * i] == ACTIVE && block[446 + 16 * i + 4] != 0)
            return true;
    }
    return false;
}

static void add_blocks(struct slate_ledger *ledger, enum slate_loss_kind kind,
                       uint64_t first, uint64_t count)
{
    const struct slate_loss loss = {.kind = kind, .range = {first, count}};

    slate_ledger_add(ledger, &loss);
}

static void add_partitions(struct slate_ledger *ledger,
                           const struct slate_facts *facts,
                           enum slate_loss_kind kind, uint32_t count)
{
    const struct slate_loss loss = {.kind = kind,
                                    .range = {0, facts->geometry.block_count},
                                    .count = count};

    if (count > 0)
        slate_ledger_add(ledger, &loss);
}

/* An MBR has neither names nor attributes. */
static void look_at_entries(struct slate_ledger *ledger,
                            const struct slate_change *change,
                            const struct slate_facts *facts)
{
    uint32_t names = 0, flags = 0;

    if (change->mends == 0 || change->mend[0].kind != SLATE_MEND_TO_MBR)
        return;
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        names += facts->partition[i].name[0] != '\0';
        flags += facts->partition[i].attributes != 0;
    }
    add_partitions(ledger, facts, SLATE_LOSS_NAMES, names);
    add_partitions(ledger, facts, SLATE_LOSS_FLAGS, flags);
}

void slate_ledger_patches(struct slate_ledger *ledger,
                          const struct slate_draft *draft,
                          const struct slate_facts *facts)
{
    const struct slate_change *change = &draft->change;
    uint32_t bytes = facts->geometry.block_bytes;
    uint64_t behind = 0, first = 0;

    look_at_entries(ledger, change, facts);
    for (uint32_t i = 0; i < change->patches; i++) {
        const uint8_t *former = change->bytes.byte + (size_t)i * 2 * bytes;
        const uint8_t *later = former + bytes;
        uint64_t lba = change->patch[i].lba;

        if (lba == 0 && change->patch[i].role == SLATE_PATCH_TABLE &&
            facts->layout.mbr_signed && has_active(former) &&
            !has_active(later))
            add_blocks(ledger, SLATE_LOSS_ACTIVE, 0, 1);
        if (lba == 0 || change->patch[i].role > SLATE_PATCH_TABLE_COPY ||
            is_in_partition(facts, lba) || memcmp(former, later, bytes) == 0 ||
            is_of_gpt(facts, lba, former))
            continue;
        if (facts->layout.boot_code && lba < facts->geometry.block_count / 2) {
            first = behind++ == 0 ? lba : first;
        } else if (ledger->unknown++ == 0) {
            ledger->first_unknown = lba;
        }
    }
    if (behind > 0)
        add_blocks(ledger, SLATE_LOSS_CODE, first, behind);
}
