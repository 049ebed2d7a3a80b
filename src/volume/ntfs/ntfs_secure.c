/* SPDX-License-Identifier: MIT */
/* Who may do what on an NTFS volume: descriptors of rights, each with a number,
 * in the file of them (self-relative form, as the openly published protocol
 * description of them has it: MS-DTYP 2.4). */
#include "base/base.h"
#include "volume/ntfs/ntfs.h"

#define SELF_RELATIVE_WITH_LIST 0x8004u
#define INHERITED_BY_ALL 0x03u /* folders and files below */
#define HEAD_BYTES 20u
#define DESCRIPTOR_MOST 160u /* the longest of them has 144 bytes */

#define READ_ONLY 0x00120089u
#define READ_AND_RUN 0x001200A9u
#define READ_AND_WRITE 0x0012019Fu
#define CHANGE 0x001301BFu
#define EVERYTHING 0x001F01FFu

/* Accounts, as hosts know them by their numbers. */
enum account {
    SYSTEM,
    ADMINISTRATORS,
    USERS,
    KNOWN_USERS,
    EVERYONE
};
static const struct {
    uint8_t authority, parts;
    uint16_t part[2];
} accounts[] = {{5, 1, {18, 0}},
                {5, 2, {32, 544}},
                {5, 2, {32, 545}},
                {5, 1, {11, 0}},
                {1, 1, {0, 0}}};

struct grant {
    enum account account;
    uint8_t flags;
    uint32_t mask;
};

static uint32_t account_bytes(enum account account)
{
    return 8 + 4u * accounts[account].parts;
}

static void write_account(enum account account, struct slate_pen *pen)
{
    slate_pen_le(pen, 1, 1);
    slate_pen_le(pen, accounts[account].parts, 1);
    slate_pen_skip(pen, 5);
    slate_pen_le(pen, accounts[account].authority, 1);
    for (uint32_t i = 0; i < accounts[account].parts; i++)
        slate_pen_le(pen, accounts[account].part[i], 4);
}

/* Which grants a descriptor has. */
static const struct grant *grants_of(const struct slate_ntfs *ntfs,
                                     uint32_t index, uint32_t *count)
{
    static const struct grant system[] = {{SYSTEM, 0, READ_ONLY},
                                          {ADMINISTRATORS, 0, READ_ONLY}};
    static const struct grant extend[] = {{SYSTEM, 0, READ_AND_WRITE},
                                          {ADMINISTRATORS, 0, READ_AND_WRITE}};
    static const struct grant shared[] = {
        {EVERYONE, INHERITED_BY_ALL, EVERYTHING}};
    static const struct grant owned[] = {
        {SYSTEM, INHERITED_BY_ALL, EVERYTHING},
        {ADMINISTRATORS, INHERITED_BY_ALL, EVERYTHING},
        {KNOWN_USERS, INHERITED_BY_ALL, CHANGE},
        {USERS, INHERITED_BY_ALL, READ_AND_RUN}};

    *count = 2;
    if (index == 0)
        return system;
    if (index == 1)
        return extend;
    *count = ntfs->shared ? 1 : 4;
    return ntfs->shared ? shared : owned;
}

static uint32_t list_bytes(const struct grant *grant, uint32_t count)
{
    uint32_t bytes = 8;

    for (uint32_t i = 0; i < count; i++)
        bytes += 8 + account_bytes(grant[i].account);
    return bytes;
}

static void write_descriptor(const struct slate_ntfs *ntfs, uint32_t index,
                             struct slate_pen *pen)
{
    uint32_t count;
    const struct grant *grant = grants_of(ntfs, index, &count);
    uint32_t list = list_bytes(grant, count), owner = HEAD_BYTES + list;

    slate_pen_le(pen, 1, 2);
    slate_pen_le(pen, SELF_RELATIVE_WITH_LIST, 2);
    slate_pen_le(pen, owner, 4);
    slate_pen_le(pen, owner + account_bytes(ADMINISTRATORS), 4);
    slate_pen_le(pen, 0, 4);
    slate_pen_le(pen, HEAD_BYTES, 4);
    slate_pen_le(pen, 2, 2);
    slate_pen_le(pen, list, 2);
    slate_pen_le(pen, count, 4);
    for (uint32_t i = 0; i < count; i++) {
        slate_pen_le(pen, 0, 1); /* allowed */
        slate_pen_le(pen, grant[i].flags, 1);
        slate_pen_le(pen, 8 + account_bytes(grant[i].account), 2);
        slate_pen_le(pen, grant[i].mask, 4);
        write_account(grant[i].account, pen);
    }
    write_account(ADMINISTRATORS, pen);
    write_account(SYSTEM, pen);
}

static uint32_t descriptor_bytes(const struct slate_ntfs *ntfs, uint32_t index)
{
    uint32_t count;
    const struct grant *grant = grants_of(ntfs, index, &count);

    return HEAD_BYTES + list_bytes(grant, count) +
           account_bytes(ADMINISTRATORS) + account_bytes(SYSTEM);
}

/* Four bytes of it at a time are added to what was turned by three bits. */
static uint32_t hash_of(const struct slate_ntfs *ntfs, uint32_t index)
{
    uint8_t bytes[DESCRIPTOR_MOST] = {0};
    struct slate_pen pen = {bytes, 0, sizeof bytes, 0};
    uint32_t hash = 0;

    write_descriptor(ntfs, index, &pen);
    for (uint32_t at = 0; at < pen.at; at += 4)
        hash = (hash >> 29 | hash << 3) + slate_le32(bytes + at);
    return hash;
}

void slate_ntfs_right(const struct slate_ntfs *ntfs, uint32_t index,
                      struct slate_ntfs_right *right)
{
    right->at = 0;
    for (uint32_t i = 0; i < index; i++)
        right->at +=
            (HEAD_BYTES + descriptor_bytes(ntfs, i) + 15) / 16 * UINT64_C(16);
    right->number = SLATE_NTFS_SYSTEM_RIGHTS + index;
    right->bytes = HEAD_BYTES + descriptor_bytes(ntfs, index);
    right->hash = hash_of(ntfs, index);
}

uint32_t slate_ntfs_rights_bytes(const struct slate_ntfs *ntfs)
{
    uint32_t bytes = 0;

    for (uint32_t i = 0; i < SLATE_NTFS_RIGHTS; i++)
        bytes = (bytes + 15) / 16 * 16 + HEAD_BYTES + descriptor_bytes(ntfs, i);
    return bytes;
}

void slate_ntfs_write_right_head(const struct slate_ntfs *ntfs, uint32_t index,
                                 struct slate_pen *pen)
{
    struct slate_ntfs_right right;

    slate_ntfs_right(ntfs, index, &right);
    slate_pen_le(pen, right.hash, 4);
    slate_pen_le(pen, right.number, 4);
    slate_pen_le(pen, right.at, 8);
    slate_pen_le(pen, right.bytes, 4);
}

void slate_ntfs_write_rights(const struct slate_ntfs *ntfs,
                             struct slate_pen *pen)
{
    for (uint32_t i = 0; i < SLATE_NTFS_RIGHTS; i++) {
        slate_pen_align(pen, 16);
        slate_ntfs_write_right_head(ntfs, i, pen);
        write_descriptor(ntfs, i, pen);
    }
}
