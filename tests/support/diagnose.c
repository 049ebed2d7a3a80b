/* SPDX-License-Identifier: MIT */
/* Devices put together for one question, and what must be found on them. */
#include "diagnose.h"

#include "program.h"

struct session s;
struct slate_volume volume[1024];
static struct slate_partition partition[1024];
static unsigned cases;

uint8_t mbr_type(enum kind kind)
{
    static const uint8_t types[KINDS] = {0x0E, 0x0C, 0x07, 0x07, 0x83, 0xAF};

    return types[kind];
}

void put(struct ram *ram, enum kind kind, uint64_t first, uint64_t count)
{
    switch (kind) {
    case FAT16:
        craft_fat(ram, first, 131072, 16);
        break;
    case FAT32:
        craft_fat32(ram, first, count, "TIDE");
        break;
    case EXFAT:
        craft_exfat(ram, first, count, "Tide");
        break;
    case NTFS:
        craft_ntfs(ram, first, count, "Tide");
        break;
    case EXT4:
        craft_ext4(ram, first, count, "tide");
        break;
    case APFS:
    case KINDS:
    default:
        craft_apfs(ram, first, count, "Tide");
    }
}

void look(struct ram *ram)
{
    const struct slate_facts_room room = {partition, volume, 1024, s.found_seen,
                                          SLATE_EVIDENCE_RANGES};

    assert_ok(slate_media_open(&s.media, &ram->port));
    slate_facts_place(&s.facts, &room);
    assert_ok(slate_assess_look(&s.media, SLATE_DEPTH_FULL, s.work,
                                sizeof s.work, &s.facts));
    assert_true(s.media.traffic.commands <= 256);
    assert_true(s.media.traffic.blocks_read * ram->facts.block_bytes <=
                4194304);
    assert_int_equal(ram->writes, 0);
}

/* What must hold of every figure. */
static void check_figures(const struct ram *ram)
{
    uint64_t all = ram->facts.block_count * ram->facts.block_bytes;

    assert_true(slate_facts_shown_bytes(&s.facts) <= all);
    assert_true(slate_facts_unreached_bytes(&s.facts) <= all);
    assert_true(slate_facts_hidden_bytes(&s.facts) <= all);
}

/* Everything that is offered is what a draft takes. */
static void check_remedy(const struct slate_finding *finding)
{
    struct slate_remedy remedy;

    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    slate_advise_remedy(&s.draft, &s.facts, finding, &remedy);
    if (remedy.kind == SLATE_REMEDY_MEND)
        assert_ok(session_mend(&s, &remedy.mend));
    if (remedy.kind != SLATE_REMEDY_RENEW)
        return;
    assert_int_equal(session_remedy(&s, &remedy) == SLATE_OK,
                     remedy.feasible == SLATE_OK);
}

void expect_findings(struct ram *ram, const char *name, const char *expected)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    char found[512] = "";
    uint32_t count;

    look(ram);
    check_figures(ram);
    count = slate_assess_judge(&s.facts, findings);
    for (uint32_t i = 0; i < count; i++) {
        strcat(found, i == 0 ? "" : " ");
        strcat(found, findings[i].consequence ? "+" : "");
        strcat(found, slate_finding_name(findings[i].id));
        check_remedy(&findings[i]);
    }
    if (strcmp(found, expected) != 0)
        print_message("  %s\n", name);
    assert_string_equal(found, expected);
    cases++;
}

bool loses_content(enum slate_finding_id id)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    uint32_t count = slate_assess_judge(&s.facts, findings), i = 0;
    struct slate_remedy remedy;

    while (i < count && findings[i].id != id)
        i++;
    assert_true(i < count);
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    slate_advise_remedy(&s.draft, &s.facts, &findings[i], &remedy);
    return remedy.loses_content;
}

void open_with_table(struct ram *ram, bool gpt, enum kind kind, uint64_t first,
                     uint64_t count)
{
    struct craft_gpt table = {
        .partition = {
            {first, count, 0, kind == EXT4 ? &craft_linux : NULL, 0}}};

    ram_open(ram, 512, ALL, true);
    if (gpt)
        craft_gpt(ram, &table);
    else
        ram_put_entry(ram, 0, mbr_type(kind), false, (uint32_t)first,
                      (uint32_t)count);
}

/* A GPT of any number of partitions, 4 MiB each, one behind the other. */
void put_many(struct ram *ram, uint32_t count, uint32_t slots)
{
    uint64_t last = ram->facts.block_count - 1;
    uint32_t array_blocks = slots / 4;
    static uint8_t array[131072];
    uint8_t head[512];

    memset(array, 0, sizeof array);
    for (uint32_t i = 0; i < count; i++) {
        uint8_t *entry = array + (size_t)i * 128;

        memcpy(entry, slate_basic_data.bytes, 16);
        memset(entry + 16, 7, 16);
        entry[16] = (uint8_t)i;
        entry[17] = (uint8_t)(i >> 8);
        for (int b = 0; b < 8; b++) {
            entry[32 + b] = (uint8_t)((MIB + i * 8192ull) >> 8 * b);
            entry[40 + b] = (uint8_t)((MIB + i * 8192ull + 8191) >> 8 * b);
        }
    }
    for (int copy = 0; copy < 2; copy++) {
        uint64_t lba = copy == 0 ? 1 : last, at = copy == 0 ? 2 : last - 256;

        ram_put(ram, at * 512, array, (size_t)slots * 128);
        craft_erase(ram, lba * 512, 512);
        craft_text(ram, lba * 512, "EFI PART");
        craft_le(ram, lba * 512 + 8, 0x00010000, 4);
        craft_le(ram, lba * 512 + 12, 92, 4);
        craft_le(ram, lba * 512 + 24, lba, 8);
        craft_le(ram, lba * 512 + 32, copy == 0 ? last : 1, 8);
        craft_le(ram, lba * 512 + 40, 2 + array_blocks, 8);
        craft_le(ram, lba * 512 + 48, last - 257, 8);
        craft_le(ram, lba * 512 + 72, at, 8);
        craft_le(ram, lba * 512 + 80, slots, 4);
        craft_le(ram, lba * 512 + 84, 128, 4);
        craft_le(ram, lba * 512 + 88,
                 slate_crc32(0, array, (size_t)slots * 128), 4);
        ram_get(ram, lba * 512, head, 92);
        craft_le(ram, lba * 512 + 16, slate_crc32(0, head, 92), 4);
    }
    ram_put_entry(ram, 0, 0xEE, false, 1, (uint32_t)last);
}

int told(void **state)
{
    (void)state;
    print_message("  %u devices\n", cases);
    program_clean();
    return 0;
}
