/* SPDX-License-Identifier: MIT */
/* The simulated devices against fixed bytes out of the standards: ATA, NVMe and
 * SD, asked without our own encoders. (SCSI: test_sim.c) */
#include <stdio.h>
#include <stdlib.h>
#include <sys/stat.h>

#include <trueslate/port_sim.h>

#include "check.h"
#include "program.h"

static struct slate_sim *sim;
static struct slate_exchange x;
static uint8_t d[8192];

/* Describes, lays out and opens a device called "thing". */
static void open_thing(const char *members)
{
    char path[300], why[SLATE_SIM_WHY_ROOM] = "";
    FILE *file;

    mkdir(in_folder("from"), 0777);
    snprintf(path, sizeof path, "%s/thing.json", in_folder("from"));
    file = fopen(path, "w");
    assert_non_null(file);
    fprintf(file, "{\"description\": 1, \"name\": \"thing\", %s}", members);
    fclose(file);
    if (slate_sim_lay(in_folder("from"), in_folder("sims"), why) != SLATE_OK)
        print_message("%s\n", why);
    assert_ok(slate_sim_open(in_folder("sims"), "thing", &sim, why));
}

static uint8_t send(const void *command, uint8_t length,
                    enum slate_direction direction, uint32_t data_length)
{
    const struct slate_port *port = slate_sim_port(sim);

    memset(&x, 0, sizeof x);
    memcpy(x.command, command, length);
    x.command_length = length;
    x.direction = direction;
    x.data = d;
    x.data_length = data_length;
    x.admin = length == 64 && x.command[0] == 0x06; /* NVMe Identify */
    assert_ok(port->ops->exchange(port->context, &x));
    return x.state;
}

#define NONE SLATE_DIRECTION_NONE
#define IN SLATE_DIRECTION_IN
#define OUT SLATE_DIRECTION_OUT

static void identify_device_tells_the_words_that_matter(void **state)
{
    uint8_t sum = 0;

    (void)state;
    open_thing("\"attached\": \"sata\", \"maker\": \"\", \"model\": \"Shore\","
               "\"revision\": \"A1\", \"serial\": \"S-77\", \"discard\": true,"
               "\"rotating\": true, \"physical_bytes\": 4096,"
               "\"blocks\": 4294967304, \"block_bytes\": 512");
    assert_int_equal(send("\0\0\0\0\0\0\0\0\0\0\0\xEC", 12, IN, 512), 0);
    assert_int_equal(x.transferred, 512);
    assert_memory_equal(d + 20, "-S77                ", 20); /* swapped */
    assert_memory_equal(d + 46, "1A      ", 8);
    assert_memory_equal(d + 54, "hSro e", 6);
    assert_int_equal(number_at(d, 120, 4), 0x0FFFFFFF); /* 28-bit limit */
    assert_int_equal(number_at(d, 166, 2) & 0xC400, 0x4400);
    assert_int_equal(number_at(d, 200, 8), 4294967304u);
    assert_int_equal(number_at(d, 212, 2), 0x6003); /* 8 to a physical one */
    assert_int_equal(number_at(d, 338, 2) & 1, 1);
    assert_int_equal(number_at(d, 434, 2), 7200);
    assert_int_equal(d[510], 0xA5);
    for (int i = 0; i < 512; i++)
        sum = (uint8_t)(sum + d[i]);
    assert_int_equal(sum, 0);
    assert_int_equal(x.answer[11], 0x50); /* ready, seek done */
    slate_sim_close(sim);
}

static void ata_transfers_and_errors(void **state)
{
    (void)state;
    open_thing("\"attached\": \"sata\", \"blocks\": 4294967304,"
               "\"block_bytes\": 512, \"discard\": true,"
               "\"faults\": [{\"kind\": \"read\", \"first\": 9}]");
    memset(d, 0xC3, 1024);
    /* WRITE DMA EXT, two blocks at 100000000h */
    assert_int_equal(send("\0\0\2\0\0\0\0\0\1\0\x40\x35", 12, OUT, 1024), 0);
    memset(d, 0, 1024);
    assert_int_equal(send("\0\0\2\0\0\0\0\0\1\0\x40\x25", 12, IN, 1024), 0);
    assert_int_equal(d[0], 0xC3);
    assert_int_equal(d[1023], 0xC3);
    /* block 9 cannot be read: ERR in status, UNC in error */
    assert_int_equal(send("\0\0\1\0\x09\0\0\0\0\0\x40\x25", 12, IN, 512), 1);
    assert_int_equal(x.answer[0], 0x40);
    assert_int_equal(x.answer[11], 0x51);
    /* beyond the end: IDNF */
    assert_int_equal(send("\0\0\1\0\x08\0\0\0\1\0\x40\x25", 12, IN, 512), 1);
    assert_int_equal(x.answer[0], 0x10);
    /* without LBA mode, and unknown: ABRT */
    assert_int_equal(send("\0\0\1\0\0\0\0\0\0\0\0\x25", 12, IN, 512), 1);
    assert_int_equal(x.answer[0], 0x04);
    assert_int_equal(send("\0\0\0\0\0\0\0\0\0\0\0\xF6", 12, NONE, 0), 1);
    assert_int_equal(x.answer[0], 0x04);
    /* DATA SET MANAGEMENT, trim: one range of two blocks */
    memset(d, 0, 512);
    memcpy(d, "\0\0\0\0\1\0\2\0", 8);
    assert_int_equal(send("\1\0\1\0\0\0\0\0\0\0\x40\x06", 12, OUT, 512), 0);
    assert_int_equal(send("\0\0\2\0\0\0\0\0\1\0\x40\x25", 12, IN, 1024), 0);
    assert_int_equal(d[0], 0);
    assert_int_equal(d[1023], 0);
    assert_int_equal(send("\0\0\0\0\0\0\0\0\0\0\x40\xEA", 12, NONE, 0), 0);
    assert_int_equal(send("\0\0\0\0\0\0\0\0\0\0\0\xE0", 12, NONE, 0), 0);
    slate_sim_close(sim);
}

/* A submission queue entry. */
static uint8_t nvme(uint8_t operation, uint32_t name_space, uint32_t dword10,
                    uint32_t dword11, uint32_t dword12,
                    enum slate_direction direction, uint32_t length)
{
    const uint32_t values[] = {name_space, dword10, dword11, dword12};
    static const size_t at[] = {4, 40, 44, 48};
    uint8_t entry[64] = {0};

    entry[0] = operation;
    for (size_t i = 0; i < 4; i++) {
        for (int byte = 0; byte < 4; byte++)
            entry[at[i] + (size_t)byte] = (uint8_t)(values[i] >> 8 * byte);
    }
    return send(entry, 64, direction, length);
}

static uint32_t nvme_status(void)
{
    assert_int_equal(x.answer_length, 16);
    return (uint32_t)number_at(x.answer, 14, 2) >> 1;
}

static void nvme_identify_has_the_published_fields(void **state)
{
    (void)state;
    open_thing("\"attached\": \"nvme\", \"model\": \"Swift\", \"serial\": "
               "\"N-1\", \"revision\": \"1.4\", \"discard\": true,"
               "\"blocks\": 1048576, \"block_bytes\": 4096");
    assert_int_equal(nvme(0x06, 0, 1, 0, 0, IN, 4096), 0);
    assert_memory_equal(d + 4, "N-1                 Swift     ", 30);
    assert_memory_equal(d + 64, "1.4     ", 8);
    assert_int_equal(number_at(d, 516, 4), 1);
    assert_int_equal(number_at(d, 520, 2), 0x0C);
    assert_int_equal(nvme(0x06, 1, 0, 0, 0, IN, 4096), 0);
    assert_int_equal(number_at(d, 0, 8), 1048576);
    assert_int_equal(d[26], 0);       /* first format */
    assert_int_equal(d[128 + 2], 12); /* blocks of 2^12 */
    assert_int_equal(nvme(0x06, 0, 2, 0, 0, IN, 4096), 0);
    assert_int_equal(number_at(d, 0, 8), 1); /* one active namespace */
    assert_int_equal(nvme(0x06, 2, 0, 0, 0, IN, 4096), 1);
    assert_int_equal(nvme_status(), 0x0B); /* no such namespace */
    slate_sim_close(sim);
}

static void nvme_transfers_and_errors(void **state)
{
    (void)state;
    open_thing("\"attached\": \"nvme\", \"discard\": true, \"blocks\": 1048576,"
               "\"block_bytes\": 4096, \"faults\": ["
               "{\"kind\": \"write\", \"first\": 7, \"times\": 1},"
               "{\"kind\": \"read\", \"first\": 8}]");
    memset(d, 0x99, 8192);
    assert_int_equal(nvme(0x01, 1, 100, 0, 1, OUT, 8192), 0);
    memset(d, 0, 8192);
    assert_int_equal(nvme(0x02, 1, 101, 0, 0, IN, 4096), 0);
    assert_int_equal(d[4095], 0x99);
    assert_int_equal(nvme(0x01, 1, 7, 0, 0, OUT, 4096), 1);
    assert_int_equal(nvme_status(), 0x280);                 /* write fault */
    assert_int_equal(nvme(0x01, 1, 7, 0, 0, OUT, 4096), 0); /* only once */
    assert_int_equal(nvme(0x02, 1, 8, 0, 0, IN, 4096), 1);
    assert_int_equal(nvme_status(), 0x281); /* unrecovered read error */
    assert_int_equal(nvme(0x02, 1, 1048576, 0, 0, IN, 4096), 1);
    assert_int_equal(nvme_status(), 0x80); /* LBA out of range */
    assert_int_equal(nvme(0x02, 9, 0, 0, 0, IN, 4096), 1);
    assert_int_equal(nvme_status(), 0x0B);
    assert_int_equal(nvme(0x7F, 1, 0, 0, 0, NONE, 0), 1);
    assert_int_equal(nvme_status(), 0x01);
    assert_int_equal(nvme(0x08, 1, 100, 0, 0, NONE, 0), 0); /* write zeroes */
    assert_int_equal(nvme(0x02, 1, 100, 0, 0, IN, 4096), 0);
    assert_int_equal(d[0], 0);
    memset(d, 0, 16);
    d[4] = 1;                                             /* one block */
    d[8] = 101;                                           /* here */
    assert_int_equal(nvme(0x09, 1, 0, 4, 0, OUT, 16), 0); /* deallocate */
    assert_int_equal(nvme(0x02, 1, 101, 0, 0, IN, 4096), 0);
    assert_int_equal(d[0], 0);
    assert_int_equal(nvme(0x00, 1, 0, 0, 0, NONE, 0), 0); /* flush */
    slate_sim_close(sim);
    open_thing("\"attached\": \"nvme\", \"blocks\": 1024, \"block_bytes\": 512,"
               "\"write_protected\": true");
    assert_int_equal(nvme(0x01, 1, 0, 0, 0, OUT, 512), 1);
    assert_int_equal(nvme_status(), 0x20);
    slate_sim_close(sim);
}

/* A frame with its checksum worked out by hand, or by the polynomial. */
static uint8_t sd(uint8_t index, uint32_t argument,
                  enum slate_direction direction, uint32_t length)
{
    uint8_t frame[6] = {(uint8_t)(0x40 | index),   (uint8_t)(argument >> 24),
                        (uint8_t)(argument >> 16), (uint8_t)(argument >> 8),
                        (uint8_t)argument,         0};
    uint8_t crc = 0;

    for (int i = 0; i < 5; i++) {
        for (int bit = 7; bit >= 0; bit--) {
            uint8_t in = (uint8_t)((frame[i] >> bit & 1) ^ (crc >> 6 & 1));

            crc = (uint8_t)((crc << 1 & 0x7F) ^ (in != 0 ? 0x09 : 0));
        }
    }
    frame[5] = (uint8_t)(crc << 1 | 1);
    return send(frame, 6, direction, length);
}

static uint8_t acmd(uint8_t index, uint32_t argument, uint32_t length)
{
    assert_int_equal(sd(55, 0x5A5A0000, NONE, 0), 0);
    return sd(index, argument, length > 0 ? IN : NONE, length);
}

static uint32_t r1(void)
{
    assert_int_equal(x.answer_length, 6);
    return (uint32_t)x.answer[1] << 24 | (uint32_t)x.answer[2] << 16 |
           (uint32_t)x.answer[3] << 8 | x.answer[4];
}

static void a_card_is_identified_step_by_step(void **state)
{
    (void)state;
    open_thing("\"attached\": \"sd\", \"maker\": \"HY\", \"model\": \"LC032\","
               "\"serial\": \"0031a7c5\", \"blocks\": 62333952,"
               "\"block_bytes\": 512, \"becoming_ready\": 2");
    assert_int_equal(sd(0, 0, NONE, 0), 0);
    assert_int_equal(x.answer_length, 0);
    assert_int_equal(sd(8, 0x1AA, NONE, 0), 0);
    assert_memory_equal(x.answer, "\x08\0\0\x01\xAA\x13", 6);
    for (int i = 0; i < 2; i++) { /* still powering up */
        assert_int_equal(acmd(41, 0x40FF8000, 0), 0);
        assert_int_equal(r1() >> 31, 0);
    }
    assert_int_equal(acmd(41, 0x40FF8000, 0), 0);
    assert_int_equal(r1() >> 30, 3); /* ready, high capacity */
    assert_int_equal(x.answer[0], 0x3F);
    assert_int_equal(sd(2, 0, NONE, 0), 0);
    assert_int_equal(x.answer_length, 17);
    assert_memory_equal(x.answer + 2, "HYLC032", 7);
    assert_memory_equal(x.answer + 10, "\x00\x31\xA7\xC5", 4);
    assert_int_equal(sd(3, 0, NONE, 0), 0);
    assert_int_equal(r1() >> 16, 0x5A5A);
    assert_int_equal(sd(9, 0x5A5A0000, NONE, 0), 0);
    assert_int_equal(x.answer[1] >> 6, 1); /* CSD version 2 */
    assert_int_equal((x.answer[8] & 0x3F) << 16 | x.answer[9] << 8 |
                         x.answer[10],
                     62333952 / 1024 - 1);
    assert_int_equal(sd(7, 0x5A5A0000, NONE, 0), 0);
    assert_int_equal(acmd(13, 0, 64), 0);
    assert_int_equal(d[8], 4);       /* class 10 */
    assert_int_equal(d[10] >> 4, 9); /* 4 MiB */
    assert_int_equal(acmd(51, 0, 8), 0);
    assert_int_equal(x.transferred, 8);
    /* a frame with a wrong checksum gets no response */
    assert_int_equal(send("\x40\0\0\0\0\x97", 6, NONE, 0), 1);
    assert_int_equal(sd(60, 0, NONE, 0), 1);
    slate_sim_close(sim);
}

static void a_card_moves_blocks_and_tells_its_errors(void **state)
{
    (void)state;
    open_thing("\"attached\": \"sd\", \"blocks\": 62333952,"
               "\"block_bytes\": 512");
    sd(0, 0, NONE, 0);
    acmd(41, 0x40FF8000, 0);
    memset(d, 0x3C, 1024);
    assert_int_equal(sd(25, 0x1000, OUT, 1024), 0);
    assert_int_equal(sd(12, 0, NONE, 0), 0);
    memset(d, 0, 1024);
    assert_int_equal(sd(17, 0x1001, IN, 512), 0);
    assert_int_equal(d[511], 0x3C);
    assert_int_equal(sd(18, 0x1000, IN, 1024), 0);
    assert_int_equal(d[1023], 0x3C);
    assert_int_equal(sd(17, 62333952, IN, 512), 0);
    assert_int_equal(r1() >> 31, 1); /* out of range */
    assert_int_equal(sd(32, 0x1000, NONE, 0), 0);
    assert_int_equal(sd(33, 0x1001, NONE, 0), 0);
    assert_int_equal(sd(38, 0, NONE, 0), 0);
    assert_int_equal(sd(17, 0x1000, IN, 512), 0);
    assert_int_equal(d[0], 0);
    slate_sim_close(sim);
    open_thing("\"attached\": \"sd\", \"blocks\": 62333952,"
               "\"block_bytes\": 512, \"write_protected\": true");
    sd(0, 0, NONE, 0);
    acmd(41, 0x40FF8000, 0);
    assert_int_equal(sd(24, 5, OUT, 512), 0); /* taken, and not kept */
    assert_int_equal(sd(13, 0x5A5A0000, NONE, 0), 0);
    assert_int_equal(r1() >> 26 & 1, 1); /* WP_VIOLATION */
    assert_int_equal(sd(13, 0x5A5A0000, NONE, 0), 0);
    assert_int_equal(r1() >> 26 & 1, 0); /* told once */
    slate_sim_close(sim);
}

static void over_spi_data_carries_its_checksum(void **state)
{
    uint32_t size, power;

    (void)state;
    open_thing("\"attached\": \"sd-spi\", \"blocks\": 1984512,"
               "\"block_bytes\": 512, \"serial\": \"00040001\"");
    assert_int_equal(send("\x40\0\0\0\0\x95", 6, NONE, 0), 0);
    assert_int_equal(x.answer_length, 1);
    assert_int_equal(x.answer[0], 0x01); /* idle */
    assert_int_equal(send("\x48\0\0\1\xAA\x87", 6, NONE, 0), 0);
    assert_int_equal(x.answer_length, 5);
    assert_memory_equal(x.answer + 1, "\0\0\x01\xAA", 4);
    assert_int_equal(acmd(41, 0, 0), 0);
    assert_int_equal(x.answer[0], 0x00); /* no longer idle */
    assert_int_equal(sd(58, 0, NONE, 0), 0);
    assert_int_equal(x.answer[1] >> 6, 2); /* standard capacity */
    /* the CSD of version 1: (C_SIZE + 1) * 2^(MULT + 2) * 2^READ_BL_LEN */
    assert_int_equal(sd(9, 0, IN, 18), 0);
    assert_int_equal(d[0] >> 6, 0);
    size = (uint32_t)((d[6] & 3) << 10 | d[7] << 2 | d[8] >> 6);
    power = (uint32_t)((d[9] & 3) << 1 | d[10] >> 7);
    assert_int_equal((size + 1) << (power + 2) << (d[5] & 15), 1984512u * 512);
    assert_int_equal(number_at((uint8_t[]){d[17], d[16]}, 0, 2),
                     slate_crc16(d, 16));
    memset(d, 0xFF, 512);
    d[512] = 0x7F; /* of 512 bytes FFh (4.5) */
    d[513] = 0xA1;
    assert_int_equal(sd(24, 512, OUT, 514), 0); /* byte address: block 1 */
    memset(d, 0, 514);
    assert_int_equal(sd(17, 512, IN, 514), 0);
    assert_int_equal(d[0], 0xFF);
    assert_int_equal(d[512], 0x7F);
    assert_int_equal(d[513], 0xA1);
    d[513] = 0xA2; /* damaged on the way: not stored */
    memset(d, 0x11, 512);
    assert_int_equal(sd(24, 512, OUT, 514), 0);
    assert_int_equal(sd(13, 0, NONE, 0), 0);
    assert_int_equal(x.answer_length, 2);
    assert_int_not_equal(x.answer[1], 0);
    assert_int_equal(sd(17, 512, IN, 514), 0);
    assert_int_equal(d[0], 0xFF);
    slate_sim_close(sim);
}

/* A host that moves a card's blocks itself, and carries commands as well. */
static struct host {
    struct slate_port_ops ops;
    struct slate_port port;
    uint32_t reads, writes, flushes, commands;
    uint8_t block[512];
} host;

static enum slate_status host_read(void *context, uint64_t lba, uint32_t count,
                                   void *data)
{
    (void)context;
    (void)lba;
    host.reads++;
    for (uint32_t i = 0; i < count; i++)
        memcpy((uint8_t *)data + (size_t)i * 512, host.block, 512);
    return SLATE_OK;
}

static enum slate_status host_write(void *context, uint64_t lba, uint32_t count,
                                    const void *data)
{
    (void)context;
    (void)lba;
    (void)count;
    host.writes++;
    memcpy(host.block, data, 512);
    return SLATE_OK;
}

static enum slate_status host_flush(void *context)
{
    (void)context;
    host.flushes++;
    return SLATE_OK;
}

static enum slate_status host_exchange(void *context,
                                       struct slate_exchange *exchange)
{
    host.commands++;
    return slate_sim_port(sim)->ops->exchange(context, exchange);
}

static void a_hosts_own_way_moves_a_cards_content(void **state)
{
    static uint8_t data[8 * 512];
    struct slate_media media;
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count, before;

    (void)state;
    open_thing("\"attached\": \"sd\", \"blocks\": 62333952,"
               "\"block_bytes\": 512");
    memset(&host, 0, sizeof host);
    host.ops = *slate_sim_port(sim)->ops;
    host.ops.exchange = host_exchange;
    host.ops.submit = NULL;
    host.ops.read = host_read;
    host.ops.write = host_write;
    host.ops.flush = host_flush;
    host.port = (struct slate_port){&host.ops, slate_sim_port(sim)->context};
    assert_ok(slate_media_open(&media, &host.port));
    assert_int_equal(media.geometry.block_count, 62333952); /* by commands */
    before = host.commands;
    memset(data, 0x5D, sizeof data);
    enter(&media);
    assert_ok(slate_media_write(&media, 7, 8, data));
    memset(data, 0, sizeof data);
    assert_ok(slate_media_read(&media, 7, 8, data));
    assert_int_equal(data[4095], 0x5D);
    assert_int_equal(host.reads + host.writes, 2);
    assert_int_equal(host.commands, before);
    assert_ok(slate_media_flush(&media)); /* the card is asked as well */
    assert_int_equal(host.flushes, 1);
    assert_true(host.commands > before);
    assert_ok(slate_guard_find(&media, guard, &count));
    slate_sim_close(sim);
}

static int clean(void **state)
{
    (void)state;
    program_clean();
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(identify_device_tells_the_words_that_matter),
        cmocka_unit_test(ata_transfers_and_errors),
        cmocka_unit_test(nvme_identify_has_the_published_fields),
        cmocka_unit_test(nvme_transfers_and_errors),
        cmocka_unit_test(a_card_is_identified_step_by_step),
        cmocka_unit_test(a_card_moves_blocks_and_tells_its_errors),
        cmocka_unit_test(over_spi_data_carries_its_checksum),
        cmocka_unit_test(a_hosts_own_way_moves_a_cards_content),
    };

    return cmocka_run_group_tests_name("targets", tests, NULL, clean);
}
