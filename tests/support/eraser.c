/* SPDX-License-Identifier: MIT */
/* A simulated device that erases itself, and what goes out to it. */
#include "eraser.h"

#include <stdio.h>
#include <stdlib.h>

#include <jansson.h>

#include "program.h"

#define SENT_MOST 64u

/* A port that notes what goes out by a simulated device. */
struct noted {
    struct slate_port port;
    struct slate_port_ops ops;
    const struct slate_port *under;
    uint32_t count;
    char sent[SENT_MOST][400];
};

static struct noted noted;
static struct slate_sim *sim;
struct slate_media media;
struct slate_erase erase;
struct slate_erase_way way[SLATE_ERASE_WAYS_MAX];
struct slate_erase_place place[PLACES];
uint8_t work[SLATE_ERASE_WORK], block[SLATE_BLOCK_MAX];
uint32_t ways;

static enum slate_status exchange(void *context, struct slate_exchange *x)
{
    char *at = noted.sent[noted.count % SENT_MOST];
    const uint8_t *data = x->data;
    uint32_t length = x->data_length < 40 ? x->data_length : 40;

    for (int i = 0; i < x->command_length; i++)
        at += sprintf(at, "%02x", x->command[i]);
    for (uint32_t i = 0; x->direction == SLATE_DIRECTION_OUT && i < length; i++)
        at += sprintf(at, "%s%02x", i == 0 ? " " : "", data[i]);
    noted.count++;
    (void)context;
    return noted.under->ops->exchange(noted.under->context, x);
}

void lay(const char *members)
{
    char why[SLATE_SIM_WHY_ROOM] = "", path[300];
    FILE *file;

    setenv("FOLDER", in_folder("from"), 1);
    setenv("SIMS", in_folder("sims"), 1);
    assert_int_equal(
        system("rm -rf \"$FOLDER\" \"$SIMS\" && mkdir \"$FOLDER\""), 0);
    snprintf(path, sizeof path, "%s/buoy.json", in_folder("from"));
    file = fopen(path, "w");
    assert_non_null(file);
    fprintf(file, "{\"description\": 1, \"name\": \"buoy\", %s}", members);
    fclose(file);
    if (slate_sim_lay(in_folder("from"), in_folder("sims"), why) != SLATE_OK)
        fail_msg("%s: %s", why, members);
}

void close_device(void)
{
    slate_sim_close(sim);
    sim = NULL;
}

/* Also one with blocks that nobody can use. */
enum slate_status open_any(const char *name)
{
    char why[SLATE_SIM_WHY_ROOM];
    enum slate_status status;

    assert_ok(slate_sim_open(in_folder("sims"), name, &sim, why));
    noted.under = slate_sim_port(sim);
    noted.ops = *noted.under->ops;
    noted.ops.exchange = exchange;
    noted.port.ops = &noted.ops;
    noted.port.context = noted.under->context;
    noted.count = 0;
    status = slate_media_open(&media, &noted.port);
    enter(&media);
    return status;
}

void open_unit(const char *name)
{
    assert_ok(open_any(name));
}

/* Unplugged and plugged in again: the power was gone. */
void plug_again(const char *name)
{
    close_device();
    assert_ok(slate_sim_plug(in_folder("sims"), "buoy", false));
    assert_ok(slate_sim_plug(in_folder("sims"), "buoy", true));
    open_unit(name);
}

static const char *const attached[] = {
    "\"attached\": \"usb\"", "\"attached\": \"sata\"", "\"attached\": \"nvme\"",
    "\"attached\": \"sd\"", "\"attached\": \"usb\", \"dock\": true"};

const struct kind kinds[KINDS] = {
    {SLATE_ERASE_SCSI_OVERWRITE, SCSI, "sanitize-overwrite", false, true,
     false},
    {SLATE_ERASE_SCSI_BLOCK, SCSI, "sanitize-block", false, true, false},
    {SLATE_ERASE_SCSI_CRYPTO, SCSI, "sanitize-crypto", true, true, false},
    {SLATE_ERASE_SCSI_FORMAT, SCSI, "format", false, true, false},
    {SLATE_ERASE_ATA_OVERWRITE, ATA, "sanitize-overwrite", false, true, false},
    {SLATE_ERASE_ATA_BLOCK, ATA, "sanitize-block", false, true, false},
    {SLATE_ERASE_ATA_CRYPTO, ATA, "sanitize-crypto", true, true, false},
    {SLATE_ERASE_ATA_SECURITY, ATA, "security", false, false, true},
    {SLATE_ERASE_ATA_ENHANCED, ATA, "security\", \"security-enhanced", false,
     false, true},
    {SLATE_ERASE_NVME_OVERWRITE, NVME, "sanitize-overwrite", false, true,
     false},
    {SLATE_ERASE_NVME_BLOCK, NVME, "sanitize-block", false, true, false},
    {SLATE_ERASE_NVME_CRYPTO, NVME, "sanitize-crypto", true, true, false},
    {SLATE_ERASE_NVME_FORMAT, NVME, "format", false, false, false},
    {SLATE_ERASE_NVME_KEY, NVME, "format\", \"format-crypto", true, false,
     false},
    {SLATE_ERASE_SD, SD, "format", false, false, false},
    {SLATE_ERASE_ATA_OVERWRITE, DOCK, "sanitize-overwrite", false, true, false},
    {SLATE_ERASE_ATA_SECURITY, DOCK, "security", false, false, true},
};

/* Content of its own at every eighth block. */
void write_content(void)
{
    for (uint64_t lba = 0; lba < BLOCKS; lba += 8) {
        for (uint32_t i = 0; i < media.geometry.block_bytes; i++)
            block[i] = (uint8_t)(lba / 8 + i * 7 + (i >> 3));
        assert_ok(slate_media_write(&media, lba, 1, block));
    }
    assert_ok(slate_media_flush(&media));
}

static bool is_content(uint64_t lba)
{
    for (uint32_t i = 0; i < media.geometry.block_bytes; i++) {
        if (block[i] != (uint8_t)(lba / 8 + i * 7 + (i >> 3)))
            return false;
    }
    return true;
}

/* Blocks with content that are as they were. */
uint32_t count_left(void)
{
    uint32_t left = 0;

    for (uint64_t lba = 0; lba < BLOCKS; lba += 8) {
        assert_ok(slate_media_read(&media, lba, 1, block));
        left += is_content(lba) ? 1u : 0u;
    }
    return left;
}

void lay_kind(const struct kind *kind, const char *more)
{
    char members[700];

    snprintf(members, sizeof members,
             "%s, \"serial\": \"%s\", \"blocks\": %u, "
             "\"block_bytes\": 512, \"erases\": {\"ways\": "
             "[\"%s\"], \"steps\": %u%s}",
             attached[kind->set], kind->set == SD ? "12345678" : "B-1", BLOCKS,
             kind->named, STEPS, more);
    lay(members);
    open_unit("buoy");
    write_content();
}

const struct slate_erase_way *way_of(enum slate_erase_kind kind)
{
    assert_ok(slate_erase_find(&media, way, &ways));
    for (uint32_t i = 0; i < ways; i++) {
        if (way[i].kind == kind)
            return &way[i];
    }
    fail_msg("%s is not found", slate_erase_name(kind));
    return NULL;
}

enum slate_status format_as(struct slate_lowlevel *lowlevel,
                            const struct slate_lowlevel_wish *wish)
{
    enum slate_status status =
        slate_lowlevel_start(lowlevel, &media, wish, work, sizeof work);

    while (status == SLATE_OK && lowlevel->phase != SLATE_LOWLEVEL_OVER)
        status = slate_lowlevel_step(lowlevel);
    return status;
}

enum slate_status run_steps(void)
{
    enum slate_status status = SLATE_OK;

    for (int i = 0; status == SLATE_OK && erase.phase != SLATE_ERASE_OVER;
         i++) {
        uint64_t total, done = slate_erase_done(&erase, &total);

        assert_true(total == 0 || done <= total);
        assert_true(i < 1000);
        status = slate_erase_step(&erase);
    }
    return status;
}

enum slate_status erase_by(enum slate_erase_kind kind, bool read_all)
{
    assert_ok(slate_erase_start(&erase, &media, way_of(kind), place, PLACES,
                                work, sizeof work));
    erase.read_all = read_all;
    return run_steps();
}

void join(void)
{
    assert_ok(
        slate_erase_join(&erase, &media, place, PLACES, work, sizeof work));
    erase.read_all = true;
    assert_ok(run_steps());
}

void assert_verdict(enum slate_erased verdict)
{
    assert_string_equal(slate_erased_name(slate_erase_verdict(&erase)),
                        slate_erased_name(verdict));
}

bool is_guarded(enum slate_guard_kind kind)
{
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count;

    assert_ok(slate_guard_find(&media, guard, &count));
    for (uint32_t i = 0; i < count; i++) {
        if (guard[i].kind == kind)
            return true;
    }
    return false;
}

void forget_sent(void)
{
    noted.count = 0;
}

bool was_sent(const char *bytes)
{
    for (uint32_t i = 0; i < noted.count && i < SENT_MOST; i++) {
        if (strncmp(noted.sent[i], bytes, strlen(bytes)) == 0)
            return true;
    }
    return false;
}

uint32_t count_sent(void)
{
    return noted.count;
}

void cut_at_command(const char *name, uint32_t command)
{
    char path[300];
    json_t *about;

    snprintf(path, sizeof path, "%s/%s.json", in_folder("sims"), name);
    about = json_load_file(path, 0, NULL);
    assert_non_null(about);
    json_object_set_new(about, "power_cut_at_command", json_integer(command));
    assert_int_equal(json_dump_file(about, path, 0), 0);
    json_decref(about);
}
