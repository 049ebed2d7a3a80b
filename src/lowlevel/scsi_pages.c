/* SPDX-License-Identifier: MIT */
/* What mode pages tell of a drive, and setting it: error recovery (01h), format
 * device (03h), rigid disk geometry (04h) and flexible disk (05h); SCSI-2,
 * 9.3.3, SBC-3, 6.4. */

#include "base/base.h"
#include "lowlevel/lowlevel.h"
#include "media/scsi/scsi.h"

#define PAGE_RECOVERY 0x01
#define PAGE_FORMAT 0x03
#define PAGE_RIGID 0x04
#define PAGE_FLEXIBLE 0x05

/* Fields, bytes from the start of the page. */
#define RECOVERY_SPAN 4 /* bits that are corrected */
#define FORMAT_ZONE_TRACKS 2
#define FORMAT_ZONE_SPARES 4
#define FORMAT_SECTORS 10
#define FORMAT_BYTES 12
#define FORMAT_INTERLEAVE 14
#define FORMAT_TRACK_SKEW 16
#define FORMAT_CYLINDER_SKEW 18
#define RIGID_CYLINDERS 2
#define RIGID_HEADS 5
#define RIGID_PRECOMPENSATION 6
#define RIGID_CURRENT 9
#define RIGID_REVOLUTIONS 20
#define FLEXIBLE_HEADS 4
#define FLEXIBLE_SECTORS 5
#define FLEXIBLE_BYTES 6
#define FLEXIBLE_CYLINDERS 8
#define FLEXIBLE_PRECOMPENSATION 10
#define FLEXIBLE_CURRENT 12
#define FLEXIBLE_REVOLUTIONS 28

#define RECOVERY_LEAST 10u
#define FORMAT_LEAST 20u
#define RIGID_LEAST 22u
#define FLEXIBLE_LEAST 30u

struct page {
    uint8_t data[SLATE_MODE_PAGE_ROOM];
    uint8_t length;
};

/* SLATE_ERR_COMMAND for a device that has no such page, or a shorter one. */
static enum slate_status look(struct slate_media *media, uint8_t number,
                              enum slate_mode_values values, uint32_t least,
                              struct page *page)
{
    enum slate_status status =
        slate_mode_look(media, number, values, page->data, &page->length, NULL);

    return status == SLATE_OK && page->length < least ? SLATE_ERR_COMMAND
                                                      : status;
}

static uint32_t be24(const uint8_t *bytes)
{
    return (uint32_t)bytes[0] << 16 | slate_be16(bytes + 1);
}

static void put_be24(uint8_t *bytes, uint32_t value)
{
    bytes[0] = (uint8_t)(value >> 16);
    slate_put_be16(bytes + 1, (uint16_t)value);
}

/* The pages have 0 for "nowhere" where others have the number of cylinders. */
static uint32_t from_cylinder(uint32_t value, uint32_t cylinders)
{
    return value == 0 || value > cylinders ? cylinders : value;
}

static void take_rigid(const uint8_t *page, struct slate_drive *drive)
{
    drive->cylinders = be24(page + RIGID_CYLINDERS);
    drive->heads = page[RIGID_HEADS];
    drive->precompensation =
        from_cylinder(be24(page + RIGID_PRECOMPENSATION), drive->cylinders);
    drive->reduced_current =
        from_cylinder(be24(page + RIGID_CURRENT), drive->cylinders);
    drive->revolutions = slate_be16(page + RIGID_REVOLUTIONS);
}

static void take_flexible(const uint8_t *page, struct slate_drive *drive)
{
    drive->cylinders = slate_be16(page + FLEXIBLE_CYLINDERS);
    drive->heads = page[FLEXIBLE_HEADS];
    drive->sectors = page[FLEXIBLE_SECTORS];
    drive->block_bytes = slate_be16(page + FLEXIBLE_BYTES);
    drive->precompensation = from_cylinder(
        slate_be16(page + FLEXIBLE_PRECOMPENSATION), drive->cylinders);
    drive->reduced_current =
        from_cylinder(slate_be16(page + FLEXIBLE_CURRENT), drive->cylinders);
    drive->revolutions = slate_be16(page + FLEXIBLE_REVOLUTIONS);
}

/* Spare sectors are told for zones of tracks; only zones of one track are what
 * a drive's own are. */
static void take_format(const uint8_t *page, struct slate_drive *drive)
{
    drive->sectors = slate_be16(page + FORMAT_SECTORS);
    drive->block_bytes = slate_be16(page + FORMAT_BYTES);
    drive->interleave = slate_be16(page + FORMAT_INTERLEAVE);
    drive->track_skew = slate_be16(page + FORMAT_TRACK_SKEW);
    drive->cylinder_skew = slate_be16(page + FORMAT_CYLINDER_SKEW);
    drive->spares = slate_be16(page + FORMAT_ZONE_TRACKS) == 1
                        ? slate_be16(page + FORMAT_ZONE_SPARES)
                        : 0;
}

/* May a host change the cylinders? */
static bool is_settable(struct slate_media *media, bool flexible,
                        struct page *page)
{
    uint8_t at = flexible ? FLEXIBLE_CYLINDERS + 1 : RIGID_CYLINDERS + 2;

    return look(media, flexible ? PAGE_FLEXIBLE : PAGE_RIGID,
                SLATE_MODE_CHANGEABLE, flexible ? FLEXIBLE_LEAST : RIGID_LEAST,
                page) == SLATE_OK &&
           page->data[at] == 0xFF;
}

/* Not every device knows its own interleave and spares; one with zones has no
 * number of sectors that would hold for all tracks. */
static bool is_sensible(struct slate_drive *drive)
{
    if (drive->interleave == 0 || drive->interleave >= drive->sectors)
        drive->interleave = 1;
    if (drive->spares >= drive->sectors)
        drive->spares = 0;
    return slate_drive_check(drive) == SLATE_DRIVE_GOOD;
}

/* Where there is no page 03h, page 05h may have them as well. */
static enum slate_status look_sectors(struct slate_media *media,
                                      struct slate_drive *drive,
                                      struct page *page)
{
    enum slate_status status =
        look(media, PAGE_FORMAT, SLATE_MODE_CURRENT, FORMAT_LEAST, page);

    if (status == SLATE_OK)
        take_format(page->data, drive);
    if (status != SLATE_ERR_COMMAND)
        return status;
    status =
        look(media, PAGE_FLEXIBLE, SLATE_MODE_CURRENT, FLEXIBLE_LEAST, page);
    if (status == SLATE_OK) {
        drive->sectors = page->data[FLEXIBLE_SECTORS];
        drive->block_bytes = slate_be16(page->data + FLEXIBLE_BYTES);
    }
    return status;
}

static enum slate_status look_drive(struct slate_media *media,
                                    struct slate_lowlevel_facts *facts,
                                    struct page *page)
{
    struct slate_drive *drive = &facts->drive;
    enum slate_status status =
        look(media, PAGE_RIGID, SLATE_MODE_CURRENT, RIGID_LEAST, page);

    if (status == SLATE_OK)
        take_rigid(page->data, drive);
    if (status == SLATE_ERR_COMMAND) {
        facts->flexible = true;
        status = look(media, PAGE_FLEXIBLE, SLATE_MODE_CURRENT, FLEXIBLE_LEAST,
                      page);
        if (status == SLATE_OK)
            take_flexible(page->data, drive);
    }
    SLATE_THEN(status, look_sectors(media, drive, page));
    facts->has_drive = status == SLATE_OK && is_sensible(drive);
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

enum slate_status slate_lowlevel_look_scsi(struct slate_media *media,
                                           struct slate_lowlevel_facts *facts)
{
    static const uint32_t sizes[] = {512, 4096};
    struct page page;

    SLATE_TRY(look_drive(media, facts, &page));
    if (media->removable && !facts->has_drive)
        return SLATE_OK; /* flash: its controller's blocks are what they are */
    facts->kind = SLATE_LOWLEVEL_SCSI;
    facts->settable =
        facts->has_drive && is_settable(media, facts->flexible, &page);
    if (look(media, PAGE_RECOVERY, SLATE_MODE_CURRENT, RECOVERY_LEAST, &page) ==
        SLATE_OK)
        facts->drive.burst_bits = page.data[RECOVERY_SPAN];
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        const struct slate_block_format format = {
            .block_bytes = sizes[i], .told = sizes[i] == facts->block_bytes};

        slate_lowlevel_note(facts, &format);
    }
    return SLATE_OK;
}

static void put_rigid(uint8_t *page, const struct slate_drive *drive)
{
    put_be24(page + RIGID_CYLINDERS, drive->cylinders);
    page[RIGID_HEADS] = (uint8_t)drive->heads;
    put_be24(page + RIGID_PRECOMPENSATION, drive->precompensation);
    put_be24(page + RIGID_CURRENT, drive->reduced_current);
}

static void put_flexible(uint8_t *page, const struct slate_drive *drive)
{
    page[FLEXIBLE_HEADS] = (uint8_t)drive->heads;
    page[FLEXIBLE_SECTORS] = (uint8_t)drive->sectors;
    slate_put_be16(page + FLEXIBLE_BYTES, (uint16_t)drive->block_bytes);
    slate_put_be16(page + FLEXIBLE_CYLINDERS, (uint16_t)drive->cylinders);
    slate_put_be16(page + FLEXIBLE_PRECOMPENSATION,
                   (uint16_t)drive->precompensation);
    slate_put_be16(page + FLEXIBLE_CURRENT, (uint16_t)drive->reduced_current);
}

static void put_format(uint8_t *page, const struct slate_drive *drive)
{
    slate_put_be16(page + FORMAT_ZONE_TRACKS, 1);
    slate_put_be16(page + FORMAT_ZONE_SPARES, (uint16_t)drive->spares);
    slate_put_be16(page + FORMAT_SECTORS, (uint16_t)drive->sectors);
    slate_put_be16(page + FORMAT_BYTES, (uint16_t)drive->block_bytes);
    slate_put_be16(page + FORMAT_INTERLEAVE, (uint16_t)drive->interleave);
    slate_put_be16(page + FORMAT_TRACK_SKEW, (uint16_t)drive->track_skew);
    slate_put_be16(page + FORMAT_CYLINDER_SKEW, (uint16_t)drive->cylinder_skew);
}

static void put_recovery(uint8_t *page, const struct slate_drive *drive)
{
    page[RECOVERY_SPAN] = (uint8_t)drive->burst_bits;
}

/* The pages, in the order in which they are set. A page that the device has not
 * is passed over where that is no loss. */
struct row {
    void (*put)(uint8_t *page, const struct slate_drive *drive);
    uint32_t least;
    uint8_t page;
    bool rigid, flexible, needed;
};

static const struct row rows[] = {
    {put_rigid, RIGID_LEAST, PAGE_RIGID, true, false, true},
    {put_flexible, FLEXIBLE_LEAST, PAGE_FLEXIBLE, false, true, true},
    {put_format, FORMAT_LEAST, PAGE_FORMAT, true, true, true},
    {put_recovery, RECOVERY_LEAST, PAGE_RECOVERY, true, true, false}};

#define ROWS (sizeof rows / sizeof rows[0])

/* Only what may be changed is; what comes of it is looked at when all is done.
 * A device that says that it has rounded something has taken it. */
static enum slate_status set_page(struct slate_media *media,
                                  const struct slate_drive *drive,
                                  const struct row *row)
{
    struct page page, wanted, mask;
    enum slate_status status =
        look(media, row->page, SLATE_MODE_CURRENT, row->least, &page);

    if (status == SLATE_ERR_COMMAND && !row->needed)
        return SLATE_OK;
    SLATE_TRY(status);
    wanted = page;
    row->put(wanted.data, drive);
    if (look(media, row->page, SLATE_MODE_CHANGEABLE, row->least, &mask) !=
            SLATE_OK ||
        mask.length != page.length)
        memset(mask.data, 0xFF, sizeof mask.data);
    for (uint32_t i = 2; i < page.length; i++)
        wanted.data[i] = (uint8_t)((page.data[i] & ~mask.data[i]) |
                                   (wanted.data[i] & mask.data[i]));
    if (memcmp(wanted.data, page.data, page.length) == 0)
        return SLATE_OK;
    return slate_mode_set(media, wanted.data, wanted.length, NULL);
}

/* Where blocks stay as they are it is of no use but to a drive that was split,
 * and may be refused. */
static enum slate_status set_blocks(const struct slate_lowlevel *lowlevel)
{
    const struct slate_lowlevel_wish *wish = &lowlevel->wish;
    const struct slate_mode_blocks blocks = {true, (uint32_t)wish->first_blocks,
                                             wish->block_bytes};
    bool needed = wish->first_blocks != 0 ||
                  wish->block_bytes != lowlevel->facts.block_bytes;
    enum slate_status status;

    if (!needed && wish->drive == NULL)
        return SLATE_OK;
    status = slate_mode_set(lowlevel->media, NULL, 0, &blocks);
    return status == SLATE_ERR_COMMAND && !needed ? SLATE_OK : status;
}

/* The pages, and the block descriptor behind them: how many blocks there are
 * follows from the pages. */
enum slate_status slate_lowlevel_set_scsi(struct slate_lowlevel *lowlevel,
                                          bool *more)
{
    const struct slate_drive *drive = lowlevel->wish.drive;
    const struct row *row;

    *more = drive != NULL && lowlevel->at < ROWS;
    if (!*more)
        return set_blocks(lowlevel);
    row = &rows[lowlevel->at];
    return (lowlevel->facts.flexible ? row->flexible : row->rigid)
               ? set_page(lowlevel->media, drive, row)
               : SLATE_OK;
}
