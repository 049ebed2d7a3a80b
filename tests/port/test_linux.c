/* SPDX-License-Identifier: MIT */
/* The port for the devices of this very host: what can be said of any host,
 * with and without permission to open its devices. (tests/oslab has one whose
 * devices are known.) */
#include <stdio.h>
#include <sys/stat.h>
#include <unistd.h>

#include <trueslate/port_linux.h>

#include "check.h"
#include "program.h"

struct seen {
    unsigned count;
    char names[64][32];
};

static void check_about(void *context, const struct slate_linux_about *about)
{
    struct seen *seen = context;
    struct slate_linux_about again;
    struct slate_linux *device = NULL;
    struct slate_media media;
    char path[128], why[SLATE_LINUX_WHY_ROOM] = "";
    struct stat partition;
    enum slate_status status;

    for (unsigned i = 0; i < seen->count; i++) /* each once */
        assert_string_not_equal(seen->names[i], about->name);
    snprintf(seen->names[seen->count % 64], 32, "%s", about->name);
    seen->count += seen->count < 63 ? 1 : 0;
    snprintf(path, sizeof path, "/sys/block/%s/partition", about->name);
    assert_int_not_equal(stat(path, &partition), 0); /* whole devices only */
    assert_true(strlen(about->body) > 0);
    assert_int_equal(about->transport, about->identity.transport);
    assert_true(slate_linux_describe(about->name, &again));
    assert_int_equal(again.bytes, about->bytes);
    status = slate_linux_open(about->name, &device, why);
    if (status != SLATE_OK) {
        assert_true(strlen(why) > 5);
        assert_null(device);
        return;
    }
    if (slate_media_open(&media, slate_linux_port(device)) == SLATE_OK) {
        static uint8_t block[SLATE_BLOCK_MAX];

        assert_int_equal(slate_geometry_bytes(&media.geometry), about->bytes);
        /* not claimed: reading is allowed, writing is not */
        assert_ok(slate_media_read(&media, 0, 1, block));
        assert_ok(slate_media_flush(&media));
    }
    assert_string_equal(slate_linux_about(device)->name, about->name);
    slate_linux_close(device);
}

static void the_host_lists_whole_devices_once(void **state)
{
    struct seen seen = {0};

    (void)state;
    assert_ok(slate_linux_list(check_about, &seen));
    print_message("  %u devices\n", seen.count);
    if (seen.count == 0)
        skip(); /* nothing was looked at */
}

static void what_is_no_device_is_refused_with_a_reason(void **state)
{
    static const char *const bad[] = {
        "",
        "nowhere",
        "../../proc",
        "sda/../sda",
        "/dev/null",
        "/etc/passwd",
        "/nowhere",
        "/",
        "a-name-that-is-longer-than-any-block-device-has"};

    (void)state;
    for (size_t i = 0; i < sizeof bad / sizeof bad[0]; i++) {
        char why[SLATE_LINUX_WHY_ROOM] = "";
        struct slate_linux_about about;
        struct slate_linux *device = NULL;

        assert_status(slate_linux_open(bad[i], &device, why),
                      SLATE_ERR_NO_DEVICE);
        assert_null(device);
        assert_true(strlen(why) > 5);
        assert_false(slate_linux_describe(bad[i], &about));
    }
    slate_linux_close(NULL);
}

/* Becomes "found" when the device is listed. */
static void find_node(void *context, const struct slate_linux_about *about)
{
    char *node = context;

    if (strncmp(node, "/dev/", 5) == 0 && strcmp(node + 5, about->name) == 0)
        memcpy(node, "found", 6);
}

/* A loop device, where the test may make one: claimed, written, cleared by the
 * host's own commands, given back. */
static void a_claimed_device_is_written_and_cleared(void **state)
{
    static struct program losetup, undo;
    const char *make[] = {"losetup", "-f", "--show", in_folder("image"), NULL};
    const char *drop[] = {"losetup", "-d", NULL, NULL};
    char node[64], kept[64], why[SLATE_LINUX_WHY_ROOM] = "";
    uint8_t out[4096], in[4096];
    struct slate_linux *device;
    struct slate_media media;
    FILE *file = fopen(in_folder("image"), "w");

    (void)state;
    assert_non_null(file);
    assert_int_equal(ftruncate(fileno(file), 16777216), 0);
    fclose(file);
    program_run(&losetup, make);
    if (losetup.code != 0)
        skip();
    snprintf(node, sizeof node, "%.*s", (int)strcspn(losetup.out, "\n"),
             losetup.out);
    memcpy(kept, node, sizeof kept);
    drop[2] = kept;
    assert_ok(slate_linux_list(find_node, node));
    assert_string_equal(node, "found");
    assert_ok(slate_linux_open(drop[2], &device, why));
    assert_ok(slate_media_open(&media, slate_linux_port(device)));
    memset(out, 0xD7, sizeof out);
    assert_status(slate_media_write(&media, 64, 8, out), SLATE_ERR_OUTSIDE);
    enter(&media);
    assert_ok(slate_media_write(&media, 64, 8, out));
    assert_ok(slate_media_flush(&media));
    assert_ok(slate_media_clear(&media, 68, 4, SLATE_CLEAR_ZERO));
    assert_ok(slate_media_read(&media, 64, 8, in));
    assert_memory_equal(in, out, 2048);
    for (size_t i = 2048; i < 4096; i++)
        assert_int_equal(in[i], 0);
    assert_ok(slate_media_clear(&media, 0, 32768, SLATE_CLEAR_DISCARD));
    assert_ok(slate_door_leave(&media));
    assert_status(slate_media_write(&media, 64, 8, out), SLATE_ERR_OUTSIDE);
    slate_linux_close(device);
    program_run(&undo, drop);
    program_clean();
}

static void watching_ends_in_time(void **state)
{
    struct slate_linux_watch *watch = slate_linux_watch_open();

    (void)state;
    for (int i = 0; i < 3; i++)
        (void)slate_linux_watch_wait(watch, 10);
    assert_false(slate_linux_watch_wait(NULL, 1));
    slate_linux_watch_close(watch);
    slate_linux_watch_close(NULL);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_host_lists_whole_devices_once),
        cmocka_unit_test(what_is_no_device_is_refused_with_a_reason),
        cmocka_unit_test(a_claimed_device_is_written_and_cleared),
        cmocka_unit_test(watching_ends_in_time),
    };

    return cmocka_run_group_tests_name("linux", tests, NULL, NULL);
}
