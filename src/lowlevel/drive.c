/* SPDX-License-Identifier: MIT */
/* Cylinders, heads and sectors: the arithmetic of a drive, and the order of the
 * sectors on a track. */
#include <string.h>

#include "base/base.h"
#include "trueslate/drive.h"

#define CYLINDERS_MAX 16777215u /* 24 bits in page 04h (SBC-3, 6.4.11) */
#define HEADS_MAX 255u
#define BLOCK_MAX 8192u
#define SKEW_MAX 65535u
#define BURST_MAX 255u

enum slate_drive_wrong slate_drive_check(const struct slate_drive *drive)
{
    if (drive->cylinders < 1 || drive->cylinders > CYLINDERS_MAX)
        return SLATE_DRIVE_CYLINDERS;
    if (drive->heads < 1 || drive->heads > HEADS_MAX)
        return SLATE_DRIVE_HEADS;
    if (drive->sectors < 1 || drive->sectors > SLATE_DRIVE_SECTORS_MAX)
        return SLATE_DRIVE_SECTORS;
    if (drive->spares >= drive->sectors)
        return SLATE_DRIVE_SPARES;
    if (drive->block_bytes < 128 || drive->block_bytes > BLOCK_MAX)
        return SLATE_DRIVE_BLOCK;
    if (drive->interleave < 1 ||
        (drive->interleave >= drive->sectors && drive->interleave > 1))
        return SLATE_DRIVE_INTERLEAVE;
    if (drive->track_skew > SKEW_MAX || drive->cylinder_skew > SKEW_MAX)
        return SLATE_DRIVE_SKEW;
    if (drive->precompensation > drive->cylinders)
        return SLATE_DRIVE_PRECOMPENSATION;
    if (drive->reduced_current > drive->cylinders)
        return SLATE_DRIVE_CURRENT;
    return drive->burst_bits > BURST_MAX ? SLATE_DRIVE_BURST : SLATE_DRIVE_GOOD;
}

const char *slate_drive_expected(enum slate_drive_wrong wrong)
{
    static const char *const words[] = {
        "nothing else",
        "1 to 16777215 cylinders",
        "1 to 255 heads",
        "1 to 255 sectors on a track",
        "fewer spare sectors than there are on a track",
        "sectors of 128 to 8192 bytes",
        "an interleave of 1 to one less than the sectors of a track",
        "a skew of 0 to 65535 sectors",
        "write precompensation from a cylinder of the drive on",
        "reduced write current from a cylinder of the drive on",
        "a correctable burst of 0 to 255 bits"};

    SLATE_ROWS_FOR(words, SLATE_DRIVE_WRONGS);
    return SLATE_NAME_OF(words, wrong);
}

static uint32_t sectors_with_blocks(const struct slate_drive *drive)
{
    return drive->sectors - drive->spares;
}

uint64_t slate_drive_blocks(const struct slate_drive *drive)
{
    return (uint64_t)drive->cylinders * drive->heads *
           sectors_with_blocks(drive);
}

struct slate_sector_place slate_drive_place(const struct slate_drive *drive,
                                            uint64_t block)
{
    uint32_t sectors = sectors_with_blocks(drive);
    uint64_t track = block / sectors;
    return (struct slate_sector_place){(uint32_t)(track / drive->heads),
                                       (uint32_t)(track % drive->heads),
                                       (uint32_t)(block % sectors)};
}

uint64_t slate_drive_block(const struct slate_drive *drive,
                           const struct slate_sector_place *place)
{
    uint64_t track = (uint64_t)place->cylinder * drive->heads + place->head;

    return track * sectors_with_blocks(drive) + place->sector;
}

/* How far the first sector of a track is moved on. */
static uint32_t skew_of(const struct slate_drive *drive,
                        const struct slate_sector_place *place)
{
    uint64_t moved = (uint64_t)place->head * drive->track_skew +
                     (uint64_t)place->cylinder *
                         ((uint64_t)(drive->heads - 1) * drive->track_skew +
                          drive->cylinder_skew);

    return (uint32_t)(moved % drive->sectors);
}

/* Bits that pass the head in a second: the recording of the 1980s, and what
 * came after it; a sector takes about so many bytes beside its own. */
#define BESIDE_BYTES 57u

uint32_t slate_drive_track_bytes(const struct slate_drive *drive)
{
    static const uint32_t rates[] = {5000000, 7500000, 10000000, 15000000,
                                     24000000};
    uint32_t turns = drive->revolutions == 0 ? 3600 : drive->revolutions;

    for (size_t i = 0; i < sizeof rates / sizeof rates[0]; i++) {
        uint32_t bytes = (uint32_t)((uint64_t)rates[i] / 8 * 60 / turns);

        if ((uint64_t)drive->sectors * (drive->block_bytes + BESIDE_BYTES) <=
            bytes)
            return bytes;
    }
    return 0;
}

/* The sectors of a track in the order of their numbers. */
struct turn {
    uint8_t taken[(SLATE_DRIVE_SECTORS_MAX + 8) / 8];
    uint32_t slot; /* of the present one */
};

static bool is_taken(const struct turn *turn)
{
    return (turn->taken[turn->slot / 8] & 1u << turn->slot % 8) != 0;
}

static void settle(struct turn *turn, uint32_t sectors)
{
    while (is_taken(turn))
        turn->slot = (turn->slot + 1) % sectors;
    turn->taken[turn->slot / 8] |= (uint8_t)(1u << turn->slot % 8);
}

uint32_t slate_drive_slot(const struct slate_drive *drive,
                          const struct slate_sector_place *place)
{
    struct turn turn = {{0}, 0};

    settle(&turn, drive->sectors);
    for (uint32_t i = 0; i < place->sector; i++) {
        turn.slot = (turn.slot + drive->interleave) % drive->sectors;
        settle(&turn, drive->sectors);
    }
    return (turn.slot + skew_of(drive, place)) % drive->sectors;
}

uint32_t slate_drive_sector(const struct slate_drive *drive,
                            const struct slate_sector_place *place,
                            uint32_t slot)
{
    uint32_t wanted =
        (slot + drive->sectors - skew_of(drive, place)) % drive->sectors;
    struct turn turn = {{0}, 0};
    uint32_t sector = 0;

    settle(&turn, drive->sectors);
    while (turn.slot != wanted) {
        turn.slot = (turn.slot + drive->interleave) % drive->sectors;
        settle(&turn, drive->sectors);
        sector++;
    }
    return sector;
}

/* Drives of the weather-buoy service's old machines, as their data sheets have
 * them. */

#define RPM 3600u
#define MFM_TRACK 10416u /* bytes: 5 Mbit/s, 3600 turns a minute */
#define RLL_TRACK 15625u /* 7.5 Mbit/s */
#define MFM_SECTORS 17u
#define RLL_SECTORS 26u
#define BURST 11u /* bits that the checksums of the time correct */

#define MFM(c, h, precompensation, current)                                    \
    {                                                                          \
        c, h, MFM_SECTORS, 0, 512, 3, 0, 0, precompensation, current, BURST,   \
            RPM, MFM_TRACK                                                     \
    }
#define RLL(c, h, precompensation, current)                                    \
    {                                                                          \
        c, h, RLL_SECTORS, 0, 512, 3, 0, 0, precompensation, current, BURST,   \
            RPM, RLL_TRACK                                                     \
    }

static const struct slate_drive_profile profiles[] = {
    {"drum-5", MFM(153, 4, 64, 128)},
    {"drum-10", MFM(306, 4, 128, 306)},
    {"drum-20", MFM(615, 4, 300, 615)},
    {"drum-20r", RLL(615, 4, 300, 615)},
    {"bollard-40", MFM(820, 6, 256, 820)},
    {"bollard-60r", RLL(820, 6, 256, 820)},
    {"fairlead-70", MFM(1024, 8, 512, 1024)},
    {"fairlead-112", MFM(1024, 13, 1024, 1024)}};

const struct slate_drive_profile *slate_drive_profiles(uint32_t *count)
{
    *count = (uint32_t)(sizeof profiles / sizeof profiles[0]);
    return profiles;
}

static char small(char letter)
{
    return letter >= 'A' && letter <= 'Z' ? (char)(letter - 'A' + 'a') : letter;
}

const struct slate_drive_profile *slate_drive_profile(const char *name)
{
    size_t length = strlen(name);
    uint32_t count;
    const struct slate_drive_profile *profile = slate_drive_profiles(&count);

    for (uint32_t i = 0; i < count; i++, profile++) {
        size_t at = 0;

        if (strlen(profile->name) != length)
            continue;
        while (at < length && small(name[at]) == profile->name[at])
            at++;
        if (at == length)
            return profile;
    }
    return NULL;
}
