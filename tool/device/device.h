/* SPDX-License-Identifier: MIT */
/* The device that a command is about. */
#ifndef TOOL_DEVICE_H
#define TOOL_DEVICE_H

#include <trueslate/port_file.h>
#include <trueslate/port_linux.h>
#include <trueslate/port_sim.h>

#include "base/base.h"

/* What a person types to name a device, understood as it stands. */

/* A tag at the head of a word, in any case, with or without its hyphen: as it
 * is written, and how many characters of the word it takes; 0: none stands
 * there.
 */
size_t address_tag(const char *word, char tag[SLATE_TAG_ROOM]);

/* Are two words the same, letters in any case? */
bool address_same(const char *a, const char *b);

/* sim:NAME, file:PATH and dev:NAME as they stand; a path below /dev is a device
 * of the host, any other path, and the name of a file that is there, an image;
 * what could be a tag is asked first, a file of such a name is ./NAME. False
 * for what is none of these. */
bool address_of(const char *word, char *address, size_t room);

/* The device that a command names, opened. */

/* Where sim:NAME is looked for when no bench is named. */
#define DEFAULT_BENCH "bench"

/* One work buffer serves all that a command does with its device. */
#define WORK_BYTES 4194304u

#define TARGET_NAME_ROOM 17000

/* Partitions that are listed; of more their number is told. */
#define TARGET_PARTITIONS 1024u

/* What long work has met: while it wrote, and while it read. */
enum target_regions {
    TARGET_WRITTEN,
    TARGET_READ
};

/* For a sentence of a port. */
#define TARGET_WHY_ROOM SLATE_LINUX_WHY_ROOM

struct target_room {
    struct slate_partition partition[TARGET_PARTITIONS];
    struct slate_volume volume[TARGET_PARTITIONS];
    struct slate_seen seen[SLATE_EVIDENCE_RANGES];
};

struct target {
    char address[4200]; /* "sim:NAME", "file:PATH" or "dev:NAME" */
    struct slate_sim *sim;
    struct slate_linux *host;
    struct slate_file file;
    bool is_file;
    struct slate_media media;
    struct slate_facts facts; /* after target_look and its like */
    struct target_room *room; /* to which the facts refer */
    struct slate_finding finding[SLATE_FINDINGS_MAX]; /* drawn from them */
    uint32_t findings;
    struct slate_remedy remedy[SLATE_FINDINGS_MAX]; /* of each, where weighed */
    bool weighed; /* what mending would write over was looked at */
    struct slate_ledger ledger; /* of the draft that was made last */
    bool tries;     /* its size is tried ahead of all else that is written */
    enum from from; /* the copy of a table whose entries count */
    char halfway[STATE_PATH_ROOM]; /* the draft of a change that was cut; "":
                                      none, or none that this version knows */
    char undoing[STATE_PATH_ROOM]; /* and its journal; "": it has none */
    char written[STATE_PATH_ROOM]; /* the draft of one that was cut behind its
                                      last write; "": there is none */
    bool known;                    /* the facts are there (attached_open) */
    bool takes_rest; /* a partition fits beside all (offers_look) */
    uint8_t *work;
    struct slate_surface regions[2]; /* by enum target_regions */
    enum slate_status status; /* why it cannot be used; SLATE_OK: it can */
    char why[512];            /* one sentence on that */
    char body[256];           /* the same for all units of one body */
    char
        users[SLATE_LINUX_USERS_ROOM]; /* who uses it, one a line; "": nobody */
    bool system;                       /* the running system stands on it */
    bool by_address; /* its tag does not tell it from another one: consent names
                        its address as well */
    char agreed[SLATE_TAG_ROOM]; /* its tag, once somebody has agreed; "" */
    const char *bench; /* where its kind is looked for; NULL: the host */
    char name[TARGET_NAME_ROOM]; /* what names it in a command line, quoted */
    const char *also; /* what that command line needs as well: " --bench ..." */
};

/* Opens sim:NAME, file:PATH or dev:NAME. Says nothing: status and why tell.
 * Close the target either way. */
enum slate_status target_at(struct target *target, const char *address,
                            const char *bench, uint32_t block_bytes);

/* The same, also by a tag. */
enum slate_status target_try(struct target *target, const char *word,
                             const char *bench, uint32_t block_bytes);

/* The same, saying on stderr what is wrong. Returns an exit code. */
int target_open(struct target *target, const char *word, const char *bench,
                uint32_t block_bytes);

/* The one that a command names. */
int target_named(struct target *target, const struct options *options);

/* Who uses it now, one a line; "" for nobody. What was asked at its opening
 * stands in its users. */
void target_ask_users(const struct target *target,
                      char users[SLATE_LINUX_USERS_ROOM]);

/* Would freeing it get to its end? Where not, why tells in a sentence. */
enum slate_status target_may_free(const struct target *target,
                                  char why[TARGET_WHY_ROOM]);

/* Releases it at its host; done is called for each thing, and may be NULL. */
enum slate_status target_free(struct target *target,
                              void (*done)(void *context, const char *what),
                              char why[TARGET_WHY_ROOM]);

/* Is another attached device not to be told apart from this one? Says so on
 * stderr; returns an exit code. */
int target_refuse_twins(const struct target *target);

/* Notes why it cannot be used, by what went wrong with a command. Returns the
 * status. */
enum slate_status target_note_fault(struct target *target,
                                    enum slate_status status);

/* Lets go of the device, keeping what was found out. */
void target_release(struct target *target);

void target_close(struct target *target);

/* All devices that are attached: those of a bench, or those of the host. */

/* How many attached devices bear a tag (2 for more than one), and the address
 * of one of them. -1: there is no such bench. */
int attached_find(const char *bench, const char *tag, char *address,
                  size_t room);

/* How many attached devices are not to be told from this one by what they say
 * of themselves. alike: another one, which can be told, has the same tag. */
uint32_t attached_twins_of(const struct target *target, bool *alike);

/* Calls back with the address of each device, in the order of the list. */
bool attached_each(const char *bench,
                   void (*found)(void *context, const char *address),
                   void *context);

/* Devices that were proved to have fewer blocks than they claim: kept in mind,
 * so that nobody takes one for healthy the next time. */

/* Blocks that this very device was proved to have; 0: nothing is known. */
uint64_t capacity_of(const struct target *target);

/* Keeps that in mind; false: it cannot be, as the device has no serial number
 * by which it would be known again, or there is no place. */
bool capacity_keep(const struct target *target, uint64_t blocks);

/* It was proved to be what it claims. */
void capacity_drop(const struct target *target);

/* Consent: the device's tag, repeated. */

/* Is this the consent that the device asks for? The disk that the running
 * system stands on asks for more than its tag. Returns an exit code. */
int check_consent(const struct target *target, const char *given);

/* The one of "TAG,TAG" that is this device's consent; false: none is. */
bool consent_pick(const struct target *target, const char *list,
                  char picked[64]);

/* What has to be typed to agree. */
void consent_words(const struct target *target, char words[64]);

/* Asks for it at the terminal, having said what will be; again, when something
 * else is typed. Returns an exit code. */
int consent_prompt(const struct target *target, const char *what,
                   char given[64]);

/* What is free on large volumes: a look leaves it open. */

/* Counts it for the volumes of a device that was looked at, with progress.
 * Where that fails it stays open: nothing is said. */
void count_free(struct target *target);

/* May a file that is named be written? */

/* Is a file of this name the image, or the blocks, that the target stands on,
 * or no regular file at all? Then it is never replaced. */
bool durable_is_precious(const char *path, const struct target *target);

/* A file that is about to be written is not there, or may go: ours tells that
 * it is an earlier one of the same kind, --replace that it was told so. Says on
 * stderr what is wrong; returns an exit code. */
int durable_may_write(const char *path, const struct target *target, bool ours,
                      const char *kind, bool replace);

/* How fast a device is, by a short sample: ahead of work that takes long. */

/* Reads in a few places of a device that is to be overwritten, for two seconds
 * at most, and tells how long the draft will take at that rate. Nothing where
 * little is written, or the sample could not be read. */
void pace_tell(struct target *target, const struct slate_draft *draft);

/* How fast a device was, region by region, while it was worked on. */

/* As many as a picture has columns. */
#define REGIONS 1184u

/* Divides the device of a target; the same regions are kept until it is
 * closed. */
struct slate_surface *regions_begin(struct target *target,
                                    enum target_regions which);

/* Notes blocks that failed. */
void regions_fail(struct slate_surface *surface,
                  const struct slate_ranges *failed);

/* The rate of most, and what was slow: nothing where nothing was timed. */
void regions_tell(const struct target *target, enum target_regions which);

/* The same for programs; NULL: nothing was timed. */
json_t *regions_report(const struct target *target, enum target_regions which);

/* The device of a report. */

/* "USB", "SATA". Never NULL. */
const char *transport_words(enum slate_transport transport);

json_t *report_device(const struct target *target);

/* Who uses the device at the host: a list of words. */
json_t *report_users(const struct target *target);

#endif
