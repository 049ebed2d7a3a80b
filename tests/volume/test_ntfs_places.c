/* SPDX-License-Identifier: MIT */
/* NTFS that stands on a device: what is told of it, and another label in its
 * place; by an own reading. */
#include "check.h"
#include "craft.h"
#include "ntfs_check.h"

static struct session s;
static struct ntfs_seen seen;
static struct ram ram;

static void lay_clusters(uint32_t block_bytes, uint32_t cluster_bytes,
                         const char *label)
{
    struct wanted goal = {.table_given = true,
                          .table = SLATE_TABLE_NONE,
                          .volume = SLATE_VOLUME_NTFS,
                          .cluster_bytes = cluster_bytes};

    strcpy(goal.label, label);
    ram_open(&ram, block_bytes, 67108864 / block_bytes, true);
    assert_ok(session_draft(&s, &ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
}

static void lay_volume(uint32_t block_bytes, const char *label)
{
    lay_clusters(block_bytes, 0, label);
}

static void read_block(void *context, uint64_t block, uint8_t *data)
{
    const struct ram *of = context;

    ram_get(of, block * of->facts.block_bytes, data, of->facts.block_bytes);
}

static void check_all(void)
{
    struct volume_blocks from = {&ram, read_block, ram.facts.block_bytes,
                                 ram.facts.block_count};

    ntfs_check(&from, 1, &seen);
}

/* Where records stand: in the table, and in the mirror. */
static uint64_t record_at(uint32_t number, bool mirror)
{
    uint8_t boot[512];
    uint32_t block = ram.facts.block_bytes;

    ram_get(&ram, 0, boot, sizeof boot);
    return ntfs_number(boot + (mirror ? 56 : 48), 8) * boot[13] * block +
           number * (block > 1024 ? block : 1024);
}

static const struct slate_volume *look(void)
{
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.whole.kind, SLATE_VOLUME_NTFS);
    return &s.facts.whole;
}

static enum slate_status draft_label(const char *label)
{
    enum slate_status status;

    (void)look();
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    status = slate_draft_label(&s.draft, &s.facts, SLATE_ATTRIBUTE_WHOLE, label,
                               &s.media, s.work);
    return status == SLATE_OK ? slate_draft_make(&s.draft) : status;
}

static void relabel(const char *label)
{
    assert_ok(draft_label(label));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
}

static void what_is_told_is_so(void **state)
{
    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        const struct slate_volume *volume;

        lay_volume(block, "Station 5");
        check_all();
        volume = look();
        assert_string_equal(volume->label, "Station 5");
        assert_int_equal(volume->bytes, 67108864);
        assert_int_equal(volume->cluster_bytes, 4096);
        assert_int_equal(volume->clusters, seen.clusters);
        assert_true(volume->free_known);
        assert_int_equal(volume->free_clusters, seen.free);
        assert_int_equal(volume->serial, (uint32_t)seen.serial);
        assert_int_equal(volume->copy, SLATE_COPY_EQUAL);
        assert_false(volume->dirty);
        ram_close(&ram);
    }
}

/* Counts what a look has left open, by a work buffer of so many bytes. */
static enum slate_status count_by(size_t work_bytes,
                                  struct slate_volume *volume)
{
    const struct slate_range all = {0, ram.facts.block_count};
    struct slate_volume_count count;
    enum slate_status status = slate_volume_count_start(
        &count, &s.media, &all, volume, s.work, work_bytes);

    volume->free_clusters = 0;
    while (status == SLATE_OK && count.done < count.total) {
        assert_false(volume->free_known);
        status = slate_volume_count_step(&count);
    }
    return status;
}

/* Large ones are counted apart, whatever the size of the pieces. */
static void what_a_look_leaves_open_is_counted(void **state)
{
    static const struct {
        uint64_t blocks;
        uint32_t block_bytes, cluster_bytes;
    } rows[] = {{8388608 + 71 * 8 + 5, 512, 4096},
                {2500037, 512, 512},
                {1200003, 4096, 4096},
                {488378646ull, 4096, 1048576},
                {4026531840ull, 4096, 2097152}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_volume volume;

        ram_open(&ram, rows[i].block_bytes, rows[i].blocks, true);
        assert_ok(session_draft(
            &s, &ram,
            &(struct wanted){.table_given = true,
                             .table = SLATE_TABLE_NONE,
                             .cluster_bytes = rows[i].cluster_bytes,
                             .volume = SLATE_VOLUME_NTFS}));
        assert_ok(session_enact(&s, sizeof s.work));
        check_all();
        volume = *look();
        assert_false(volume.free_known);
        assert_ok(count_by(sizeof s.work, &volume));
        assert_true(volume.free_known);
        assert_int_equal(volume.free_clusters, seen.free);
        assert_int_equal(count_by(sizeof s.work, &volume), SLATE_ERR_ARGUMENT);
        volume.free_known = false;
        assert_int_equal(count_by(SLATE_WORK_MIN - 1, &volume),
                         SLATE_ERR_BUFFER);
        if (i < 4)
            assert_ok(count_by(SLATE_WORK_MIN, &volume));
        if (i < 4)
            assert_int_equal(volume.free_clusters, seen.free);
        ram_close(&ram);
    }
}

/* Of a bitmap of which a block cannot be read, nothing is told; nor of one of
 * more than a million clusters. */
static void what_cannot_be_counted_is_not_told(void **state)
{
    static const enum slate_volume_kind kinds[] = {SLATE_VOLUME_NTFS,
                                                   SLATE_VOLUME_EXFAT};

    (void)state;
    for (size_t i = 0; i < 2; i++) {
        const struct slate_format *format = slate_format_of(kinds[i]);
        struct wanted goal = {.table_given = true,
                              .table = SLATE_TABLE_NONE,
                              .volume = kinds[i],
                              .cluster_bytes = 4096};
        struct slate_extent extent;
        uint64_t at = 0, few;

        ram_open(&ram, 512, 8388608, true); /* a bitmap of 128 KiB */
        assert_ok(session_draft(&s, &ram, &goal));
        assert_ok(session_enact(&s, sizeof s.work));
        do
            assert_true(format->composer.next(&s.draft.part[0].volume,
                                              SLATE_MOMENT_BODY, &at, &extent));
        while (strstr(format->composer.steps[extent.role], "bitmap") == NULL);
        ram.fail_read = extent.first + 5;
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.whole.kind, kinds[i]);
        /* exFAT has a share in use beside it: that tells less than is free */
        assert_int_equal(s.facts.whole.free_known, i == 1);
        few = s.facts.whole.free_clusters;
        ram.fail_read = 0;
        assert_ok(session_look(&s, &ram));
        assert_true(s.facts.whole.free_known);
        assert_true(few < s.facts.whole.free_clusters);
        ram_close(&ram);
    }
    ram_open(&ram, 512, 8388608 + 64 * 8, true);
    assert_ok(session_draft(&s, &ram,
                            &(struct wanted){.table_given = true,
                                             .table = SLATE_TABLE_NONE,
                                             .volume = SLATE_VOLUME_NTFS}));
    assert_ok(session_enact(&s, sizeof s.work));
    for (uint64_t i = 0; i < 2; i++) {
        struct slate_volume volume = *look();
        struct slate_extent extent;
        uint64_t at = 0;

        do
            assert_true(slate_format_of(SLATE_VOLUME_NTFS)
                            ->composer.next(&s.draft.part[0].volume,
                                            SLATE_MOMENT_BODY, &at, &extent));
        while (extent.count < 100 || strstr(slate_format_of(SLATE_VOLUME_NTFS)
                                                ->composer.steps[extent.role],
                                            "bitmap") == NULL);
        ram.fail_read = extent.first + i * (extent.count - 1);
        assert_int_equal(count_by(sizeof s.work, &volume), SLATE_ERR_READ);
        assert_false(volume.free_known);
        ram.fail_read = 0;
    }
    ram_close(&ram);
}

/* A bitmap in two runs, the second one ahead of the first; and near misses:
 * runs that lead out of the volume, holes, what is too short, and none. */
static void a_bitmap_may_be_scattered(void **state)
{
    static const struct {
        const char *map;
        bool known;
    } rows[] = {{"\x21\x14\x10\x40\x11\x0C\x9C", true},
                {"\x21\x14\x10\x40", false},
                {"\x21\x14\x10\x40\x11\x0B\x9C", false},
                {"\x31\x14\xEA\xFF\x01\x11\x0C\x7F", false},
                {"\x11\x20\x80", false},
                {"\x21\x14\x10\x40\x01\x0C", false},
                {"\x01\x20", false},
                {"\x99\x01\x02", false},
                {"", false}};
    uint8_t record[4096], bits[16384];
    struct ntfs_attribute a;
    uint64_t at = 0, from;
    struct ntfs n = {NULL, &seen, 0, 0};

    (void)state;
    lay_clusters(512, 512, "Station 5"); /* a bitmap of 32 clusters */
    check_all();
    at = record_at(6, false);
    ram_get(&ram, at, record, 1024);
    assert_true(ntfs_find(record, 0x80, "", &a));
    from = ntfs_one_run(&n, &a);
    ram_get(&ram, from, bits, sizeof bits);
    assert_int_equal(a.bytes, sizeof bits);
    ram_put(&ram, 0x4010 * 512ull, bits, (size_t)20 * 512);
    ram_put(&ram, (0x4010 - 100) * 512ull, bits + (size_t)20 * 512,
            (size_t)12 * 512);
    craft_erase(&ram, from, sizeof bits);
    at += (uint64_t)(a.value - record);
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        uint8_t map[8] = {0};

        memcpy(map, rows[i].map,
               rows[i].map[0] == 0x31 ? 8 : strlen(rows[i].map));
        ram_put(&ram, at, map, sizeof map);
        assert_int_equal(look()->free_known, rows[i].known);
        if (rows[i].known)
            assert_int_equal(s.facts.whole.free_clusters, seen.free);
        s.facts.whole.free_known = false;
        assert_int_equal(count_by(SLATE_WORK_MIN, &s.facts.whole),
                         rows[i].known ? SLATE_OK : SLATE_ERR_READ);
        assert_int_equal(s.facts.whole.free_clusters,
                         rows[i].known ? seen.free : 0);
    }
    ram_close(&ram);
}

/* A volume is not clean when its flag says so, or when the log has something
 * that was not undone: by the younger of two pages. */
static void put_restart(uint64_t at, uint64_t when, uint32_t user,
                        uint32_t flags)
{
    craft_text(&ram, at, "RSTR");
    craft_le(&ram, at + 24, 48, 2);
    craft_le(&ram, at + 48, when, 8);
    craft_le(&ram, at + 56, 1, 2);
    craft_le(&ram, at + 58, 0xFFFF, 2);
    craft_le(&ram, at + 60, user, 2);
    craft_le(&ram, at + 62, flags, 2);
}

/* A log is no flag: it is told, and nothing is offered to be cleared. */
static void check_log_is_told(bool told)
{
    struct slate_attribute found;
    char words[400];
    struct slate_text text;

    slate_text_start(&text, words, sizeof words);
    slate_finding_words(&s.facts,
                        &(struct slate_finding){.id = SLATE_FINDING_DIRTY},
                        SLATE_FINDING_EVIDENCE, &text);
    assert_int_equal(strstr(words, "a log with changes") != NULL, told);
    assert_false(slate_attribute_next(&s.facts, 0, &found));
}

static void what_is_not_clean_is_told(void **state)
{
    static const struct {
        uint64_t first;
        uint32_t user, flags;
        uint64_t second;
        uint32_t other_user, other_flags;
        bool dirty;
    } rows[] = {{5, 0, 0, 4, 0xFFFF, 0, true},  {5, 0, 2, 4, 0, 0, false},
                {5, 0xFFFF, 0, 4, 0, 0, false}, {4, 0, 0, 5, 0xFFFF, 0, false},
                {4, 0, 2, 5, 0, 0, true},       {4, 0, 2, 5, 0, 1, true},
                {4, 0, 0, 5, 0, 2, false}};
    uint8_t record[4096];
    struct ntfs_attribute a;
    uint64_t at;
    struct ntfs n = {NULL, &seen, 0, 0};

    (void)state;
    lay_volume(512, "Station 5");
    check_all();
    ram_get(&ram, record_at(2, false), record, 1024);
    assert_true(ntfs_find(record, 0x80, "", &a));
    at = ntfs_one_run(&n, &a);
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        put_restart(at, rows[i].first, rows[i].user, rows[i].flags);
        put_restart(at + 4096, rows[i].second, rows[i].other_user,
                    rows[i].other_flags);
        assert_int_equal(look()->dirty, rows[i].dirty);
        assert_int_equal(s.facts.whole.replay, rows[i].dirty);
        check_log_is_told(rows[i].dirty);
        if (rows[i].dirty)
            assert_status(draft_label("New"), SLATE_ERR_UNCLEAN);
        else
            assert_ok(draft_label("New"));
    }
    ram_close(&ram);
}

static void a_mirror_that_differs_is_told(void **state)
{
    (void)state;
    lay_volume(512, "Station 5");
    assert_int_equal(look()->copy, SLATE_COPY_EQUAL);
    craft_flip(&ram, record_at(0, true) + 1022);
    assert_int_equal(look()->copy, SLATE_COPY_DIFFERENT);
    assert_int_equal(s.facts.whole.copy_lba, record_at(0, true) / 512);
    craft_flip(&ram, record_at(0, true) + 1022);
    assert_int_equal(look()->copy, SLATE_COPY_EQUAL);
    craft_flip(&ram, record_at(3, true) + 100); /* not what is compared */
    assert_int_equal(look()->copy, SLATE_COPY_EQUAL);
    craft_flip(&ram, ram.facts.block_count * 512 - 512 + 72);
    assert_int_equal(look()->copy, SLATE_COPY_DIFFERENT);
    ram_close(&ram);
}

/* From each length to others, in the table and in the mirror; nothing else
 * changes on the volume. */
static void labels_of_every_length(void **state)
{
    static const char all[] = "thirty-two characters: 678901234";
    struct ram before;

    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 8) {
        lay_volume(block, "");
        for (uint32_t i = 0; i < 33; i++) {
            uint32_t length = i * 13 % 33;
            uint64_t table = record_at(3, false), mirror = record_at(3, true);
            char label[33] = "";

            memcpy(label, all, length);
            ram_copy(&before, &ram);
            relabel(label);
            check_all();
            assert_string_equal(seen.label, label);
            assert_string_equal(look()->label, label);
            assert_true(ram_same(&before, &ram, 0, table));
            assert_true(
                ram_same(&before, &ram, table + 512, mirror - table - 512));
            assert_true(
                ram_same(&before, &ram, mirror + 512, 67108864 - mirror - 512));
            ram_close(&before);
        }
        relabel("thirty-three characters: 89012345");
        assert_string_equal(look()->label, "thirty-three characters: 8901234");
        ram_close(&ram);
    }
}

/* Puts an attribute of so many bytes ahead of the label, as other systems have
 * them, in the table or in the mirror. */
static void put_more(bool mirror, uint32_t bytes)
{
    uint8_t record[1024];
    uint64_t at = record_at(3, mirror);
    uint32_t used, label = 0;
    struct ntfs_attribute a;

    ram_get(&ram, at, record, sizeof record);
    used = (uint32_t)ntfs_number(record + 24, 4);
    while (ntfs_next(record, &label, &a) && a.type < 0x60)
        ;
    memmove(record + label + bytes, record + label, used - label);
    memset(record + label, 0, bytes);
    record[label] = 0x50;
    record[label + 4] = (uint8_t)bytes;
    record[label + 5] = (uint8_t)(bytes >> 8);
    record[label + 14] = record[40]++;
    record[label + 16] = (uint8_t)(bytes - 24);
    record[label + 20] = 24;
    used += bytes;
    record[24] = (uint8_t)used;
    record[25] = (uint8_t)(used >> 8);
    memcpy(record + 50, record + 510, 2); /* what stands there is kept apart */
    memcpy(record + 510, record + 48, 2);
    ram_put(&ram, at, record, sizeof record);
}

/* The label changes with one block: all that moves has to be in it. */
static void a_label_has_to_have_room(void **state)
{
    uint8_t record[1024];
    uint32_t used;

    (void)state;
    lay_volume(512, "four");
    ram_get(&ram, record_at(3, false), record, sizeof record);
    used = (uint32_t)ntfs_number(record + 24, 4);
    put_more(false, 504 - used); /* 510 is the end; used is a multiple of 8 */
    put_more(true, 504 - used);
    assert_status(draft_label("a longer one"), SLATE_ERR_LABEL_ROOM);
    assert_ok(draft_label("none"));
    relabel("one");
    assert_string_equal(look()->label, "one");
    relabel(""); /* makes room for two units of it, up to a multiple of 8 */
    relabel("same");
    assert_status(draft_label("sames"), SLATE_ERR_LABEL_ROOM);
    ram_close(&ram);
    lay_volume(512, "four");
    put_more(false, 600); /* what follows it is behind the first stride */
    assert_status(draft_label("x"), SLATE_ERR_LABEL_ROOM);
    ram_close(&ram);
}

static void records_that_are_odd(void **state)
{
    uint64_t table, mirror;
    uint8_t before[1024], after[1024];

    (void)state;
    lay_volume(512, "North");
    table = record_at(3, false);
    mirror = record_at(3, true);
    craft_flip(&ram, mirror + 510); /* a mirror that is torn is left alone */
    ram_get(&ram, mirror, before, sizeof before);
    relabel("South");
    ram_get(&ram, mirror, after, sizeof after);
    assert_memory_equal(before, after, sizeof before);
    assert_string_equal(look()->label, "South");
    craft_flip(&ram, table + 510);
    assert_status(draft_label("East"), SLATE_ERR_CHANGED);
    craft_flip(&ram, table + 510);
    craft_le(&ram, table + 24, 100, 4); /* less than its attributes take */
    assert_status(draft_label("East"), SLATE_ERR_CHANGED);
    craft_le(&ram, table + 24, 5000, 4);
    assert_status(draft_label("East"), SLATE_ERR_CHANGED);
    assert_status(draft_label("\xFF"), SLATE_ERR_LABEL);
    ram_close(&ram);
}

/* Where there was no label, its attribute comes in its place; and "" adds
 * none. */
static void a_label_may_be_new(void **state)
{
    uint8_t record[1024];
    uint64_t at;
    uint32_t label = 0, used;
    struct ntfs_attribute a;

    (void)state;
    lay_volume(512, "North");
    for (int mirror = 0; mirror < 2; mirror++) {
        label = 0;
        at = record_at(3, mirror);
        ram_get(&ram, at, record, sizeof record);
        used = (uint32_t)ntfs_number(record + 24, 4);
        while (ntfs_next(record, &label, &a) && a.type != 0x60)
            ;
        memmove(record + label, record + label + 40, used - label - 40);
        memset(record + used - 40, 0, 40);
        record[24] = (uint8_t)(used - 40);
        record[25] = (uint8_t)((used - 40) >> 8);
        ram_put(&ram, at, record, sizeof record);
    }
    assert_string_equal(look()->label, "");
    assert_status(draft_label(""), SLATE_ERR_ARGUMENT);
    relabel("South");
    check_all();
    assert_string_equal(seen.label, "South");
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_told_is_so),
        cmocka_unit_test(a_bitmap_may_be_scattered),
        cmocka_unit_test(what_a_look_leaves_open_is_counted),
        cmocka_unit_test(what_cannot_be_counted_is_not_told),
        cmocka_unit_test(what_is_not_clean_is_told),
        cmocka_unit_test(a_mirror_that_differs_is_told),
        cmocka_unit_test(labels_of_every_length),
        cmocka_unit_test(a_label_has_to_have_room),
        cmocka_unit_test(records_that_are_odd),
        cmocka_unit_test(a_label_may_be_new),
    };

    return cmocka_run_group_tests_name("ntfs_places", tests, NULL, NULL);
}
