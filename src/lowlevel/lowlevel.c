/* SPDX-License-Identifier: MIT */
/* Low-level format, step by step: what is wished is set, the command is sent,
 * waited for, and what came of it is looked at. */
#include "lowlevel/lowlevel.h"
#include "base/base.h"
#include "media/wire/wire.h"
#include "trueslate/door.h"

#define DEFECTS_MAX 8191u /* the list's length has 16 bits */
#define FIRST_BLOCKS_MAX 0xFFFFFFu
#define LIST_HEADER 4u
#define KEPT_CYLINDERS 2u

enum slate_status slate_lowlevel_look(struct slate_media *media,
                                      struct slate_lowlevel_facts *facts)
{
    memset(facts, 0, sizeof *facts);
    facts->block_bytes = media->geometry.block_bytes;
    facts->protection = media->abilities.protection;
    switch (media->speech->commands) {
    case SLATE_COMMANDS_SCSI:
        return media->abilities.passes_ata
                   ? SLATE_OK /* the dock's blocks are not the disk's */
                   : slate_lowlevel_look_scsi(media, facts);
    case SLATE_COMMANDS_NVME:
        return slate_lowlevel_look_nvme(media, facts);
    case SLATE_COMMANDS_ATA:
        return slate_lowlevel_look_ata(media, facts);
    default:
        return SLATE_OK;
    }
}

/* Sorted, each once, and on the drive. */
static bool are_defects_good(const struct slate_lowlevel_wish *wish)
{
    const struct slate_drive *drive = wish->drive;

    for (uint32_t i = 0; i < wish->defects; i++) {
        struct slate_defect pair[2];
        uint32_t two = 2;

        if (drive != NULL && wish->form != SLATE_DEFECT_BLOCK &&
            (wish->defect[i].cylinder >= drive->cylinders ||
             wish->defect[i].head >= drive->heads))
            return false;
        if (i == 0)
            continue;
        memcpy(pair, wish->defect + i - 1, sizeof pair);
        slate_defects_sort(pair, &two);
        if (two != 2 || memcmp(pair, wish->defect + i - 1, sizeof pair) != 0)
            return false;
    }
    return true;
}

static bool is_for_scsi_only(const struct slate_lowlevel_wish *wish)
{
    return wish->drive != NULL || wish->first_blocks != 0 ||
           wish->defects != 0 || wish->forgets_grown;
}

static enum slate_status check_wish(const struct slate_lowlevel *lowlevel)
{
    const struct slate_lowlevel_wish *wish = &lowlevel->wish;
    const struct slate_lowlevel_facts *facts = &lowlevel->facts;

    if (facts->kind == SLATE_LOWLEVEL_NONE)
        return SLATE_ERR_COMMAND;
    if (facts->kind != SLATE_LOWLEVEL_SCSI && is_for_scsi_only(wish))
        return SLATE_ERR_ARGUMENT;
    if (facts->reaches_units && !wish->all_units)
        return SLATE_ERR_PARTS;
    if (wish->drive != NULL &&
        (!facts->settable ||
         slate_drive_check(wish->drive) != SLATE_DRIVE_GOOD ||
         wish->block_bytes != wish->drive->block_bytes))
        return SLATE_ERR_ARGUMENT;
    if (wish->first_blocks > FIRST_BLOCKS_MAX || wish->defects > DEFECTS_MAX ||
        !are_defects_good(wish))
        return SLATE_ERR_ARGUMENT;
    if (facts->kind != SLATE_LOWLEVEL_SCSI &&
        slate_lowlevel_format_of(facts, wish->block_bytes) == NULL)
        return SLATE_ERR_ARGUMENT;
    return LIST_HEADER + 8 * wish->defects > lowlevel->work_bytes
               ? SLATE_ERR_BUFFER
               : SLATE_OK;
}

enum slate_status slate_lowlevel_start(struct slate_lowlevel *lowlevel,
                                       struct slate_media *media,
                                       const struct slate_lowlevel_wish *wish,
                                       void *work, uint32_t work_bytes)
{
    enum slate_status status;

    SLATE_TRY(slate_media_inside(media));
    if (work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    memset(lowlevel, 0, sizeof *lowlevel);
    lowlevel->media = media;
    lowlevel->wish = *wish;
    lowlevel->work = work;
    lowlevel->work_bytes = work_bytes;
    if (wish->block_bytes == 0)
        lowlevel->wish.block_bytes = wish->drive == NULL
                                         ? media->geometry.block_bytes
                                         : wish->drive->block_bytes;
    status = slate_lowlevel_look(media, &lowlevel->facts);
    SLATE_THEN(status, check_wish(lowlevel));
    if (status == SLATE_OK && media->read_only)
        status = SLATE_ERR_PROTECTED;
    lowlevel->phase = lowlevel->facts.kind == SLATE_LOWLEVEL_SCSI
                          ? SLATE_LOWLEVEL_SETTING
                          : SLATE_LOWLEVEL_ORDERING;
    return status;
}

static enum slate_status set(struct slate_lowlevel *lowlevel)
{
    bool more = false;

    SLATE_TRY(slate_lowlevel_set_scsi(lowlevel, &more));
    lowlevel->at++;
    if (!more)
        lowlevel->phase = SLATE_LOWLEVEL_ORDERING;
    return SLATE_OK;
}

/* A device that returns at once is asked from then on; what it said last of a
 * refused command counts. */
static enum slate_status order(struct slate_lowlevel *lowlevel)
{
    enum slate_status status = slate_door_look(lowlevel->media, lowlevel->work);

    SLATE_TRY(status);
    lowlevel->media->shown = NULL; /* from now on it holds something else */
    lowlevel->begun = true;
    switch (lowlevel->facts.kind) {
    case SLATE_LOWLEVEL_SCSI:
        status = slate_lowlevel_order_scsi(lowlevel);
        break;
    case SLATE_LOWLEVEL_NVME:
        status = slate_lowlevel_order_nvme(lowlevel);
        break;
    default:
        status = slate_lowlevel_order_ata(lowlevel);
        break;
    }
    if (status == SLATE_OK)
        lowlevel->phase = lowlevel->facts.kind == SLATE_LOWLEVEL_SCSI
                              ? SLATE_LOWLEVEL_WAITING
                              : SLATE_LOWLEVEL_CHECKING;
    return status;
}

static enum slate_status wait(struct slate_lowlevel *lowlevel)
{
    enum slate_status status =
        slate_erase_ask(lowlevel->media, &lowlevel->state);

    if (status != SLATE_OK || lowlevel->state.activity == SLATE_ERASE_WORKING)
        return status;
    if (lowlevel->state.activity == SLATE_ERASE_FAILED)
        return SLATE_ERR_UNERASED;
    lowlevel->phase = SLATE_LOWLEVEL_CHECKING;
    return SLATE_OK;
}

/* Controllers keep a cylinder or two for themselves. */
static bool has_capacity(const struct slate_lowlevel *lowlevel)
{
    const struct slate_drive *drive = lowlevel->wish.drive;
    uint64_t blocks = slate_drive_blocks(drive);
    uint64_t now = lowlevel->media->geometry.block_count;
    uint64_t kept = KEPT_CYLINDERS * (uint64_t)drive->heads * drive->sectors;

    if (lowlevel->wish.first_blocks != 0 &&
        lowlevel->wish.first_blocks < blocks)
        return now == lowlevel->wish.first_blocks;
    return now <= blocks && now + kept >= blocks;
}

static bool is_as_wished(const struct slate_lowlevel *lowlevel)
{
    const struct slate_drive *wanted = lowlevel->wish.drive;
    const struct slate_drive *now = &lowlevel->facts.drive;

    if (lowlevel->facts.block_bytes != lowlevel->wish.block_bytes ||
        lowlevel->facts.protection)
        return false;
    return wanted == NULL ||
           (now->cylinders == wanted->cylinders &&
            now->heads == wanted->heads && now->sectors == wanted->sectors &&
            has_capacity(lowlevel));
}

/* The device is opened anew, as hosts see it from now on. */
static enum slate_status check(struct slate_lowlevel *lowlevel)
{
    struct slate_media *media = lowlevel->media;
    enum slate_status status = slate_media_open(media, media->port);

    media->entered = true; /* still by whom it was formatted */
    SLATE_THEN(status, slate_lowlevel_look(media, &lowlevel->facts));
    if (status == SLATE_ERR_GEOMETRY)
        return SLATE_ERR_UNPROVED;
    SLATE_TRY(status);
    lowlevel->phase = SLATE_LOWLEVEL_OVER;
    return is_as_wished(lowlevel) ? SLATE_OK : SLATE_ERR_UNPROVED;
}

/* A device may say afterwards that its medium has changed: it has. */
enum slate_status slate_lowlevel_step(struct slate_lowlevel *lowlevel)
{
    struct slate_media *media = lowlevel->media;
    enum slate_status status;

    switch (lowlevel->phase) {
    case SLATE_LOWLEVEL_SETTING:
        media->settled = false;
        status = set(lowlevel);
        break;
    case SLATE_LOWLEVEL_ORDERING:
        status = order(lowlevel);
        break;
    case SLATE_LOWLEVEL_WAITING:
        status = wait(lowlevel);
        break;
    case SLATE_LOWLEVEL_CHECKING:
        return check(lowlevel);
    case SLATE_LOWLEVEL_OVER:
    default:
        return SLATE_ERR_ARGUMENT;
    }
    return status;
}

uint32_t slate_lowlevel_progress(const struct slate_lowlevel *lowlevel)
{
    if (lowlevel->phase >= SLATE_LOWLEVEL_CHECKING)
        return 65536;
    return lowlevel->phase == SLATE_LOWLEVEL_WAITING && lowlevel->state.told
               ? lowlevel->state.progress
               : 0;
}

struct row {
    const char *name, *command, *cut;
};

static const struct row rows[] = {
    {"none", "Nothing below its blocks can be reached.", "Nothing happens."},
    {"scsi", "MODE SELECT, then FORMAT UNIT.",
     "When power fails meanwhile, it holds nothing and takes nothing until it "
     "has been formatted again, to the end."},
    {"nvme", "Format NVM.",
     "When power fails meanwhile, it may have to be formatted again."},
    {"ata", "SET SECTOR CONFIGURATION EXT.",
     "When power fails meanwhile, it may have to be set once more."}};

SLATE_FROM_ROW(const char *, slate_lowlevel_name, enum slate_lowlevel_kind,
               rows, name)
SLATE_FROM_ROW(const char *, slate_lowlevel_command, enum slate_lowlevel_kind,
               rows, command)
SLATE_FROM_ROW(const char *, slate_lowlevel_cut, enum slate_lowlevel_kind, rows,
               cut)

/* The list of block formats that a command set fills. */

void slate_lowlevel_note(struct slate_lowlevel_facts *facts,
                         const struct slate_block_format *format)
{
    if (facts->formats < SLATE_BLOCK_FORMATS_MAX)
        facts->format[facts->formats++] = *format;
}

const struct slate_block_format *
slate_lowlevel_format_of(const struct slate_lowlevel_facts *facts,
                         uint32_t block_bytes)
{
    const struct slate_block_format *best = NULL;

    for (uint32_t i = 0; i < facts->formats; i++) {
        const struct slate_block_format *one = &facts->format[i];

        if (one->block_bytes == block_bytes && one->extra_bytes == 0 &&
            (best == NULL || one->speed < best->speed))
            best = one;
    }
    return best;
}
