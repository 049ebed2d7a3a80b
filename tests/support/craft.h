/* SPDX-License-Identifier: MIT */
/* Tables and volumes put together byte by byte, as others write them: so that
 * each may be damaged, or lie. */
#ifndef TESTS_CRAFT_H
#define TESTS_CRAFT_H

#include "ram.h"

void craft_le(struct ram *ram, uint64_t byte, uint64_t value, int length);
void craft_be(struct ram *ram, uint64_t byte, uint64_t value, int length);
void craft_text(struct ram *ram, uint64_t byte, const char *text);

/* Inverts one byte. */
void craft_flip(struct ram *ram, uint64_t byte);
void craft_erase(struct ram *ram, uint64_t byte, size_t length);

/* A link of the chain of logical partitions at a block: a partition that
 * begins "ahead" blocks behind it, and the next link (0: none), which counts
 * from the container. */
void craft_link(struct ram *ram, uint32_t lba, uint8_t type, uint32_t ahead,
                uint32_t count, uint32_t next);

extern const struct slate_guid craft_basic, craft_linux, craft_swap;

enum {
    CRAFT_PROTECTIVE = 1,
    CRAFT_PRIMARY = 2,
    CRAFT_BACKUP = 4,
    CRAFT_ALL = 7
};

/* A GPT as it would stand on a device of so many blocks. */
struct craft_gpt {
    unsigned parts;  /* 0: all */
    uint64_t blocks; /* 0: the device's own */
    uint32_t block_bytes, header_bytes, entry_bytes, entries; /* 0: usual */
    struct {
        uint64_t first, count, attributes;
        const struct slate_guid *type; /* NULL: basic data */
        uint8_t id;                    /* fills the identifier; 0: its slot */
    } partition[4];
};
void craft_gpt(struct ram *ram, const struct craft_gpt *gpt);

/* Volumes composed by the library. */
void craft_format(struct ram *ram, enum slate_volume_kind kind, uint64_t first,
                  uint64_t count, const char *label);
void craft_fat32(struct ram *ram, uint64_t first, uint64_t count,
                 const char *label);

/* Volumes that begin at a block of the device; count in blocks of 512 bytes. */
void craft_fat(struct ram *ram, uint64_t first, uint32_t count, int bits);
void craft_exfat(struct ram *ram, uint64_t first, uint64_t count,
                 const char *label);
void craft_ntfs(struct ram *ram, uint64_t first, uint64_t count,
                const char *label);
void craft_ext4(struct ram *ram, uint64_t first, uint64_t count,
                const char *label);
void craft_apfs(struct ram *ram, uint64_t first, uint64_t count,
                const char *label);
void craft_optical(struct ram *ram, uint64_t first, bool bootable, bool udf);

/* Bytes without a pattern. */
void craft_noise(struct ram *ram, uint64_t byte, size_t length);

#endif
