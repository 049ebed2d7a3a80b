/* SPDX-License-Identifier: MIT */
/* Guards found and lifted: which command set is asked, and whether a lift
 * holds. */
#include <string.h>

#include "base/base.h"
#include "guard/guard.h"
#include "media/wire/wire.h"
#include "trueslate/erase.h"

/* What a command set knows of guards. */
struct row {
    enum slate_command_set commands;
    enum slate_status (*find)(struct slate_media *media,
                              struct slate_guard_list *list);
    enum slate_status (*lift)(struct slate_media *media,
                              const struct slate_guard_order *order);
};

static const struct row rows[] = {
    {SLATE_COMMANDS_SCSI, slate_guard_find_scsi, slate_guard_lift_scsi},
    {SLATE_COMMANDS_SD, slate_guard_find_sd, slate_guard_lift_sd},
    {SLATE_COMMANDS_ATA, slate_guard_find_ata, slate_guard_lift_ata},
    {SLATE_COMMANDS_NVME, slate_guard_find_nvme, slate_guard_lift_nvme}};

static const struct row *row_of(const struct slate_media *media)
{
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (rows[i].commands == media->speech->commands)
            return &rows[i];
    }
    return NULL;
}

/* Until it is done, or after it failed, a device takes nothing. */
static enum slate_status note_erase(struct slate_media *media,
                                    struct slate_guard_list *list)
{
    struct slate_erase_state state;
    enum slate_status status = slate_erase_ask(media, &state);

    if (status == SLATE_OK && state.activity == SLATE_ERASE_WORKING)
        slate_guard_note(list, SLATE_GUARD_ERASING, state.progress);
    if (status == SLATE_OK && state.activity == SLATE_ERASE_FAILED)
        slate_guard_note(list, SLATE_GUARD_UNERASED, 0);
    return status;
}

/* The reader's slider stands beside all that the card tells; the host is the
 * reason only where nothing else is. */
static void note_host(const struct slate_media *media,
                      struct slate_guard_list *list)
{
    if (media->slider)
        slate_guard_note(list, SLATE_GUARD_SLIDER, 0);
    for (uint32_t i = 0; i < list->count; i++) {
        if (slate_guard_stops_writing(list->guard[i].kind))
            return;
    }
    if (!media->read_only)
        return;
    slate_guard_note(list, SLATE_GUARD_HOST, 0);
    if (media->ops.allow_writes == NULL)
        list->guard[list->count - 1].lift = SLATE_LIFT_BY_HAND;
}

enum slate_status slate_guard_find(struct slate_media *media,
                                   struct slate_guard guard[SLATE_GUARDS_MAX],
                                   uint32_t *count)
{
    struct slate_guard_list list = {guard, 0};
    const struct row *row = row_of(media);
    enum slate_status status = SLATE_OK;

    if (row != NULL)
        status = row->find(media, &list);
    SLATE_THEN(status, note_erase(media, &list));
    if (status == SLATE_OK)
        note_host(media, &list);
    *count = list.count;
    return status;
}

static enum slate_status send_lift(struct slate_media *media,
                                   const struct slate_guard_order *order)
{
    const struct row *row = row_of(media);

    return row == NULL ? SLATE_ERR_COMMAND : row->lift(media, order);
}

static enum slate_status look_again(struct slate_media *media,
                                    enum slate_guard_kind kind)
{
    struct slate_guard guard[SLATE_GUARDS_MAX];
    bool writable = true;
    uint32_t count;
    enum slate_status status = slate_guard_find(media, guard, &count);

    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (guard[i].kind == kind)
            status = SLATE_ERR_STILL_GUARDED;
        writable = writable && !slate_guard_stops_writing(guard[i].kind);
    }
    if (status == SLATE_OK)
        media->read_only = !writable;
    return status;
}

/* Sends the order and looks again. */
static enum slate_status carry_out(struct slate_media *media,
                                   const struct slate_guard_order *order)
{
    bool read_only = media->read_only;
    enum slate_status status = slate_media_inside(media);

    SLATE_TRY(status);
    status = send_lift(media, order);
    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_ERR_GUARD;
    media->read_only = false; /* or the host would seem to be the reason */
    status = look_again(media, order->guard->kind);
    if (status != SLATE_OK)
        media->read_only = read_only;
    return status;
}

static bool is_password(const struct slate_guard_order *order)
{
    size_t most = order->guard->kind == SLATE_GUARD_CARD_PASSWORD ? 16 : 32;
    size_t length = strlen(order->password);

    return length > 0 && length <= most;
}

enum slate_status slate_guard_lift(struct slate_media *media,
                                   const struct slate_guard *guard,
                                   const char *password, bool lasting)
{
    struct slate_guard_order order = {guard, password == NULL ? "" : password,
                                      lasting, false};

    if (guard->lift > SLATE_LIFT_PASSWORD)
        return SLATE_ERR_GUARD;
    if (guard->lift == SLATE_LIFT_PASSWORD && !is_password(&order))
        return SLATE_ERR_ARGUMENT;
    if (guard->kind == SLATE_GUARD_HOST) /* it asks again by itself */
        return slate_media_allow_writes(media);
    return carry_out(media, &order);
}

enum slate_status slate_guard_erase(struct slate_media *media,
                                    const struct slate_guard *guard,
                                    const char *password)
{
    struct slate_guard_order order = {guard, password == NULL ? "" : password,
                                      true, true};

    if (guard->lift != SLATE_LIFT_PASSWORD)
        return SLATE_ERR_GUARD;
    if (guard->kind == SLATE_GUARD_DISK_PASSWORD && !is_password(&order))
        return SLATE_ERR_ARGUMENT;
    return carry_out(media, &order);
}

/* The list of guards that a command set fills. */

void slate_guard_note(struct slate_guard_list *list, enum slate_guard_kind kind,
                      uint64_t value)
{
    struct slate_guard *guard = &list->guard[list->count++];

    guard->kind = kind;
    guard->lift = slate_guard_usual_lift(kind);
    guard->value = value;
}
