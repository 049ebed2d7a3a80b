/* SPDX-License-Identifier: MIT */
/* ATA, NVMe and SD, against bytes worked out from the standards: a scripted
 * device records what it is sent and gives fixed answers. */
#include "check.h"

struct recorder {
    struct slate_port port;
    enum slate_command_set commands;
    enum slate_transport transport;
    bool (*answer)(struct slate_exchange *x); /* false: no answer of its own */
    uint8_t sent[64][64];
    enum slate_direction direction[64];
    uint8_t data[64][64]; /* the start of what went out */
    unsigned count;
};

static enum slate_status facts(void *context, struct slate_port_facts *out)
{
    const struct recorder *r = context;

    out->commands = r->commands;
    out->identity.transport = r->transport;
    return SLATE_OK;
}

static enum slate_status exchange(void *context, struct slate_exchange *x)
{
    struct recorder *r = context;
    unsigned at = r->count++ % 64;

    memcpy(r->sent[at], x->command, 64);
    r->direction[at] = x->direction;
    if (x->direction == SLATE_DIRECTION_OUT)
        memcpy(r->data[at], x->data, x->data_length < 64 ? x->data_length : 64);
    x->state = 0;
    if (!r->answer(x)) {
        if (x->direction == SLATE_DIRECTION_IN)
            memset(x->data, 0, x->data_length);
        x->transferred = x->data_length;
    }
    return SLATE_OK;
}

static const struct slate_port_ops ops = {
    .size = sizeof ops, .facts = facts, .exchange = exchange};

static void begin(struct recorder *r, enum slate_command_set commands,
                  bool (*answer)(struct slate_exchange *x))
{
    memset(r, 0, sizeof *r);
    r->port.ops = &ops;
    r->port.context = r;
    r->commands = commands;
    r->answer = answer;
}

static const uint8_t *last(const struct recorder *r, unsigned back)
{
    return r->sent[(r->count - 1 - back) % 64];
}

static uint8_t block[8192];
static struct slate_media media;

/* IDENTIFY DEVICE of a disk of 2^32 + 8 blocks, 512e. */
static bool ata_disk(struct slate_exchange *x)
{
    uint8_t *d = x->data;
    uint8_t sum = 0;

    if (x->command[11] != 0xEC)
        return false;
    memset(d, 0, 512);
    memcpy(d + 20, "HS2-000  1          ", 20); /* "SH-200 01" swapped */
    memcpy(d + 54, "hSrodesi k 4                            ", 40);
    memcpy(d + 120, "\xFF\xFF\xFF\x0F", 4);
    d[167] = 0x44; /* word 83: LBA48 */
    memcpy(d + 200, "\x08\0\0\0\1\0\0\0", 8);
    memcpy(d + 212, "\x03\x60", 2); /* 8 logical per physical */
    memcpy(d + 418, "\x01\x40", 2); /* word 209: one into a physical one */
    d[338] = 1;                     /* word 169: trim */
    d[510] = 0xA5;
    for (int i = 0; i < 511; i++)
        sum = (uint8_t)(sum + d[i]);
    d[511] = (uint8_t)(0x100 - sum);
    x->transferred = 512;
    return true;
}

static void ata_task_files_are_those_of_the_standard(void **state)
{
    static struct recorder r;

    (void)state;
    begin(&r, SLATE_COMMANDS_ATA, ata_disk);
    assert_ok(slate_media_open(&media, &r.port));
    assert_string_equal(media.identity.model, "Shoredisk 4");
    assert_string_equal(media.identity.serial, "SH-200 01");
    assert_int_equal(media.geometry.block_count, 4294967304u);
    assert_int_equal(media.geometry.block_bytes, 512);
    assert_int_equal(media.geometry.physical_bytes, 4096);
    assert_int_equal(media.abilities.aligned_block, 7);
    assert_true(media.abilities.discard);
    assert_memory_equal(r.sent[0], "\0\0\0\0\0\0\0\0\0\0\0\xEC", 12);
    assert_ok(slate_media_read(&media, 0x100000002, 4, block));
    assert_memory_equal(last(&r, 0), "\0\0\4\0\2\0\0\0\1\0\x40\x25", 12);
    enter(&media);
    assert_ok(slate_media_write(&media, 0x12345678, 1, block));
    assert_memory_equal(last(&r, 0), "\0\0\1\0\x78\x56\x34\x12\0\0\x40\x35",
                        12);
    assert_ok(slate_media_flush(&media));
    assert_memory_equal(last(&r, 0), "\0\0\0\0\0\0\0\0\0\0\x40\xEA", 12);
    assert_ok(slate_media_clear(&media, 0x10, 70000, SLATE_CLEAR_DISCARD));
    assert_memory_equal(last(&r, 0), "\1\0\1\0\0\0\0\0\0\0\x40\x06", 12);
    assert_memory_equal(r.data[(r.count - 1) % 64],
                        "\x10\0\0\0\0\0\xFF\xFF"
                        "\x0F\0\1\0\0\0\x71\x11\0\0\0\0\0\0\0\0",
                        24);
    assert_status(slate_media_clear(&media, 0, 1, SLATE_CLEAR_ZERO),
                  SLATE_ERR_COMMAND); /* trim promises no zeros */
}

static bool ata_nonsense(struct slate_exchange *x)
{
    ata_disk(x);
    ((uint8_t *)x->data)[300] ^= 1; /* the checksum is wrong now */
    return true;
}

static void ata_identity_with_a_wrong_checksum_is_refused(void **state)
{
    static struct recorder r;

    (void)state;
    begin(&r, SLATE_COMMANDS_ATA, ata_nonsense);
    assert_status(slate_media_open(&media, &r.port), SLATE_ERR_COMMAND);
}

/* A dock lists page 89h; the disk behind it answers only the short form. */
static bool dock(struct slate_exchange *x)
{
    uint8_t *d = x->data;

    if (x->direction == SLATE_DIRECTION_IN)
        memset(d, 0, x->data_length);
    x->transferred = x->data_length;
    switch (x->command[0]) {
    case 0x12:
        if (x->command[1] == 1 && x->command[2] == 0)
            memcpy(d, "\0\0\0\2\0\x89", 6);
        else if (x->command[1] == 0)
            memcpy(d + 8,
                   "Dockyard"
                   "Dock One        "
                   "2.20",
                   28);
        return true;
    case 0x25:
        memcpy(d, "\0\0\1\0\0\0\2\0", 8);
        return true;
    case 0x85:
        x->state = 2;
        memcpy(x->answer, "\x70\0\5\0\0\0\0\x0A\0\0\0\0\x20\0\0\0\0\0", 18);
        x->answer_length = 18;
        return true;
    case 0xA1:
        x->command[11] = 0xEC;
        return ata_disk(x);
    default:
        return true;
    }
}

static void docks_are_asked_for_the_disk_behind_them(void **state)
{
    static struct recorder r;
    const uint8_t *sixteen = NULL, *twelve = NULL;

    (void)state;
    begin(&r, SLATE_COMMANDS_SCSI, dock);
    assert_ok(slate_media_open(&media, &r.port));
    assert_string_equal(media.identity.model, "Shoredisk 4");
    assert_int_equal(media.geometry.block_count, 257); /* the dock's word */
    for (unsigned i = 0; i < r.count; i++) {
        if (r.sent[i][0] == 0x85)
            sixteen = r.sent[i];
        if (r.sent[i][0] == 0xA1)
            twelve = r.sent[i];
    }
    assert_non_null(sixteen);
    assert_non_null(twelve);
    /* PIO data-in, length in the count field, blocks, from the device */
    assert_memory_equal(sixteen, "\x85\x08\x0E\0\0\0\1\0\0\0\0\0\0\0\xEC\0",
                        16);
    assert_memory_equal(twelve, "\xA1\x08\x0E\0\1\0\0\0\0\xEC\0", 11);
}

/* A controller, and a namespace of 2^20 blocks of 4096 bytes. */
static bool nvme_drive(struct slate_exchange *x)
{
    uint8_t *d = x->data;

    if (x->command[0] != 0x06)
        return false;
    memset(d, 0, 4096);
    if (x->command[40] == 2) {
        memcpy(d, "\1\0\0\0\3\0\0\0", 8); /* two namespaces are active */
    } else if (x->command[40] == 1) {
        memcpy(d + 4, "NV-512-01           ", 20);
        memcpy(d + 24, "Swift 512                               ", 40);
        d[77] = 5;
        d[517] = 1; /* up to 256 of them */
        d[520] = 0x0C;
    } else {
        d[2] = 0x10;
        d[26] = 1; /* second format */
        d[132 + 2] = 12;
    }
    x->transferred = 4096;
    return true;
}

static void nvme_entries_are_those_of_the_standard(void **state)
{
    static struct recorder r;

    (void)state;
    begin(&r, SLATE_COMMANDS_NVME, nvme_drive);
    assert_ok(slate_media_open(&media, &r.port));
    assert_string_equal(media.identity.model, "Swift 512");
    assert_int_equal(media.geometry.block_count, 1048576);
    assert_int_equal(media.geometry.block_bytes, 4096);
    assert_int_equal(r.sent[0][40], 1); /* CNS: controller */
    assert_int_equal(number_at(r.sent[0], 4, 4), 0);
    assert_int_equal(r.sent[1][40], 2); /* CNS: active namespaces */
    assert_int_equal(media.units, 2);
    assert_int_equal(r.sent[2][40], 0); /* CNS: namespace 1 */
    assert_int_equal(number_at(r.sent[2], 4, 4), 1);
    assert_ok(slate_media_read(&media, 0xABCDE, 2, block));
    assert_int_equal(last(&r, 0)[0], 0x02);
    assert_int_equal(number_at(last(&r, 0), 4, 4), 1);
    assert_int_equal(number_at(last(&r, 0), 40, 8), 0xABCDE);
    assert_int_equal(number_at(last(&r, 0), 48, 4), 1); /* zero-based */
    enter(&media);
    assert_ok(slate_media_write(&media, 7, 1, block));
    assert_int_equal(last(&r, 0)[0], 0x01);
    assert_int_equal(number_at(last(&r, 0), 48, 4), 0);
    assert_ok(slate_media_flush(&media));
    assert_int_equal(last(&r, 0)[0], 0x00);
    assert_ok(slate_media_clear(&media, 256, 512, SLATE_CLEAR_ZERO));
    assert_int_equal(last(&r, 0)[0], 0x08);
    assert_int_equal(number_at(last(&r, 0), 48, 4), 511);
    assert_ok(slate_media_clear(&media, 256, 512, SLATE_CLEAR_DISCARD));
    assert_int_equal(last(&r, 0)[0], 0x09);
    assert_int_equal(number_at(last(&r, 0), 40, 4), 0); /* one range */
    assert_int_equal(number_at(last(&r, 0), 44, 4), 4); /* deallocate */
    assert_int_equal(number_at(r.data[(r.count - 1) % 64], 4, 4), 512);
    assert_int_equal(number_at(r.data[(r.count - 1) % 64], 8, 8), 256);
}

static bool nvme_absurd(struct slate_exchange *x)
{
    nvme_drive(x);
    if (x->command[0] == 0x06 && x->command[40] == 0) {
        memset(x->data, 0xFF, 8);
        ((uint8_t *)x->data)[132 + 2] = 63; /* blocks of 2^63 bytes */
    }
    return x->command[0] == 0x06;
}

static void nvme_geometry_that_makes_no_sense_is_refused(void **state)
{
    static struct recorder r;

    (void)state;
    begin(&r, SLATE_COMMANDS_NVME, nvme_absurd);
    assert_status(slate_media_open(&media, &r.port), SLATE_ERR_GEOMETRY);
    assert_string_equal(media.identity.model, "Swift 512");
}

static const uint8_t *csd;
static bool version_1;

static void respond(struct slate_exchange *x, uint8_t first, uint32_t content)
{
    uint8_t *a = x->answer;

    a[0] = first;
    for (int i = 0; i < 4; i++)
        a[1 + i] = (uint8_t)(content >> 8 * (3 - i));
    a[5] = (uint8_t)(first == 0x3F ? 0xFF : slate_crc7(a, 5) << 1 | 1);
    x->answer_length = 6;
    x->transferred = x->data_length;
}

/* A card on the native bus; registers are fixed. */
static bool sd_card(struct slate_exchange *x)
{
    static const uint8_t cid[16] = {0x7B, 'H',  'Y',  'L', 'C',  '0',
                                    '3',  '2',  0x10, 0,   0x31, 0xA7,
                                    0xC5, 0x01, 0xF5, 0};
    uint8_t index = x->command[0] & 0x3F;

    switch (index) {
    case 0:
        return true;
    case 2:
    case 9:
        x->answer[0] = 0x3F;
        memcpy(x->answer + 1, index == 2 ? cid : csd, 16);
        x->answer[16] = (uint8_t)(slate_crc7(x->answer + 1, 15) << 1 | 1);
        x->answer_length = 17;
        return true;
    case 3:
        respond(x, 3, 0xB3680500);
        return true;
    case 8:
        respond(x, 8, 0x1AA);
        if (version_1)
            x->state = 1;
        return true;
    case 41:
        respond(x, 0x3F, version_1 ? 0x80FF8000 : 0xC0FF8000);
        return true;
    default:
        respond(x, index, 0x900);
        return true;
    }
}

static void open_card(struct recorder *r, const uint8_t *registers, bool old)
{
    csd = registers;
    version_1 = old;
    begin(r, SLATE_COMMANDS_SD, sd_card);
    assert_ok(slate_media_open(&media, &r->port));
}

/* Registers as worked out by hand from 5.3.2 and 5.3.3. */
static const uint8_t csd_1_gb[16] = {0x00, 0x26, 0x00, 0x32, 0x5F, 0x59,
                                     0x83, 0xC8, 0xAE, 0xFB, 0xCF, 0xFF,
                                     0x92, 0x40, 0x40, 0x00};
static const uint8_t csd_32_gb[16] = {0x40, 0x0E, 0x00, 0x32, 0x5B, 0x59,
                                      0x00, 0x00, 0xED, 0xC8, 0x7F, 0x80,
                                      0x0A, 0x40, 0x40, 0x00};
static const uint8_t csd_4_tb[16] = {0x80, 0x0E, 0x00, 0x32, 0x5B, 0x59,
                                     0x00, 0x7F, 0xFF, 0xFF, 0x7F, 0x80,
                                     0x0A, 0x40, 0x50, 0x00};

static void sd_capacity_is_counted_in_three_ways(void **state)
{
    static struct recorder r;

    (void)state;
    open_card(&r, csd_32_gb, false);
    assert_int_equal(media.geometry.block_count, (0xEDC8ull + 1) * 1024);
    assert_string_equal(media.identity.serial, "7B-0031A7C5");
    assert_string_equal(media.identity.model, "LC032");
    assert_string_equal(media.identity.revision, "2031-05");
    assert_false(media.read_only);
    open_card(&r, csd_4_tb, false);
    assert_int_equal(media.geometry.block_count, (0x7FFFFFull + 1) * 1024);
    assert_true(media.read_only); /* TMP_WRITE_PROTECT */
    /* C_SIZE 3874, C_SIZE_MULT 7, READ_BL_LEN 9: 3875 * 512 * 512 */
    open_card(&r, csd_1_gb, true);
    assert_int_equal(media.geometry.block_count, 3875ull * 512);
    assert_true(media.byte_addressed);
}

static void sd_frames_have_their_checksums(void **state)
{
    static struct recorder r;

    (void)state;
    open_card(&r, csd_32_gb, false);
    /* the examples of 4.5, and CMD8 */
    assert_memory_equal(r.sent[0], "\x40\0\0\0\0\x95", 6);
    assert_memory_equal(r.sent[1], "\x48\0\0\1\xAA\x87", 6);
    assert_memory_equal(r.sent[2], "\x77\0\0\0\0\x65", 6);
    assert_memory_equal(r.sent[3], "\x69\x40\xFF\x80\0\x17", 6);
    assert_ok(slate_media_read(&media, 0x1234, 1, block));
    assert_memory_equal(last(&r, 0), "\x51\0\0\x12\x34", 5);
    assert_ok(slate_media_read(&media, 0x1234, 4, block));
    assert_memory_equal(last(&r, 1), "\x52\0\0\x12\x34", 5);
    assert_int_equal(last(&r, 0)[0], 0x4C); /* stop */
    enter(&media);
    assert_ok(slate_media_write(&media, 9, 1, block));
    assert_memory_equal(last(&r, 1), "\x58\0\0\0\x09", 5);
    assert_memory_equal(last(&r, 0), "\x4D\xB3\x68\0\0", 5); /* status */
    assert_ok(slate_media_clear(&media, 8, 16, SLATE_CLEAR_DISCARD));
    assert_memory_equal(last(&r, 3), "\x60\0\0\0\x08", 5);
    assert_memory_equal(last(&r, 2), "\x61\0\0\0\x17", 5);
    assert_memory_equal(last(&r, 1), "\x66\0\0\0\0", 5);
    open_card(&r, csd_1_gb, true); /* standard capacity counts bytes */
    assert_ok(slate_media_read(&media, 3, 1, block));
    assert_memory_equal(last(&r, 0), "\x51\0\0\x06\0", 5);
    /* 512 bytes of FFh: 7FA1h (4.5) */
    memset(block, 0xFF, 512);
    assert_int_equal(slate_crc16(block, 512), 0x7FA1);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(ata_task_files_are_those_of_the_standard),
        cmocka_unit_test(ata_identity_with_a_wrong_checksum_is_refused),
        cmocka_unit_test(docks_are_asked_for_the_disk_behind_them),
        cmocka_unit_test(nvme_entries_are_those_of_the_standard),
        cmocka_unit_test(nvme_geometry_that_makes_no_sense_is_refused),
        cmocka_unit_test(sd_capacity_is_counted_in_three_ways),
        cmocka_unit_test(sd_frames_have_their_checksums),
    };

    return cmocka_run_group_tests_name("commands", tests, NULL, NULL);
}
