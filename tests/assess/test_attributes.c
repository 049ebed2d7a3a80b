/* SPDX-License-Identifier: MIT */
/* Attributes in the content: each found, cleared in place with no other byte
 * changed, and cut at every write. */
#include <stdio.h>

#include "check.h"
#include "corpus.h"
#include "in_place.h"
#include "program.h"
#include "shim.h"
#include "tool_case.h"

static struct session s;

static void look(struct ram *ram)
{
    assert_ok(session_look(&s, ram));
}

static uint32_t count_attributes(void)
{
    struct slate_attribute attribute;
    uint32_t count = 0;

    while (slate_attribute_next(&s.facts, count, &attribute))
        count++;
    return count;
}

/* Of one attribute, on what was looked at. */
static enum slate_status draft(const struct slate_attribute *attribute)
{
    enum slate_status status;

    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    status = slate_draft_clear(&s.draft, &s.facts, attribute, &s.media, s.work);
    return status == SLATE_OK ? slate_draft_make(&s.draft) : status;
}

static enum slate_status clear(uint32_t index)
{
    struct slate_attribute attribute;
    enum slate_status status;

    assert_true(slate_attribute_next(&s.facts, index, &attribute));
    status = draft(&attribute);
    if (status == SLATE_OK)
        status = session_enact(&s, slate_draft_work_bytes(&s.draft));
    return status == SLATE_OK ? session_prove(&s, SLATE_WORK_MIN * 2) : status;
}

static void build(const char *name, struct ram *ram)
{
    for (size_t i = 0; corpus_case(i) != NULL; i++) {
        if (strcmp(corpus_case(i)->name, name) == 0) {
            corpus_case(i)->build(ram);
            return;
        }
    }
    fail_msg("no case %s", name);
}

/* Bytes that differ between two devices. */
static uint32_t differences(const struct ram *a, const struct ram *b)
{
    static uint8_t one[RAM_PAGE_BYTES], two[RAM_PAGE_BYTES];
    uint32_t count = 0;

    for (size_t i = 0; i < a->page_count; i++) {
        if (a->pages[i] == NULL && b->pages[i] == NULL)
            continue;
        ram_get(a, i * RAM_PAGE_BYTES, one, sizeof one);
        ram_get(b, i * RAM_PAGE_BYTES, two, sizeof two);
        for (size_t at = 0; at < sizeof one; at++)
            count += one[at] != two[at] ? 1u : 0u;
    }
    return count;
}

/* Lays the case out, lets more be done to it, and clears its one attribute. */
static void found_and_cleared(const char *name, void (*more)(struct ram *ram),
                              enum slate_attribute_kind kind,
                              uint32_t bytes_least, uint32_t bytes_most)
{
    struct slate_attribute attribute;
    struct ram ram, before;
    char label[SLATE_LABEL_ROOM];
    uint32_t changed;

    print_message("  %s\n", name);
    build(name, &ram);
    if (more != NULL)
        more(&ram);
    ram_copy(&before, &ram);
    look(&ram);
    assert_int_equal(count_attributes(), 1);
    assert_true(slate_attribute_next(&s.facts, 0, &attribute));
    assert_int_equal(attribute.kind, kind);
    assert_int_equal(attribute.partition, 0);
    memcpy(label, s.facts.volume[0].label, sizeof label);
    assert_ok(clear(0));
    assert_false(ram.claimed);
    changed = differences(&before, &ram);
    assert_in_range(changed, bytes_least, bytes_most);
    assert_status(clear(0), SLATE_ERR_CHANGED); /* gone already */
    look(&ram);
    assert_int_equal(count_attributes(), 0);
    assert_string_equal(s.facts.volume[0].label, label);
    ram_close(&ram);
    ram_close(&before);
}

#define AT ((uint64_t)1048576)

static void both_tables_dirty(struct ram *ram)
{
    uint8_t boot[512];

    ram_get(ram, AT, boot, sizeof boot);
    craft_le(ram, AT + number_at(boot, 14, 2) * 512 + 7, 0x03, 1);
    craft_le(ram,
             AT + (number_at(boot, 14, 2) + number_at(boot, 36, 4)) * 512 + 7,
             0x07, 1);
}

/* The second table of file records, as hosts keep it. */
static void second_records(struct ram *ram)
{
    uint8_t record[1024];

    ram_get(ram, AT + 4 * 4096 + 3 * 1024, record, sizeof record);
    ram_put(ram, AT + 2 * 4096 + 3 * 1024, record, sizeof record);
}

static void flag_ext4(struct ram *ram)
{
    craft_le(ram, AT + 1024 + 58, 1, 2);
    craft_le(ram, AT + 1024 + 100, 0x1000, 4);
}

static void flag_sealed_ext4(struct ram *ram)
{
    craft_le(ram, AT + 1024 + 58, 1, 2);
    craft_le(ram, AT + 1024 + 100, 0x1400, 4);
}

/* Bytes that differ: entry, array checksum, header checksum, twice; the type; a
 * byte for each copy of a flag; with a checksum over it. */
static const struct {
    const char *name;
    void (*more)(struct ram *ram);
    enum slate_attribute_kind kind;
    uint32_t least, most;
} cases[] = {
    {"read-only-attribute", NULL, SLATE_ATTRIBUTE_READ_ONLY, 8, 18},
    {"no-letter-attribute", NULL, SLATE_ATTRIBUTE_NO_LETTER, 8, 18},
    {"required-attribute", NULL, SLATE_ATTRIBUTE_REQUIRED, 8, 18},
    {"hidden-type", NULL, SLATE_ATTRIBUTE_HIDDEN_TYPE, 1, 1},
    {"fat32-dirty", NULL, SLATE_ATTRIBUTE_DIRTY, 1, 1},
    {"fat32-dirty", both_tables_dirty, SLATE_ATTRIBUTE_DIRTY, 3, 3},
    {"fat16-dirty", NULL, SLATE_ATTRIBUTE_DIRTY, 1, 1},
    {"exfat-dirty", NULL, SLATE_ATTRIBUTE_DIRTY, 1, 1},
    {"ntfs-dirty", NULL, SLATE_ATTRIBUTE_DIRTY, 1, 1},
    {"ntfs-dirty", second_records, SLATE_ATTRIBUTE_DIRTY, 2, 2},
    {"ext4-errors", flag_ext4, SLATE_ATTRIBUTE_READ_ONLY_VOLUME, 1, 1},
    {"ext4-errors", flag_sealed_ext4, SLATE_ATTRIBUTE_READ_ONLY_VOLUME, 4, 5},
};

#define CASES (sizeof cases / sizeof cases[0])

static void each_is_cleared_in_place(void **state)
{
    (void)state;
    for (size_t i = 0; i < CASES; i++)
        found_and_cleared(cases[i].name, cases[i].more, cases[i].kind,
                          cases[i].least, cases[i].most);
}

/* The check value of CRC-32C, and a superblock sealed with it. */
static void superblocks_are_sealed(void **state)
{
    struct ram ram;
    uint8_t super[1024];

    (void)state;
    assert_int_equal(~slate_crc32c(UINT32_MAX, "123456789", 9) & UINT32_MAX,
                     0xE3069283);
    build("ext4-errors", &ram);
    flag_sealed_ext4(&ram);
    look(&ram);
    assert_ok(clear(0));
    ram_get(&ram, AT + 1024, super, sizeof super);
    assert_int_equal(number_at(super, 1020, 4),
                     slate_crc32c(UINT32_MAX, super, 1020));
    ram_close(&ram);
}

/* A logical partition, a volume without a table, and 4096-byte blocks. */
static void odd_places_are_found(void **state)
{
    struct slate_attribute attribute;
    uint8_t byte;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 2097152, true);
    ram_put_entry(&ram, 0, 0x05, false, 2048, 2000000);
    craft_link(&ram, 2048, 0x17, 2048, 100000, 0);
    look(&ram);
    assert_true(slate_attribute_next(&s.facts, 0, &attribute));
    assert_int_equal(s.facts.partition[attribute.partition].number, 5);
    assert_ok(clear(0));
    ram_get(&ram, 2048 * 512 + 446 + 4, &byte, 1);
    assert_int_equal(byte, 0x07);
    ram_close(&ram);
    ram_open(&ram, 512, 2097152, true);
    craft_fat32(&ram, 0, 2097152, "BARE");
    craft_le(&ram, 65, 1, 1);
    look(&ram);
    assert_true(slate_attribute_next(&s.facts, 0, &attribute));
    assert_int_equal(attribute.partition, SLATE_ATTRIBUTE_WHOLE);
    assert_ok(clear(0));
    look(&ram);
    assert_int_equal(count_attributes(), 0);
    ram_close(&ram);
    ram_open(&ram, 4096, 1048576, true);
    craft_gpt(&ram,
              &(struct craft_gpt){
                  .partition = {{256, 1000, 0, NULL, 0},
                                {2000, 1000, SLATE_GPT_HIDDEN, NULL, 0}}});
    look(&ram);
    assert_int_equal(count_attributes(), 1);
    assert_ok(clear(0));
    look(&ram);
    assert_int_equal(s.facts.layout.count, 2);
    assert_int_equal(s.facts.layout.backup.state, SLATE_GPT_SOUND);
    assert_int_equal(count_attributes(), 0);
    ram_close(&ram);
}

/* A table has one whole copy, which tells of the partition; a volume has its
 * name. What cannot be read shows neither. */
static void check_cut(const struct shim *shim, const void *label)
{
    bool gpt = s.facts.layout.kind == SLATE_TABLE_GPT;

    assert_ok(slate_media_open(&s.media, &shim->port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    if (gpt) {
        assert_int_equal(s.facts.layout.kind, SLATE_TABLE_GPT);
        assert_int_equal(s.facts.layout.count, 1);
    } else if (shim->unreadable == UINT64_MAX) {
        assert_string_equal(s.facts.volume[0].label, label);
    }
}

/* Every kind, every cut: what was there is whole at any time, and going on
 * reaches what an uncut run reaches. */
static void the_power_may_go_in_every_write(void **state)
{
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; i < CASES; i++) {
        struct ram before, after;
        char label[SLATE_LABEL_ROOM];

        build(cases[i].name, &before);
        if (cases[i].more != NULL)
            cases[i].more(&before);
        ram_copy(&after, &before);
        look(&after);
        memcpy(label, s.facts.volume[0].label, sizeof label);
        after.writes = 0;
        assert_ok(clear(0));
        states += in_place_cuts(&s, &before, &after, check_cut, label);
        ram_close(&before);
        ram_close(&after);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 600);
}

static void what_cannot_be_cleared_is_left_alone(void **state)
{
    struct slate_attribute no_such = {SLATE_ATTRIBUTE_DIRTY, 99};
    struct ram ram, before;

    (void)state;
    build("read-only-attribute", &ram);
    look(&ram);
    craft_flip(&ram, (ram.facts.block_count - 1) * 512 + 20);
    ram_copy(&before, &ram);
    assert_status(clear(0), SLATE_ERR_ONE_COPY);
    assert_status(draft(&no_such), SLATE_ERR_ARGUMENT);
    assert_true(ram_equal(&before, &ram));
    ram_close(&ram);
    ram_close(&before);
    build("hidden-type", &ram);
    look(&ram);
    ram_copy(&before, &ram);
    ram.busy = true;
    assert_status(clear(0), SLATE_ERR_BUSY);
    s.media.read_only = true;
    assert_status(clear(0), SLATE_ERR_PROTECTED);
    assert_true(ram_equal(&before, &ram));
    ram_close(&ram);
    ram_close(&before);
    build("ext4-replay", &ram); /* a journal is for a host to replay */
    look(&ram);
    assert_int_equal(count_attributes(), 0);
    ram_close(&ram);
}

static void the_tool_clears_by_name(void **state)
{
    (void)state;
    expect("guards sim:buoy-stick-15", 0, "gpt-read-only, partition 1");
    expect("guards sim:buoy-stick-15 --json", 0, "gpt-hidden");
    check_schema("guards");
    expect_text("attributes.2.kind", "dirty");
    expect("guards sim:buoy-stick-15 --lift gpt-read-only,gpt-hidden,dirty", 3,
           "add --consent");
    expect("guards sim:buoy-stick-15 --lift gpt-read-only,gpt-hidden,dirty "
           "--consent SESAS-45",
           0, "cleared, and read back");
    expect("guards sim:buoy-stick-15", 0, "nothing protects");
    expect("assess sim:buoy-stick-15", 0, "BUOY-15");
}

/* Read back, and found to be as before. */
static void a_device_that_drops_writes_is_told(void **state)
{
    (void)state;
    lay_device("buoy-stick-15", "{\"ignore_writes\": true}");
    assert_int_equal(tool_run(&p, "guards sim:buoy-stick-15 --lift gpt-hidden "
                                  "--consent SESAS-45"),
                     5);
    assert_non_null(strstr(p.out, "something other than"));
    assert_non_null(strstr(p.err, "not proved"));
    assert_non_null(strstr(p.err, "to find out what it keeps"));
}

/* Reviewed, carried out and proved like any other draft; what it is not fit for
 * is refused. */
static void a_change_is_drafted(void **state)
{
    (void)state;
    expect("draft sim:buoy-stick-15 --clear gpt-read-only,dirty -o $/c.json", 0,
           "nothing: all but a few bytes stays as it is");
    expect("draft sim:buoy-stick-15 --clear dirty --json", 0,
           "change a volume in place");
    check_schema("draft");
    expect_text("clears.0.kind", "dirty");
    expect("enact $/c.json", 3, "will be changed in place");
    expect("enact $/c.json --consent SESAS-45", 0, "5 blocks");
    expect("prove $/c.json", 0, "every one is as drafted");
    expect("enact $/c.json --consent SESAS-45", 3, "already");
    expect("draft sim:buoy-stick-15 --clear dirty", 3, "is set there");
    expect("draft $/c.json --label NEW", 2, "changes a device in place");
    expect("draft sim:buoy-stick-15 --clear dirty --label NEW", 2,
           "nothing else");
    expect("draft sim:buoy-stick-15 --clear spotless", 2, "expected kinds");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_is_cleared_in_place),
        cmocka_unit_test(superblocks_are_sealed),
        cmocka_unit_test(odd_places_are_found),
        cmocka_unit_test(the_power_may_go_in_every_write),
        cmocka_unit_test(what_cannot_be_cleared_is_left_alone),
        cmocka_unit_test_setup(the_tool_clears_by_name, fresh_bench),
        cmocka_unit_test(a_device_that_drops_writes_is_told),
        cmocka_unit_test_setup(a_change_is_drafted, fresh_bench),
    };

    return cmocka_run_group_tests_name("attributes", tests, NULL, clean);
}
