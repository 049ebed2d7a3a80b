/* SPDX-License-Identifier: MIT */
/* What each use is best set up with: a table of data, from the smallest device
 * to the largest. Volumes that cannot be composed yet stand in it as well, and
 * are passed over until they can. */

#include "base/base.h"
#include "draft/place/place.h"

/* Sizes up to which formats go: cards of 2 and 32 GB have no more than that in
 * binary units. */
/* 32680 blocks: from there on systems of the 1980s made FAT16. */
#define SIXTEEN_MB (UINT64_C(32680) * 512)
#define TWO_GB (UINT64_C(0x80000000) + 1)
#define THIRTY_TWO_GB (UINT64_C(0x800000000) + 1)
/* What FAT16 reaches with clusters of 32 KiB. */
#define FAT16_MOST UINT64_C(0x80000000)

#define DISK (1u << SLATE_DEVICE_DISK)
#define CARD (1u << SLATE_DEVICE_CARD)

struct use_row {
    enum slate_use use;
    uint32_t devices; /* bits; 0: any */
    uint64_t below;   /* bytes; 0: without limit */
    struct slate_advice advice;
};

#define MBR(why) SLATE_TABLE_MBR, "MBR: " why
#define GPT(why) SLATE_TABLE_GPT, "GPT: " why

#define EVERYBODY                                                              \
    MBR("every host, camera and player reads it, and it reaches the whole "    \
        "device.")
#define SIMPLE MBR("devices of this kind look for no other table.")

#define FORMAT(kind, why, beware)                                              \
    {                                                                          \
        SLATE_VOLUME_##kind, why, beware                                       \
    }
#define FAT32_OLD FORMAT(FAT32, NULL, NULL)
#define SMALLER FORMAT(FAT16, NULL, NULL), FORMAT(FAT12, NULL, NULL)

/* active: its partition is; cylinders: partitions end with them. */
#define ADVISE(use, devices, below, table, active, cylinders, ...)             \
    {                                                                          \
        SLATE_USE_##use, devices, below,                                       \
        {                                                                      \
            table, {__VA_ARGS__}, active, cylinders                            \
        }                                                                      \
    }

static const struct use_row rows[] = {
    ADVISE(ANYTHING, CARD, TWO_GB, EVERYBODY, false, false,
           FORMAT(FAT16, "FAT16: what the card specification has up to 2 GB.",
                  NULL),
           FORMAT(FAT12, NULL, NULL), FAT32_OLD),
    ADVISE(
        ANYTHING, 0, THIRTY_TWO_GB, EVERYBODY, false, false,
        FORMAT(FAT32,
               "FAT32: every computer, camera and player reads and writes it.",
               NULL),
        SMALLER),
    ADVISE(
        ANYTHING, 0, 0, EVERYBODY, false, false,
        FORMAT(EXFAT,
               "exFAT: every computer of today reads and writes it, and files "
               "may be of any size.",
               "Players, car radios and old computers may not read exFAT."),
        FORMAT(FAT32,
               "FAT32: every computer, camera and player reads and writes it.",
               NULL),
        SMALLER),

    ADVISE(CAMERA, 0, TWO_GB, SIMPLE, false, false,
           FORMAT(FAT16,
                  "FAT16: what the card specification has up to 2 GB, and what "
                  "the cameras of these cards read.",
                  NULL),
           FAT32_OLD, FORMAT(FAT12, NULL, NULL)),
    ADVISE(CAMERA, 0, THIRTY_TWO_GB, SIMPLE, false, false,
           FORMAT(FAT32,
                  "FAT32: what the card specification has from 4 to 32 GB.",
                  NULL),
           SMALLER),
    ADVISE(
        CAMERA, 0, 0, SIMPLE, false, false,
        FORMAT(
            EXFAT, "exFAT: what the card specification has above 32 GB.",
            "Cameras that were made for cards up to 32 GB do not read exFAT."),
        FORMAT(FAT32, "FAT32: most cameras read it at any size.",
               "Above 32 GB some cameras expect exFAT and offer to format the "
               "card once more.")),

    ADVISE(PLAYER, 0, 0, SIMPLE, false, false,
           FORMAT(FAT32,
                  "FAT32: the one format that players and car radios all read.",
                  NULL),
           SMALLER),

    ADVISE(CONSOLE, 0, THIRTY_TWO_GB, SIMPLE, false, false,
           FORMAT(FAT32, "FAT32: consoles and set-top boxes read it.", NULL),
           SMALLER),
    ADVISE(CONSOLE, 0, 0, SIMPLE, false, false,
           FORMAT(EXFAT,
                  "exFAT: recordings may be longer than 4 GiB; consoles of "
                  "today read it.",
                  "Older consoles and set-top boxes read FAT32 only."),
           FORMAT(FAT32, "FAT32: consoles and set-top boxes read it.",
                  "Recordings are split or end at 4 GiB.")),

    ADVISE(LOGGER, 0, TWO_GB, SIMPLE, false, false,
           FORMAT(FAT16,
                  "FAT16: what the small firmware of loggers reads most often.",
                  NULL),
           FAT32_OLD, FORMAT(FAT12, NULL, NULL)),
    ADVISE(LOGGER, 0, 0, SIMPLE, false, false,
           FORMAT(FAT32, "FAT32: loggers know no other format of this size.",
                  NULL),
           SMALLER),

    ADVISE(
        DESKTOP, DISK, 0,
        GPT("desktop systems of today expect it on a disk, and it reaches any "
            "size."),
        false, false,
        FORMAT(NTFS,
               "NTFS: large files, rights, and a log that keeps it sound.",
               "Macs, players and cameras do not write to NTFS."),
        FORMAT(
            EXFAT, "exFAT: files may be of any size.",
            "exFAT has neither rights nor a log: eject it before unplugging."),
        FORMAT(FAT32, "FAT32: read everywhere.",
               "Desktop systems make no FAT32 above 32 GB themselves, and read "
               "it.")),
    ADVISE(
        DESKTOP, 0, THIRTY_TWO_GB, EVERYBODY, false, false,
        FORMAT(FAT32,
               "FAT32: desktop systems read it, and so does everything else.",
               NULL),
        SMALLER),
    ADVISE(
        DESKTOP, 0, 0, EVERYBODY, false, false,
        FORMAT(
            EXFAT,
            "exFAT: files may be of any size, and other computers read it as "
            "well.",
            "exFAT has neither rights nor a log: eject it before unplugging."),
        FORMAT(FAT32, "FAT32: read everywhere.",
               "Desktop systems make no FAT32 above 32 GB themselves, and read "
               "it.")),

    ADVISE(LINUX, 0, 0,
           GPT("Linux reads it everywhere, and it reaches any size."), false,
           false,
           FORMAT(EXT4, "ext4: keeps owners, rights and links.",
                  "Other systems do not read ext4 by themselves."),
           FORMAT(FAT32, "FAT32: Linux reads and writes it.",
                  "FAT32 keeps neither owners nor rights nor links."),
           SMALLER),

    ADVISE(MAC, 0, 0, GPT("Macs expect it."), false, false,
           FORMAT(EXFAT, "exFAT: Macs read and write it, as others do.",
                  "For backups of a Mac its own formats are needed: let the "
                  "Mac format it."),
           FORMAT(FAT32, "FAT32: Macs read and write it.",
                  "For backups of a Mac its own formats are needed: let the "
                  "Mac format it."),
           SMALLER),

    ADVISE(OLD_PC, 0, FAT16_MOST,
           MBR("old firmware starts from its active partition."), true, false,
           FORMAT(FAT16, "FAT16: every system since 1988 reads it.", NULL),
           FORMAT(FAT12, NULL, NULL), FAT32_OLD),
    ADVISE(
        OLD_PC, 0, 0, MBR("old firmware starts from its active partition."),
        true, false,
        FORMAT(
            FAT32,
            "FAT32: the one format of this size that systems since 1996 read.",
            "Firmware of the 1990s sees the first 8.4 GB of a device, or "
            "less."),
        SMALLER),

    ADVISE(STARTUP, DISK, 0, GPT("firmware of today starts from it."), false,
           false, FORMAT(FAT32, "FAT32: what firmware reads.", NULL), SMALLER),
    ADVISE(STARTUP, 0, 0,
           MBR("firmware starts from a removable device with it, old and new."),
           true, false, FORMAT(FAT32, "FAT32: what firmware reads.", NULL),
           SMALLER),

    ADVISE(VINTAGE, 0, SIXTEEN_MB, MBR("the only table of its time."), true,
           true,
           FORMAT(FAT12, "FAT12: what systems of that time made up to 16 MB.",
                  NULL),
           FORMAT(FAT16, NULL, NULL)),
    ADVISE(VINTAGE, 0, 0, MBR("the only table of its time."), true, true,
           FORMAT(FAT16, "FAT16: what systems since 1988 read.",
                  "Systems before 1988 read FAT12 up to 32 MB only."),
           FORMAT(FAT12, NULL, NULL),
           FORMAT(FAT32, "FAT32: no smaller format reaches this size.",
                  "Systems before 1996 do not read FAT32, and see the first "
                  "8.4 GB of a device, or less.")),
};

/* in the order of enum slate_use */
static const struct {
    const char *name, *words;
} uses[] = {
    {"anything", "any host: desktop, player, old machine"},
    {"camera", "cameras and sound recorders"},
    {"player", "music and video players, car radios"},
    {"console", "games consoles and set-top boxes"},
    {"logger", "data loggers and measuring devices"},
    {"desktop", "desktop systems with NTFS"},
    {"linux", "Linux computers"},
    {"mac", "Mac computers"},
    {"old-pc", "computers that start from an MBR"},
    {"startup", "starting a computer's firmware"},
    {"vintage", "systems that count cylinders and heads"},
};

SLATE_ROWS_FOR(uses, SLATE_USE_VINTAGE + 1);

const struct slate_advice *slate_use_advice(enum slate_use use,
                                            enum slate_device_kind kind,
                                            uint64_t bytes)
{
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        const struct use_row *row = &rows[i];

        if (row->use == use && (row->below == 0 || bytes < row->below) &&
            (row->devices == 0 || (row->devices >> kind & 1) != 0))
            return &row->advice;
    }
    return &rows[2].advice; /* for anything, of any size */
}

SLATE_FROM_ROW(const char *, slate_use_name, enum slate_use, uses, name)
SLATE_FROM_ROW(const char *, slate_use_words, enum slate_use, uses, words)

SLATE_NAMES(slate_device_name, enum slate_device_kind, "other", "card", "stick",
            "disk")
