/* SPDX-License-Identifier: MIT */
/* What can be written: composers, their extents, and the moments in which a
 * draft writes them. */
#ifndef TRUESLATE_COMPOSE_H
#define TRUESLATE_COMPOSE_H

#include "trueslate/base.h"

#ifdef __cplusplus
extern "C" {
#endif

/** The moments of a draft, in their order: all that is written passes one
 * before any of it goes to the next. */
enum slate_moment {
    SLATE_MOMENT_MARK,       /**< the unfinished mark, in block 0 */
    SLATE_MOMENT_DROP_COPY,  /**< a table without what goes: its backup */
    SLATE_MOMENT_DROP,       /**< the same: what hosts read first */
    SLATE_MOMENT_OVERWRITE,  /**< the rounds of overwriting, one by one */
    SLATE_MOMENT_ERASE,      /**< zeros over old structures */
    SLATE_MOMENT_COPIES,     /**< backups that hosts do not read first */
    SLATE_MOMENT_BODY,       /**< all else of a volume */
    SLATE_MOMENT_BIRTH,      /**< the block that makes a volume a volume */
    SLATE_MOMENT_TABLE_COPY, /**< the partition table's backup */
    SLATE_MOMENT_TABLE,      /**< the partition table */
    SLATE_MOMENT_COMMIT      /**< the true block 0 */
};

#define SLATE_MOMENTS 11

/** What is done to an extent. */
enum slate_deed {
    SLATE_DEED_WRITE,
    SLATE_DEED_CHECK,  /**< it is read and compared, while rounds go on */
    SLATE_DEED_DISCARD /**< the device may forget it */
};

/** A run of logical blocks of the device that is written. */
struct slate_extent {
    uint64_t first;
    uint64_t count;           /**< at least 1 */
    uint32_t part;            /**< whose it is; a composer leaves it alone */
    enum slate_moment moment; /**< a composer leaves it alone */
    enum slate_deed deed;     /**< the same */
    uint8_t role;             /**< the composer's own number for it */
    bool zero;                /**< all of it is zeros */
};

/**
 * One kind of thing that can be written. All operations are pure functions of a
 * plan, a plain value whose type the composer documents. Blocks are blocks of
 * the device.
 */
struct slate_composer {
    const char *name; /**< as programs name it: "fat32" */

    /**
     * The next extent of a moment, in constant time.
     *
     * @param plan   of this composer
     * @param moment any
     * @param at     0 for the first one; moves on
     * @param extent receives first, count, role and zero
     * @return false when the moment has no more
     */
    bool (*next)(const void *plan, enum slate_moment moment, uint64_t *at,
                 struct slate_extent *extent);

    /**
     * Is a block one of its extents'? By arithmetic, never by walking.
     *
     * @param plan  of this composer
     * @param lba   any block of the device
     * @param until receives the block up to which that stays so
     * @return true when it is
     */
    bool (*covers)(const void *plan, uint64_t lba, uint64_t *until);

    /**
     * Composes blocks of one of its extents.
     *
     * @param plan  of this composer
     * @param first of them
     * @param count of them
     * @param data  receives count blocks
     * @return SLATE_OK; or what a source says
     */
    enum slate_status (*fill)(const void *plan, uint64_t first, uint32_t count,
                              void *data);

    /** What an extent is for, by its role, as a step: "write the root
     * directory". */
    const char *const *steps;
};

/** Where a walk over extents stands. All zero: at the start. */
struct slate_walk {
    uint32_t moment;
    uint32_t index;
    uint64_t at;
};

/** Blocks that are not as they should be. */
struct slate_difference {
    uint32_t blocks;
    uint64_t first; /**< of them, when there are any */
};

/** What a pass goes over: extents, and their content. */
struct slate_supply {
    const void *context;

    /** The next extent; false at the end. @param walk moves on */
    bool (*next)(const void *context, struct slate_walk *walk,
                 struct slate_extent *extent);

    /** Composes blocks of an extent, in any order; SLATE_OK, or what a source
     * says. */
    enum slate_status (*compose)(const void *context,
                                 const struct slate_extent *extent,
                                 uint64_t first, uint32_t count, void *data);

    /** What an extent is for, as a step. Never NULL. */
    const char *(*step)(const void *context, const struct slate_extent *extent);

    uint64_t blocks; /**< in all extents, where that is known; 0: it is counted
                          by going over them once */
};

/** A composer with a plan, as the context of a supply. */
struct slate_composed {
    const struct slate_composer *composer;
    const void *plan;
    uint32_t block_bytes;
};

/** A single composer as what a pass goes over, in the order of the moments.
 * @param composed kept by reference; @param supply filled in */
void slate_compose_supply(const struct slate_composed *composed,
                          struct slate_supply *supply);

/** Blocks in all extents of a supply. */
uint64_t slate_supply_blocks(const struct slate_supply *supply);

/**
 * Compares blocks with what is composed for them.
 *
 * @param supply      of the extent
 * @param block_bytes of the device
 * @param extent      of the supply
 * @param first       block, in the extent
 * @param count       number of blocks
 * @param data        as read from the device
 * @param scratch     room for as many; not touched where all is zeros
 * @param difference  receives what differs
 * @return SLATE_OK; or what a source says
 */
SLATE_MUST_CHECK enum slate_status
slate_supply_compare(const struct slate_supply *supply, uint32_t block_bytes,
                     const struct slate_extent *extent, uint64_t first,
                     uint32_t count, const void *data, void *scratch,
                     struct slate_difference *difference);

/** A block that stays but for some bytes. */
struct slate_patch {
    uint64_t lba;
    enum slate_moment moment;
    uint8_t role; /**< an enum slate_patch_role */
};

/** What such a block belongs to. */
enum slate_patch_role {
    SLATE_PATCH_TABLE,
    SLATE_PATCH_TABLE_COPY,
    SLATE_PATCH_VOLUME,
    SLATE_PATCH_VOLUME_COPY
};

#define SLATE_PATCH_ROLES 4

/** Blocks that stay but for some bytes: the plan of slate_patch_composer. */
struct slate_patch_plan {
    const struct slate_patch *patch; /**< ascending, each block once */
    uint32_t count;
    uint32_t block_bytes;
    const uint8_t *bytes; /**< for each patch, the block as it was, then as it
                               shall be */
    bool former;          /**< composes what was there */
};

/** Kept blocks, with the bytes in them that are changed. */
extern const struct slate_composer slate_patch_composer;

/** Blocks that are as they were: the plan of slate_kept_composer. */
struct slate_kept {
    struct slate_range range;
    uint32_t block_bytes;
    const uint8_t *bytes; /**< of all of them */
};

/** Kept blocks, to the last bit. */
extern const struct slate_composer slate_kept_composer;

/** Blocks of which no two are alike, and each of which tells its number: the
 * plan of slate_pattern_composer. */
struct slate_pattern {
    struct slate_range range;
    uint32_t block_bytes; /**< a multiple of 64 */
    uint8_t seed[16];
};

/** A pattern that follows from seed and block number. */
extern const struct slate_composer slate_pattern_composer;

/** Is a block what the pattern has there, byte for byte? */
bool slate_pattern_is(const struct slate_pattern *pattern, uint64_t lba,
                      const uint8_t *block);

/** Is a block what a pattern of any seed has at any block, byte for byte? */
bool slate_pattern_is_any(const uint8_t *block, uint32_t block_bytes);

/** Random data, which no two blocks share: the plan of slate_random_composer.
 */
struct slate_random {
    struct slate_range range;
    uint32_t block_bytes; /**< a multiple of 16 */
    uint8_t key[16];      /**< another key, other data */
};

/** Random data that follows from key and block number. It passes statistical
 * tests, but is no cipher: who knows one block can work out the key. */
extern const struct slate_composer slate_random_composer;

/** Is a block what the random data has there, byte for byte? */
bool slate_random_is(const struct slate_random *random, uint64_t lba,
                     const uint8_t *block);

#ifdef __cplusplus
}
#endif
#endif
