/* SPDX-License-Identifier: MIT */
/* The surface scan over a device whose blocks go wrong in every way, and what a
 * renewal makes of it. */
#include "check.h"
#include "tool_case.h"

#define BLOCKS 100000u
#define ROOM 64

/* How a block goes wrong. */
enum wrong {
    SOUND,
    UNREADABLE,  /* always */
    WEAK,        /* its first reads fail */
    UNWRITABLE,  /* refuses writes */
    KEEPS_OLD,   /* takes writes, and stays as it is */
    TURNS,       /* gives back another bit */
    DIES_WRITTEN /* can be read until it is written */
};

static struct ram ram;
static struct slate_port_ops ops;
static struct slate_media media;
static const struct slate_agreement agreed = {media.tag, NULL};
static uint8_t wrong[BLOCKS];
static uint8_t tries[BLOCKS];
static uint32_t weak_tries; /* reads of a weak block that fail */
static uint64_t gone_after; /* transfers; 0: never */
static uint64_t transfers, written_blocks;
static bool claimed;
static bool overlapped; /* the device has two transfers at a time */
static struct slate_request *under_way[2];
static uint32_t doubles; /* there was one under way already */
static uint8_t work[65536];
static struct slate_range found[ROOM];
static struct slate_scan scan;

static bool is_gone(void)
{
    transfers++;
    return gone_after != 0 && transfers > gone_after;
}

static enum slate_status read_some(void *context, uint64_t lba, uint32_t count,
                                   void *data)
{
    enum slate_status status;

    if (is_gone())
        return SLATE_ERR_NO_DEVICE;
    for (uint64_t i = lba; i < lba + count; i++) {
        if (wrong[i] == UNREADABLE ||
            (wrong[i] == WEAK && tries[i]++ < weak_tries) ||
            (wrong[i] == DIES_WRITTEN && tries[i] != 0))
            return SLATE_ERR_READ;
    }
    status = ram.port.ops->read(context, lba, count, data);
    for (uint64_t i = lba; i < lba + count; i++)
        if (wrong[i] == TURNS)
            ((uint8_t *)data)[(i - lba) * 512 + 300] ^= 16;
    return status;
}

static enum slate_status write_some(void *context, uint64_t lba, uint32_t count,
                                    const void *data)
{
    if (is_gone())
        return SLATE_ERR_NO_DEVICE;
    for (uint64_t i = lba; i < lba + count; i++) {
        if (wrong[i] == UNWRITABLE)
            return SLATE_ERR_WRITE;
        if (wrong[i] == DIES_WRITTEN)
            tries[i] = 1;
    }
    written_blocks += count;
    for (uint64_t i = lba; i < lba + count; i++) {
        enum slate_status status =
            wrong[i] == KEEPS_OLD
                ? SLATE_OK
                : ram.port.ops->write(context, i, 1,
                                      (const uint8_t *)data + (i - lba) * 512);

        if (status != SLATE_OK)
            return status;
    }
    return SLATE_OK;
}

static enum slate_status submit(void *context, struct slate_request *request)
{
    (void)context;
    assert_null(under_way[1]);
    under_way[under_way[0] == NULL ? 0 : 1] = request;
    doubles += under_way[1] != NULL ? 1 : 0;
    return SLATE_OK;
}

static enum slate_status wait_for(void *context, struct slate_request *request)
{
    assert_ptr_equal(under_way[0], request);
    under_way[0] = under_way[1];
    under_way[1] = NULL;
    return request->write ? write_some(context, request->lba, request->count,
                                       request->data)
                          : read_some(context, request->lba, request->count,
                                      request->data);
}

static enum slate_status claim(void *context)
{
    (void)context;
    assert_false(claimed);
    claimed = true;
    return SLATE_OK;
}

static enum slate_status release(void *context)
{
    (void)context;
    assert_true(claimed);
    claimed = false;
    return SLATE_OK;
}

static void open_device(void)
{
    static struct slate_port port;

    memset(wrong, SOUND, sizeof wrong);
    memset(tries, 0, sizeof tries);
    gone_after = transfers = written_blocks = doubles = 0;
    weak_tries = 2;
    ram_open(&ram, 512, BLOCKS, true);
    ops = *ram.port.ops;
    ops.read = read_some;
    ops.write = write_some;
    ops.submit = overlapped ? submit : NULL;
    ops.wait = overlapped ? wait_for : NULL;
    ops.claim = claim;
    ops.release = release;
    port = (struct slate_port){&ops, ram.port.context};
    assert_ok(slate_media_open(&media, &port));
}

static void begin(uint64_t first, uint64_t count, uint32_t room, size_t bytes)
{
    const struct slate_range range = {first, count};
    const struct slate_ranges bad = {found, room, 0};

    assert_ok(slate_scan_start(&scan, &media, &range, &bad, work, bytes));
}

static enum slate_status run(bool writing)
{
    enum slate_status status = SLATE_OK;

    if (writing)
        assert_ok(slate_scan_write(&scan, &agreed));
    while (status == SLATE_OK && scan.phase != SLATE_SCAN_DONE) {
        uint64_t done = scan.done;

        status = slate_scan_step(&scan);
        assert_true(scan.done >= done && scan.done <= scan.total);
    }
    assert_ok(slate_scan_end(&scan));
    assert_false(claimed);
    assert_null(under_way[0]);
    return status;
}

static bool is_found(uint64_t block)
{
    for (uint32_t i = 0; i < scan.bad.count; i++)
        if (block - found[i].first < found[i].count)
            return true;
    return false;
}

/* Each way of going wrong, at the ends of the device and of chunks, alone and
 * in rows: what is found is that, and nothing else. */
static void every_way_is_found(void **state)
{
    static const struct {
        enum wrong way;
        bool read, written; /* found by reading; by writing first */
    } ways[] = {{SOUND, false, false},      {UNREADABLE, true, true},
                {WEAK, false, false},       {UNWRITABLE, false, true},
                {KEEPS_OLD, false, true},   {TURNS, false, true},
                {DIES_WRITTEN, false, true}};
    static const uint64_t places[] = {0,   1,   7,   8,    127,   128,
                                      129, 255, 600, 5000, 99998, 99999};

    (void)state;
    for (size_t bytes = 4096; bytes <= sizeof work; bytes *= 16) {
        for (size_t i = 0; i < sizeof ways / sizeof ways[0]; i++) {
            for (int writing = 0; writing < 2; writing++) {
                bool expected = writing ? ways[i].written : ways[i].read;
                uint32_t count = 0;

                open_device();
                for (size_t k = 0; k < sizeof places / sizeof places[0]; k++)
                    wrong[places[k]] = (uint8_t)ways[i].way;
                begin(0, BLOCKS, ROOM, bytes);
                assert_ok(run(writing));
                assert_int_equal(scan.done, scan.total);
                assert_int_equal(doubles > 0, overlapped);
                assert_status(media.fault.status, SLATE_OK);
                assert_int_equal(scan.total, BLOCKS * (writing ? 2 : 1));
                for (uint64_t block = 0; block < BLOCKS; block++) {
                    bool is_bad = wrong[block] != SOUND && expected;

                    assert_int_equal(is_found(block), is_bad);
                    count += is_bad;
                }
                assert_int_equal(slate_scan_bad(&scan), count);
                assert_int_equal(scan.weak > 0, ways[i].way == WEAK);
                assert_int_equal(scan.unwritable > 0,
                                 writing && ways[i].way == UNWRITABLE);
                assert_int_equal(scan.altered > 0,
                                 writing && (ways[i].way == KEEPS_OLD ||
                                             ways[i].way == TURNS));
                assert_int_equal(writing ? 1 : 0, written_blocks > 0);
                ram_close(&ram);
            }
        }
    }
}

/* A block that is read at the third try is weak, at the fifth bad: the chunk's
 * try, its own, and three more. */
static void tries_are_counted(void **state)
{
    (void)state;
    for (weak_tries = 1; weak_tries < 7; weak_tries++) {
        uint32_t fail = weak_tries;

        open_device();
        weak_tries = fail;
        wrong[777] = WEAK;
        begin(0, BLOCKS, ROOM, sizeof work);
        assert_ok(run(false));
        assert_int_equal(scan.weak, fail >= 2 && fail < 5);
        assert_int_equal(scan.unreadable, fail >= 5);
        ram_close(&ram);
    }
}

/* Only what was asked for is touched, and what is known stays on the list. */
static void a_range_is_kept_to(void **state)
{
    struct slate_ranges bad = {found, ROOM, 1};
    struct slate_range range = {1000, 500};
    uint8_t block[512];

    (void)state;
    open_device();
    memset(block, 0xA5, sizeof block);
    ram_put(&ram, 999 * 512, block, sizeof block);
    ram_put(&ram, 1500 * 512, block, sizeof block);
    wrong[999] = wrong[1500] = UNREADABLE;
    wrong[1100] = wrong[1101] = wrong[1499] = UNREADABLE;
    found[0] = (struct slate_range){1101, 1}; /* is known already */
    assert_ok(slate_scan_start(&scan, &media, &range, &bad, work, sizeof work));
    assert_ok(run(true));
    assert_int_equal(slate_scan_bad(&scan), 2);
    assert_int_equal(scan.bad.count, 2);
    assert_true(found[0].first == 1100 && found[0].count == 2);
    assert_true(found[1].first == 1499 && found[1].count == 1);
    assert_int_equal(written_blocks, 500);
    ram_get(&ram, 999 * 512, work, 512);
    assert_memory_equal(work, block, 512);
    ram_get(&ram, 1500 * 512, work, 512);
    assert_memory_equal(work, block, 512);
    range = (struct slate_range){BLOCKS - 10, 1000}; /* is cut */
    bad.count = 0;
    assert_ok(slate_scan_start(&scan, &media, &range, &bad, work, sizeof work));
    assert_int_equal(scan.total, 10);
    ram_close(&ram);
}

/* What a scan wrote is not taken for what a probe has left. */
static void a_pattern_bears_no_name(void **state)
{
    (void)state;
    open_device();
    begin(0, 2000, ROOM, sizeof work);
    assert_ok(run(true));
    for (uint64_t block = 0; block < 2000; block++) {
        ram_get(&ram, block * 512, work, 512);
        assert_false(slate_pattern_is_any(work, 512));
        ram_get(&ram, (block + 1) * 512, work + 512, 512);
        assert_memory_not_equal(work, work + 512, 512);
    }
    ram_close(&ram);
}

static void what_ends_a_scan(void **state)
{
    const struct slate_range all = {0, BLOCKS}, beyond = {BLOCKS, 1},
                             none = {0, 0};
    const struct slate_ranges bad = {found, ROOM, 0};

    (void)state;
    for (uint64_t after = 0; after < 40; after++) { /* it drops off */
        open_device();
        begin(0, BLOCKS, ROOM, 4096);
        wrong[after * 8 + 3] = UNREADABLE;
        transfers = 0;
        gone_after = after + 1;
        assert_status(run(after % 2 == 0), SLATE_ERR_NO_DEVICE);
        assert_int_equal(slate_scan_step(&scan), SLATE_ERR_NO_DEVICE);
        assert_true(scan.done < scan.total);
        ram_close(&ram);
    }
    for (uint32_t steps = 0; steps < 20; steps++) { /* it is left off */
        open_device();
        wrong[8 * steps + 1] = wrong[8 * steps + 9] = UNREADABLE;
        begin(0, 4000, ROOM, 8192);
        for (uint32_t i = 0; i < steps; i++)
            assert_ok(slate_scan_step(&scan));
        assert_ok(slate_scan_end(&scan));
        assert_null(under_way[0]);
        assert_status(media.fault.status, SLATE_OK);
        ram_close(&ram);
    }
    open_device();
    for (uint32_t i = 0; i < 20; i++)
        wrong[100 + 2 * i] = UNREADABLE;
    begin(0, BLOCKS, 19, 4096);
    assert_status(run(false), SLATE_ERR_BAD_LIST);
    assert_int_equal(scan.bad.count, 19);
    begin(0, BLOCKS, 20, 4096);
    assert_ok(run(false));
    assert_status(slate_scan_start(&scan, &media, &beyond, &bad, work, 4096),
                  SLATE_ERR_ARGUMENT);
    assert_status(slate_scan_start(&scan, &media, &none, &bad, work, 4096),
                  SLATE_ERR_ARGUMENT);
    assert_status(slate_scan_start(&scan, &media, &all, &bad, work, 4095),
                  SLATE_ERR_BUFFER);
    assert_status(slate_scan_start(&scan, &media, &all, &bad, NULL, 4096),
                  SLATE_ERR_BUFFER);
    ram_close(&ram);
}

static void it_is_put_in_words(void **state)
{
    static const struct {
        uint64_t unreadable, altered, weak;
        bool writes;
        enum slate_device_kind kind;
        const char *said;
        uint64_t blocks;
    } rows[] = {
        {0, 0, 0, false, SLATE_DEVICE_DISK, "only a scan that writes tells", 0},
        {0, 0, 0, true, SLATE_DEVICE_DISK, "kept what was written", 0},
        {0, 0, 2, true, SLATE_DEVICE_DISK, "at a second try only", 0},
        {1, 0, 0, true, SLATE_DEVICE_OTHER, "seldom the last ones", 0},
        {1, 0, 0, false, SLATE_DEVICE_STICK, "Replace it", 0},
        {1, 0, 0, true, SLATE_DEVICE_CARD, "Replace it", 0},
        {1, 0, 0, false, SLATE_DEVICE_DISK, "once they are written", 0},
        {1, 0, 0, true, SLATE_DEVICE_DISK, "no more blocks to replace", 0},
        {1, 1, 0, true, SLATE_DEVICE_DISK, "do not trust it", 0},
        {1, 0, 0, true, SLATE_DEVICE_DISK, "its sticker lists", 41820},
        {1, 0, 0, false, SLATE_DEVICE_DISK, "its sticker lists", 1048575},
        {1, 0, 0, true, SLATE_DEVICE_DISK, "no more blocks", 1048576},
        {1, 0, 0, true, SLATE_DEVICE_CARD, "Replace it", 41820},
        {1, 1, 0, true, SLATE_DEVICE_DISK, "do not trust it", 41820}};
    static struct slate_media old;

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_scan told = {.media = rows[i].blocks > 0 ? &old : NULL,
                                  .unreadable = rows[i].unreadable,
                                  .altered = rows[i].altered,
                                  .weak = rows[i].weak,
                                  .writes = rows[i].writes};

        old.geometry = (struct slate_geometry){.block_bytes = 512,
                                               .block_count = rows[i].blocks};
        assert_non_null(
            strstr(slate_scan_words(&told, rows[i].kind), rows[i].said));
    }
}

/* The tool: what a scan finds is in the draft, and on the volume. */
static void the_tool_scans(void **state)
{
    static const char *const faults =
        "{\"content\": [], \"blocks\": 131072, \"bytes_per_second\": "
        "900000000, \"faults\": ["
        "{\"kind\": \"read\", \"first\": 5000, \"blocks\": 1},"
        "{\"kind\": \"read\", \"first\": 6000, \"blocks\": 4},"
        "{\"kind\": \"write\", \"first\": 70000, \"blocks\": 2}]}";

    (void)state;
    lay_device("stick-slow", faults);
    assert_int_equal(tool_run(&p, "assess sim:stick-slow --json"), 0);
    take_tag();
    setenv("TAG", tag, 1);
    /* how far it is may be told meanwhile, on a busy machine */
    assert_int_equal(tool_run(&p, "draft sim:stick-slow --scan"), 0);
    assert_non_null(strstr(p.out, "5 of 131072 blocks are bad"));
    assert_non_null(strstr(p.out, "6000-6003."));
    assert_non_null(strstr(p.out, "no more to"));
    assert_int_equal(tool_run(&p, "draft sim:stick-slow --scan --scan-from "
                                  "5001 --bad 5000"),
                     0);
    assert_non_null(strstr(p.out, "4 of 126071 blocks are bad"));
    expect("draft sim:stick-slow --scan --scan-from 131072", 2,
           "which has 131072");
    expect("draft sim:stick-slow --scan-from 9", 2, "expected --scan or");
    expect("renew sim:stick-slow --scan-from 9", 2, "expected --scan or");
    expect("draft sim:stick-slow --scan --scan-from x", 2,
           "the number of a block");
    expect("renew sim:stick-slow --scan --consent NOSUCH-1", 3, "asks for");
    expect("renew sim:stick-slow --scan", 3, "add --consent");
    sh_answers("$TOOL renew sim:stick-slow --volume fat16 --scan-writes "
               "--scan-from 69000 --bad 5000,6000-6003 --consent $TAG",
               0, "2 of 62073 blocks are bad");
    sh_answers("$TOOL renew sim:stick-slow --volume fat16 --scan-writes "
               "--consent $TAG",
               0, "7 of 131072 blocks are bad");
    assert_non_null(strstr(shell.out, "70000-70001."));
}

static void a_scan_is_reported(void **state)
{
    (void)state;
    lay_device("stick-slow",
               "{\"content\": [], \"blocks\": 131072, \"bytes_per_second\": "
               "900000000, "
               "\"faults\": [{\"kind\": \"read\", \"first\": 5000, "
               "\"blocks\": 3}]}");
    assert_int_equal(tool_run(&p, "assess sim:stick-slow --json"), 0);
    take_tag();
    setenv("TAG", tag, 1);
    for (int i = 0; i < 3; i++) {
        static const char *const volumes[] = {"ntfs", "ext4", "exfat"};
        char line[200];

        snprintf(line, sizeof line,
                 "renew sim:stick-slow --volume %s --scan --consent %s --json",
                 volumes[i], tag);
        assert_int_equal(tool_run(&p, line), 0);
        check_schema("renew");
        assert_int_equal(number("scan.bad_blocks"), 3);
        assert_int_equal(number("scan.bad.0.first"), 5000);
        assert_int_equal(number("scan.bad.0.blocks"), 3);
    }
    expect("renew sim:stick-slow --keep all --scan-writes --consent X", 2,
           "goes over the whole device");
}

static int let_overlap(void **state)
{
    (void)state;
    overlapped = true;
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_way_is_found),
        cmocka_unit_test(tries_are_counted),
        cmocka_unit_test(a_range_is_kept_to),
        cmocka_unit_test(a_pattern_bears_no_name),
        cmocka_unit_test(what_ends_a_scan),
        cmocka_unit_test(it_is_put_in_words),
        cmocka_unit_test_setup(every_way_is_found, let_overlap),
        cmocka_unit_test(tries_are_counted),
        cmocka_unit_test(a_range_is_kept_to),
        cmocka_unit_test(what_ends_a_scan),
        cmocka_unit_test_setup(the_tool_scans, fresh_bench),
        cmocka_unit_test_setup(a_scan_is_reported, fresh_bench),
    };

    return cmocka_run_group_tests_name("scan", tests, NULL, clean);
}
