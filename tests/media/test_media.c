/* SPDX-License-Identifier: MIT */
/* The SCSI side of media, against bytes worked out from SPC-4 and SBC-3: a
 * scripted device records what it is sent and answers what it is told. */
#include "check.h"

struct answer {
    uint8_t operation; /* which command it is for */
    uint8_t state;
    uint8_t sense[18];
    uint8_t data[36];
    uint32_t length;
};

struct script {
    struct slate_port port;
    struct answer answer[12];
    unsigned answers;
    uint8_t sent[64][16];
    uint8_t sent_length[64];
    unsigned count;
    bool gone;
};

static enum slate_status script_facts(void *context,
                                      struct slate_port_facts *facts)
{
    (void)context;
    facts->identity.transport = SLATE_TRANSPORT_USB;
    facts->commands = SLATE_COMMANDS_SCSI;
    return SLATE_OK;
}

/* An answer is used up unless it is the last one for its command. */
static const struct answer *pick(struct script *script, uint8_t operation)
{
    struct answer *found = NULL;

    for (unsigned i = script->answers; i-- > 0;) {
        struct answer *one = &script->answer[i];

        if (one->operation == operation && one->length != UINT32_MAX)
            found = one;
    }
    return found;
}

static enum slate_status script_exchange(void *context,
                                         struct slate_exchange *x)
{
    struct script *script = context;
    const struct answer *answer = pick(script, x->command[0]);

    if (script->gone)
        return SLATE_ERR_NO_DEVICE;
    memcpy(script->sent[script->count % 64], x->command, 16);
    script->sent_length[script->count++ % 64] = x->command_length;
    x->state = 0;
    if (answer == NULL) {
        if (x->direction == SLATE_DIRECTION_IN)
            memset(x->data, 0, x->data_length);
        x->transferred = x->data_length;
        return SLATE_OK;
    }
    x->state = answer->state;
    memcpy(x->answer, answer->sense, sizeof answer->sense);
    x->answer_length = answer->state == 2 ? 18 : 0;
    x->transferred =
        answer->length < x->data_length ? answer->length : x->data_length;
    if (x->direction == SLATE_DIRECTION_IN)
        memcpy(x->data, answer->data, x->transferred);
    if (answer->state != 0) /* next time the following one */
        script->answer[answer - script->answer].length = UINT32_MAX;
    return SLATE_OK;
}

static const struct slate_port_ops script_ops = {.size = sizeof script_ops,
                                                 .facts = script_facts,
                                                 .exchange = script_exchange};

static struct answer *say(struct script *script, uint8_t operation,
                          const void *data, uint32_t length)
{
    struct answer *answer = &script->answer[script->answers++];

    answer->operation = operation;
    answer->length = length;
    memcpy(answer->data, data, length);
    return answer;
}

static void refuse(struct script *script, uint8_t operation, uint8_t key,
                   uint8_t asc, uint8_t ascq)
{
    struct answer *answer = say(script, operation, "", 0);

    answer->state = 0x02;
    answer->sense[0] = 0x70;
    answer->sense[2] = key;
    answer->sense[7] = 10;
    answer->sense[12] = asc;
    answer->sense[13] = ascq;
}

/* A stick of the given last block and block size. */
static void begin(struct script *script, const char *capacity)
{
    memset(script, 0, sizeof *script);
    script->port.ops = &script_ops;
    script->port.context = script;
    say(script, 0x12, "\0\x80\x06\x02\x1F\0\0\0HALYARD Tidestick 16    1.02",
        36);
    say(script, 0x25, capacity, 8);
}

#define STICK_16_GB "\x01\xD2\x18\x7F\0\0\x02\0" /* last LBA 30546047 */

static void opening_sends_the_standard_commands(void **state)
{
    static const uint8_t expected[7][16] = {
        {0x12, 0, 0, 0, 36, 0},                    /* INQUIRY */
        {0x12, 1, 0x00, 0, 252, 0},                /* list of VPD pages */
        {0x12, 1, 0x80, 0, 252, 0},                /* unit serial number */
        {0xA0, 0, 0, 0, 0, 0, 0, 0, 0, 136, 0, 0}, /* REPORT LUNS */
        {0x00},                                    /* TEST UNIT READY */
        {0x25},                                    /* READ CAPACITY (10) */
        {0x1A, 0x08, 0x3F, 0, 4, 0},               /* MODE SENSE (6) */
    };
    struct script script;
    struct slate_media media;

    (void)state;
    begin(&script, STICK_16_GB);
    assert_ok(slate_media_open(&media, &script.port));
    assert_int_equal(script.count, 7);
    assert_memory_equal(script.sent, expected, 7 * 16);
    assert_string_equal(media.identity.maker, "HALYARD");
    assert_string_equal(media.identity.model, "Tidestick 16");
    assert_string_equal(media.identity.revision, "1.02");
    assert_true(media.removable);
    assert_false(media.read_only);
    assert_int_equal(media.geometry.block_count, 30546048);
    assert_int_equal(media.geometry.block_bytes, 512);
}

static void check_transfer(struct slate_media *media, struct script *script,
                           uint64_t lba, const char *expected, uint8_t length,
                           bool write)
{
    static uint8_t block[4096];
    unsigned at = script->count;

    if (write)
        assert_ok(slate_media_write(media, lba, 1, block));
    else
        assert_ok(slate_media_read(media, lba, 1, block));
    assert_int_equal(script->sent_length[at % 64], length);
    assert_memory_equal(script->sent[at % 64], expected, length);
}

static void transfers_use_the_short_form_where_it_reaches(void **state)
{
    struct script script;
    struct slate_media media;

    (void)state;
    begin(&script, "\xFF\xFF\xFF\xFF\0\0\x02\0");
    /* READ CAPACITY (16): last LBA 2^33 - 1, 512 bytes, 8 per physical */
    say(&script, 0x9E,
        "\0\0\0\x01\xFF\xFF\xFF\xFF\0\0\x02\0\0\x03\0\x07"
        "\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0",
        32);
    assert_ok(slate_media_open(&media, &script.port));
    assert_memory_equal(script.sent[6],
                        "\x9E\x10\0\0\0\0\0\0\0\0\0\0\0\x20\0\0", 16);
    enter(&media);
    assert_int_equal(media.geometry.block_count, 8589934592u);
    assert_int_equal(media.geometry.physical_bytes, 4096);
    assert_int_equal(media.abilities.aligned_block, 7);
    check_transfer(&media, &script, 0x12345678,
                   "\x28\0\x12\x34\x56\x78\0\0\x01\0", 10, false);
    check_transfer(&media, &script, 0xFFFFFFFF,
                   "\x2A\0\xFF\xFF\xFF\xFF\0\0\x01\0", 10, true);
    check_transfer(&media, &script, 0x100000000,
                   "\x88\0\0\0\0\x01\0\0\0\0\0\0\0\x01\0\0", 16, false);
    check_transfer(&media, &script, 0x1FFFFFFFF,
                   "\x8A\0\0\0\0\x01\xFF\xFF\xFF\xFF\0\0\0\x01\0\0", 16, true);
    assert_ok(slate_media_flush(&media));
    assert_memory_equal(script.sent[(script.count - 1) % 64],
                        "\x35\0\0\0\0\0\0\0\0\0", 10);
}

static void ranges_are_checked_before_anything_is_sent(void **state)
{
    static uint8_t block[1024];
    struct script script;
    struct slate_media media;
    unsigned sent;

    (void)state;
    begin(&script, STICK_16_GB);
    assert_ok(slate_media_open(&media, &script.port));
    sent = script.count;
    assert_status(slate_media_read(&media, 30546047, 2, block),
                  SLATE_ERR_RANGE);
    assert_status(slate_media_write(&media, UINT64_MAX, 1, block),
                  SLATE_ERR_RANGE);
    assert_status(slate_media_write(&media, 0, 1, block), SLATE_ERR_OUTSIDE);
    assert_int_equal(script.count, sent);
    assert_int_equal(media.fault.lba, 30546047); /* the first one stays */
}

static void attentions_pass_and_refusals_are_told(void **state)
{
    static uint8_t block[512];
    struct script script;
    struct slate_media media;
    struct slate_text text;
    char words[200];

    (void)state;
    begin(&script, STICK_16_GB);
    refuse(&script, 0x00, 6, 0x29, 0); /* powered on */
    refuse(&script, 0x00, 2, 0x04, 1); /* becoming ready */
    assert_ok(slate_media_open(&media, &script.port));
    enter(&media);
    refuse(&script, 0x2A, 7, 0x27, 0);
    assert_status(slate_media_write(&media, 99, 1, block), SLATE_ERR_PROTECTED);
    slate_text_start(&text, words, sizeof words);
    slate_fault_words(&media.fault, &text);
    assert_string_equal(words,
                        "the device is write-protected, while writing block "
                        "99; the device answers: data protected, it "
                        "is write-protected (7/27/00)");
    assert_ok(slate_media_open(&media, &script.port));
    refuse(&script, 0x28, 3, 0x11, 0);
    assert_ok(slate_media_read(&media, 7, 1, block)); /* the second try */
    assert_int_equal(media.fault.status, SLATE_OK);
    for (int i = 0; i < 3; i++)
        refuse(&script, 0x28, 3, 0x11, 0);
    assert_status(slate_media_read(&media, 7, 1, block), SLATE_ERR_READ);
    assert_int_equal(media.fault.sense_key, 3);
    script.gone = true;
    assert_status(slate_media_read(&media, 7, 1, block), SLATE_ERR_NO_DEVICE);
}

static void devices_that_refuse_much_still_open(void **state)
{
    struct script script;
    struct slate_media media;

    (void)state;
    begin(&script, STICK_16_GB);
    refuse(&script, 0x1A, 5, 0x20, 0); /* no MODE SENSE */
    refuse(&script, 0x35, 5, 0x20, 0); /* no SYNCHRONIZE CACHE */
    assert_ok(slate_media_open(&media, &script.port));
    assert_ok(slate_media_flush(&media));
    assert_int_equal(media.fault.status, SLATE_OK);
    begin(&script, STICK_16_GB);
    refuse(&script, 0x00, 2, 0x3A, 0);
    assert_status(slate_media_open(&media, &script.port), SLATE_ERR_NO_MEDIUM);
    assert_string_equal(media.identity.model, "Tidestick 16");
}

static void hostile_replies_are_refused(void **state)
{
    static const struct {
        const char *capacity;
        uint32_t length;
    } rows[] = {
        {"\0\0\0\x09\0\0\0\0", 8},         /* blocks of 0 bytes */
        {"\0\0\0\x09\0\0\x02\x08", 8},     /* 520 */
        {"\0\0\0\x09\xFF\xFF\xFF\xFF", 8}, /* 4 GiB */
        {"\0\0\0\x09\0\0\x02\0", 5},       /* short */
    };
    struct script script;
    struct slate_media media;

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        begin(&script, rows[i].capacity);
        script.answer[1].length = rows[i].length;
        assert_status(slate_media_open(&media, &script.port),
                      SLATE_ERR_GEOMETRY);
    }
    begin(&script, "\xFF\xFF\xFF\xFF\0\0\x02\0");
    say(&script, 0x9E, "\xFF\xFF\xFF\xFF\xFF\xFF\xFF\xFF\0\0\x02\0", 12);
    assert_status(slate_media_open(&media, &script.port), SLATE_ERR_GEOMETRY);
    begin(&script, STICK_16_GB);
    script.answer[0].length = 5; /* hardly an INQUIRY */
    assert_status(slate_media_open(&media, &script.port), SLATE_ERR_COMMAND);
    assert_status(slate_media_open(&media, NULL), SLATE_ERR_ARGUMENT);
}

static void tags_tell_devices_apart_and_stay(void **state)
{
    struct ram ram;
    struct slate_media media;
    char first[SLATE_TAG_ROOM];

    (void)state;
    ram_open(&ram, 512, 4096, true);
    assert_ok(slate_media_open(&media, &ram.port));
    memcpy(first, media.tag, sizeof first);
    assert_int_equal(strlen(first), 8);
    assert_int_equal(strspn(first, "DFGHJKLNRSTWXZAEU"), 5);
    assert_int_equal(strspn(first + 6, "23456789"), 2);
    assert_ok(slate_media_open(&media, &ram.port));
    assert_string_equal(media.tag, first);
    strcpy(ram.facts.identity.serial, "LC-0032");
    assert_ok(slate_media_open(&media, &ram.port));
    assert_string_not_equal(media.tag, first);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(opening_sends_the_standard_commands),
        cmocka_unit_test(transfers_use_the_short_form_where_it_reaches),
        cmocka_unit_test(ranges_are_checked_before_anything_is_sent),
        cmocka_unit_test(attentions_pass_and_refusals_are_told),
        cmocka_unit_test(devices_that_refuse_much_still_open),
        cmocka_unit_test(hostile_replies_are_refused),
        cmocka_unit_test(tags_tell_devices_apart_and_stay),
    };

    return cmocka_run_group_tests_name("media", tests, NULL, NULL);
}
