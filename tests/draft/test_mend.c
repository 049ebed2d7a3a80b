/* SPDX-License-Identifier: MIT */
/* Mending in place: each damage ends as the device that never had it; nothing
 * else changes; and at every cut the partitions are still there. */
#include "turns.h"
#include "changes.h"
#include "check.h"
#include "craft.h"
#include "damage.h"

static struct session s;

/* Is it among what is found to be wrong? */
static bool is_listed(const struct slate_mend *mend)
{
    struct slate_mend one;

    for (uint32_t i = 0; slate_mend_next(&s.facts, i, &one); i++) {
        if (one.kind == mend->kind && one.partition == mend->partition)
            return true;
    }
    return false;
}

static enum slate_status draft_mend(const struct ram *ram,
                                    struct slate_mend mend)
{
    assert_ok(session_look(&s, ram));
    return session_mend(&s, &mend);
}

static void mend(struct ram *ram, struct slate_mend mend)
{
    assert_ok(draft_mend(ram, mend));
    assert_ok(session_enact(&s, 262144));
    assert_ok(session_prove(&s, 262144));
}

static struct slate_mend of_table(enum slate_mend_kind kind)
{
    return (struct slate_mend){kind, SLATE_ATTRIBUTE_WHOLE};
}

/* Start-up code cannot come back. */
static void forgive_code(struct ram *sound, const struct damage *damage)
{
    if (damage->code_lost)
        craft_erase(sound, 0, 446);
}

static void build(const struct damage *damage, struct ram *sound,
                  struct ram *hurt)
{
    ram_open(sound, damage->block_bytes, damage->blocks, true);
    damage->build(sound);
    ram_copy(hurt, sound);
    damage->hurt(hurt);
    assert_false(ram_equal(sound, hurt));
    forgive_code(sound, damage);
}

static void each_damage_is_mended(void **state)
{
    const struct damage *damage;

    (void)state;
    for (size_t i = 0; (damage = damage_at(i)) != NULL; i++) {
        const struct slate_mend wanted = damage_mend(damage);
        struct ram sound, hurt;

        print_message("  %s\n", damage->name);
        build(damage, &sound, &hurt);
        assert_ok(session_look(&s, &hurt));
        assert_int_equal(is_listed(&wanted), !damage->wish);
        assert_true(slate_mend_holds(&s.facts, &wanted));
        mend(&hurt, wanted);
        assert_int_equal(s.draft.change.mends, 1);
        assert_int_equal(s.draft.change.mend[0].number, damage->whole ? 0 : 1);
        assert_true(ram_equal(&sound, &hurt));
        assert_ok(session_look(&s, &hurt));
        assert_false(is_listed(&wanted));
        assert_false(slate_mend_holds(&s.facts, &wanted));
        ram_close(&sound);
        ram_close(&hurt);
    }
}

/* What is sound has nothing to be mended. */
static void what_is_sound_is_left_alone(void **state)
{
    const struct damage *damage;

    (void)state;
    for (size_t i = 0; (damage = damage_at(i)) != NULL; i++) {
        const struct slate_mend wanted = damage_mend(damage);
        struct ram sound, hurt;

        build(damage, &sound, &hurt);
        ram_close(&hurt);
        if (damage->code_lost)
            damage->build(&sound);
        assert_ok(session_look(&s, &sound));
        assert_false(is_listed(&wanted));
        assert_status(session_mend(&s, &wanted), SLATE_ERR_ARGUMENT);
        ram_close(&sound);
    }
}

static const struct shim_way ways[] = {{0, false, false, SHIM_KEPT},
                                       {64, false, false, SHIM_LOST},
                                       {256, true, false, SHIM_SOME},
                                       {512, false, false, SHIM_SOME},
                                       {100, false, true, SHIM_KEPT}};
#define WAYS (sizeof ways / sizeof ways[0])

/* Where partitions were listed before, the same ones are at every cut; where
 * none were, none, or all of them. */
static void check_partitions(const struct ram *ram, uint32_t before,
                             uint32_t after)
{
    assert_ok(session_look(&s, ram));
    if (s.facts.layout.found != before)
        assert_int_equal(s.facts.layout.found, after);
}

/* The session's draft, cut at each of its writes, or each of the last ones and
 * some ahead of them where new volumes are written as well, and gone on with.
 */
static uint64_t cut_everywhere(const struct ram *hurt, uint32_t found_after)
{
    uint32_t found_before = s.facts.layout.found;
    uint64_t states = 0;
    struct ram after;

    ram_copy(&after, hurt);
    assert_ok(slate_media_open(&s.media, &after.port));
    after.writes = 0;
    assert_ok(session_enact(&s, 4096 * 2));
    for (uint64_t n = 1; n <= after.writes;
         n += after.writes > 40 && n + 20 < after.writes ? 11 : 1) {
        for (size_t way = 0; way < WAYS; way++, states++) {
            const struct cut cut = {
                hurt,    &after, n, ways[way], (uint32_t)(n * WAYS + way),
                4096 * 2};
            struct ram ram, seen;
            struct shim shim;

            session_cut(&s, &cut, &ram, &shim);
            ram_copy(&seen, &ram);
            if (shim.unreadable == UINT64_MAX)
                check_partitions(&seen, found_before, found_after);
            ram_close(&seen);
            session_go_on(&s, &cut, &ram, &shim);
        }
    }
    ram_close(&after);
    return states;
}

static void the_power_may_go_in_every_write(void **state)
{
    const struct damage *damage;
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; (damage = damage_at(i)) != NULL; i++) {
        struct ram sound, hurt;
        uint32_t found_after;

        if (!turn_of(i, 4))
            continue;
        build(damage, &sound, &hurt);
        assert_ok(session_look(&s, &sound));
        found_after = s.facts.layout.found;
        assert_ok(draft_mend(&hurt, damage_mend(damage)));
        states += cut_everywhere(&hurt, found_after);
        ram_close(&sound);
        ram_close(&hurt);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > (turns_are_all() ? 500 : 60));
}

/* The table that was there, or the new one, or none: nothing else is met with,
 * at any cut of any wish. */
static void wishes_are_cut_as_well(void **state)
{
    const struct change *change;
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; (change = change_at(i)) != NULL; i++) {
        struct ram ram;

        if (!turn_of(i, 6))
            continue;
        print_message("  %s\n", change->name);
        change->build(&ram);
        assert_ok(session_look(&s, &ram));
        assert_ok(change_draft(&s, change));
        states += cut_everywhere(&ram, change->found);
        ram_close(&ram);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > (turns_are_all() ? 200 : 20));
}

/* A table that was made for a device of another size: its second copy moves,
 * and nothing is left where it stood. */
static void a_table_follows_its_device(void **state)
{
    static const struct {
        int64_t blocks; /* more than the table was made for */
        uint32_t block_bytes;
    } rows[] = {{1, 512},      {33, 512},     {34, 512}, {100000, 512},
                {7, 4096},     {50000, 4096}, {-1, 512}, {-40, 512},
                {-57311, 512}, {-100, 4096}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        uint64_t made = DAMAGE_BYTES / rows[i].block_bytes;
        uint64_t blocks = (uint64_t)((int64_t)made + rows[i].blocks);
        struct ram ram, expected;

        print_message("  %lld blocks more\n", (long long)rows[i].blocks);
        ram_open(&expected, rows[i].block_bytes, blocks, true);
        damage_disk(&expected);
        ram_open(&ram, rows[i].block_bytes, blocks, true);
        damage_disk(&ram);
        /* as if a smaller, or larger, device had been copied */
        craft_erase(&ram, (blocks - 34) * rows[i].block_bytes,
                    34 * (size_t)rows[i].block_bytes);
        if (rows[i].blocks > 0) {
            damage_table(&ram, made);
        } else {
            struct ram larger;
            uint8_t start[16384 + 8192];
            size_t length = 16384 + 2 * (size_t)rows[i].block_bytes;

            ram_open(&larger, rows[i].block_bytes, made, true);
            damage_disk(&larger);
            ram_get(&larger, 0, start, length);
            ram_put(&ram, 0, start, length);
            ram_close(&larger);
        }
        mend(&ram, of_table(SLATE_MEND_GPT));
        /* the array of the old copy is nobody's, and may stay */
        if (rows[i].blocks > 0) {
            uint64_t array = 16384 / rows[i].block_bytes;
            uint64_t end = blocks - 1 - array;

            for (uint64_t lba = made - 1 - array; lba < made - 1 && lba < end;
                 lba++)
                craft_erase(&ram, lba * rows[i].block_bytes,
                            rows[i].block_bytes);
        }
        assert_true(ram_equal(&ram, &expected));
        ram_close(&ram);
        ram_close(&expected);
    }
}

static void expect_refusal(const struct ram *ram, enum slate_mend_kind kind,
                           const char *why, uint32_t partition, uint64_t blocks)
{
    assert_status(draft_mend(ram, of_table(kind)), SLATE_ERR_IN_THE_WAY);
    assert_non_null(strstr(s.draft.obstacle.why, why));
    assert_int_equal(s.draft.obstacle.number, partition);
    assert_int_equal(s.draft.obstacle.blocks, blocks);
}

/* What would lose something is refused, with what is in the way. */
static void what_is_in_the_way_is_named(void **state)
{
    static const uint64_t more[] = {32, 33};
    uint8_t head[92];
    struct ram ram;
    uint8_t start[16384 + 1024];
    struct ram larger;

    (void)state;
    /* the last partition reaches into the room of the second copy */
    ram_open(&larger, 512, DAMAGE_BYTES / 512, true);
    damage_disk(&larger);
    ram_get(&larger, 0, start, sizeof start);
    ram_close(&larger);
    ram_open(&ram, 512, 132 * 2048 + 32, true);
    ram_put(&ram, 0, start, sizeof start);
    expect_refusal(&ram, SLATE_MEND_GPT, "where the second copy", 3, 1);
    ram_close(&ram);
    /* one block more at the end, and it goes */
    ram_open(&ram, 512, 132 * 2048 + 33, true);
    ram_put(&ram, 0, start, sizeof start);
    mend(&ram, of_table(SLATE_MEND_GPT));
    ram_close(&ram);
    /* the second copy alone is sound, and the header of the first is that of
     * other entries: up to its own length it cannot move */
    for (size_t i = 0; i < 2; i++) {
        ram_open(&ram, 512, DAMAGE_BYTES / 512 + more[i], true);
        damage_table(&ram, DAMAGE_BYTES / 512);
        craft_flip(&ram, 512 + 88);
        craft_le(&ram, 512 + 16, 0, 4);
        ram_get(&ram, 512, head, sizeof head);
        craft_le(&ram, 512 + 16, slate_crc32(0, head, sizeof head), 4);
        if (i == 0)
            expect_refusal(&ram, SLATE_MEND_GPT, "move over itself", 0, 0);
        else
            mend(&ram, of_table(SLATE_MEND_GPT));
        ram_close(&ram);
    }
    /* an MBR whose partitions leave no room for a GPT */
    ram_open(&ram, 512, 262144, true);
    ram_put_entry(&ram, 0, 0x0C, false, 63, 1000);
    ram_put_entry(&ram, 1, 0x83, false, 2048, 262144 - 2048 - 32);
    expect_refusal(&ram, SLATE_MEND_TO_GPT, "second copy of the GPT", 2, 1);
    ram_put_entry(&ram, 0, 0x0C, false, 33, 1000);
    expect_refusal(&ram, SLATE_MEND_TO_GPT, "begins where the GPT", 1, 1);
    ram_put_entry(&ram, 0, 0x0C, false, 34, 1000);
    ram_put_entry(&ram, 1, 0x83, false, 2048, 262144 - 2048 - 33);
    mend(&ram, of_table(SLATE_MEND_TO_GPT));
    ram_close(&ram);
}

/* One copy of the GPT, read by hand. */
static void check_gpt(const struct ram *ram, uint64_t lba, uint64_t other,
                      uint64_t array)
{
    static const struct {
        uint64_t first, last;
        const struct slate_guid *type;
        uint64_t attributes;
        const char *name;
    } rows[] = {{2048, 71 * 2048 - 1, &craft_basic, 4, "B"},
                {80 * 2048, 90 * 2048 - 1, &craft_linux, 0, ""},
                {96 * 2048, 106 * 2048 - 1, &craft_basic, 0, ""},
                {116 * 2048, 121 * 2048 - 1, &craft_swap, 0, ""}};
    uint64_t blocks = ram->facts.block_count;
    uint8_t head[92], all[16384], sum[4];

    ram_get(ram, lba * 512, head, sizeof head);
    ram_get(ram, array * 512, all, sizeof all);
    assert_memory_equal(head, "EFI PART\0\0\1\0\x5C\0\0\0", 16);
    assert_int_equal(number_at(head, 24, 8), lba);
    assert_int_equal(number_at(head, 32, 8), other);
    assert_int_equal(number_at(head, 40, 8), 34);
    assert_int_equal(number_at(head, 48, 8), blocks - 34);
    assert_int_equal(number_at(head, 72, 8), array);
    assert_int_equal(number_at(head, 80, 4), 128);
    assert_int_equal(number_at(head, 84, 4), 128);
    assert_int_equal(number_at(head, 88, 4), slate_crc32(0, all, sizeof all));
    memcpy(sum, head + 16, 4);
    memset(head + 16, 0, 4);
    assert_int_equal(number_at(sum, 0, 4), slate_crc32(0, head, sizeof head));
    for (size_t i = 0; i < 4; i++) {
        const uint8_t *entry = all + 128 * i;

        assert_memory_equal(entry, rows[i].type->bytes, 16);
        assert_int_equal(number_at(entry, 32, 8), rows[i].first);
        assert_int_equal(number_at(entry, 40, 8), rows[i].last);
        assert_int_equal(number_at(entry, 48, 8), rows[i].attributes);
        assert_int_equal(entry[56], (uint8_t)rows[i].name[0]);
        assert_int_equal(entry[16 + 7] >> 4, 4); /* a random identifier */
        for (size_t j = 0; j < i; j++)
            assert_memory_not_equal(entry + 16, all + 128 * j + 16, 16);
    }
    for (size_t at = 512; at < sizeof all; at++)
        assert_int_equal(all[at], 0);
}

static void an_mbr_becomes_a_gpt(void **state)
{
    struct ram before, ram;
    uint8_t block[512];
    uint64_t states, blocks = 300001;

    (void)state;
    changes_old_disk(&before, blocks);
    ram_copy(&ram, &before);
    mend(&ram, of_table(SLATE_MEND_TO_GPT));
    check_gpt(&ram, 1, blocks - 1, 2);
    check_gpt(&ram, blocks - 1, 1, blocks - 33);
    ram_get(&ram, 0, block, sizeof block);
    assert_memory_equal(block + 3, "start-up code", 13);
    assert_int_equal(number_at(block, 440, 4), 0x57A71001);
    assert_memory_equal(block + 446, "\0\0\2\0\xEE", 5);
    assert_int_equal(number_at(block, 454, 4), 1);
    assert_int_equal(number_at(block, 458, 4), blocks - 1);
    for (int i = 462; i < 510; i++)
        assert_int_equal(block[i], 0);
    assert_true(ram_same(&ram, &before, 34 * 512, (blocks - 67) * 512));
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.kind, SLATE_TABLE_GPT);
    assert_int_equal(s.facts.layout.found, 4);
    assert_string_equal(s.facts.volume[0].label, "BUOY");
    ram_close(&ram);
    assert_ok(draft_mend(&before, of_table(SLATE_MEND_TO_GPT)));
    states = cut_everywhere(&before, 4);
    print_message("%llu states after a cut\n", (unsigned long long)states);
    ram_close(&before);
}

/* The largest run lies in the container, whose links count until the end: what
 * is new goes elsewhere. */
static void links_are_not_written_over(void **state)
{
    static const struct slate_ask rest = {.volume = SLATE_VOLUME_EXFAT};
    const struct slate_mend mend = of_table(SLATE_MEND_TO_GPT);
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 400 * 2048, true);
    ram_put_entry(&ram, 0, 0x83, false, 2048, 10 * 2048);
    ram_put_entry(&ram, 1, 0x0F, false, 60 * 2048, 300 * 2048);
    craft_link(&ram, 60 * 2048, 0x83, 2048, 10 * 2048, 200 * 2048);
    craft_link(&ram, 260 * 2048, 0x83, 2048, 10 * 2048, 0);
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.found, 4);
    assert_ok(session_convert(&s, &mend, &rest, 1));
    assert_int_equal(s.draft.part[0].range.first, 11 * 2048);
    assert_int_equal(s.draft.part[0].range.count, 49 * 2048);
    assert_true(cut_everywhere(&ram, 4) > 20);
    ram_close(&ram);
    /* a link where the GPT has to stand, though its partition does not */
    ram_open(&ram, 512, 400 * 2048, true);
    ram_put_entry(&ram, 0, 0x0F, false, 20, 300 * 2048);
    craft_link(&ram, 20, 0x83, 2028, 10 * 2048, 0);
    expect_refusal(&ram, SLATE_MEND_TO_GPT, "begins where the GPT", 5, 14);
    ram_close(&ram);
}

/* And back, where four entries do. */
static void a_gpt_becomes_an_mbr(void **state)
{
    struct ram before, ram;
    uint8_t block[512];

    (void)state;
    ram_open(&before, 512, 300001, true);
    craft_text(&before, 3, "start-up code");
    ram_put_entry(&before, 0, 0x83, false, 80 * 2048, 10 * 2048);
    ram_put_entry(&before, 2, 0x0C, true, 2048, 70 * 2048);
    craft_fat32(&before, 2048, 70 * 2048, "BUOY");
    craft_noise(&before, 81 * 1048576ull, 9000);
    ram_copy(&ram, &before);
    mend(&ram, of_table(SLATE_MEND_TO_GPT));
    assert_ok(draft_mend(&ram, of_table(SLATE_MEND_TO_MBR)));
    assert_true(cut_everywhere(&ram, 2) > 10);
    mend(&ram, of_table(SLATE_MEND_TO_MBR));
    ram_get(&ram, 0, block, sizeof block);
    assert_memory_equal(block + 3, "start-up code", 13);
    assert_int_not_equal(number_at(block, 440, 4), 0);
    assert_int_equal(block[446], 0x80);
    assert_int_equal(block[450], 0x0C);
    assert_int_equal(number_at(block, 454, 4), 2048);
    assert_int_equal(number_at(block, 458, 4), 70 * 2048);
    assert_int_equal(block[462], 0);
    assert_int_equal(block[466], 0x83);
    assert_int_equal(number_at(block, 470, 4), 80 * 2048);
    assert_int_equal(number_at(block, 474, 4), 10 * 2048);
    for (int i = 478; i < 510; i++)
        assert_int_equal(block[i], 0);
    assert_true(ram_same(&ram, &before, 34 * 512, (300001 - 67) * 512ull));
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.kind, SLATE_TABLE_MBR);
    assert_int_equal(s.facts.layout.primary.state, SLATE_GPT_ABSENT);
    assert_int_equal(s.facts.layout.backup.state, SLATE_GPT_ABSENT);
    ram_close(&before);
    ram_close(&ram);
    /* more partitions than it has entries, and one that it does not reach */
    changes_old_disk(&before, 300001);
    ram_put_entry(&before, 2, 0x83, false, 91 * 2048, 2048);
    mend(&before, of_table(SLATE_MEND_TO_GPT));
    expect_refusal(&before, SLATE_MEND_TO_MBR, "more partitions than", 0, 0);
    ram_close(&before);
    ram_open(&before, 512, 6000000000, true);
    craft_gpt(&before, &(struct craft_gpt){
                           .partition = {{2048, 4096, 0, NULL, 1},
                                         {4294967000, 297, 0, NULL, 2}}});
    expect_refusal(&before, SLATE_MEND_TO_MBR, "beyond what an MBR", 2, 1);
    ram_close(&before);
}

static enum slate_status grow(const struct ram *ram, uint32_t partition)
{
    const struct slate_mend mend = {SLATE_MEND_GROW, partition};
    enum slate_status status;

    assert_ok(session_look(&s, ram));
    status = session_mend(&s, &mend);
    if (status == SLATE_OK)
        status = session_enact(&s, 262144);
    return status == SLATE_OK ? session_prove(&s, 262144) : status;
}

/* Up to the next one, or to the end of what the table reaches, and only volumes
 * that can be extended. */
static void a_partition_gets_the_room_behind_it(void **state)
{
    struct craft_gpt gpt = {
        .partition = {{2048, 20 * 2048, 0, NULL, 0x11},
                      {50 * 2048, 20 * 2048, 0, &craft_linux, 0x22},
                      {90 * 2048, 20 * 2048, 0, NULL, 0x33}}};
    struct slate_mend mend;
    struct ram ram, expected;
    uint8_t block[512], before[512];

    (void)state;
    ram_open(&ram, 512, 250001, true);
    craft_gpt(&ram, &gpt);
    craft_ntfs(&ram, 2048, 20 * 2048, "WAVES");
    craft_ext4(&ram, 50 * 2048, 20 * 2048, "LOGS");
    craft_fat(&ram, 90 * 2048, 20 * 2048, 16);
    ram_copy(&expected, &ram);
    gpt.partition[0].count = 49 * 2048;
    craft_gpt(&expected, &gpt);
    assert_ok(grow(&ram, 0));
    assert_true(ram_equal(&ram, &expected));
    gpt.partition[1].count = 40 * 2048;
    craft_gpt(&expected, &gpt);
    assert_ok(grow(&ram, 1));
    assert_true(ram_equal(&ram, &expected));
    /* no room any more, or no volume that anybody extends */
    assert_status(grow(&ram, 0), SLATE_ERR_ARGUMENT);
    assert_status(grow(&ram, 2), SLATE_ERR_ARGUMENT);
    assert_ok(session_look(&s, &ram));
    for (uint32_t n = 0; slate_mend_next(&s.facts, n, &mend); n++)
        assert_int_not_equal(mend.kind, SLATE_MEND_GROW);
    ram_close(&ram);
    ram_close(&expected);
    /* the same under an MBR; the end is that of the device, in whole MiB */
    ram_open(&ram, 512, 250001, true);
    ram_put_entry(&ram, 1, 0x07, false, 2048, 20 * 2048);
    craft_ntfs(&ram, 2048, 20 * 2048, "WAVES");
    ram_get(&ram, 0, before, sizeof before);
    ram_copy(&expected, &ram);
    assert_ok(grow(&ram, 0));
    ram_get(&ram, 0, block, sizeof block);
    assert_memory_equal(block, before, 467);
    assert_int_equal(number_at(block, 474, 4), 122 * 2048 - 2048);
    assert_memory_equal(block + 478, before + 478, 34);
    assert_true(ram_same(&ram, &expected, 512, 250000 * 512));
    ram_close(&ram);
    ram_close(&expected);
    /* not beyond what an MBR counts to */
    ram_open(&ram, 512, 6000000000, true);
    ram_put_entry(&ram, 0, 0x07, false, 2048, 4000000000);
    craft_ntfs(&ram, 2048, 4000000000, "WAVES");
    assert_ok(grow(&ram, 0));
    ram_get(&ram, 0, block, sizeof block);
    assert_int_equal(number_at(block, 458, 4), 4294965248 - 2048);
    ram_close(&ram);
}

/* Copies of first blocks that are damaged themselves. */
static uint64_t field(const struct ram *ram, uint64_t byte, int length)
{
    uint8_t bytes[8] = {0};

    ram_get(ram, byte, bytes, (size_t)length);
    return number_at(bytes, 0, length);
}

/* Where a sound volume, which begins at block 0, has what its copy leads to. */
static uint64_t fat32_table(const struct ram *ram)
{
    return field(ram, 14, 2) * 512;
}

static uint64_t exfat_table(const struct ram *ram)
{
    return field(ram, 80, 4) * 512;
}

static uint64_t ntfs_table(const struct ram *ram)
{
    return field(ram, 48, 8) * field(ram, 13, 1) * 512;
}

static uint64_t ext_root(const struct ram *ram)
{
    uint64_t unit = 1024ull << field(ram, 1024 + 24, 4);

    return field(ram, unit + 8, 4) * unit + field(ram, 1024 + 88, 2) + 1;
}

static uint64_t ext_descriptor(const struct ram *ram)
{
    return (1024ull << field(ram, 1024 + 24, 4)) + 8;
}

static const struct damage *damage_named(const char *name)
{
    const struct damage *damage;
    size_t i = 0;

    while ((damage = damage_at(i)) != NULL && strcmp(damage->name, name) != 0)
        i++;
    assert_non_null(damage);
    return damage;
}

/* Nor is one that has outlived its volume: what it leads to has to be there. */
static void a_damaged_copy_is_not_taken(void **state)
{
    static const struct {
        const char *name;
        uint64_t byte;
        uint64_t (*place)(const struct ram *ram);
    } rows[] = {{"exFAT boot region", 12 * 512 + 200, NULL},
                {"exFAT boot region", 20 * 512 + 3, NULL},
                {"exFAT boot region", 23 * 512 + 508, NULL},
                {"exFAT boot region", 0, exfat_table},
                {"FAT32 boot block", 6 * 512 + 12, NULL},
                {"FAT32 boot block", 0, fat32_table},
                {"NTFS boot block", DAMAGE_BYTES - 512 + 12, NULL},
                {"NTFS boot block", 0, ntfs_table},
                {"ext4 superblock", 0, ext_root},
                {"ext4 superblock", 0, ext_descriptor}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        const struct damage *damage = damage_named(rows[i].name);
        const struct slate_mend wanted = damage_mend(damage);
        struct ram sound, hurt;

        build(damage, &sound, &hurt);
        assert_ok(session_look(&s, &hurt));
        assert_true(is_listed(&wanted));
        craft_flip(&hurt, rows[i].place == NULL ? rows[i].byte
                                                : rows[i].place(&sound));
        assert_ok(session_look(&s, &hurt));
        assert_false(is_listed(&wanted));
        assert_status(session_mend(&s, &wanted), SLATE_ERR_ARGUMENT);
        ram_close(&sound);
        ram_close(&hurt);
    }
}

/* The second copy alone is sound, and has to move by less than its own length:
 * the first one is there before the second is touched. */
static void the_source_goes_last(void **state)
{
    static const uint64_t more[] = {1, 5, 32, 33, 34, 1000};

    (void)state;
    for (size_t i = 0; i < sizeof more / sizeof more[0]; i++) {
        uint64_t made = DAMAGE_BYTES / 512;
        struct ram ram;

        ram_open(&ram, 512, made + more[i], true);
        damage_table(&ram, made);
        craft_flip(&ram, 2 * 512 + 56);
        assert_ok(draft_mend(&ram, of_table(SLATE_MEND_GPT)));
        assert_int_equal(s.facts.layout.primary.state, SLATE_GPT_ARRAY_DAMAGED);
        assert_int_equal(s.facts.layout.found, 3);
        assert_true(cut_everywhere(&ram, 3) > 0);
        mend(&ram, of_table(SLATE_MEND_GPT));
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.layout.backup.lba, made + more[i] - 1);
        assert_int_equal(s.facts.layout.primary.state, SLATE_GPT_SOUND);
        ram_close(&ram);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_damage_is_mended),
        cmocka_unit_test(what_is_sound_is_left_alone),
        cmocka_unit_test(the_power_may_go_in_every_write),
        cmocka_unit_test(wishes_are_cut_as_well),
        cmocka_unit_test(a_table_follows_its_device),
        cmocka_unit_test(what_is_in_the_way_is_named),
        cmocka_unit_test(an_mbr_becomes_a_gpt),
        cmocka_unit_test(links_are_not_written_over),
        cmocka_unit_test(a_gpt_becomes_an_mbr),
        cmocka_unit_test(a_partition_gets_the_room_behind_it),
        cmocka_unit_test(a_damaged_copy_is_not_taken),
        cmocka_unit_test(the_source_goes_last),
    };

    return cmocka_run_group_tests_name("mend", tests, NULL, NULL);
}
