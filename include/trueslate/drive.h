/* SPDX-License-Identifier: MIT */
/* A disk by its tracks: cylinders, heads and sectors, the order of the sectors
 * on a track, the bad places that a sticker lists, and the arithmetic between
 * them and blocks. Nothing here touches a device. */
#ifndef TRUESLATE_DRIVE_H
#define TRUESLATE_DRIVE_H

#include "trueslate/base.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Sectors of a track that can be dealt with: SCSI-2 has 16 bits for them, no
 * drive with a controller of its own more than 8. */
#define SLATE_DRIVE_SECTORS_MAX 255u

/** A drive as its controller is told of it. */
struct slate_drive {
    uint32_t cylinders;     /**< 1 to 16777215 */
    uint32_t heads;         /**< 1 to 255 */
    uint32_t sectors;       /**< of a track, the spare ones among them: 1 to
                                 SLATE_DRIVE_SECTORS_MAX */
    uint32_t spares;        /**< of them kept for bad places: fewer than
                                 sectors */
    uint32_t block_bytes;   /**< of a sector */
    uint32_t interleave;    /**< the next sector stands so many places on: 1 to
                                 sectors - 1, and 1 is one behind the other */
    uint32_t track_skew;    /**< places that the first sector moves on from one
                                 head to the next */
    uint32_t cylinder_skew; /**< the same from one cylinder to the next */
    uint32_t precompensation; /**< cylinder where write precompensation begins;
                                   cylinders: nowhere */
    uint32_t reduced_current; /**< the same of reduced write current */
    uint32_t burst_bits;      /**< the longest burst of errors that is
                                   corrected, 0 to 255; 0: none */
    uint32_t revolutions;     /**< of the spindle in a minute; 0: not known */
    uint32_t track_bytes;     /**< that pass the head in one of them, with all
                                   gaps; 0: not known */
};

/** What is wrong with a description of a drive. */
enum slate_drive_wrong {
    SLATE_DRIVE_GOOD,
    SLATE_DRIVE_CYLINDERS,
    SLATE_DRIVE_HEADS,
    SLATE_DRIVE_SECTORS,
    SLATE_DRIVE_SPARES,
    SLATE_DRIVE_BLOCK,
    SLATE_DRIVE_INTERLEAVE,
    SLATE_DRIVE_SKEW,
    SLATE_DRIVE_PRECOMPENSATION,
    SLATE_DRIVE_CURRENT,
    SLATE_DRIVE_BURST
};

#define SLATE_DRIVE_WRONGS 11

/** The first thing that is wrong with it. */
enum slate_drive_wrong slate_drive_check(const struct slate_drive *drive);

/** What was expected: "1 to 255 heads". Never NULL. */
const char *slate_drive_expected(enum slate_drive_wrong wrong);

/** Blocks of a drive that slate_drive_check has nothing against. */
uint64_t slate_drive_blocks(const struct slate_drive *drive);

/** Bytes that pass the head in one turn, by the recordings that there were: the
 * slowest one that has room for its sectors; 0: none of them has. */
uint32_t slate_drive_track_bytes(const struct slate_drive *drive);

/** Where a block is. */
struct slate_sector_place {
    uint32_t cylinder, head;
    uint32_t sector; /**< by its number, which counts from 0 here */
};

/** The place of a block of the drive. */
struct slate_sector_place slate_drive_place(const struct slate_drive *drive,
                                            uint64_t block);

/** The block at a place of the drive. */
uint64_t slate_drive_block(const struct slate_drive *drive,
                           const struct slate_sector_place *place);

/** Which place on its track a sector takes, counted from the index: each next
 * one stands interleave places on, or at the next free one; the first is moved
 * on by the skew. */
uint32_t slate_drive_slot(const struct slate_drive *drive,
                          const struct slate_sector_place *place);

/** The sector at a place on a track, the other way round. @param place whose
 * sector does not count */
uint32_t slate_drive_sector(const struct slate_drive *drive,
                            const struct slate_sector_place *place,
                            uint32_t slot);

/** Bytes from the index, or a sector: the whole track is meant. */
#define SLATE_DEFECT_TRACK UINT32_MAX

/** A bad place, as stickers and SCSI defect lists have them. */
struct slate_defect {
    uint32_t cylinder, head;
    uint32_t at; /**< bytes from the index, or a sector, as the list says;
                      SLATE_DEFECT_TRACK */
};

/** What slate_defect.at counts (SBC-3, 5.3.2.4); in the form of blocks,
 * cylinder is the block and the others are 0. */
enum slate_defect_form {
    SLATE_DEFECT_BLOCK,
    SLATE_DEFECT_INDEX, /**< bytes from the index */
    SLATE_DEFECT_SECTOR /**< physical sector, from the index */
};

/**
 * Sorts a list as FORMAT UNIT wants it, each once.
 *
 * @param defect  in any order
 * @param count of them; becomes smaller by those that were there twice
 */
void slate_defects_sort(struct slate_defect *defect, uint32_t *count);

/**
 * The blocks that a defect in bytes from the index spoils.
 *
 * @param drive its track_bytes known, or the whole track is taken
 * @param defect  in bytes from the index
 * @param range receives the blocks: one, or those of the whole track
 * @return false: there is no such track on the drive, or no such byte on a
 *         track
 */
bool slate_defect_range(const struct slate_drive *drive,
                        const struct slate_defect *defect,
                        struct slate_range *range);

/** What became of a drive's bad places. */
struct slate_defects_seen {
    uint32_t listed; /**< defects on the list */
    uint32_t sound;  /**< of them, those where all could be read */
    uint64_t bad;    /**< blocks that are bad now */
    uint64_t known;  /**< of them, at a defect of the list, or beside it */
    uint64_t fresh;  /**< of them, the others */
    bool looked;     /**< it is known what was bad before */
    uint64_t back;   /**< fresh ones that were bad before the format as well */
    uint64_t gone;   /**< blocks that were bad before and are not now */
    uint64_t appeared; /**< fresh ones that were not bad before */
};

/**
 * Compares what is bad on a drive with its sticker.
 *
 * A block counts as known when it is where a defect lies by slate_defect_range,
 * or beside it on the track: a defect at the border of two sectors spoils both,
 * and stickers round. On a drive with spare sectors it counts when there is a
 * defect on its track.
 *
 * @param drive  as it was formatted
 * @param defect   in bytes from the index; may be NULL for none
 * @param defects  of them
 * @param bad    blocks that are bad now
 * @param before blocks that were bad before the format; NULL: nobody looked
 * @param seen   filled in
 */
void slate_defects_judge(const struct slate_drive *drive,
                         const struct slate_defect *defect, uint32_t defects,
                         const struct slate_ranges *bad,
                         const struct slate_ranges *before,
                         struct slate_defects_seen *seen);

/** Is one block known from the list? As slate_defects_judge has it. */
bool slate_defects_know(const struct slate_drive *drive,
                        const struct slate_defect *defect, uint32_t defects,
                        uint64_t block);

/** What that means for the drive. */
enum slate_drive_verdict {
    SLATE_DRIVE_SOUND,     /**< nothing is bad */
    SLATE_DRIVE_AS_LISTED, /**< what is bad is on the sticker */
    SLATE_DRIVE_WATCH,     /**< there is something new */
    SLATE_DRIVE_DYING      /**< something new came back after the format */
};

/** The worst that holds. @param seen as slate_defects_judge has filled it in */
SLATE_MUST_CHECK enum slate_drive_verdict
slate_drive_judge(const struct slate_defects_seen *seen);

/** For programs: "as-listed". Never NULL. */
const char *slate_drive_verdict_name(enum slate_drive_verdict verdict);

/** One sentence. Never NULL. */
const char *slate_drive_verdict_words(enum slate_drive_verdict verdict);

/** A drive of the table of known ones. */
struct slate_drive_profile {
    const char *name; /**< as people call it, and options take it */
    struct slate_drive drive;
};

/** The table; @param count receives their number */
const struct slate_drive_profile *slate_drive_profiles(uint32_t *count);

/** The profile of that name, small or capital letters; NULL for none. */
const struct slate_drive_profile *slate_drive_profile(const char *name);

#ifdef __cplusplus
}
#endif
#endif
