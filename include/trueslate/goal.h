/* SPDX-License-Identifier: MIT */
/* What a device shall become: what a draft takes, and a finding recommends. */
#ifndef TRUESLATE_GOAL_H
#define TRUESLATE_GOAL_H

#include "trueslate/overwrite.h"
#include "trueslate/table.h"
#include "trueslate/use.h"

/** How large a partition shall be. */
enum slate_size_kind {
    SLATE_SIZE_REST,  /**< all that the others leave: one of them, at most */
    SLATE_SIZE_BYTES, /**< so many bytes */
    SLATE_SIZE_SHARE  /**< so many thousandths of what the table leaves */
};

#define SLATE_SIZES 3

/** Where an MBR has its entry. */
enum slate_standing {
    SLATE_STANDING_FITS,    /**< chosen to fit: in block 0 as far as entries
                                 go */
    SLATE_STANDING_PRIMARY, /**< in block 0 */
    SLATE_STANDING_LOGICAL  /**< in the chain, with its link ahead of it; new
                                 tables: so have all that follow */
};

#define SLATE_STANDINGS 3

/** What is asked of one partition. All zero: the rest of the device, a volume
 * that fits, no label. */
struct slate_ask {
    uint64_t size;       /**< bytes or thousandths */
    uint64_t attributes; /**< GPT: a sum of SLATE_GPT_ bits */
    uint32_t keep; /**< the number, as hosts count, of a partition that stays as
                        it is, to the last bit: nothing else is asked of it; 0:
                        a new one */
    bool emptied; /**< keep: its entry alone stays; what is in it is overwritten
                       by the rounds of the goal */
    enum slate_size_kind size_kind;
    enum slate_standing standing;  /**< where others stay, and it is chosen to
                                        fit, making the draft sets it */
    enum slate_volume_kind volume; /**< SLATE_VOLUME_NONE: chosen to fit */
    uint32_t cluster_bytes;        /**< 0: chosen to fit */
    struct slate_guid gpt_type;    /**< GPT; all zero: as the volume has it */
    uint8_t mbr_type;              /**< MBR; 0: as the volume has it */
    bool bare;                     /**< without a volume */
    bool placed;                   /**< beside a change in place: its range is
                                        input as well */
    bool files;                    /**< the draft's files are placed on it */
    bool start;                    /**< its boot block has the draft's code */
    bool no_journal;               /**< ext4: without a journal */
    bool active;                   /**< MBR: machines start from it */
    char label[SLATE_LABEL_ROOM];  /**< UTF-8 as it was asked for */
    char name[SLATE_PARTITION_NAME_ROOM]; /**< GPT; "": the volume's label */
};

/** What is wanted of the device. All zero: for anything, table chosen. */
struct slate_goal {
    enum slate_use use;
    bool table_given; /**< false: the table is chosen to fit */
    enum slate_table_kind table;
    uint32_t entries; /**< GPT: room in its array, 4 to 1024; 0: 128, or more
                           where there are more partitions */
    bool keep_code;   /**< the start-up code in block 0 stays */
    bool keep_id;     /**< so does the disk signature, or the disk's GUID */
    bool cylinders;   /**< MBR: partitions begin and end with tracks and
                           cylinders, as old systems need it; chosen by the use
                           as well */
    uint16_t heads;   /**< of them, 1 to 255; 0: as firmware would see it */
    uint16_t track_sectors; /**< the same, 1 to 63 */
    uint32_t lift; /**< guards to lift though somebody may have set them on
                        purpose: a sum of SLATE_GUARD_BIT */
    bool lasting;  /**< where there is a choice, lifts survive power-off */
    struct slate_overwrite overwrite; /**< what goes is overwritten */
    uint64_t within; /**< blocks: of a device that has fewer than it claims,
                          these alone are used, and nothing is written beyond
                          them; 0: all that it claims */
};

#endif
