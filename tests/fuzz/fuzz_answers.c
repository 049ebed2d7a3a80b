/* SPDX-License-Identifier: MIT */
/* Fuzz target: what devices answer to raw commands, in each of the command
 * sets: the first byte tells which, the rest is handed out, answer after
 * answer. */
#include <string.h>

#include "target.h"
#include <trueslate/trueslate.h>

struct device {
    struct slate_port port;
    enum slate_command_set commands;
    const uint8_t *bytes;
    size_t left;
    uint32_t count;
};

static void take(struct device *device, void *to, size_t length)
{
    size_t here = length < device->left ? length : device->left;

    memset(to, 0, length);
    memcpy(to, device->bytes, here);
    device->bytes += here;
    device->left -= here;
}

static enum slate_status facts(void *context, struct slate_port_facts *out)
{
    const struct device *device = context;

    out->identity.transport = SLATE_TRANSPORT_OTHER;
    out->commands = device->commands;
    return SLATE_OK;
}

/* One byte tells the state, one how much of the data came. */
static enum slate_status exchange(void *context, struct slate_exchange *x)
{
    struct device *device = context;
    uint8_t head[3];

    if (++device->count > 3000 || device->left == 0)
        return SLATE_ERR_NO_DEVICE;
    take(device, head, sizeof head);
    x->state = head[0] < 0xC0 ? 0 : (uint8_t)(head[0] & 0x3F);
    x->transferred = x->data_length;
    if (head[1] > 0xE0)
        x->transferred = x->data_length * (head[1] & 0x1Fu) / 32;
    if (x->direction == SLATE_DIRECTION_IN)
        take(device, x->data, x->data_length < 512 ? x->data_length : 512);
    take(device, x->answer, 20);
    x->answer_length = head[2] % (sizeof x->answer + 1);
    return SLATE_OK;
}

static const struct slate_port_ops ops = {
    .size = sizeof ops, .facts = facts, .exchange = exchange};

/* Every way that the device names is begun, and followed for a while. */
static void erase(struct slate_media *media, uint8_t *work)
{
    struct slate_erase_way ways[SLATE_ERASE_WAYS_MAX];
    struct slate_erase_place places[8];
    uint32_t count = 0;

    if (slate_erase_find(media, ways, &count) != SLATE_OK)
        return;
    demand(count <= SLATE_ERASE_WAYS_MAX);
    for (uint32_t i = 0; i < count; i++) {
        struct slate_erase one;
        uint64_t total, done;

        demand(slate_erase_name(ways[i].kind)[0] != '\0');
        if (slate_erase_start(&one, media, &ways[i], places, 8, work,
                              SLATE_WORK_MIN) != SLATE_OK)
            return;
        for (int n = 0; n < 100 && slate_erase_step(&one) == SLATE_OK; n++) {
            done = slate_erase_done(&one, &total);
            demand(total == 0 || done <= total);
        }
        demand(slate_erased_words(slate_erase_verdict(&one))[0] != '\0');
    }
}

/* What is below its blocks, and changing that for a while. */
static void lowlevel(struct slate_media *media, uint8_t *work)
{
    static struct slate_defect list[64];
    static struct slate_lowlevel one;
    struct slate_lowlevel_facts facts;
    struct slate_lowlevel_wish wish = {.block_bytes = 512};
    enum slate_defect_form form;
    uint32_t count;

    for (int i = 0; i < 2; i++)
        demand(slate_defects_read(media, (enum slate_defect_list)i, &form, list,
                                  64, &count, work) != SLATE_OK ||
               form <= SLATE_DEFECT_SECTOR);
    if (slate_lowlevel_look(media, &facts) != SLATE_OK)
        return;
    demand(facts.formats <= SLATE_BLOCK_FORMATS_MAX);
    if (facts.has_drive) {
        const struct slate_sector_place first = {0, 0, 0};

        demand(slate_drive_check(&facts.drive) == SLATE_DRIVE_GOOD);
        demand(slate_drive_slot(&facts.drive, &first) == 0);
        wish.drive = &facts.drive;
        wish.block_bytes = 0;
    }
    if (slate_lowlevel_start(&one, media, &wish, work, SLATE_WORK_MIN) !=
        SLATE_OK)
        return;
    for (int n = 0; n < 100 && slate_lowlevel_step(&one) == SLATE_OK; n++)
        demand(slate_lowlevel_progress(&one) <= 65536);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    static struct slate_media media;
    static struct slate_facts found;
    static struct slate_partition listed[SLATE_FACTS_PARTITIONS];
    static struct slate_volume volumes[SLATE_FACTS_PARTITIONS];
    static struct slate_seen ranges[SLATE_EVIDENCE_RANGES];
    const struct slate_facts_room facts_room = {
        listed, volumes, SLATE_FACTS_PARTITIONS, ranges, SLATE_EVIDENCE_RANGES};
    static uint8_t work[SLATE_WORK_MIN];
    struct device device = {.commands = SLATE_COMMANDS_SCSI};
    struct slate_agreement agreed = {NULL, NULL};
    enum slate_status status;
    char words[512];
    struct slate_text text;

    if (length < 1)
        return 0;
    device.commands =
        (enum slate_command_set)(SLATE_COMMANDS_SCSI + bytes[0] % 5);
    device.bytes = bytes + 1;
    device.left = length - 1;
    device.port.ops = &ops;
    device.port.context = &device;
    slate_facts_place(&found, &facts_room);
    status = slate_media_open(&media, &device.port);
    slate_text_start(&text, words, sizeof words);
    slate_fault_words(&media.fault, &text);
    demand(strlen(media.tag) < SLATE_TAG_ROOM);
    if (status != SLATE_OK) {
        slate_assess_unopened(&media, status, &found);
    } else {
        demand(media.geometry.block_count > 0 && media.largest_transfer > 0);
        if (slate_assess_look(&media, SLATE_DEPTH_GLANCE, work, sizeof work,
                              &found) != SLATE_OK)
            return 0;
    }
    demand(slate_assess_judge(
               &found, (struct slate_finding[SLATE_FINDINGS_MAX]){0}) > 0);
    agreed.consent = media.tag;
    if (media.port != NULL &&
        slate_door_enter(&media, &agreed, NULL, 0) != SLATE_OK)
        return 0;
    if (status == SLATE_OK)
        erase(&media, work);
    if (status == SLATE_OK || status == SLATE_ERR_GEOMETRY)
        lowlevel(&media, work);
    return 0;
}
