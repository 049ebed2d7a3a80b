/* SPDX-License-Identifier: MIT */
/* What is known of a kind of volume, and of the family that it shares its
 * first blocks with: one row each, in the folder of the format. Whoever asks
 * something about a kind asks its row. */
#ifndef SLATE_VOLUME_KIND_H
#define SLATE_VOLUME_KIND_H

#include "trueslate/format.h"
#include "trueslate/layout.h"
#include "volume/common/read.h"

/* Runs of SLATE_WORK_MIN bytes that are looked at for signatures: where each
 * begins. */
#define SLATE_RUN_SECOND 4096u
#define SLATE_RUN_FIFTH 16384u
#define SLATE_RUN_FAR 65536u

/* Where two signatures can both stand, the one that leaves the other's place
 * as it was is the younger, and has its turn first. */
enum slate_turn {
    SLATE_TURN_FRONT, /* may have the front of another, for hosts without key */
    SLATE_TURN_FILLS, /* fills all that others would begin with */
    SLATE_TURN_INNER, /* leaves the first KiB alone; what is BEHIND may stand in
                         its figures by chance */
    SLATE_TURN_BEHIND, /* leaves the first KiB alone */
    SLATE_TURN_START,
    SLATE_TURN_LOOSE, /* stands in one of several blocks, or members' heads */
    SLATE_TURN_TAIL,  /* stands at the end of the run */
    SLATE_TURNS
};

/* Bytes at a fixed place that tell a kind. */
struct slate_signature {
    enum slate_volume_kind kind;
    enum slate_turn turn;
    uint32_t run; /* byte at which the run begins */
    uint16_t at;  /* in the run */
    uint8_t length;
    const char *bytes;
    /* Sizes and labels that are cheap; it may tell the kind apart further. */
    void (*more)(const uint8_t *run, struct slate_volume *volume);
};

/* What its first block says of the place where it stands. */
enum slate_here {
    SLATE_HERE_UNTOLD,
    SLATE_HERE_TOLD, /* names it */
    SLATE_HERE_COPY  /* it is a copy, of a volume that begins elsewhere */
};

/* Where the first blocks of a volume come back from. */
struct slate_start_copy {
    enum slate_volume_kind kind;
    uint32_t runs;
    void (*make_first)(uint8_t *bytes); /* of the first run; NULL: as it is */
    struct {
        uint64_t from, to; /* bytes of the range */
        uint32_t bytes;
    } run[3];
};

/* Kinds that are read in one way. What is NULL does not go for them. */
struct slate_family {
    const char *words; /* for people: "FAT"; NULL: none of it is composed */
    const struct slate_signature *signature;
    uint32_t signatures;

    /* Recognises the start where no signature tells; boot: the first
     * SLATE_PIECE_BYTES of the range. False, and nothing touched, for anything
     * else. */
    bool (*judge)(struct slate_reader *reader, const uint8_t *boot,
                  enum slate_depth depth, struct slate_volume *volume);

    /* The same by what stands further in, or near the end. */
    bool (*judge_further)(struct slate_reader *reader,
                          struct slate_volume *volume);
    void (*judge_tail)(struct slate_reader *reader,
                       struct slate_volume *volume);

    /* What a full look adds. */
    void (*look)(struct slate_reader *reader, const uint8_t *boot,
                 struct slate_volume *volume);

    /* NULL: it says nothing of its place. */
    enum slate_here (*place)(struct slate_reader *reader);

    /* Is what the first block leads to there? */
    bool (*leads_on)(struct slate_reader *reader,
                     const struct slate_volume *volume);

    /* Where nothing stands at the start: is there a sound copy of it? */
    bool (*find_copy)(struct slate_reader *reader, struct slate_volume *volume);

    /* The blocks that come back from that copy, which begins at this byte of
     * the range; and what has to change in the first of them. */
    void (*add_runs)(struct slate_reader *reader, uint64_t from,
                     struct slate_start_copy *copy);
    void (*make_first)(uint8_t *bytes);
};

/* How far a partition is within reach of cylinders, heads and sectors. */
struct slate_reach {
    bool whole;       /* all of it */
    bool by_cylinder; /* the table counts so */
    uint64_t blocks;  /* of the partition */
};

#define SLATE_MBR_TYPES 16
#define SLATE_GPT_TYPES 2

/* One kind. */
struct slate_kind {
    const char *words; /* for people: "FAT32" */
    const struct slate_family *family;
    const struct slate_format *format; /* NULL: it is not composed */
    const char *part_of; /* "a member of a RAID"; NULL: of nothing */

    /* Partition types that announce it, up to 0 and NULL; the first one is
     * what an entry for it gets. */
    uint8_t mbr[SLATE_MBR_TYPES];
    const struct slate_guid *gpt[SLATE_GPT_TYPES];
    uint8_t (*mbr_type)(const struct slate_reach *reach); /* NULL: the first */

    bool known;       /* is it a volume? */
    bool needs_more;  /* always: than this volume, to show its files */
    bool keyed;       /* so because it is encrypted */
    bool tells_block; /* says for which blocks of the device it was made */
    bool own_blocks;  /* has blocks of its own, whatever the device's */
    bool flagged;     /* is "not unmounted" by bits that can be lowered */
    bool sought;      /* is worth an entry, once it is found in a gap */
    bool mac_only;    /* other hosts do not read it */
    bool never_fills; /* is made once and for all, or rounds by large units */
    bool grows;       /* hosts extend it in place */
};

/* What a format that is composed has in its folder, under a name of its own:
 * parts of its family, and of the format. */
#define SLATE_FORMAT_PARTS(name)                                               \
    enum slate_here name##_place(struct slate_reader *reader);                 \
    bool name##_leads_on(struct slate_reader *reader,                          \
                         const struct slate_volume *volume);                   \
    bool name##_find_copy(struct slate_reader *reader,                         \
                          struct slate_volume *volume);                        \
    void name##_add_runs(struct slate_reader *reader, uint64_t from,           \
                         struct slate_start_copy *copy);                       \
    bool name##_next(const void *plan, enum slate_moment moment, uint64_t *at, \
                     struct slate_extent *extent);                             \
    bool name##_covers(const void *plan, uint64_t lba, uint64_t *until);       \
    enum slate_status name##_fill(const void *plan, uint64_t first,            \
                                  uint32_t count, void *data);                 \
    const char *name##_step(uint8_t role);                                     \
    void name##_figures(const union slate_volume_plan *plan,                   \
                        struct slate_figures *figures);                        \
    enum slate_status name##_relabel(                                          \
        struct slate_media *media, const struct slate_relabel *wish,           \
        void *work, struct slate_label_plan *plan)

/* Of one that has a single variant, beside these. */
#define SLATE_FORMAT_WHOLE(name)                                               \
    SLATE_FORMAT_PARTS(name);                                                  \
    void name##_read(struct slate_reader *reader, const uint8_t *boot,         \
                     struct slate_volume *volume);                             \
    enum slate_status name##_plan(const struct slate_wish *wish,               \
                                  union slate_volume_plan *plan);              \
    void name##_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)

/* The same in their rows. */
#define SLATE_FAMILY_PARTS(name)                                               \
    .place = name##_place, .leads_on = name##_leads_on,                        \
    .find_copy = name##_find_copy, .add_runs = name##_add_runs
#define SLATE_FORMAT_ROW(name, title)                                          \
    .composer = {title, name##_next, name##_covers, name##_fill, name##_step}, \
    .figures = name##_figures, .relabel = name##_relabel

/* The row of one that is recognised; what else is known of it follows. */
#define SLATE_KNOWN(row, title, of, ...)                                       \
    const struct slate_kind slate_kind_##row = {                               \
        .words = (title), .family = (of), .known = true, __VA_ARGS__}

/* The row of a kind; never NULL. */
const struct slate_kind *slate_kind_of(enum slate_volume_kind kind);

/* Are they of one family? */
bool slate_kind_is_akin(enum slate_volume_kind kind,
                        enum slate_volume_kind other);

/* The family at an index of the list; NULL where that is of the kind ahead of
 * it, so that each is asked once. index: below SLATE_VOLUME_KINDS */
const struct slate_family *slate_family_at(uint32_t index);

#define SLATE_VOLUME_ROW(NAME, row)                                            \
    extern const struct slate_kind slate_kind_##row;
SLATE_VOLUME_LIST(SLATE_VOLUME_ROW)
#undef SLATE_VOLUME_ROW

/* The type of an entry for a kind; where it has none of its own, those that
 * hosts leave alone. */
const struct slate_guid *slate_gpt_type_for(enum slate_volume_kind kind);
uint8_t slate_mbr_type_for(enum slate_volume_kind kind);

/* Types that several kinds share: UEFI 2.10, table 5.7, and Linux. */
extern const struct slate_guid slate_efi_data, slate_linux_data;

/* Does a volume begin with this run? First what the families judge by. */
bool slate_volume_judge_start(struct slate_reader *reader, const uint8_t *boot,
                              enum slate_depth depth,
                              struct slate_volume *volume);

/* Which volume has a signature in this run of SLATE_WORK_MIN bytes, which
 * begins at this byte of the range? False for none. */
bool slate_signature_judge(uint32_t run, const uint8_t *bytes,
                           struct slate_volume *volume);

/* Notes a copy of the first block at a byte of the range. */
void slate_volume_take_copy(struct slate_reader *reader,
                            enum slate_volume_kind kind, uint64_t byte,
                            struct slate_volume *volume);
void slate_volume_add_run(struct slate_start_copy *copy, uint64_t from,
                          uint64_t to, uint32_t bytes);

/* Finds the copy that a FAT32, exFAT, NTFS or ext volume keeps of its first
 * blocks, where what it leads to is there still: the first entry of the table,
 * the first record of the files, the root directory. Of ext it is the
 * superblock alone. FAT32 specification 1.03, 3; exFAT 1.00, 3.1; the Linux
 * kernel's documentation of ext4 and NTFS. Returns SLATE_OK; SLATE_ERR_FORMAT:
 * there is none; SLATE_ERR_READ, SLATE_ERR_NO_DEVICE. */
enum slate_status slate_volume_start_find(struct slate_media *media,
                                          const struct slate_range *range,
                                          void *work,
                                          struct slate_start_copy *copy);

/* The boot block at a byte of the range that has this name; NULL: none. */
const uint8_t *slate_boot_named(struct slate_reader *reader, uint64_t byte,
                                const char *name);

/* What a boot block with a count of blocks ahead of it says of its place. */
enum slate_here slate_volume_told(struct slate_reader *reader, uint64_t told);

/* Does a host need more than this volume to show its files: a key, or the
 * other members? */
bool slate_volume_needs_more(const struct slate_volume *volume);

#endif
