/* SPDX-License-Identifier: MIT */
/* Erasing by the device itself, step by step: which command set is asked, what
 * is sent, and waiting for it. */
#include "base/base.h"
#include "erase/erase.h"
#include "media/wire/wire.h"
#include "trueslate/door.h"

struct row {
    enum slate_command_set commands;
    enum slate_status (*find)(struct slate_media *media,
                              struct slate_erase_list *list);
    enum slate_status (*order)(struct slate_media *media,
                               enum slate_erase_kind kind);
    enum slate_status (*ask)(struct slate_media *media,
                             struct slate_erase_state *state);
};

static const struct row rows[] = {
    {SLATE_COMMANDS_SCSI, slate_erase_find_scsi, slate_erase_order_scsi,
     slate_erase_ask_scsi},
    {SLATE_COMMANDS_ATA, slate_erase_find_ata, slate_erase_order_ata,
     slate_erase_ask_ata},
    {SLATE_COMMANDS_NVME, slate_erase_find_nvme, slate_erase_order_nvme,
     slate_erase_ask_nvme}};

static const struct row *row_of(const struct slate_media *media)
{
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (rows[i].commands == media->speech->commands)
            return &rows[i];
    }
    return NULL;
}

enum slate_status
slate_erase_find(struct slate_media *media,
                 struct slate_erase_way way[SLATE_ERASE_WAYS_MAX],
                 uint32_t *count)
{
    struct slate_erase_list list = {way, 0};
    const struct row *row = row_of(media);
    enum slate_status status = SLATE_OK;

    if (media->speech->commands == SLATE_COMMANDS_SD)
        slate_erase_note(&list, SLATE_ERASE_SD, 0, false);
    else if (row != NULL)
        status = row->find(media, &list);
    *count = list.count;
    return status;
}

enum slate_status slate_erase_ask(struct slate_media *media,
                                  struct slate_erase_state *state)
{
    const struct row *row = row_of(media);

    state->activity = SLATE_ERASE_IDLE;
    state->told = false;
    state->progress = 0;
    return row == NULL ? SLATE_OK : row->ask(media, state);
}

static enum slate_status begin(struct slate_erase *erase,
                               struct slate_media *media,
                               struct slate_erase_place *place, uint32_t places,
                               void *work, uint32_t work_bytes)
{
    if (places < 2)
        return SLATE_ERR_ARGUMENT;
    if (work_bytes < SLATE_WORK_MIN || work_bytes < media->geometry.block_bytes)
        return SLATE_ERR_BUFFER;
    memset(erase, 0, sizeof *erase);
    erase->media = media;
    erase->place = place;
    erase->places = places;
    erase->work = work;
    erase->work_bytes = work_bytes;
    return SLATE_OK;
}

enum slate_status slate_erase_start(struct slate_erase *erase,
                                    struct slate_media *media,
                                    const struct slate_erase_way *way,
                                    struct slate_erase_place *place,
                                    uint32_t places, void *work,
                                    uint32_t work_bytes)
{
    SLATE_TRY(begin(erase, media, place, places, work, work_bytes));
    erase->way = *way;
    return media->read_only ? SLATE_ERR_PROTECTED : SLATE_OK;
}

enum slate_status slate_erase_join(struct slate_erase *erase,
                                   struct slate_media *media,
                                   struct slate_erase_place *place,
                                   uint32_t places, void *work,
                                   uint32_t work_bytes)
{
    SLATE_TRY(begin(erase, media, place, places, work, work_bytes));
    erase->joined = erase->begun = true;
    erase->phase = SLATE_ERASE_WAITING;
    for (uint32_t i = 0; i < places; i++)
        place[i] = (struct slate_erase_place){0};
    return SLATE_OK;
}

static bool is_waited_for(enum slate_erase_kind kind)
{
    return slate_erase_tells(kind) && kind != SLATE_ERASE_SD;
}

static void go_on_to(struct slate_erase *erase, enum slate_erase_phase phase)
{
    erase->phase = phase;
    erase->at = 0;
    erase->next = 0;
}

/* Does a refusal come ahead of all else? Other commands return when they have
 * ended, well or not. */
static bool refuses_first(enum slate_erase_kind kind)
{
    return is_waited_for(kind) && kind != SLATE_ERASE_SCSI_FORMAT;
}

/* What the device says meanwhile of another medium is its own doing. */
static enum slate_status order(struct slate_erase *erase)
{
    struct slate_media *media = erase->media;
    const struct row *row = row_of(media);
    enum slate_status status = erase->begun
                                   ? slate_media_inside(media)
                                   : slate_door_look(media, erase->work);

    SLATE_TRY(status);
    erase->begun = true;
    if (erase->way.kind == SLATE_ERASE_SD) {
        status = slate_erase_run_sd(erase);
        if (status == SLATE_OK && erase->next < media->geometry.block_count)
            return SLATE_OK;
    } else {
        status = row == NULL ? SLATE_ERR_ARGUMENT
                             : row->order(media, erase->way.kind);
    }
    if (status == SLATE_ERR_GUARD ||
        (status == SLATE_ERR_COMMAND && refuses_first(erase->way.kind)))
        erase->begun = false;
    if (status == SLATE_OK)
        go_on_to(erase, is_waited_for(erase->way.kind) ? SLATE_ERASE_WAITING
                                                       : SLATE_ERASE_PROVING);
    return status;
}

/* Of SCSI there is nothing but that the device is ready again. */
static enum slate_status wait(struct slate_erase *erase)
{
    enum slate_status status = slate_erase_ask(erase->media, &erase->state);

    if (status != SLATE_OK || erase->state.activity == SLATE_ERASE_WORKING)
        return status;
    if (erase->state.activity == SLATE_ERASE_FAILED)
        return SLATE_ERR_UNERASED;
    if (erase->state.activity == SLATE_ERASE_IDLE && !erase->joined &&
        row_of(erase->media)->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_UNERASED;
    go_on_to(erase, SLATE_ERASE_PROVING);
    return SLATE_OK;
}

static enum slate_status step(struct slate_erase *erase)
{
    switch (erase->phase) {
    case SLATE_ERASE_LOOKING:
        if (erase->at < erase->places)
            return slate_erase_look(erase);
        go_on_to(erase, SLATE_ERASE_ORDERING);
        return SLATE_OK;
    case SLATE_ERASE_ORDERING:
        return order(erase);
    case SLATE_ERASE_WAITING:
        return wait(erase);
    case SLATE_ERASE_PROVING:
        if (erase->at < erase->places)
            return slate_erase_compare(erase);
        go_on_to(erase,
                 erase->read_all ? SLATE_ERASE_READING : SLATE_ERASE_OVER);
        return SLATE_OK;
    case SLATE_ERASE_READING:
        if (erase->next < erase->media->geometry.block_count)
            return slate_erase_read_on(erase);
        go_on_to(erase, SLATE_ERASE_OVER);
        return SLATE_OK;
    case SLATE_ERASE_OVER:
    default:
        return SLATE_ERR_ARGUMENT;
    }
}

/* A device may say afterwards that its medium has changed: it has. */
enum slate_status slate_erase_step(struct slate_erase *erase)
{
    struct slate_media *media = erase->media;
    bool settled = media->settled;
    enum slate_status status;

    media->settled = settled && !erase->begun;
    status = step(erase);
    media->settled = settled;
    return status;
}

uint64_t slate_erase_done(const struct slate_erase *erase, uint64_t *total)
{
    uint64_t blocks = erase->media->geometry.block_count;

    switch (erase->phase) {
    case SLATE_ERASE_LOOKING:
    case SLATE_ERASE_PROVING:
        *total = erase->places;
        return erase->at;
    case SLATE_ERASE_ORDERING:
        *total = erase->way.kind == SLATE_ERASE_SD ? blocks : 0;
        return erase->next;
    case SLATE_ERASE_WAITING:
        *total = erase->state.told ? 65536 : 0;
        return erase->state.progress;
    case SLATE_ERASE_READING:
    case SLATE_ERASE_OVER:
    default:
        *total = blocks;
        return erase->read;
    }
}

/* The list of ways that a command set fills. */

void slate_erase_note(struct slate_erase_list *list, enum slate_erase_kind kind,
                      uint32_t minutes, bool reaches_units)
{
    struct slate_erase_way *way = &list->way[list->count++];

    way->kind = kind;
    way->minutes = minutes;
    way->reaches_units = reaches_units;
}
