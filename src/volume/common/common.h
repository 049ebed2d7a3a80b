/* SPDX-License-Identifier: MIT */
/* What the folders of the formats share. */
#ifndef SLATE_VOLUME_COMMON_H
#define SLATE_VOLUME_COMMON_H

#include <stdint.h>
#include <string.h>

#include "media/wire/wire.h"
#include "trueslate/base.h"
#include "trueslate/format.h"
#include "trueslate/layout.h"
#include "trueslate/volume.h"

/* Blocks that are known to be bad, as a volume sees them. A list of them is
 * ascending, and no two of its ranges touch; NULL is an empty one. */

/* The clusters of a volume. */
struct slate_clusters {
    uint64_t first;  /* block of the device where the first one begins */
    uint32_t blocks; /* of each */
    uint32_t count;
};

/* The index of the first range that ends behind a block; their number when none
 * does. */
uint32_t slate_bad_from(const struct slate_ranges *bad, uint64_t block);

/* Adds blocks, some of which may be there already. @return SLATE_OK;
 * SLATE_ERR_ARGUMENT for none, or beyond 2^63; SLATE_ERR_ROOM for too little
 * room */
enum slate_status slate_bad_add(struct slate_ranges *bad, uint64_t first,
                                uint64_t count);

/* The first and the last bad block in a range of the device. False: none. */
bool slate_bad_first(const struct slate_ranges *bad,
                     const struct slate_range *range, uint64_t *block);
bool slate_bad_last(const struct slate_ranges *bad,
                    const struct slate_range *range, uint64_t *block);

/* The first bad cluster, counted from 0, from one on; the number of clusters
 * when there is none. */
uint32_t slate_bad_cluster(const struct slate_ranges *bad,
                           const struct slate_clusters *clusters,
                           uint32_t from);

/* The first one that is not, in the same way. */
uint32_t slate_good_cluster(const struct slate_ranges *bad,
                            const struct slate_clusters *clusters,
                            uint32_t from);

/* How many are bad. */
uint32_t slate_bad_count(const struct slate_ranges *bad,
                         const struct slate_clusters *clusters);

/* The first of so many clusters in a row that are not bad, from *first on.
 * False: there are not so many. */
bool slate_bad_run(const struct slate_ranges *bad,
                   const struct slate_clusters *clusters, uint32_t length,
                   uint32_t *first);

/* What the readers of volumes share. */

/* A range being read, with the one buffer for it. */
struct slate_reader {
    struct slate_media *media;
    struct slate_range range; /* cut to the device */
    uint8_t *work;            /* SLATE_WORK_MIN bytes, or */
    uint32_t room;            /* so many; 0: SLATE_WORK_MIN */
    enum slate_status status; /* the first failure; nothing is read after it */
    struct slate_flag *flag;  /* room for SLATE_FLAGS_MAX; NULL: not wanted */
    uint32_t flags;
};

/* Cuts the range to the device; false when nothing of it is there. */
bool slate_reader_cut(struct slate_reader *reader);

/* Notes a raised flag, where that is wanted: bits of a byte of the range. */
void slate_reader_flag(struct slate_reader *reader, enum slate_flag_kind kind,
                       uint64_t byte, uint8_t mask, bool set);

/* Reads this many bytes at a byte of the range into the buffer. NULL when they
 * do not lie inside, do not fit the buffer, or could not be read. */
const uint8_t *slate_reader_at(struct slate_reader *reader, uint64_t byte,
                               uint32_t length);

/* The first block of the device that holds this byte of the range. */
uint64_t slate_reader_lba(const struct slate_reader *reader, uint64_t byte);

/* Compares a copy with the boot block, but for the bytes that hosts change:
 * those where the mask is true. */
void slate_reader_copy(struct slate_reader *reader, uint64_t byte,
                       const uint8_t *boot, bool (*changes)(uint32_t at),
                       struct slate_volume *volume);

/* Adds the bits that are set of so many, which begin at a byte of the range.
 * False where they cannot be read. */
bool slate_reader_count(struct slate_reader *reader, uint64_t at, uint64_t bits,
                        uint64_t *set);

void slate_volume_take_uuid(const uint8_t *field, struct slate_volume *volume);

/* Labels: UTF-8 as it stands, UTF-16, and one-byte characters. */
void slate_label_utf8(struct slate_volume *volume, const uint8_t *field,
                      size_t length);
void slate_label_utf16(struct slate_volume *volume, const uint8_t *units,
                       size_t count);
void slate_label_bytes(struct slate_volume *volume, const uint8_t *field,
                       size_t length);

/* Where nothing stands at the start: is there a sound copy of it? */
void slate_copies_read(struct slate_reader *reader,
                       struct slate_volume *volume);

/* What is known of a kind of volume, and of the family that it shares its
 * first blocks with: one row each, in the folder of the format. Whoever asks
 * something about a kind asks its row. */

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

/* Another place where a record stands, which outlives what begins the range. */
struct slate_remnant {
    const char *bytes;
    uint8_t length;
    uint32_t unit; /* bytes: the end of the range is rounded down to these, and
                      at counts back from there; 0: it counts from the start */
    uint32_t at;
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
    const struct slate_remnant *remnant;
    uint32_t remnants;

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
    extern const char *const name##_steps[];                                   \
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
    .composer = {title, name##_next, name##_covers, name##_fill,               \
                 name##_steps},                                                \
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

/* Is a record of such a kind left anywhere in the range, whatever begins it? A
 * few reads of a block each. Tells the kind, and what its tail tells. */
bool slate_volume_find_member(struct slate_reader *reader,
                              struct slate_volume *volume);

/* Whether a volume begins at the start of a range, by what its own first blocks
 * say. */

/* Is a volume recognised at the start of the range? Two transfers, at most. */
bool slate_volume_begins(struct slate_reader *reader,
                         struct slate_volume *volume);

enum slate_here slate_volume_place(struct slate_reader *reader,
                                   const struct slate_volume *volume);

/* Is what the first block leads to there? False also for kinds of which that is
 * not known here: */
bool slate_volume_leads_on(struct slate_reader *reader,
                           const struct slate_volume *volume);

/* Is it? */
bool slate_volume_has_ground(enum slate_volume_kind kind);

/* A part of a bitmap of clusters or units, the lowest bit first. */

struct slate_bits {
    uint8_t *byte;
    uint64_t first; /* the number of its first bit, a multiple of 8 */
    uint64_t count; /* of bits, the same */
};

/* Sets so many bits from one on, as far as they are in this part. */
void slate_bits_set(const struct slate_bits *bits, uint64_t first,
                    uint64_t count);

/* Sets those of bad clusters. */
void slate_bits_set_bad(const struct slate_bits *bits,
                        const struct slate_ranges *bad,
                        const struct slate_clusters *clusters);

/* Which format a volume gets where none was asked for. */

/* Of the formats that are chosen where none was asked for, the one that goes
 * on the smallest room. */
const struct slate_format *slate_format_smallest(enum slate_volume_kind kind);

/* The same: the one that reaches farthest. */
const struct slate_format *slate_format_largest(enum slate_volume_kind kind);

/* Plans a volume of a kind, or of the first kind that fits: FAT32; FAT16, else
 * FAT12, where that needs more room; exFAT where that ends ahead of the room.
 * Returns as slate_format.plan; SLATE_ERR_ARGUMENT for a kind that cannot be
 * composed. */
SLATE_MUST_CHECK enum slate_status
slate_format_plan(enum slate_volume_kind kind, const struct slate_wish *wish,
                  const struct slate_format **format,
                  union slate_volume_plan *plan);

/* Looking through the root directory of FAT and exFAT, entry by entry. */

#define SLATE_ENTRY_BYTES 32u

/* A directory: one run, or a chain of clusters. Bytes are bytes of the volume's
 * range. */
struct slate_directory {
    struct slate_reader *reader;
    uint64_t at, left; /* the run that is looked through */
    uint64_t chain;    /* where the 32-bit table begins; 0: there is none */
    uint64_t clusters_at;
    uint32_t mask; /* of a table's entry */
    uint32_t cluster, clusters, cluster_bytes;
    uint64_t most; /* bytes that a directory may have */
};

/* What kind an entry is of. */
enum slate_entry_kind {
    SLATE_ENTRY_END, /* nor is anything behind it */
    SLATE_ENTRY_FREE,
    SLATE_ENTRY_LABEL,
    SLATE_ENTRY_OTHER
};

/* Begins with the chain of a cluster. */
void slate_directory_begin(struct slate_directory *directory, uint32_t cluster);

/* Finds the label's entry, or else one that is free. at: receives its byte,
 * entry: its content. Returns SLATE_ERR_ROOT_FULL when there is neither,
 * SLATE_ERR_CHANGED for a chain that leads nowhere, SLATE_ERR_READ. */
enum slate_status
slate_directory_find(struct slate_directory *directory,
                     enum slate_entry_kind (*judge)(const uint8_t *entry),
                     uint64_t *at, uint8_t entry[SLATE_ENTRY_BYTES]);

/* Writes a structure byte after byte, and keeps only those that fall into a
 * window: so that a part of it can be composed without room for the whole. */

struct slate_pen {
    uint8_t *window; /* zeroed; what is not written stays zero */
    uint32_t from;   /* the byte of the structure where it begins */
    uint32_t count;  /* its length; 0: only to find out how long something is */
    uint32_t at;     /* the byte of the structure that is written next */
};

void slate_pen_put(struct slate_pen *pen, const void *bytes, uint32_t count);

/* A number, the low byte first. */
void slate_pen_le(struct slate_pen *pen, uint64_t value, uint32_t bytes);

/* ASCII as UTF-16, without an end. */
void slate_pen_text(struct slate_pen *pen, const char *text);

/* Zeros: so many bytes; or up to a multiple of a number. */
void slate_pen_skip(struct slate_pen *pen, uint32_t bytes);
void slate_pen_align(struct slate_pen *pen, uint32_t to);

/* Time stamps as FAT and exFAT pack them (FAT specification 1.03, 6.1; exFAT
 * 1.00, 7.4.8), and as seconds. */

static inline uint16_t slate_packed_date(const struct slate_stamp *stamp)
{
    if (stamp->month == 0)
        return 1 << 5 | 1; /* 1980-01-01 */
    return (uint16_t)((stamp->year - 1980u) << 9 | (unsigned)stamp->month << 5 |
                      stamp->day);
}

static inline uint16_t slate_packed_time(const struct slate_stamp *stamp)
{
    if (stamp->month == 0)
        return 0;
    return (uint16_t)(stamp->hour << 11 | stamp->minute << 5 |
                      stamp->second / 2);
}

/* What the packed time leaves, in hundredths of a second. */
static inline uint8_t slate_packed_rest(const struct slate_stamp *stamp)
{
    return stamp->month == 0 || stamp->second % 2 == 0 ? 0 : 100;
}

/* Seconds since 1970, the stamp being taken as universal time; up to 2105. */
uint32_t slate_stamp_seconds(const struct slate_stamp *stamp);

/* What a boot block of ours does when a machine is started from it. */

/* It asks the firmware for the next device: int 18h, else it stops. */
static inline void slate_start_put(uint8_t *code)
{
    static const uint8_t start[] = {0xCD, 0x18, 0xF4, 0xEB, 0xFD};

    memcpy(code, start, sizeof start);
}

#endif
