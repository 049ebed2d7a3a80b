/* SPDX-License-Identifier: MIT */
/* A simulated device that erases itself, laid out for one test, and all that
 * goes out to it noted. */
#ifndef TESTS_ERASER_H
#define TESTS_ERASER_H

#include <trueslate/port_sim.h>

#include "check.h"

#define BLOCKS 4096u
#define PLACES 64u
#define STEPS 4u

enum set {
    SCSI,
    ATA,
    NVME,
    SD,
    DOCK
};

struct kind {
    enum slate_erase_kind kind;
    enum set set;
    const char *named; /* as a description has it */
    bool crypto, waits, password;
};

/* Every way of every command set, and two of them through a dock. */
#define KINDS 17u
extern const struct kind kinds[KINDS];

/* The device that is open, and its erase. */
extern struct slate_media media;
extern struct slate_erase erase;
extern struct slate_erase_way way[SLATE_ERASE_WAYS_MAX];
extern uint32_t ways;
extern struct slate_erase_place place[PLACES];
extern uint8_t work[SLATE_ERASE_WORK], block[SLATE_BLOCK_MAX];

/* Lays out a device with these members; opens one of its units; closes it;
 * unplugs it and plugs it in again. */
void lay(const char *members);
void open_unit(const char *name);
enum slate_status open_any(const char *name);
void close_device(void);
void plug_again(const char *name);

/* From its next opening on, its power goes at a command. */
void cut_at_command(const char *name, uint32_t command);

/* One that can erase itself in this way, with content, opened. */
void lay_kind(const struct kind *kind, const char *more);

/* Content of its own at every eighth block; how many are as they were. */
void write_content(void);
uint32_t count_left(void);

/* The way, which has to be found. */
const struct slate_erase_way *way_of(enum slate_erase_kind kind);

/* All steps of an erase that was started; started and run; joined and run. */
enum slate_status run_steps(void);
enum slate_status erase_by(enum slate_erase_kind kind, bool read_all);
void join(void);

/* All steps of a low-level format. */
enum slate_status format_as(struct slate_lowlevel *lowlevel,
                            const struct slate_lowlevel_wish *wish);

void assert_verdict(enum slate_erased verdict);
bool is_guarded(enum slate_guard_kind kind);

/* Forgets what went out so far; was something sent that begins so? In
 * hexadecimal digits, data that went out behind a space. */
void forget_sent(void);
uint32_t count_sent(void);
bool was_sent(const char *bytes);

#endif
