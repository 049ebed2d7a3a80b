/* SPDX-License-Identifier: MIT */
/* The ledger against a reading of its own: every device of the corpus, and
 * every damaged one, with every change that promises to keep data. What changed
 * in bytes is what was shown; what was there before is there after, or was
 * listed. Volumes are recognised here by what their formats publish. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "corpus.h"
#include "damage.h"
#include "turns.h"

static struct session s;
static struct ram before, after;
static struct slate_ledger ledger;
static unsigned drafts, refused, enacted, cut, seen, wrong;

#define complain(...) (print_message(__VA_ARGS__), print_message("\n"), wrong++)

/* What stands on the device, by its magic and by its own size. */

struct sign {
    const char *name;
    uint32_t at, length; /* bytes from where it begins */
    const char *magic;
    uint64_t (*bytes)(const uint8_t *start); /* 65536 of them; 0: not told */
};

/* Where only a start is left of it, and what that leads to is not there, it is
 * not counted: a table of a FAT that begins with its media byte, the first
 * record of an NTFS, the first entry of an exFAT. */

static const struct ram *under; /* which is looked at */
static uint64_t here;           /* where it begins, bytes */

static bool leads_to(uint64_t at, uint8_t least, const char *magic)
{
    uint8_t bytes[4];

    if (here + at + sizeof bytes >
        under->facts.block_count * (uint64_t)under->facts.block_bytes)
        return false;
    ram_get(under, here + at, bytes, sizeof bytes);
    return magic == NULL ? bytes[0] >= least : memcmp(bytes, magic, 4) == 0;
}

static uint64_t fat_bytes(const uint8_t *b)
{
    uint64_t sectors = number_at(b, 19, 2);

    if (b[510] != 0x55 || b[511] != 0xAA ||
        !leads_to(number_at(b, 14, 2) * number_at(b, 11, 2), 0xF0, NULL))
        return 0;
    return (sectors != 0 ? sectors : number_at(b, 32, 4)) * number_at(b, 11, 2);
}

static uint64_t exfat_bytes(const uint8_t *b)
{
    return b[108] > 12 || !leads_to(number_at(b, 80, 4) << b[108], 0,
                                    "\xF8\xFF\xFF\xFF")
               ? 0
               : number_at(b, 72, 8) << b[108];
}

static uint64_t ntfs_bytes(const uint8_t *b)
{
    uint64_t cluster = number_at(b, 11, 2) * b[13];

    return leads_to(number_at(b, 48, 8) * cluster, 0, "FILE")
               ? (number_at(b, 40, 8) + 1) * number_at(b, 11, 2)
               : 0;
}

static uint64_t ext_bytes(const uint8_t *b)
{
    return b[1024 + 24] > 6 || number_at(b, 1024 + 90, 2) != 0 ||
                   number_at(b, 1024 + 88, 2) < 128
               ? 0
               : number_at(b, 1028, 4) * (1024u << b[1024 + 24]);
}

static uint64_t xfs_bytes(const uint8_t *b)
{
    uint64_t blocks = 0;

    for (int i = 0; i < 8; i++)
        blocks = blocks << 8 | b[8 + i];
    return blocks * ((uint64_t)b[6] << 8 | (uint64_t)b[5] << 16);
}

static uint64_t apfs_bytes(const uint8_t *b)
{
    return number_at(b, 40, 8) * number_at(b, 36, 4);
}

/* ZFS, RAID and others tell no size in their first bytes: the magic alone. */
static const struct sign signs[] = {
    {"FAT12", 54, 5, "FAT12", fat_bytes},
    {"FAT16", 54, 5, "FAT16", fat_bytes},
    {"FAT32", 82, 5, "FAT32", fat_bytes},
    {"exFAT", 3, 8, "EXFAT   ", exfat_bytes},
    {"NTFS", 3, 8, "NTFS    ", ntfs_bytes},
    {"ext", 1080, 2, "\x53\xEF", ext_bytes},
    {"XFS", 0, 4, "XFSB", xfs_bytes},
    {"APFS", 32, 4, "NXSB", apfs_bytes},
    {"LUKS", 0, 6, "LUKS\xBA\xBE", NULL},
    {"LVM", 512, 8, "LABELONE", NULL},
    {"RAID 1.2", 4096, 5, "\xFC\x4E\x2B\xA9\1", NULL},
    {"RAID 1.1", 0, 5, "\xFC\x4E\x2B\xA9\1", NULL},
    {"disc", 32769, 5, "CD001", NULL},
    {"swap", 4086, 10, "SWAPSPACE2", NULL},
    {"Btrfs", 65536 + 64, 8, "_BHRfS_M", NULL},
    {"HFS+", 1024, 4, "H+\0\4", NULL},
    {"F2FS", 1024, 4, "\x10\x20\xF5\xF2", NULL},
    {"ZFS", 16408, 7, "version", NULL},
    {"RAID 1.0, 0.9", 0, 4, "\xFC\x4E\x2B\xA9", NULL},
};
#define SIGNS (sizeof signs / sizeof signs[0])

/* One that was found; its end is known where its format tells it. */
struct stands {
    const struct sign *sign;
    uint64_t at, end; /* bytes */
};
#define STANDS_MOST 512u
static struct stands stands[STANDS_MOST];
static bool named[STANDS_MOST];      /* by an entry */
static uint64_t hollow[STANDS_MOST]; /* where only a start is left */
static uint32_t hollows;
static uint32_t standing;

static uint64_t size_of(const struct ram *ram)
{
    return (uint64_t)ram->facts.block_count * ram->facts.block_bytes;
}

static bool has_sign(const struct ram *ram, const struct sign *sign,
                     uint64_t at)
{
    uint8_t bytes[16];

    if (at + sign->at + sign->length > size_of(ram))
        return false;
    ram_get(ram, at + sign->at, bytes, sign->length);
    return memcmp(bytes, sign->magic, sign->length) == 0;
}

/* A copy of a volume's start lies a few blocks behind it, or at its end. */
static bool is_copy(const struct sign *sign, uint64_t at)
{
    for (uint32_t i = 0; i < standing; i++) {
        const struct stands *one = &stands[i];

        if (one->sign == sign && at > one->at && at < one->end &&
            (at - one->at <= 12 * (uint64_t)under->facts.block_bytes ||
             one->end - at <= 4096))
            return true;
    }
    return false;
}

static void look_for(const struct ram *ram, const struct sign *sign,
                     uint64_t at)
{
    static uint8_t start[65536];
    uint64_t most = size_of(ram), bytes = 0;

    under = ram;
    here = at;
    if (!has_sign(ram, sign, at) || is_copy(sign, at) ||
        (ram->fail_read != 0 && at / ram->facts.block_bytes == ram->fail_read))
        return;
    memset(start, 0, sizeof start);
    ram_get(ram, at, start,
            most - at < sizeof start ? (size_t)(most - at) : sizeof start);
    if (sign->bytes != NULL) {
        bytes = sign->bytes(start);
        if (bytes == 0) { /* not what it seems */
            hollow[hollows++ % STANDS_MOST] = at;
            return;
        }
    }
    assert_true(standing < STANDS_MOST);
    stands[standing++] =
        (struct stands){sign, at, bytes > most - at ? most : at + bytes};
}

/* Which entries name what stands there: of an MBR with its chain, and of both
 * copies of a GPT. */

/* Of one block with a table: does it name that place, and where does its chain
 * go on (0: nowhere)? */
static bool entries_name(const struct ram *ram, uint64_t table, uint64_t at,
                         uint64_t *chain)
{
    uint32_t bytes = ram->facts.block_bytes;
    uint8_t block[512] = {0};

    *chain = 0;
    if ((table + 1) * bytes <= size_of(ram))
        ram_get(ram, table * bytes, block, sizeof block);
    for (size_t i = 0; i < 4 && block[510] == 0x55 && block[511] == 0xAA; i++) {
        const uint8_t *entry = block + 446 + 16 * i;
        uint64_t first = number_at(entry, 8, 4);

        if (entry[4] == 0x05 || entry[4] == 0x0F || entry[4] == 0x85)
            *chain = first;
        else if (entry[4] != 0 && first != 0 && (table + first) * bytes == at)
            return true;
    }
    return false;
}

static bool mbr_names(const struct ram *ram, uint64_t at)
{
    uint64_t chain, base;

    if (entries_name(ram, 0, at, &chain))
        return true;
    base = chain;
    for (uint64_t link = base, i = 0; chain != 0 && i < 60; i++) {
        if (entries_name(ram, link, at, &chain))
            return true;
        link = base + chain;
    }
    return false;
}

/* Where a header says that its entries are; none, where it is none. */
static struct slate_range array_of(const struct ram *ram, uint64_t header)
{
    uint32_t bytes = ram->facts.block_bytes;
    uint64_t each, entries;
    uint8_t block[512];

    ram_get(ram, header * bytes, block, sizeof block);
    each = number_at(block, 84, 4);
    entries = number_at(block, 80, 4);
    if (memcmp(block, "EFI PART", 8) != 0 || each < 128 || each > 4096 ||
        entries > 4096)
        return (struct slate_range){0, 0};
    return (struct slate_range){number_at(block, 72, 8),
                                (each * entries + bytes - 1) / bytes};
}

static bool gpt_names(const struct ram *ram, uint64_t header, uint64_t at)
{
    const struct slate_range array = array_of(ram, header);
    uint32_t bytes = ram->facts.block_bytes;
    uint8_t entry[128];

    for (uint64_t i = array.first * bytes;
         i + sizeof entry <= (array.first + array.count) * bytes &&
         i + sizeof entry <= size_of(ram);
         i += sizeof entry) {
        ram_get(ram, i, entry, sizeof entry);
        if ((number_at(entry, 0, 8) | number_at(entry, 8, 8)) != 0 &&
            number_at(entry, 32, 8) * bytes == at)
            return true;
    }
    return false;
}

/* Does a block belong to a table, also where a volume claims it too? */
static bool is_of_table(const struct ram *ram, uint64_t block)
{
    uint64_t headers[2] = {1, ram->facts.block_count - 1};

    for (int i = 0; i < 2; i++) {
        const struct slate_range array = array_of(ram, headers[i]);

        if (array.count > 0 &&
            (block == headers[i] ||
             (block >= array.first && block - array.first < array.count)))
            return true;
    }
    return false;
}

static bool is_named(const struct ram *ram, uint64_t at)
{
    return mbr_names(ram, at) || gpt_names(ram, 1, at) ||
           gpt_names(ram, ram->facts.block_count - 1, at);
}

static void find_all(const struct ram *ram)
{
    standing = hollows = 0;
    for (size_t page = 0; page < ram->page_count; page++) {
        if (ram->pages[page] == NULL)
            continue;
        for (uint64_t at = page * (uint64_t)RAM_PAGE_BYTES;
             at < (page + 1) * (uint64_t)RAM_PAGE_BYTES; at += 512) {
            for (size_t i = 0; i < SIGNS; i++)
                look_for(ram, &signs[i], at);
        }
    }
    /* those whose magic lies in a page of its own, behind an empty start */
    for (size_t page = 0; page < ram->page_count; page++) {
        for (size_t i = 0; i < SIGNS && ram->pages[page] != NULL; i++) {
            uint64_t ahead = signs[i].at / 512 * 512;
            uint64_t first = page * (uint64_t)RAM_PAGE_BYTES;

            for (uint64_t at = first; at < first + RAM_PAGE_BYTES; at += 512) {
                if (at >= ahead && signs[i].at >= 4096 &&
                    ram->pages[(at - ahead) / RAM_PAGE_BYTES] == NULL)
                    look_for(ram, &signs[i], at - ahead);
            }
        }
    }
    seen += standing;
    for (uint32_t i = 0; i < standing; i++)
        named[i] = is_named(ram, stands[i].at);
}

/* What was shown. */

static bool is_shown(uint64_t block)
{
    struct slate_walk walk = {0};
    struct slate_extent e;

    while (slate_draft_next(&s.draft, &walk, &e)) {
        if (block >= e.first && block - e.first < e.count)
            return true;
    }
    return false;
}

static bool is_in_ledger(const struct stands *one)
{
    uint32_t block = before.facts.block_bytes;

    for (uint32_t i = 0; i < ledger.count; i++) {
        const struct slate_loss *loss = &ledger.loss[i];

        if (one->at / block >= loss->range.first &&
            one->at / block - loss->range.first < loss->range.count)
            return true;
    }
    return false;
}

/* What took the whole device is stale where an entry names what lives. */
static bool is_stale(const struct stands *one)
{
    for (uint32_t i = 0; one->at == 0 && i < standing; i++) {
        if (named[i] && stands[i].at > 0)
            return true;
    }
    for (uint32_t i = 0; one->at == 0 && i < hollows && i < STANDS_MOST; i++) {
        if (hollow[i] > 0 && is_named(&before, hollow[i]))
            return true;
    }
    return false;
}

/* A copy of a table that alone names volumes is listed as one. */
static bool names_others(void)
{
    for (uint32_t i = 0; i < ledger.count; i++) {
        if (ledger.loss[i].kind == SLATE_LOSS_TABLE)
            return true;
    }
    return false;
}

/* A change of a volume's own blocks, asked for by that name. */
static bool is_of_the_volume(void)
{
    const struct slate_change *change = &s.draft.change;

    return change->renamed.wanted || change->clears > 0 ||
           (change->mends > 0 && change->mend[0].kind == SLATE_MEND_START);
}

static void check_block(const char *name, uint64_t block)
{
    uint64_t at = block * before.facts.block_bytes;

    if (!is_shown(block))
        complain("%s: block %llu changed, and was not shown", name,
                 (unsigned long long)block);
    for (uint32_t i = 0; i < standing; i++) {
        const struct stands *one = &stands[i];

        if (at >= one->at && at < one->end && !is_of_the_volume() &&
            !is_in_ledger(one) && !is_stale(one) &&
            !is_of_table(&before, block))
            complain("%s: block %llu changed, in a volume (%s) at byte %llu "
                     "that was not listed",
                     name, (unsigned long long)block, one->sign->name,
                     (unsigned long long)one->at);
    }
}

static void check_all(const char *name)
{
    static uint8_t old[RAM_PAGE_BYTES], new[RAM_PAGE_BYTES];
    uint32_t bytes = before.facts.block_bytes;

    for (size_t page = 0; page < after.page_count; page++) {
        uint64_t at = page * (uint64_t)RAM_PAGE_BYTES;

        if (after.pages[page] == NULL && before.pages[page] == NULL)
            continue;
        ram_get(&before, at, old, sizeof old);
        ram_get(&after, at, new, sizeof new);
        for (uint32_t i = 0; i < RAM_PAGE_BYTES; i += bytes) {
            if (memcmp(old + i, new + i, bytes) != 0)
                check_block(name, (at + i) / bytes);
        }
    }
    for (uint32_t i = 0; i < standing; i++) {
        if (!has_sign(&after, stands[i].sign, stands[i].at) &&
            !is_in_ledger(&stands[i]) && !is_stale(&stands[i]))
            complain("%s: %s at byte %llu is gone, and was not listed", name,
                     stands[i].sign->name, (unsigned long long)stands[i].at);
        if (named[i] && !is_named(&after, stands[i].at) && !names_others())
            complain("%s: no entry names %s at byte %llu any more, and it was "
                     "not listed",
                     name, stands[i].sign->name,
                     (unsigned long long)stands[i].at);
    }
}

/* The draft that was made, on a copy of the device. */
static void hold(const char *name, const char *what)
{
    char both[200];

    snprintf(both, sizeof both, "%s, %s", name, what);
    drafts++;
    assert_ok(slate_ledger_make(&ledger, &s.draft, &s.facts, &s.media, s.work));
    cut += ledger.cut ? 1u : 0u;
    if (slate_ledger_living(&ledger, &s.draft, false, false) != NULL) {
        refused++;
        return;
    }
    ram_copy(&after, &before);
    after.fail_read = before.fail_read;
    assert_ok(slate_media_open(&s.media, &after.port));
    if (session_enact(&s, 262144) != SLATE_OK)
        complain("%s: cannot be enacted", both);
    enacted++;
    check_all(both);
    ram_close(&after);
    assert_ok(slate_media_open(&s.media, &before.port));
}

static void place(void)
{
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    assert_ok(slate_draft_base(&s.draft, &s.facts));
}

static void try_mends(const char *name)
{
    uint32_t most = s.facts.layout.count < 4 ? s.facts.layout.count : 4;

    for (int kind = 0; kind < SLATE_MEND_LOST; kind++) {
        for (uint32_t i = 0; i <= most; i++) {
            const struct slate_mend mend = {(enum slate_mend_kind)kind,
                                            i == most ? SLATE_ATTRIBUTE_WHOLE
                                                      : i};

            if (session_mend(&s, &mend) == SLATE_OK)
                hold(name, slate_mend_name(mend.kind));
        }
    }
}

static void try_labels(const char *name)
{
    uint32_t most = s.facts.layout.count < 4 ? s.facts.layout.count : 4;

    for (uint32_t i = 0; i <= most; i++) {
        place();
        if (slate_draft_label(&s.draft, &s.facts,
                              i == most ? SLATE_ATTRIBUTE_WHOLE : i, "NEXT",
                              &s.media, s.work) == SLATE_OK &&
            slate_draft_make(&s.draft) == SLATE_OK)
            hold(name, "label");
    }
}

static void try_attributes(const char *name)
{
    struct slate_attribute found;

    for (uint32_t i = 0; slate_attribute_next(&s.facts, i, &found); i++) {
        place();
        if (slate_draft_clear(&s.draft, &s.facts, &found, &s.media, s.work) ==
                SLATE_OK &&
            slate_draft_make(&s.draft) == SLATE_OK)
            hold(name, slate_attribute_name(found.kind));
    }
}

/* All that the table names stays, and one more comes beside; or one goes. */
static void try_keeping(const char *name)
{
    static const struct slate_ask rest = {.size_kind = SLATE_SIZE_REST,
                                          .label = "NEW"};

    for (uint32_t gone = 0; gone <= 2 && gone <= s.facts.layout.count; gone++) {
        enum slate_status status = SLATE_OK;

        place();
        for (uint32_t i = 0; i < s.facts.layout.count; i++) {
            const struct slate_ask ask = {.keep = s.facts.partition[i].number};

            if (i + 1 != gone && status == SLATE_OK)
                status = slate_draft_ask(&s.draft, &ask);
        }
        if (gone == 0 && status == SLATE_OK)
            status = slate_draft_ask(&s.draft, &rest);
        if (status == SLATE_OK)
            status = slate_draft_keep(&s.draft, &s.facts, &s.media, s.work);
        if (status == SLATE_OK)
            status = slate_draft_make(&s.draft);
        if (status == SLATE_OK && s.draft.switched && gone == 0)
            hold(name, "keep all, part rest");
    }
}

/* Entries for what no entry names. */
static void try_putting_back(const char *name)
{
    for (uint32_t i = 0; i < standing && i < 6; i++) {
        uint64_t first = stands[i].at / before.facts.block_bytes;

        if (session_put_back(&s, &first, 1, SLATE_TABLE_MBR) == SLATE_OK)
            hold(name, "put back");
    }
}

static void try_all(const char *name)
{
    assert_ok(slate_media_open(&s.media, &before.port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    find_all(&before);
    try_mends(name);
    try_labels(name);
    try_attributes(name);
    try_keeping(name);
    try_putting_back(name);
    ram_close(&before);
}

/* What may stand there as well, where nothing else does: a member's records at
 * both ends, a volume that takes the whole device, one in a gap, one whose
 * entry was deleted. Each tells whether it had its place. */

static bool put(uint64_t at, const void *bytes, size_t length)
{
    static const uint8_t zeros[512];
    uint8_t there[512];

    if (at + length > size_of(&before))
        return false;
    ram_get(&before, at, there, length);
    if (memcmp(there, zeros, length) != 0)
        return false;
    ram_put(&before, at, bytes, length);
    return true;
}

static bool raid_behind(void)
{
    return put(4096, "\xFC\x4E\x2B\xA9\1", 5);
}

static bool raid_at_end(void)
{
    return put((size_of(&before) - 8192) & ~4095ull, "\xFC\x4E\x2B\xA9\1", 5);
}

static bool raid_old(void)
{
    return put((size_of(&before) & ~65535ull) - 65536, "\xFC\x4E\x2B\xA9", 4);
}

static bool zfs_at_end(void)
{
    return put(size_of(&before) / 262144 * 262144 - 262144 + 16384,
               "\1\1\0\0\0\0\0\0\0\0\0\1\0\0\0\44\0\0\0\40\0\0\0\7version\0",
               32);
}

static bool lvm(void)
{
    return put(512, "LABELONE\1\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0LVM2 001", 32);
}

/* The superblock of an ext4 over the whole device, as kernels write it. */
static bool ext_over_all(void)
{
    uint8_t super[128] = {0};
    const struct {
        uint8_t at;
        uint64_t value;
    } fields[] = {{0, 4096},  {4, size_of(&before) / 4096},
                  {24, 2},    {32, 32768},
                  {40, 2048}, {56, 0xEF53},
                  {76, 1},    {88, 256},
                  {96, 0x40}};

    for (size_t i = 0; i < sizeof fields / sizeof fields[0]; i++) {
        for (int j = 0; j < (fields[i].at == 56 || fields[i].at == 88 ? 2 : 4);
             j++)
            super[fields[i].at + j] = (uint8_t)(fields[i].value >> 8 * j);
    }
    return put(1024, super, sizeof super);
}

/* In what partitions leave ahead of block 2048. */
static bool fat_in_gap(void)
{
    static const uint8_t zeros[4096];
    static uint8_t there[4096];
    uint64_t first = 131072 / before.facts.block_bytes;

    if (size_of(&before) < 2097152 || is_named(&before, 131072))
        return false;
    for (uint64_t at = 131072; at < 1048576; at += sizeof there) {
        ram_get(&before, at, there, sizeof there);
        if (memcmp(there, zeros, sizeof there) != 0)
            return false;
    }
    craft_fat(&before, first, 1792, 12);
    return true;
}

static bool deleted_entry(void)
{
    uint8_t block[512];

    ram_get(&before, 0, block, sizeof block);
    for (size_t i = 0; i < 4; i++) {
        uint8_t *entry = block + 446 + 16 * i;

        if (block[511] != 0xAA || entry[4] == 0 || entry[4] == 0xEE)
            continue;
        memset(entry, 0, 16);
        ram_put(&before, 0, block, sizeof block);
        return true;
    }
    return false;
}

static const struct {
    const char *name;
    bool (*put)(void);
} more[] = {
    {"RAID 1.2", raid_behind},
    {"RAID 1.0", raid_at_end},
    {"RAID 0.9", raid_old},
    {"ZFS", zfs_at_end},
    {"LVM", lvm},
    {"ext4 over all", ext_over_all},
    {"FAT in a gap", fat_in_gap},
    {"a deleted entry", deleted_entry},
};

/* The device as it is, and with each of them beside. */
static void try_each(const char *name, const void *one,
                     void (*build)(const void *one))
{
    char both[120];

    build(one);
    try_all(name);
    for (size_t i = 0; i < sizeof more / sizeof more[0]; i++) {
        build(one);
        snprintf(both, sizeof both, "%s, %s", name, more[i].name);
        if (more[i].put())
            try_all(both);
        else
            ram_close(&before);
    }
}

static void build_case(const void *one)
{
    ((const struct corpus_case *)one)->build(&before);
    before.facts.identity.transport = SLATE_TRANSPORT_USB;
}

static void build_damaged(const void *one)
{
    const struct damage *damage = one;

    ram_open(&before, damage->block_bytes, damage->blocks, true);
    damage->build(&before);
    damage->hurt(&before);
}

static void what_changes_was_shown_and_what_lives_was_listed(void **state)
{
    const struct corpus_case *one;
    const struct damage *damage;

    (void)state;
    for (size_t i = 0; (one = corpus_case(i)) != NULL; i++) {
        if (!turn_of(i, 4))
            continue;
        try_each(one->name, one, build_case);
    }
    for (size_t i = 0; (damage = damage_at(i)) != NULL; i++) {
        if (!turn_of(i, 4))
            continue;
        try_each(damage->name, damage, build_damaged);
    }
    print_message("  %u drafts: %u refused, %u enacted; %u volumes; the ledger "
                  "was cut off in %u\n",
                  drafts, refused, enacted, seen, cut);
    assert_int_equal(wrong, 0);
    assert_true(refused > 50 && enacted > 50);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_changes_was_shown_and_what_lives_was_listed)};

    return cmocka_run_group_tests_name("promises", tests, NULL, NULL);
}
