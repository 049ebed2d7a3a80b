/* SPDX-License-Identifier: MIT */
/* A device in RAM for tests: sparse, of any size, with faults to order. */
#ifndef TESTS_RAM_H
#define TESTS_RAM_H

#include <trueslate/trueslate.h>

#define RAM_PAGE_BYTES 65536u

/* How a device takes the command to clear a range. */
enum ram_clearing {
    RAM_CLEARS,
    RAM_REFUSES,
    RAM_LIES /* says that it has, and has not */
};

struct ram {
    struct slate_port port;
    struct slate_port_facts facts;
    uint8_t **pages; /* NULL: zeros */
    size_t page_count;
    uint64_t writes;            /* calls so far */
    uint64_t fail_write;        /* the write call that fails, from 1; 0: none */
    bool fail_for_ever;         /* and every later one */
    bool tear;                  /* the failing write stores its first block */
    struct slate_range worn[4]; /* transfers that touch these blocks fail: */
    bool worn_writes, worn_reads; /* these of them */
    uint64_t fail_read;           /* any read of this block fails; 0: none */
    uint64_t blocks_written;
    uint32_t read_pace_us, write_pace_us; /* of a block, for the port's clock */
    uint64_t read_us, write_us;           /* so far */
    uint64_t flushes, clears, submits, discarded;
    uint64_t doubles; /* submits while another was under way */
    const struct slate_request *under_way, *behind; /* in their order */
    enum ram_clearing clearing;
    bool claimed;
    bool busy; /* claim is refused */
};

/* A device with all optional port operations, or with none of them. */
void ram_open(struct ram *ram, uint32_t block_bytes, uint64_t blocks,
              bool all_operations);
void ram_close(struct ram *ram);

/* From the next opening on transfers go on while the caller does something
 * else. */
void ram_let_overlap(struct ram *ram);

/* From the next opening on it has the operation that clears a range. */
void ram_let_clear(struct ram *ram, enum ram_clearing clearing);

/* A second device with the same content, and worn where that one is. */
void ram_copy(struct ram *to, const struct ram *from);
bool ram_equal(const struct ram *a, const struct ram *b);
bool ram_same(const struct ram *a, const struct ram *b, uint64_t byte,
              uint64_t length);

/* Direct access, around the port. */
void ram_put(struct ram *ram, uint64_t byte, const void *data, size_t length);
void ram_get(const struct ram *ram, uint64_t byte, void *data, size_t length);

/* An MBR entry, and the signature that goes with it. */
void ram_put_entry(struct ram *ram, unsigned slot, uint8_t type, bool active,
                   uint32_t first, uint32_t count);

#endif
