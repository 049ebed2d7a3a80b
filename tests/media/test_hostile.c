/* SPDX-License-Identifier: MIT */
/* Devices that answer nonsense, cut their answers short, or never get ready:
 * opening and using them ends, with an error or with a usable device. */
#include "check.h"

enum manner {
    RANDOM,
    ZEROS,
    ONES,
    SHORT,
    BUSY_FOR_EVER,
    NOT_READY,
    ODD_SENSE
};

struct nonsense {
    struct slate_port port;
    enum slate_command_set commands;
    enum manner manner;
    uint32_t seed;
    uint64_t count;
};

static uint8_t chance(struct nonsense *n)
{
    n->seed = n->seed * 1664525 + 1013904223;
    return (uint8_t)(n->seed >> 24);
}

static enum slate_status facts(void *context, struct slate_port_facts *out)
{
    const struct nonsense *n = context;

    out->commands = n->commands;
    out->identity.transport = SLATE_TRANSPORT_USB;
    return SLATE_OK;
}

static void fill(struct nonsense *n, uint8_t *data, uint32_t length)
{
    for (uint32_t i = 0; i < length; i++)
        data[i] = n->manner == ZEROS ? 0 : n->manner == ONES ? 0xFF : chance(n);
}

static void sense(struct slate_exchange *x, uint8_t key, uint8_t asc,
                  uint8_t ascq)
{
    x->state = 2;
    memset(x->answer, 0, sizeof x->answer);
    x->answer[0] = 0x72; /* descriptor format */
    x->answer[1] = key;
    x->answer[2] = asc;
    x->answer[3] = ascq;
    x->answer_length = 8;
}

static enum slate_status exchange(void *context, struct slate_exchange *x)
{
    struct nonsense *n = context;

    n->count++;
    x->state = 0;
    if (x->direction == SLATE_DIRECTION_IN)
        fill(n, x->data, x->data_length);
    x->transferred = x->data_length;
    fill(n, x->answer, sizeof x->answer);
    x->answer_length = (uint8_t)(chance(n) % (sizeof x->answer + 1));
    if (n->manner == SHORT)
        x->transferred = x->data_length == 0 ? 0 : chance(n) % x->data_length;
    if (n->manner == BUSY_FOR_EVER)
        x->state = 0x08;
    if (n->manner == NOT_READY)
        sense(x, 2, 0x04, 0x01);
    if (n->manner == ODD_SENSE)
        sense(x, chance(n) & 15, chance(n), chance(n));
    if (n->manner == RANDOM)
        x->state = chance(n) % 4 == 0 ? chance(n) : 0;
    return SLATE_OK;
}

static const struct slate_port_ops ops = {
    .size = sizeof ops, .facts = facts, .exchange = exchange};

static void try_device(struct nonsense *n)
{
    static struct session s;
    enum slate_status status;

    n->port.ops = &ops;
    n->port.context = n;
    n->count = 0;
    status = slate_media_open(&s.media, &n->port);
    assert_true(n->count < 4000);
    if (status != SLATE_OK) {
        assert_true((int)status < 0);
        return;
    }
    assert_true(s.media.geometry.block_count > 0);
    assert_true(s.media.largest_transfer > 0);
    status = slate_assess_look(&s.media, SLATE_DEPTH_FULL, s.work,
                               SLATE_WORK_MIN, &s.facts);
    if (status == SLATE_OK) {
        struct slate_finding findings[SLATE_FINDINGS_MAX];
        uint32_t count = slate_assess_judge(&s.facts, findings);

        assert_true(count > 0 && count <= SLATE_FINDINGS_MAX);
    }
    status = slate_media_flush(&s.media);
    enter(&s.media);
    status = slate_media_clear(&s.media, 0, 1, SLATE_CLEAR_DISCARD);
    status = slate_door_leave(&s.media);
    status = slate_media_eject(&s.media);
    (void)status;
    assert_true(n->count < 20000);
}

static void nonsense_in_every_command_set_ends(void **state)
{
    static const enum slate_command_set sets[] = {
        SLATE_COMMANDS_SCSI, SLATE_COMMANDS_ATA, SLATE_COMMANDS_NVME,
        SLATE_COMMANDS_SD, SLATE_COMMANDS_SD_SPI};

    (void)state;
    for (size_t set = 0; set < sizeof sets / sizeof sets[0]; set++) {
        for (int manner = RANDOM; manner <= ODD_SENSE; manner++) {
            for (uint32_t seed = 0; seed < 60; seed++) {
                struct nonsense n = {.commands = sets[set],
                                     .manner = (enum manner)manner,
                                     .seed = seed * 7919 + 17};

                try_device(&n);
            }
        }
    }
}

static enum slate_status open_as(enum manner manner, struct slate_media *media)
{
    static struct nonsense n;

    memset(&n, 0, sizeof n);
    n.commands = SLATE_COMMANDS_SCSI;
    n.manner = manner;
    n.port.ops = &ops;
    n.port.context = &n;
    return slate_media_open(media, &n.port);
}

static void patience_has_an_end(void **state)
{
    struct slate_media media;

    (void)state;
    assert_status(open_as(BUSY_FOR_EVER, &media), SLATE_ERR_BUSY);
    assert_status(open_as(NOT_READY, &media), SLATE_ERR_COMMAND);
    assert_true(media.fault.has_sense);
    assert_int_equal(media.fault.sense_key, 2);
    assert_int_equal(media.fault.asc, 0x04);
}

static void ports_that_lack_operations_are_refused(void **state)
{
    static const struct slate_port_ops none = {.size = sizeof none,
                                               .facts = facts};
    struct slate_port_ops small = ops;
    struct nonsense n = {.commands = SLATE_COMMANDS_SCSI};
    struct slate_port port = {&none, &n};
    struct slate_media media;

    (void)state;
    for (int set = SLATE_COMMANDS_NONE; set <= SLATE_COMMANDS_SD_SPI; set++) {
        n.commands = (enum slate_command_set)set;
        assert_status(slate_media_open(&media, &port), SLATE_ERR_ARGUMENT);
    }
    small.size = 16; /* of an older, smaller table */
    port.ops = &small;
    assert_status(slate_media_open(&media, &port), SLATE_ERR_ARGUMENT);
}

static void sense_codes_have_words(void **state)
{
    (void)state;
    assert_string_equal(slate_sense_words(0x3A, 0x00),
                        "there is no medium in it");
    assert_string_equal(slate_sense_words(0x3A, 0x77), /* the general case */
                        "there is no medium in it");
    assert_string_equal(slate_sense_words(0x27, 0x02),
                        "write-protected by software");
    assert_null(slate_sense_words(0xEE, 0x00));
    for (uint8_t key = 0; key < 16; key++)
        assert_true(strlen(slate_sense_key_words(key)) > 3);
}

/* One whole record is enough, in any piece of the block; with a byte of each
 * changed there is none. */
static void a_mark_needs_one_whole_record(void **state)
{
    struct slate_mark mark = {.seal = {1, 2, 3}, .tag = "TARUK-47"}, read;
    uint8_t block[4096] = {0}, *piece = block + 3 * SLATE_PIECE_BYTES;

    (void)state;
    assert_false(slate_mark_read(block, sizeof block, &read));
    slate_mark_piece(&mark, piece);
    assert_false(slate_mark_read(block, 3 * SLATE_PIECE_BYTES, &read));
    assert_true(slate_mark_read(block, sizeof block, &read));
    assert_memory_equal(read.seal, mark.seal, sizeof mark.seal);
    assert_string_equal(read.tag, "TARUK-47");
    assert_int_equal(number_at(piece, 510, 2), 0);
    for (size_t i = 0; i < 61; i++) {
        for (size_t j = 0; j < 61; j += 7) {
            piece[i] ^= 0x20;
            assert_true(slate_mark_read(block, sizeof block, &read));
            piece[448 + j] ^= 0x20;
            assert_false(slate_mark_read(block, sizeof block, &read));
            piece[i] ^= 0x20;
            assert_true(slate_mark_read(block, sizeof block, &read));
            piece[448 + j] ^= 0x20;
        }
    }
}

/* Twenty thousand serial numbers: tags spread over all that they can be. */
static void tags_are_spread_evenly(void **state)
{
    static uint16_t seen[14 * 3 * 14 * 3 * 14];
    static const char consonant[] = "DFGHJKLNRSTWXZ", vowel[] = "AEU";
    struct ram ram;
    unsigned most = 0;

    (void)state;
    ram_open(&ram, 512, 4096, false);
    for (unsigned i = 0; i < 20000; i++) {
        struct slate_media media;
        size_t at = 0;

        for (unsigned n = i, digit = 0; digit < 6; digit++, n /= 10)
            ram.facts.identity.serial[digit] = (char)('0' + n % 10);
        assert_ok(slate_media_open(&media, &ram.port));
        for (int c = 0; c < 5; c++) {
            const char *set = c % 2 == 0 ? consonant : vowel;

            at = at * strlen(set) + (size_t)(strchr(set, media.tag[c]) - set);
        }
        if (++seen[at] > most)
            most = seen[at];
    }
    assert_true(most <= 10); /* the mean is 0.8 */
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(nonsense_in_every_command_set_ends),
        cmocka_unit_test(patience_has_an_end),
        cmocka_unit_test(ports_that_lack_operations_are_refused),
        cmocka_unit_test(sense_codes_have_words),
        cmocka_unit_test(a_mark_needs_one_whole_record),
        cmocka_unit_test(tags_are_spread_evenly),
    };

    return cmocka_run_group_tests_name("hostile", tests, NULL, NULL);
}
