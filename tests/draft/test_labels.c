/* SPDX-License-Identifier: MIT */
/* Another label in place: every copy of it, nothing else, cut anywhere; found
 * by the fields of the specifications, not by the library. */
#include "check.h"
#include "craft.h"
#include "in_place.h"
#include "tool_case.h"

static struct session s;

static const enum slate_volume_kind kinds[] = {
    SLATE_VOLUME_FAT12, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT32,
    SLATE_VOLUME_EXFAT};

#define KINDS (sizeof kinds / sizeof kinds[0])

/* A fresh volume without a table, of 8 to 64 MiB. */
static void lay_volume(struct ram *ram, enum slate_volume_kind kind,
                       uint32_t block_bytes, const char *label)
{
    struct wanted goal = {
        .table_given = true, .table = SLATE_TABLE_NONE, .volume = kind};

    strcpy(goal.label, label);
    if (kind == SLATE_VOLUME_EXT4 && block_bytes == 512)
        goal.cluster_bytes = 1024;
    ram_open(ram, block_bytes,
             kind == SLATE_VOLUME_FAT12 ? 8388608 / block_bytes
             : block_bytes == 512       ? 131072
                                        : 131072 * 2,
             true);
    assert_ok(session_draft(&s, ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
}

/* Where the root directory begins, worked out from the boot block. */
static uint64_t root_of(const struct ram *ram, enum slate_volume_kind kind)
{
    uint8_t b[512];

    ram_get(ram, 0, b, sizeof b);
    if (kind == SLATE_VOLUME_EXFAT)
        return (number_at(b, 88, 4) + ((number_at(b, 96, 4) - 2) << b[109]))
               << b[108];
    return (number_at(b, 14, 2) + b[16] * (kind == SLATE_VOLUME_FAT32
                                               ? number_at(b, 36, 4)
                                               : number_at(b, 22, 2))) *
           number_at(b, 11, 2);
}

static enum slate_status draft_label(const struct ram *ram, const char *label)
{
    enum slate_status status;
    uint32_t partition;

    assert_ok(session_look(&s, ram));
    partition =
        s.facts.layout.kind == SLATE_TABLE_NONE ? SLATE_ATTRIBUTE_WHOLE : 0;
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    status = slate_draft_label(&s.draft, &s.facts, partition, label, &s.media,
                               s.work);
    return status == SLATE_OK ? slate_draft_make(&s.draft) : status;
}

static void relabel(struct ram *ram, const char *label)
{
    assert_ok(draft_label(ram, label));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
}

/* The fields that a label of eleven characters stands in. */
static const struct field {
    enum slate_volume_kind kind;
    uint64_t byte; /* in the volume; 0: the root's first entry */
    uint32_t blocks;
    uint32_t length;
} fields[] = {{SLATE_VOLUME_FAT12, 43, 0, 11}, {SLATE_VOLUME_FAT12, 0, 0, 11},
              {SLATE_VOLUME_FAT16, 43, 0, 11}, {SLATE_VOLUME_FAT16, 0, 0, 11},
              {SLATE_VOLUME_FAT32, 71, 0, 11}, {SLATE_VOLUME_FAT32, 71, 6, 11},
              {SLATE_VOLUME_FAT32, 0, 0, 11},  {SLATE_VOLUME_EXFAT, 0, 0, 32}};

#define FIELDS (sizeof fields / sizeof fields[0])

static uint64_t byte_of(const struct field *field, const struct ram *ram)
{
    return field->byte == 0
               ? root_of(ram, field->kind)
               : field->byte + field->blocks * ram->facts.block_bytes;
}

/* Each holds what it should; with all of them put back, nothing has changed. */
static void check_fields(const struct ram *before, struct ram *after,
                         enum slate_volume_kind kind, const uint8_t *wanted)
{
    struct ram back;
    uint8_t bytes[32];

    ram_copy(&back, after);
    for (size_t i = 0; i < FIELDS; i++) {
        uint64_t at = byte_of(&fields[i], before);

        if (fields[i].kind != kind)
            continue;
        ram_get(after, at, bytes, fields[i].length);
        assert_memory_equal(bytes, wanted, fields[i].length);
        ram_get(before, at, bytes, fields[i].length);
        ram_put(&back, at, bytes, fields[i].length);
    }
    assert_true(ram_equal(&back, before));
    ram_close(&back);
}

static void every_copy_and_nothing_else(void **state)
{
    static const uint8_t exfat[32] = {0x83, 9, 'W', 0, 'a', 0, 'v', 0, 'e', 0,
                                      ' ',  0, 'r', 0, '.', 0, '7', 0, '7', 0};

    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (uint32_t block = 512; block <= 4096; block *= 8) {
            struct ram before, after;

            if (kinds[i] == SLATE_VOLUME_FAT32 && block == 4096)
                continue; /* needs 268 MiB: as any other */
            lay_volume(&before, kinds[i], block, "TIDE GAUGE 7");
            ram_copy(&after, &before);
            relabel(&after, "Wave r.77");
            check_fields(&before, &after, kinds[i],
                         kinds[i] == SLATE_VOLUME_EXFAT
                             ? exfat
                             : (const uint8_t *)"WAVE R_77  ");
            assert_string_equal(s.draft.change.renamed.label,
                                kinds[i] == SLATE_VOLUME_EXFAT ? "Wave r.77"
                                                               : "WAVE R_77");
            ram_close(&before);
            ram_close(&after);
        }
    }
}

static const char *shown(const struct ram *ram)
{
    assert_ok(session_look(&s, ram));
    return s.facts.whole.label;
}

/* Files as a host leaves them ahead of the label's place. */
static void fill_root(struct ram *ram, uint64_t at, uint32_t entries,
                      enum slate_volume_kind kind)
{
    uint8_t entry[32] = "READING1TXT ";

    if (kind == SLATE_VOLUME_EXFAT)
        memset(entry, 0xC1, sizeof entry); /* a name; its file does not count */
    for (uint32_t i = 0; i < entries; i++)
        ram_put(ram, at + (uint64_t)i * 32, entry, sizeof entry);
}

static void labels_come_and_go(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        bool exfat = kinds[i] == SLATE_VOLUME_EXFAT;
        uint64_t root, own = exfat ? 3 : 0;
        uint8_t entry[32], deleted = exfat ? 0x05 : 0xE5;
        struct ram ram;

        lay_volume(&ram, kinds[i], 512, "");
        root = root_of(&ram, kinds[i]);
        assert_string_equal(shown(&ram), "");
        relabel(&ram, "FIRST");
        assert_string_equal(shown(&ram), "FIRST");
        relabel(&ram, "");
        assert_string_equal(shown(&ram), "");
        ram_get(&ram, root, entry, sizeof entry);
        assert_int_equal(entry[0], exfat ? 0x03 : 0xE5);
        if (exfat) { /* as others leave it: no entry for a label at all */
            ram_get(&ram, root + 32, entry, sizeof entry);
            ram_put(&ram, root, entry, sizeof entry);
        }
        /* behind files; then where one was deleted */
        fill_root(&ram, root + own * 32, 5, kinds[i]);
        relabel(&ram, "SECOND");
        assert_string_equal(shown(&ram), "SECOND");
        ram_get(&ram, root + (own + 5) * 32, entry, sizeof entry);
        assert_int_equal(entry[exfat ? 0 : 11], exfat ? 0x83 : 0x08);
        ram_put(&ram, root + (own + 5) * 32, "", 1);
        ram_put(&ram, root + (own + 2) * 32, &deleted, 1);
        relabel(&ram, "THIRD");
        ram_get(&ram, root + (own + 2) * 32, entry, sizeof entry);
        assert_memory_equal(entry + (exfat ? 2 : 0), exfat ? "T\0H\0" : "THIR",
                            4);
        ram_close(&ram);
    }
}

/* What stands behind the end of a directory is not to show up again. */
static void what_is_behind_the_end_stays_there(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        bool exfat = kinds[i] == SLATE_VOLUME_EXFAT;
        uint64_t root;
        uint8_t none[32] = {0};
        struct ram ram, before;

        lay_volume(&ram, kinds[i], 512, "");
        root = root_of(&ram, kinds[i]);
        if (exfat) { /* bitmap and up-case table, then the end */
            uint8_t entries[64];

            ram_get(&ram, root + 32, entries, sizeof entries);
            ram_put(&ram, root, entries, sizeof entries);
            ram_put(&ram, root + 64, none, sizeof none);
            fill_root(&ram, root + 96, 1, kinds[i]);
        } else {
            fill_root(&ram, root, 3, kinds[i]);
            ram_put(&ram, root + 32, none, sizeof none);
        }
        ram_copy(&before, &ram);
        assert_status(draft_label(&ram, "NEW"), SLATE_ERR_ROOT_FULL);
        assert_true(ram_equal(&ram, &before));
        ram_close(&ram);
        ram_close(&before);
    }
}

/* A root directory of three clusters that are not neighbours; the label is in
 * the last one, and then none is, and then the chain leads in a circle. */
static void a_root_may_be_scattered(void **state)
{
    static const uint32_t chain[] = {77, 5000, 300};

    (void)state;
    for (size_t i = 2; i < KINDS; i++) {
        bool exfat = kinds[i] == SLATE_VOLUME_EXFAT;
        uint64_t root, table, cluster, first, clusters_at;
        uint8_t b[512];
        struct ram ram;

        lay_volume(&ram, kinds[i], 512, "NORTH");
        root = root_of(&ram, kinds[i]);
        ram_get(&ram, 0, b, sizeof b);
        first = exfat ? number_at(b, 96, 4) : 2;
        table = 512 * (exfat ? number_at(b, 80, 4) : number_at(b, 14, 2));
        cluster = 512u * (exfat ? 1u << b[109] : b[13]);
        clusters_at = root - (first - 2) * cluster;
        fill_root(&ram, root + (exfat ? 96 : 0),
                  (uint32_t)cluster / 32 - (exfat ? 3 : 0), kinds[i]);
        if (exfat) /* no room for a label there */
            ram_put(&ram, root, "\xC1", 1);
        for (int j = 0; j < 3; j++) {
            craft_le(&ram, table + 4 * (j == 0 ? first : chain[j - 1]),
                     chain[j], 4);
            fill_root(&ram, clusters_at + (chain[j] - 2) * cluster,
                      (uint32_t)cluster / 32, kinds[i]);
        }
        craft_le(&ram, table + 4 * chain[2], 0x0FFFFFFF | (exfat ? ~0u : 0), 4);
        assert_status(draft_label(&ram, "NEW"), SLATE_ERR_ROOT_FULL);
        ram_put(&ram, clusters_at + (chain[2] - 2) * cluster + 64,
                exfat ? "\x83\1O\0" : "OLD        \x08", exfat ? 4 : 12);
        relabel(&ram, "NEW");
        ram_get(&ram, clusters_at + (chain[2] - 2) * cluster + 64, b, 32);
        assert_memory_equal(b, exfat ? "\x83\3N\0E\0W\0" : "NEW        \x08",
                            exfat ? 8 : 12);
        fill_root(&ram, clusters_at + (chain[2] - 2) * cluster + 64, 1,
                  kinds[i]);
        craft_le(&ram, table + 4 * chain[2], chain[0], 4);
        assert_status(draft_label(&ram, "NEW"), SLATE_ERR_ROOT_FULL);
        craft_le(&ram, table + 4 * first, 0xFFFFFF0, 4); /* leads nowhere */
        assert_status(draft_label(&ram, "NEW"), SLATE_ERR_ROOT_FULL);
        ram_close(&ram);
    }
}

static void others_are_refused(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 131072, true);
    craft_apfs(&ram, 0, 131072, "Station");
    assert_status(draft_label(&ram, "NEW"), SLATE_ERR_FORMAT);
    ram_close(&ram);
    ram_open(&ram, 512, 131072, true);
    assert_status(draft_label(&ram, "NEW"), SLATE_ERR_FORMAT);
    ram_close(&ram);
    lay_volume(&ram, SLATE_VOLUME_FAT16, 512, "HERE");
    assert_status(draft_label(&ram, "b\xFF"), SLATE_ERR_LABEL);
    assert_ok(draft_label(&ram, "ONE"));
    assert_status(slate_draft_label(&s.draft, &s.facts, SLATE_ATTRIBUTE_WHOLE,
                                    "TWO", &s.media, s.work),
                  SLATE_ERR_ARGUMENT);
    ram.fail_read = root_of(&ram, SLATE_VOLUME_FAT16) / 512;
    assert_ok(session_look(&s, &ram));
    assert_status(draft_label(&ram, "ONE"), SLATE_ERR_READ);
    ram_close(&ram);
}

/* A volume has its old label or its new one, or one that is torn between them;
 * all else of it is as it was. */
static void check_cut(const struct shim *shim, const void *told)
{
    const enum slate_volume_kind *kind = told;

    assert_ok(slate_media_open(&s.media, &shim->port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    if (shim->unreadable == UINT64_MAX)
        assert_int_equal(s.facts.whole.kind, *kind);
}

/* A bit at a time, as the polynomial has it. */
static uint32_t crc(const uint8_t *bytes, size_t length)
{
    uint32_t sum = UINT32_MAX;

    for (size_t i = 0; i < length; i++) {
        sum ^= bytes[i];
        for (int bit = 0; bit < 8; bit++)
            sum = sum >> 1 ^ ((sum & 1) != 0 ? 0x82F63B78u : 0);
    }
    return sum;
}

/* The label, and four bytes that nobody reads; the checksum is right, and all
 * else is as it was. */
static void check_super(const struct ram *before, const struct ram *after,
                        uint64_t at, const char *label)
{
    uint8_t old[1024], new[1024], wanted[16] = {0};

    ram_get(before, at, old, sizeof old);
    ram_get(after, at, new, sizeof new);
    memcpy(wanted, label, strlen(label));
    assert_int_equal(number_at(new, 56, 2), 0xEF53);
    assert_memory_equal(new + 120, wanted, 16);
    assert_int_equal(number_at(new, 1020, 4), crc(new, 1020));
    memcpy(old + 120, new + 120, 16);
    memcpy(old + 196, new + 196, 4);
    assert_memory_equal(old, new, sizeof old);
}

/* Eight groups of 8 MiB or of 128 MiB: the superblock, and four copies. */
static void ext4_has_its_label_in_every_copy(void **state)
{
    static const uint32_t copies[] = {1, 3, 5, 7};
    static const char *const labels[] = {"Station S\xC3\xB8r 7", "", "x",
                                         "sixteen bytes ok"};

    (void)state;
    for (size_t i = 0; i < 8; i++) {
        uint32_t block = i % 2 == 0 ? 512 : 4096,
                 unit = i % 2 == 0 ? 1024 : 4096;
        const char *label = labels[i / 2];
        struct ram before, after, back;

        lay_volume(&before, SLATE_VOLUME_EXT4, block, "North");
        ram_copy(&after, &before);
        relabel(&after, label);
        assert_string_equal(s.draft.change.renamed.label, label);
        check_super(&before, &after, 1024, label);
        ram_copy(&back, &after);
        for (size_t c = 0; c < 5; c++) {
            uint64_t at =
                c == 0 ? 1024
                       : ((unit == 1024) + copies[c - 1] * 8ull * unit) * unit;
            uint8_t super[1024];

            check_super(&before, &after, at, label);
            ram_get(&before, at, super, sizeof super);
            ram_put(&back, at, super, sizeof super);
        }
        assert_true(ram_equal(&back, &before));
        ram_close(&before);
        ram_close(&after);
        ram_close(&back);
    }
}

/* A log that has to be replayed might bring the old label back. */
static void ext4_with_a_log_to_replay_is_refused(void **state)
{
    uint8_t super[1024];
    struct ram ram;
    uint32_t sum;

    (void)state;
    lay_volume(&ram, SLATE_VOLUME_EXT4, 512, "North");
    assert_ok(draft_label(&ram, "South"));
    ram_get(&ram, 1024, super, sizeof super);
    super[96] |= 4;
    sum = crc(super, 1020);
    for (int i = 0; i < 4; i++)
        super[1020 + i] = (uint8_t)(sum >> 8 * i);
    ram_put(&ram, 1024, super, sizeof super);
    assert_status(draft_label(&ram, "South"), SLATE_ERR_UNCLEAN);
    super[1020] ^= 1; /* and one whose checksum is wrong is no such volume */
    ram_put(&ram, 1024, super, sizeof super);
    assert_status(draft_label(&ram, "South"), SLATE_ERR_CHANGED);
    ram_close(&ram);
}

static void the_power_may_go_in_every_write(void **state)
{
    static const enum slate_volume_kind all[] = {
        SLATE_VOLUME_FAT12, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT32,
        SLATE_VOLUME_EXFAT, SLATE_VOLUME_EXT4,  SLATE_VOLUME_NTFS};
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        struct ram before, after;

        lay_volume(&before, all[i], 512, i % 2 == 0 ? "NORTH" : "");
        ram_copy(&after, &before);
        after.writes = 0;
        relabel(&after, "SOUTH");
        states += in_place_cuts(&s, &before, &after, check_cut, &all[i]);
        ram_close(&before);
        ram_close(&after);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 150);
}

static void the_tool_relabels(void **state)
{
    (void)state;
    expect("relabel sim:winch-disk --label winch.old", 3, "add --consent");
    expect("relabel sim:winch-disk", 2, "expected --label TEXT");
    expect("relabel sim:winch-disk --label X --partition 3", 2,
           "has no partition 3");
    expect("relabel sim:winch-disk --label X --partition 0", 2,
           "a number, from 1");
    expect("relabel sim:winch-disk --label winch.old --consent SEGAG-66", 0,
           "partition 1 becomes \"WINCH_OLD\"");
    assert_non_null(strstr(p.out, "FAT16 keeps 11 upper-case"));
    assert_non_null(strstr(p.out, "every one is as drafted"));
    expect("assess sim:winch-disk", 0, "\"WINCH_OLD\"");
    expect("relabel sim:winch-disk --label AGAIN --consent SEGAG-66 --json", 0,
           "AGAIN");
    check_schema("relabel");
    expect("relabel sim:winch-disk --label X --consent NOSUCH-1", 3,
           "asks for SEGAG-66");
    sh("cd $FOLDER && truncate -s 1G two.img && $TOOL assess two.img --json "
       ">two.json",
       0);
    assert_int_equal(tool_run(&p, "assess file:$/two.img --json"), 0);
    take_tag();
    setenv("TAG", tag, 1);
    sh("cd $FOLDER && $TOOL renew two.img --part 500MB --label one --part rest "
       "--volume exfat --label two --consent $TAG",
       0);
    expect("relabel file:$/two.img --label X", 2, "expected --partition N");
    sh("cd $FOLDER && $TOOL relabel two.img --partition 2 --label 'Wave 7' "
       "--consent $TAG && $TOOL assess two.img",
       0);
    assert_non_null(strstr(shell.out, "FAT32 \"ONE\""));
    assert_non_null(strstr(shell.out, "exFAT \"Wave 7\""));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_copy_and_nothing_else),
        cmocka_unit_test(labels_come_and_go),
        cmocka_unit_test(ext4_has_its_label_in_every_copy),
        cmocka_unit_test(ext4_with_a_log_to_replay_is_refused),
        cmocka_unit_test(what_is_behind_the_end_stays_there),
        cmocka_unit_test(a_root_may_be_scattered),
        cmocka_unit_test(others_are_refused),
        cmocka_unit_test(the_power_may_go_in_every_write),
        cmocka_unit_test_setup(the_tool_relabels, fresh_bench),
    };

    return cmocka_run_group_tests_name("labels", tests, NULL, clean);
}
