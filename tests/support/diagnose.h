/* SPDX-License-Identifier: MIT */
/* Devices put together for one question, and what must be found on them. */
#ifndef TESTS_DIAGNOSE_H
#define TESTS_DIAGNOSE_H

#include "check.h"
#include "craft.h"

#define ALL 4194304u /* 2 GiB of 512-byte blocks */
#define MIB 2048u

enum kind {
    FAT16,
    FAT32,
    EXFAT,
    NTFS,
    EXT4,
    APFS,
    KINDS
};

/* The last look, with room for many partitions. */
extern struct session s;
extern struct slate_volume volume[1024];

/* The type that announces a kind in an MBR. */
uint8_t mbr_type(enum kind kind);

/* A volume from a block on. */
void put(struct ram *ram, enum kind kind, uint64_t first, uint64_t count);

/* A device of ALL blocks with one partition. */
void open_with_table(struct ram *ram, bool gpt, enum kind kind, uint64_t first,
                     uint64_t count);

/* A GPT of any number of partitions, 4 MiB each, one behind the other. */
void put_many(struct ram *ram, uint32_t count, uint32_t slots);

/* A full look, held to its budget. */
void look(struct ram *ram);

/* The same, held to its findings, exactly; to figures that can be; and to
 * remedies that a draft takes. */
void expect_findings(struct ram *ram, const char *name, const char *expected);

/* Does what helps against a finding say that content is lost? */
bool loses_content(enum slate_finding_id id);

/* How many devices were held to their findings. */
int told(void **state);

#endif
