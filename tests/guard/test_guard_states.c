/* SPDX-License-Identifier: MIT */
/* Guards byte by byte: what goes over when one is lifted, and the states that
 * the devices of the bench go through, each as the standards have them. */
#include "check.h"
#include "program.h"
#include "tool_case.h"
#include <trueslate/port_sim.h>

static struct slate_media media;
static struct slate_sim *sim;
static struct slate_guard found[SLATE_GUARDS_MAX];
static uint32_t count;

/* What goes over, byte for byte; the numbers are those of the standards. */
struct script {
    struct slate_port port;
    enum slate_command_set commands;
    uint8_t sent[16][64];
    uint8_t data[16][24];
    uint32_t count;
};

static struct script script;

static enum slate_status script_facts(void *context,
                                      struct slate_port_facts *out)
{
    const struct script *one = context;

    out->identity.transport = SLATE_TRANSPORT_OTHER;
    out->commands = one->commands;
    return SLATE_OK;
}

/* Records, and sends the command on to the simulated device behind it. */
static enum slate_status script_exchange(void *context,
                                         struct slate_exchange *x)
{
    struct script *one = context;
    const struct slate_port *behind = slate_sim_port(sim);

    if (one->count < 16) {
        memcpy(one->sent[one->count], x->command, 64);
        if (x->direction == SLATE_DIRECTION_OUT)
            memcpy(one->data[one->count], x->data,
                   x->data_length < 24 ? x->data_length : 24);
        one->count++;
    }
    return behind->ops->exchange(behind->context, x);
}

static const struct slate_port_ops script_ops = {.size = sizeof script_ops,
                                                 .facts = script_facts,
                                                 .exchange = script_exchange};

static void open_sim(const char *name)
{
    char why[SLATE_SIM_WHY_ROOM];

    assert_ok(slate_sim_open(in_folder("bench"), name, &sim, why));
}

static void close_sim(void)
{
    slate_sim_close(sim);
    sim = NULL;
}

/* Lifts the first guard of a device that is laid out anew, and keeps what went
 * over from then on. */
static void lift_recorded(const char *name, const char *members,
                          enum slate_command_set commands, bool erase)
{
    memset(&script, 0, sizeof script);
    script.port.ops = &script_ops;
    script.port.context = &script;
    script.commands = commands;
    lay_device(name, members);
    open_sim(name);
    assert_ok(slate_media_open(&media, &script.port));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    script.count = 0;
    if (erase)
        assert_ok(slate_guard_erase(&media, &found[0], "breakwater"));
    else
        assert_ok(slate_guard_lift(&media, &found[0], "breakwater", true));
    close_sim();
}

static void cards_get_the_bytes_of_the_standard(void **state)
{
    (void)state;
    /* CMD7, CMD9, CMD7; then CMD27, argument 0, its CRC7; the CSD ends with its
     * own */
    lift_recorded("logger-card-5", "{}", SLATE_COMMANDS_SD, false);
    assert_memory_equal(script.sent[3], "\x5B\0\0\0\0\xDB", 6);
    assert_int_equal(script.data[3][14] & 0x30, 0);
    assert_int_equal(script.data[3][15],
                     slate_crc7(script.data[3], 15) << 1 | 1);
    /* CMD16 with 12; CMD42: clear the password, ten bytes of it */
    lift_recorded("logger-card-8", "{}", SLATE_COMMANDS_SD, false);
    assert_memory_equal(script.sent[0], "\x50\0\0\0\x0C", 5);
    assert_int_equal(script.sent[1][0], 0x6A);
    assert_memory_equal(script.data[1],
                        "\x02\x0A"
                        "breakwater",
                        12);
    /* CMD16 with 1; CMD42: erase, and nothing behind it */
    lift_recorded("logger-card-8", "{\"blocks\": 8192, \"content\": []}",
                  SLATE_COMMANDS_SD, true);
    assert_memory_equal(script.sent[0], "\x50\0\0\0\x01", 5);
    assert_memory_equal(script.data[1], "\x08\0", 2);
    /* CMD30 at 0; CMD29 at group 0 and 5, of 2 MiB; CMD30 again, then for the
     * next 32 */
    lift_recorded("logger-card-9", "{}", SLATE_COMMANDS_SD, false);
    assert_memory_equal(script.sent[3], "\x5E\0\0\0\0", 5);
    assert_memory_equal(script.sent[4], "\x5D\0\0\0\0", 5);
    assert_memory_equal(script.sent[5], "\x5D\0\xA0\0\0", 5);
    assert_memory_equal(script.sent[6], "\x5E\0\0\0\0", 5);
    assert_memory_equal(script.sent[7], "\x5E\x04\0\0\0", 5);
}

static void disks_get_the_bytes_of_the_standards(void **state)
{
    (void)state;
    /* MODE SELECT (6), page format and saved; control page with SWP 0 */
    lift_recorded("disk-protected", "{}", SLATE_COMMANDS_SCSI, false);
    assert_memory_equal(script.sent[1], "\x15\x11\0\0\x10\0", 6);
    assert_memory_equal(script.data[1] + 4, "\x0A\x0A\0\0\0", 5);
    /* PERSISTENT RESERVE OUT: register anyway, then clear, 24 bytes each */
    lift_recorded("disk-reserved", "{}", SLATE_COMMANDS_SCSI, false);
    assert_memory_equal(script.sent[0], "\x5F\x06\0\0\0\0\0\0\x18\0", 10);
    assert_memory_equal(script.sent[1], "\x5F\x03\0\0\0\0\0\0\x18\0", 10);
    /* IDENTIFY, READ NATIVE MAX ADDRESS EXT, SET MAX ADDRESS EXT to last */
    lift_recorded("shore-disk-4", "{}", SLATE_COMMANDS_ATA, false);
    assert_int_equal(script.sent[1][11], 0x27);
    assert_memory_equal(script.sent[2],
                        "\0\0\x01\0\x2F\x60\x38\x3A\0\0\x40\x37", 12);
    /* SET ACCESSIBLE MAX ADDRESS EXT */
    lift_recorded("shore-disk-7", "{}", SLATE_COMMANDS_ATA, false);
    assert_memory_equal(script.sent[1], "\0\0\0\0\0\0\0\0\0\0\x40\x78", 12);
    assert_memory_equal(script.sent[2],
                        "\x01\0\0\0\x2F\x60\x38\x3A\0\0\x40\x78", 12);
    /* DEVICE CONFIGURATION RESTORE */
    lift_recorded("shore-disk-6", "{}", SLATE_COMMANDS_ATA, false);
    assert_memory_equal(script.sent[0], "\xC0\0\0\0\0\0\0\0\0\0\0\xB1", 12);
    /* SECURITY UNLOCK, then DISABLE PASSWORD: word 0, the password behind */
    lift_recorded("shore-disk-5",
                  "{\"guards\": [\"locked\"], \"password\": \"breakwater\"}",
                  SLATE_COMMANDS_ATA, false);
    assert_memory_equal(script.sent[0], "\0\0\x01\0\0\0\0\0\0\0\0\xF2", 12);
    assert_memory_equal(script.data[0], "\0\0breakwater\0", 13);
    assert_memory_equal(script.sent[1], "\0\0\x01\0\0\0\0\0\0\0\0\xF6", 12);
    /* SECURITY ERASE PREPARE, then SECURITY ERASE UNIT */
    lift_recorded("shore-disk-5",
                  "{\"guards\": [\"locked\"], \"password\": \"breakwater\", "
                  "\"native_blocks\": 0, \"blocks\": 4096, \"content\": []}",
                  SLATE_COMMANDS_ATA, true);
    assert_memory_equal(script.sent[0], "\0\0\0\0\0\0\0\0\0\0\0\xF3", 12);
    assert_memory_equal(script.sent[1], "\0\0\x01\0\0\0\0\0\0\0\0\xF4", 12);
    /* Set Features (09h), namespace 1, feature 84h, state 0 */
    lift_recorded("station-nvme-3", "{}", SLATE_COMMANDS_NVME, false);
    assert_int_equal(script.sent[0][0], 0x09);
    assert_memory_equal(script.sent[0] + 4, "\x01\0\0\0", 4);
    assert_memory_equal(script.sent[0] + 40, "\x84\0\0\0\0\0\0\0", 8);
}

/* One ATA command to the open device; its state. */
static uint8_t ata(uint8_t operation, uint8_t features, const char *password)
{
    const struct slate_port *port = slate_sim_port(sim);
    static uint8_t data[512];
    struct slate_exchange x = {.command_length = 12};

    x.command[0] = features;
    x.command[11] = operation;
    if (password != NULL) {
        memset(data, 0, sizeof data);
        memcpy(data + 2, password, strlen(password));
        x.direction = SLATE_DIRECTION_OUT;
        x.data = data;
        x.data_length = 512;
    }
    assert_ok(port->ops->exchange(port->context, &x));
    return x.state;
}

static uint64_t ata_word(size_t index)
{
    const struct slate_port *port = slate_sim_port(sim);
    static uint8_t data[512];
    struct slate_exchange x = {.command_length = 12,
                               .direction = SLATE_DIRECTION_IN,
                               .data = data,
                               .data_length = 512};

    x.command[11] = 0xEC;
    assert_ok(port->ops->exchange(port->context, &x));
    return number_at(data, 2 * index, 2);
}

static void power_cycle(const char *name)
{
    close_sim();
    assert_ok(slate_sim_plug(in_folder("bench"), name, false));
    assert_ok(slate_sim_plug(in_folder("bench"), name, true));
    open_sim(name);
}

/* ACS-3, 4.18: none, set, locked, unlocked, too many wrong ones, frozen. */
static void security_goes_through_its_states(void **state)
{
    const char *name = "shore-disk-5";

    (void)state;
    lay_device(name, "{\"guards\": [], \"password\": \"\", \"native_blocks\": "
                     "0, \"blocks\": 4096, "
                     "\"content\": []}");
    open_sim(name);
    assert_int_equal(ata(0xF1, 0, "seaweed"), 0); /* set: not locked yet */
    assert_int_equal(ata_word(128), 0x0003);
    power_cycle(name);
    assert_int_equal(ata_word(128), 0x0007);
    assert_int_equal(ata_word(82) & 2, 2);
    assert_int_equal(ata(0xF1, 0, "other"), 1);
    assert_int_equal(ata(0xF6, 0, "seaweed"), 1); /* locked: unlock first */
    for (int i = 0; i < 5; i++)
        assert_int_equal(ata(0xF2, 0, "wrong"), 1);
    assert_int_equal(ata_word(128), 0x0017);
    assert_int_equal(ata(0xF2, 0, "seaweed"), 1);
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(found[0].lift, SLATE_LIFT_POWER_CYCLE);
    power_cycle(name);
    assert_int_equal(ata(0xF2, 0, "seaweed"), 0);
    assert_int_equal(ata_word(128), 0x0003);
    assert_int_equal(ata(0xF5, 0, NULL), 0); /* frozen */
    assert_int_equal(ata(0xF6, 0, "seaweed"), 1);
    assert_int_equal(ata_word(128), 0x000B);
    power_cycle(name);
    assert_int_equal(ata(0xF4, 0, "seaweed"), 1); /* not prepared */
    assert_int_equal(ata(0xF3, 0, NULL), 0);
    assert_int_equal(ata(0xF4, 0, "seaweed"), 0);
    assert_int_equal(ata_word(128), 0); /* nothing is left to tell of */
    close_sim();
}

/* Hidden area and overlay: in which order they go, and how often. */
static void hidden_capacity_goes_step_by_step(void **state)
{
    const char *name = "shore-disk-6";

    (void)state;
    lay_device(name, "{\"blocks\": 900000000}"); /* both at once */
    open_sim(name);
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(count, 2);
    assert_int_equal(found[0].kind, SLATE_GUARD_HIDDEN_AREA);
    assert_int_equal(found[0].value, 976773168);
    assert_int_equal(found[1].kind, SLATE_GUARD_OVERLAY);
    assert_int_equal(found[1].value, 1953525168);
    assert_status(slate_guard_lift(&media, &found[1], NULL, false),
                  SLATE_ERR_GUARD);
    assert_ok(slate_guard_lift(&media, &found[0], NULL, false));
    assert_int_equal(ata(0xB1, 0xC1, NULL), 0); /* freeze lock */
    assert_int_equal(ata(0xB1, 0xC0, NULL), 1);
    power_cycle(name);
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(count, 2); /* the first lift was not to last */
    assert_ok(slate_guard_lift(&media, &found[0], NULL, false));
    assert_ok(slate_guard_lift(&media, &found[1], NULL, false));
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_int_equal(media.geometry.block_count, 1953525168);
    power_cycle(name);
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_int_equal(media.geometry.block_count, 1953525168);
    close_sim();
}

/* SET ACCESSIBLE MAX ADDRESS EXT goes once for each power-on (ACS-3, 7.1). */
static void a_limit_is_set_once_for_each_power_on(void **state)
{
    const char *name = "shore-disk-7";
    const struct slate_port *port;
    struct slate_exchange x = {.command_length = 12};

    (void)state;
    lay_device(name, "{}");
    open_sim(name);
    port = slate_sim_port(sim);
    memcpy(x.command, "\x01\0\0\0\xFF\xFF\0\x10\0\0\x40\x78", 12);
    assert_ok(port->ops->exchange(port->context, &x));
    assert_int_equal(x.state, 0);
    assert_ok(slate_media_open(&media, port));
    enter(&media);
    assert_int_equal(media.geometry.block_count, 0x10010000);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_status(slate_guard_lift(&media, &found[0], NULL, true),
                  SLATE_ERR_GUARD);
    power_cycle(name);
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_ok(slate_guard_lift(&media, &found[0], NULL, true));
    close_sim();
}

/* What of a drive belongs to no namespace is told, and lifted by nobody. */
static void a_small_namespace_is_told(void **state)
{
    (void)state;
    lay_device("station-nvme-3",
               "{\"guards\": [], \"native_blocks\": 2000000000}");
    open_sim("station-nvme-3");
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(count, 1);
    assert_int_equal(found[0].kind, SLATE_GUARD_SMALL_NAMESPACE);
    assert_int_equal(found[0].value, 2000000000);
    assert_false(slate_guard_stops_writing(found[0].kind));
    assert_status(slate_guard_lift(&media, &found[0], NULL, true),
                  SLATE_ERR_GUARD);
    close_sim();
}

/* One SD command with a block of data; the card status behind it. */
static uint32_t card(uint8_t index, uint32_t argument, void *data,
                     uint32_t length)
{
    const struct slate_port *port = slate_sim_port(sim);
    uint32_t result = 0;

    for (int ask = 0; ask < 2; ask++) {
        struct slate_exchange x = {.command_length = 6};

        x.command[0] = (uint8_t)(0x40 | (ask == 1 ? 13 : index));
        for (int i = 0; i < 4 && ask == 0; i++)
            x.command[1 + i] = (uint8_t)(argument >> 8 * (3 - i));
        x.command[5] = (uint8_t)(slate_crc7(x.command, 5) << 1 | 1);
        x.direction = ask == 1 || length == 0 ? SLATE_DIRECTION_NONE
                      : index == 30           ? SLATE_DIRECTION_IN
                                              : SLATE_DIRECTION_OUT;
        x.data = data;
        x.data_length = ask == 1 ? 0 : length;
        assert_ok(port->ops->exchange(port->context, &x));
        for (int i = 0; i < 4; i++)
            result = result << 8 | x.answer[1 + i];
    }
    return result;
}

#define LOCKED 0x02000000u
#define FAILED 0x01000000u

/* CMD42 with a first byte and a password; which of the two bits it sets. */
static uint32_t lock(uint8_t how, const char *password)
{
    uint8_t block[40] = {how, (uint8_t)strlen(password)};

    memcpy(block + 2, password, strlen(password));
    return card(42, 0, block, how == 8 ? 1 : 2 + (uint32_t)strlen(password)) &
           (LOCKED | FAILED);
}

/* SD 4.3.7: set, lock, unlock, replace, clear, forced erase. */
static void a_card_goes_through_its_locks(void **state)
{
    const char *name = "logger-card-5";

    (void)state;
    lay_device(name, "{\"guards\": [], \"blocks\": 8192, \"content\": []}");
    open_sim(name);
    assert_int_equal(lock(0x00, ""), FAILED);     /* nothing to unlock */
    assert_int_equal(lock(0x08, ""), FAILED);     /* nor to erase */
    assert_int_equal(lock(0x01, "gull"), 0);      /* set */
    assert_int_equal(lock(0x04, "tern"), FAILED); /* wrong */
    assert_int_equal(lock(0x04, "gull"), LOCKED);
    assert_int_equal(lock(0x00, "tern"), LOCKED | FAILED);
    assert_int_equal(lock(0x00, "gull"), 0);
    assert_int_equal(lock(0x01, "gulltern"), 0); /* replaced: old and new */
    power_cycle(name);
    assert_int_equal(card(16, 512, NULL, 0) & LOCKED, LOCKED);
    assert_int_equal(lock(0x02, "tern"), 0); /* cleared, and unlocked */
    power_cycle(name);
    assert_int_equal(card(16, 512, NULL, 0) & LOCKED, 0);
    assert_int_equal(lock(0x05, "gull"), LOCKED); /* set and locked at once */
    assert_int_equal(lock(0x08, ""), 0);
    close_sim();
    /* what is protected for ever keeps its lock, too */
    lay_device(name, "{\"guards\": [\"permanent\", \"password\"], "
                     "\"password\": \"gull\"}");
    open_sim(name);
    assert_int_equal(lock(0x08, ""), LOCKED | FAILED);
    close_sim();
}

/* SD 4.3.6: groups are set, told, cleared one by one; larger cards know of
 * none. */
static void groups_are_told_apart(void **state)
{
    uint8_t told[4] = {0};

    (void)state;
    lay_device("logger-card-9", "{\"protected_groups\": 0}");
    open_sim("logger-card-9");
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(count, 0); /* it knows groups, and none is protected */
    (void)card(28, 3 * 2097152 + 512, NULL, 0);
    (void)card(30, 0, told, 4);
    assert_memory_equal(told, "\0\0\0\x08", 4);
    (void)card(30, 3 * 2097152, told, 4);
    assert_memory_equal(told, "\0\0\0\x01", 4);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(found[0].value, 1);
    assert_int_equal(card(29, 0xFFFFFE00, NULL, 0) & 0x80000000, 0x80000000);
    (void)card(29, 3 * 2097152, NULL, 0);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(count, 0);
    close_sim();
    lay_device("logger-card-9", "{\"attached\": \"sd-spi\"}");
    open_sim("logger-card-9");
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    enter(&media);
    assert_ok(slate_guard_find(&media, found, &count));
    assert_int_equal(found[0].value, 2);
    assert_ok(slate_guard_lift(&media, &found[0], NULL, false));
    close_sim();
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(cards_get_the_bytes_of_the_standard),
        cmocka_unit_test(disks_get_the_bytes_of_the_standards),
        cmocka_unit_test(security_goes_through_its_states),
        cmocka_unit_test(hidden_capacity_goes_step_by_step),
        cmocka_unit_test(a_limit_is_set_once_for_each_power_on),
        cmocka_unit_test(a_small_namespace_is_told),
        cmocka_unit_test(a_card_goes_through_its_locks),
        cmocka_unit_test(groups_are_told_apart),
    };

    return cmocka_run_group_tests_name("guard states", tests, fresh_bench,
                                       clean);
}
