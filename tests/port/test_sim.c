/* SPDX-License-Identifier: MIT */
/* The simulated stick and image files: command bytes against the standards,
 * descriptions that make no sense, state that lives across runs. */
#include <stdio.h>
#include <sys/stat.h>
#include <unistd.h>

#include <trueslate/port_file.h>
#include <trueslate/port_sim.h>

#include "check.h"
#include "program.h"

static const char card[] =
    "{\"description\": 1, \"name\": \"card\", \"attached\": \"usb\","
    " \"maker\": \"Halyard\", \"model\": \"Card\", \"revision\": \"2\","
    " \"serial\": \"C-5\", \"blocks\": %s, \"block_bytes\": %s,"
    " \"write_protected\": %s, \"content\": [%s]}";

/* Describes and lays out "card"; gives what laying it out gives. */
static enum slate_status lay(const char *blocks, const char *block_bytes,
                             const char *protected, const char *content,
                             char *why)
{
    FILE *file;
    char path[300];

    mkdir(in_folder("from"), 0777);
    snprintf(path, sizeof path, "%s/card.json", in_folder("from"));
    file = fopen(path, "w");
    assert_non_null(file);
    fprintf(file, card, blocks, block_bytes, protected, content);
    fclose(file);
    return slate_sim_lay(in_folder("from"), in_folder("sims"), why);
}

static struct slate_sim *open_card(void)
{
    char why[SLATE_SIM_WHY_ROOM];
    struct slate_sim *sim;

    assert_ok(slate_sim_open(in_folder("sims"), "card", &sim, why));
    return sim;
}

static uint8_t send(struct slate_sim *sim, const char *command, uint8_t length,
                    enum slate_direction direction, void *data,
                    uint32_t data_length, struct slate_exchange *x)
{
    const struct slate_port *port = slate_sim_port(sim);

    memset(x, 0, sizeof *x);
    memcpy(x->command, command, length);
    x->command_length = length;
    x->direction = direction;
    x->data = data;
    x->data_length = data_length;
    assert_ok(port->ops->exchange(port->context, x));
    return x->state;
}

#define IN SLATE_DIRECTION_IN
#define OUT SLATE_DIRECTION_OUT

static void check_sense(const struct slate_exchange *x, uint8_t key,
                        uint8_t asc)
{
    assert_int_equal(x->state, 0x02);
    assert_int_equal(x->answer_length, 18);
    assert_int_equal(x->answer[0], 0x70);
    assert_int_equal(x->answer[2], key);
    assert_int_equal(x->answer[12], asc);
}

static void the_stick_answers_as_the_standard_says(void **state)
{
    struct slate_exchange x;
    struct slate_sim *sim;
    uint8_t d[64];
    char why[SLATE_SIM_WHY_ROOM];

    (void)state;
    assert_ok(lay("4294967400", "512", "false", "", why));
    sim = open_card();
    assert_int_equal(send(sim, "\x12\0\0\0\x24\0", 6, IN, d, 36, &x), 0);
    assert_memory_equal(d + 8, "Halyard Card            2   ", 28);
    assert_int_equal(d[4], 31);
    send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    check_sense(&x, 6, 0x29); /* powered on, once */
    assert_int_equal(
        send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x), 0);
    assert_int_equal(send(sim, "\x12\1\x80\0\x40\0", 6, IN, d, 64, &x), 0);
    assert_int_equal(x.transferred, 7);
    assert_memory_equal(d, "\0\x80\0\3C-5", 7);
    assert_int_equal(send(sim, "\x12\1\0\0\x40\0", 6, IN, d, 64, &x), 0);
    assert_memory_equal(d, "\0\0\0\5\0\x80\x83\xB0\xB1", 9);
    send(sim, "\x12\1\x84\0\x40\0", 6, IN, d, 64, &x);
    check_sense(&x, 5, 0x24);
    assert_int_equal(send(sim, "\x25\0\0\0\0\0\0\0\0\0", 10, IN, d, 8, &x), 0);
    assert_memory_equal(d, "\xFF\xFF\xFF\xFF\0\0\2\0", 8);
    assert_int_equal(
        send(sim, "\x9E\x10\0\0\0\0\0\0\0\0\0\0\0\x20\0\0", 16, IN, d, 32, &x),
        0);
    assert_memory_equal(d, "\0\0\0\1\0\0\0\x67\0\0\2\0", 12);
    assert_int_equal(send(sim, "\x1A\x08\x3F\0\xC0\0", 6, IN, d, 64, &x), 0);
    assert_memory_equal(d, "\x23\0\0\0\x08\x12", 6);
    assert_int_equal(send(sim, "\x1A\0\x3F\0\xC0\0", 6, IN, d, 64, &x), 0);
    assert_memory_equal(d, "\x2B\0\0\x08\0\xFF\xFF\xFF\0\0\2\0\x08\x12", 14);
    assert_int_equal(
        send(sim, "\x5A\x08\x08\0\0\0\0\0\x40\0", 10, IN, d, 64, &x), 0);
    assert_memory_equal(d, "\0\x1A\0\0\0\0\0\0\x08\x12", 10);
    send(sim, "\xF1\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    check_sense(&x, 5, 0x20);
    assert_int_equal(send(sim, "\3\0\0\0\x12\0", 6, IN, d, 18, &x), 0);
    assert_int_equal(d[2], 0); /* told already */
    slate_sim_close(sim);
}

static void blocks_live_across_runs(void **state)
{
    static uint8_t out[1024], in[1024];
    struct slate_exchange x;
    struct slate_sim *sim;
    char why[SLATE_SIM_WHY_ROOM];

    (void)state;
    memset(out, 0xB7, sizeof out);
    assert_ok(lay("5000000000", "512", "false",
                  "{\"at\": 1536, \"text\": \"buoy\"}", why));
    sim = open_card();
    send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    assert_int_equal(
        send(sim, "\x2A\0\0\0\0\1\0\0\2\0", 10, OUT, out, 1024, &x), 0);
    assert_int_equal(x.transferred, 1024);
    /* block 4999999999, the last one */
    assert_int_equal(send(sim, "\x8A\0\0\0\0\1\x2A\5\xF1\xFF\0\0\0\1\0\0", 16,
                          OUT, out, 512, &x),
                     0);
    send(sim, "\x8A\0\0\0\0\1\x2A\5\xF2\0\0\0\0\1\0\0", 16, OUT, out, 512, &x);
    check_sense(&x, 5, 0x21);
    assert_int_equal(send(sim, "\x35\0\0\0\0\0\0\0\0\0", 10,
                          SLATE_DIRECTION_NONE, NULL, 0, &x),
                     0);
    slate_sim_close(sim);
    sim = open_card();
    send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    assert_int_equal(send(sim, "\x28\0\0\0\0\2\0\0\2\0", 10, IN, in, 1024, &x),
                     0);
    assert_memory_equal(in, out, 512);
    assert_memory_equal(in + 512, "buoy", 4);
    assert_int_equal(send(sim, "\x88\0\0\0\0\1\x2A\5\xF1\xFF\0\0\0\1\0\0", 16,
                          IN, in, 512, &x),
                     0);
    assert_memory_equal(in, out, 512);
    slate_sim_close(sim);
}

static void protection_is_told_and_kept(void **state)
{
    static uint8_t block[512];
    struct slate_exchange x;
    struct slate_media media;
    struct slate_sim *sim;
    char why[SLATE_SIM_WHY_ROOM];

    (void)state;
    assert_ok(lay("100000", "512", "true", "", why));
    sim = open_card();
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    assert_true(media.read_only);
    send(sim, "\x2A\0\0\0\0\1\0\0\1\0", 10, OUT, block, 512, &x);
    check_sense(&x, 7, 0x27);
    slate_sim_close(sim);
}

/* The control mode page: software write protect set, found, lifted; saved
 * over a power-off only when asked for. */
static void mode_pages_are_read_and_changed(void **state)
{
    uint8_t page[SLATE_MODE_PAGE_ROOM], length, block[512] = {0};
    struct slate_media media;
    struct slate_sim *sim;
    char why[SLATE_SIM_WHY_ROOM];

    (void)state;
    assert_ok(lay("100000", "512", "false", "", why));
    sim = open_card();
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_mode_read(&media, 0x0A, page, &length));
    assert_int_equal(length, 12);
    assert_int_equal(page[4], 0);
    assert_ok(slate_mode_change(&media, 0x0A, 4, 0x08, 0x08, true));
    assert_status(slate_media_write(&media, 9, 1, block), SLATE_ERR_PROTECTED);
    slate_sim_close(sim);
    sim = open_card();
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    assert_true(media.read_only);
    enter(&media);
    assert_ok(slate_mode_change(&media, 0x0A, 4, 0x08, 0x00, false));
    assert_ok(slate_media_write(&media, 9, 1, block));
    assert_status(slate_mode_change(&media, 0x0A, 40, 1, 1, false),
                  SLATE_ERR_ARGUMENT);
    assert_status(slate_mode_read(&media, 0x1C, page, &length),
                  SLATE_ERR_COMMAND);
    slate_sim_close(sim);
}

static void descriptions_that_make_no_sense_are_refused(void **state)
{
    static const struct {
        const char *blocks, *bytes, *content, *why;
    } rows[] = {
        {"0", "512", "", "blocks"},
        {"-5", "512", "", "blocks"},
        {"1000", "500", "", "block_bytes"},
        {"9223372036854775807", "512", "", "blocks"},
        {"1", "512", "{\"at\": 510, \"hex\": \"55aa00\"}", "patch 1"},
        {"1", "512", "{\"at\": -1, \"hex\": \"55\"}", "patch 1"},
        {"9", "512", "{\"at\": 0, \"hex\": \"5\"}", "patch 1"},
        {"9", "512", "{\"at\": 0, \"hex\": \"zz\"}", "patch 1"},
        {"9", "512", "{\"at\": 0}", "patch 1"},
        {"9", "512", "],\"faults\": [{\"kind\": \"odd\"}", "kind"},
        {"9", "512", "],\"faults\": [{\"kind\": \"read\", \"first\": 9}",
         "within the device"},
        {"9", "512", "],\"beyond\": \"mars\", \"notes\": [", "beyond"},
        {"9", "512", "],\"units\": [", "1 to 4 units"},
        {"9", "512",
         "],\"disk_serial\": \"123456789012345678901234567890123\",\"x\": [",
         "disk"},
        {"9,", "512", "", "line 1"},
    };
    char why[SLATE_SIM_WHY_ROOM];
    struct slate_sim *sim;

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        assert_status(
            lay(rows[i].blocks, rows[i].bytes, "false", rows[i].content, why),
            SLATE_ERR_GEOMETRY);
        assert_non_null(strstr(why, rows[i].why));
    }
    assert_status(slate_sim_open(in_folder("sims"), "ghost", &sim, why),
                  SLATE_ERR_NO_DEVICE);
    assert_status(slate_sim_open(in_folder("sims"), "../x", &sim, why),
                  SLATE_ERR_NO_DEVICE);
    assert_status(slate_sim_lay(in_folder("nowhere"), in_folder("sims"), why),
                  SLATE_ERR_NO_DEVICE);
}

static const char *make_image(off_t bytes)
{
    const char *path = in_folder("image");
    FILE *file = fopen(path, "w");

    assert_non_null(file);
    assert_int_equal(ftruncate(fileno(file), bytes), 0);
    fclose(file);
    return path;
}

static void images_stay_sparse_and_have_odd_sizes_refused(void **state)
{
    static struct session s;
    struct wanted goal = {.label = "SPARSE"};
    struct slate_file file;
    struct stat about;

    (void)state;
    assert_status(slate_file_open(&file, make_image(1000003), 512),
                  SLATE_ERR_GEOMETRY);
    slate_file_close(&file);
    assert_status(slate_file_open(&file, make_image(0), 512),
                  SLATE_ERR_GEOMETRY);
    slate_file_close(&file);
    assert_status(slate_file_open(&file, program_folder(), 512),
                  SLATE_ERR_NO_DEVICE);
    slate_file_close(&file);
    assert_ok(slate_file_open(&file, make_image((off_t)64000000000), 512));
    assert_ok(slate_media_open(&s.media, &file.port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    assert_ok(session_make(&s, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
    assert_int_equal(fstat(file.descriptor, &about), 0);
    assert_int_equal(about.st_size, 64000000000);
    assert_true(about.st_blocks * 512 < 1048576); /* 16 MB were written */
    slate_file_close(&file);
}

/* The largest image: 16 TiB less one block of 4096, where the host can. */
static void the_largest_image_is_reached_to_its_end(void **state)
{
    static uint8_t out[4096] = "end", in[4096];
    struct slate_media media;
    struct slate_file file;
    const char *path = in_folder("largest");
    FILE *made = fopen(path, "w");
    off_t bytes = ((off_t)1 << 44) - 4096;
    bool reached;

    (void)state;
    assert_non_null(made);
    reached = ftruncate(fileno(made), bytes) == 0;
    fclose(made);
    if (!reached) /* not every host has files of this size */
        skip();
    assert_ok(slate_file_open(&file, path, 4096));
    assert_ok(slate_media_open(&media, &file.port));
    assert_int_equal(media.geometry.block_count, 4294967295u);
    assert_status(file.port.ops->write(file.port.context, 4294967294u, 1, out),
                  SLATE_ERR_PROTECTED); /* open for reading only */
    enter(&media);
    assert_ok(slate_media_write(&media, 4294967294u, 1, out));
    assert_ok(slate_media_flush(&media));
    assert_ok(slate_media_read(&media, 4294967294u, 1, in));
    assert_memory_equal(in, out, sizeof in);
    assert_ok(slate_door_leave(&media));
    slate_file_close(&file);
}

static int clean(void **state)
{
    (void)state;
    program_clean();
    return 0;
}

/* A drive with tracks, by bytes alone (SCSI-2, 9.2.1, 9.3.3; SBC-3, 5.3, 5.17):
 * what may be changed and what not, when it is, which lists it takes. */
static void a_drive_with_tracks_answers_as_the_standard_says(void **state)
{
    static const uint8_t rigid[] = {0, 0, 0, 0, 4,  0x16, 0, 0, 10, 2,
                                    0, 0, 5, 0, 0,  10,   0, 0, 0,  0,
                                    0, 0, 0, 0, 14, 16,   0, 0};
    static const uint8_t sorted[] = {0, 2, 0, 16, 0, 0, 3, 0, 0, 0,
                                     0, 1, 0, 0,  3, 1, 0, 0, 0, 1};
    struct slate_exchange x;
    struct slate_sim *sim;
    uint8_t d[256], select[28], list[20];
    char why[SLATE_SIM_WHY_ROOM];

    (void)state;
    assert_ok(lay("1360", "512", "false",
                  "], \"erases\": {\"ways\": [\"format\"]}, \"tracks\": "
                  "{\"cylinders\": 20, \"heads\": 4, \"sectors\": 17, "
                  "\"minutes\": 1, \"clock\": 1000000}, \"none\": [",
                  why));
    sim = open_card();
    send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    assert_int_equal(send(sim, "\x1A\x08\x04\0\xC0\0", 6, IN, d, 192, &x), 0);
    assert_memory_equal(d + 4, "\x84\x16\0\0\x14\x04\0\0\x14\0\0\x14", 12);
    assert_int_equal(send(sim, "\x1A\x08\x44\0\xC0\0", 6, IN, d, 192, &x), 0);
    assert_memory_equal(
        d + 4, "\x84\x16\xFF\xFF\xFF\xFF\xFF\xFF\xFF\xFF\xFF\xFF\0", 13);
    memcpy(select, rigid, sizeof select);
    select[4 + 12] = 1; /* the step rate is not to be changed */
    send(sim, "\x15\x10\0\0\x1C\0", 6, OUT, select, 28, &x);
    check_sense(&x, 5, 0x26);
    memcpy(select, rigid, sizeof select);
    assert_int_equal(send(sim, "\x15\x10\0\0\x1C\0", 6, OUT, select, 28, &x),
                     0);
    send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    check_sense(&x, 6, 0x2A); /* mode parameters have changed, once */
    assert_int_equal(send(sim, "\x25\0\0\0\0\0\0\0\0\0", 10, IN, d, 8, &x), 0);
    assert_memory_equal(d, "\0\0\x05\x4F", 4); /* not before it is formatted */
    memcpy(list, sorted, sizeof list);
    list[15] = 0; /* the same place twice */
    send(sim, "\x04\x15\0\0\0\0", 6, OUT, list, 20, &x);
    check_sense(&x, 5, 0x26);
    memcpy(list, sorted, sizeof list);
    list[14] = 10; /* a cylinder that it will not have */
    send(sim, "\x04\x15\0\0\0\0", 6, OUT, list, 20, &x);
    check_sense(&x, 5, 0x26);
    send(sim, "\x04\x12\0\0\0\0", 6, OUT, list, 20, &x);
    check_sense(&x, 5, 0x24); /* no such form */
    memcpy(list, sorted, sizeof list);
    assert_int_equal(send(sim, "\x04\x15\0\0\x05\0", 6, OUT, list, 20, &x), 0);
    send(sim, "\x28\0\0\0\0\0\0\0\x01\0", 10, IN, d, 256, &x);
    check_sense(&x, 2, 0x04); /* formatting */
    assert_int_equal(x.answer[13], 0x04);
    assert_int_equal(x.answer[15] & 0x80, 0x80);
    for (int i = 0; i < 11; i++)
        send(sim, "\0\0\0\0\0\0", 6, SLATE_DIRECTION_NONE, NULL, 0, &x);
    assert_int_equal(x.state, 0);
    assert_int_equal(send(sim, "\x25\0\0\0\0\0\0\0\0\0", 10, IN, d, 8, &x), 0);
    assert_memory_equal(d, "\0\0\x01\x53\0\0\2\0", 8); /* 10 x 2 x 17 */
    assert_int_equal(send(sim, "\x1A\x08\x03\0\xC0\0", 6, IN, d, 192, &x), 0);
    assert_memory_equal(d + 4 + 14, "\0\x05", 2);
    assert_int_equal(send(sim, "\x37\0\x0C\0\0\0\0\0\x40\0", 10, IN, d, 64, &x),
                     0);
    assert_memory_equal(d, "\0\x0C\0\x10\0\0\3\0", 8);
    send(sim, "\x07\0\0\0\0\0", 6, OUT, (uint8_t[8]){0, 0, 0, 4}, 8, &x);
    check_sense(&x, 3, 0x32); /* no spares */
    slate_sim_close(sim);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_stick_answers_as_the_standard_says),
        cmocka_unit_test(a_drive_with_tracks_answers_as_the_standard_says),
        cmocka_unit_test(blocks_live_across_runs),
        cmocka_unit_test(protection_is_told_and_kept),
        cmocka_unit_test(mode_pages_are_read_and_changed),
        cmocka_unit_test(descriptions_that_make_no_sense_are_refused),
        cmocka_unit_test(images_stay_sparse_and_have_odd_sizes_refused),
        cmocka_unit_test(the_largest_image_is_reached_to_its_end),
    };

    return cmocka_run_group_tests_name("sim", tests, NULL, clean);
}
