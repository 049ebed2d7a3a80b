/* SPDX-License-Identifier: MIT */
/* What verbs have done to a device. */
#ifndef TOOL_WORK_H
#define TOOL_WORK_H

#include <zlib.h>

#include "base/base.h"
#include "device/device.h"
#include "draft/draft.h"

/* Attributes in the content: cleared as --lift asks, told, reported. */

/* Says on stderr why there is no draft. Returns an exit code. */
int attributes_refuse(const struct target *target, enum slate_status status);

/* Drafts, carries out and proves what --lift names; consent was given. The
 * facts are those of the device afterwards. Returns an exit code. */
int attributes_clear(struct attributes *attributes, struct target *target,
                     const struct options *options);

/* Each with what it means; false when there are none. */
bool attributes_tell(const struct attributes *attributes);

json_t *attributes_report(const struct attributes *attributes);

/* A draft of what a command asks for, of the device that is there. Each says on
 * stderr what goes wrong, and returns an exit code. */

/* The steps that renew shares with the single verbs; they say on stderr what
 * goes wrong and return an exit code. */
int make_draft(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft);

/* The same once more, when something has been added to it. */
int remake_draft(const struct target *target, struct slate_draft *draft);

/* A drive as people describe it: shapes, stickers, numbers of cylinders. */

/* The option's name, without its dashes. */
const char *drive_word_name(enum drive_word which);

/* NULL where the word makes sense; else what was expected. */
const char *drive_word_expected(enum drive_word which, const char *word);

/* Is anything said that a low-level format is needed for? */
bool drive_is_asked(const struct options *options);

/* The drive as the options have it, where they leave something open as it is
 * told to be now (or NULL). measured: the interleave is to be found. Says on
 * stderr what is wrong with it; returns an exit code. */
int drive_take(const struct options *options, const struct slate_drive *now,
               struct slate_drive *drive, bool *measured);

/* Blocks of the first logical drive; 0: there is no second one. Says on stderr
 * what is wrong; returns an exit code. */
int drive_take_split(const struct options *options,
                     const struct slate_drive *drive, uint64_t *blocks);

/* The sticker's list, sorted, for free(); NULL and 0 without one. Says on
 * stderr what is wrong; returns an exit code. */
int drive_take_sticker(const struct options *options,
                       const struct slate_drive *drive,
                       struct slate_defect **list, uint32_t *count);

/* A draft is carried out, and read back. Each says on stderr what goes wrong,
 * and returns an exit code. */

/* The device of a draft: at its address, or wherever its tag is now. */
int open_device_of(const struct slate_draft *draft, const char *address,
                   const char *bench, struct target *target);

/* All that can be refused, ahead of consent: the device is another one, or not
 * as the draft was made from, or protected. */
int enact_check(struct target *target, const struct slate_draft *draft,
                struct slate_enact *enact);

/* With consent: keeps what is replaced, as the options have it, and writes;
 * journal: receives where it is kept, "" for nowhere. */
int carry_out(struct target *target, struct slate_draft *draft,
              const struct options *options, struct slate_enact *enact,
              char journal[STATE_PATH_ROOM]);

int read_back(struct target *target, const struct slate_draft *draft,
              struct slate_prove *prove);

/* The last round of overwriting alone, before anything comes over it. */
int read_back_round(struct target *target, const struct slate_draft *draft,
                    struct slate_prove *prove);

/* "Written: ..." and "Proved: ..." for people. */
void tell_enacted(const struct slate_draft *draft,
                  const struct slate_enact *enact);

void tell_proved(const struct slate_draft *draft,
                 const struct slate_prove *prove);

/* A device that erases itself: its ways, doing it, and what came of it. */

/* Places that are compared. */
#define ERASING_PLACES 512u

struct erasing {
    struct slate_erase_way way[SLATE_ERASE_WAYS_MAX];
    uint32_t ways;
    uint32_t chosen;                /* index; ways: none */
    struct slate_erase_state state; /* before anything was sent */
    struct slate_erase erase;
    struct slate_erase_place place[ERASING_PLACES];
    bool begun; /* erase is filled in */
};

/* Each says on stderr what goes wrong and returns an exit code. */

/* The ways of an opened device, and whether it is at it already. */
int erasing_find(struct erasing *erasing, struct target *target);

/* The way that the options name. */
int erasing_choose(struct erasing *erasing, const struct options *options,
                   const struct target *target);

/* Sends the command, having the device for itself meanwhile, or waits for one
 * that is under way; and looks what came of it. */
int erasing_do(struct erasing *erasing, struct target *target, bool read_all);

/* What came of it, as an exit code. */
int erasing_judge(const struct erasing *erasing, const struct target *target);

/* The ways, and which suits whom; how the chosen one works; what came of it. */
void erasing_tell_ways(const struct erasing *erasing,
                       const struct target *target);
void erasing_tell_chosen(const struct erasing *erasing);
void erasing_tell(const struct erasing *erasing);

/* The same for programs; new references. */
json_t *erasing_report_ways(const struct erasing *erasing,
                            const struct target *target);
json_t *erasing_report(const struct erasing *erasing);

/* Where the tool keeps a journal: a file, compressed by zlib. */

/* A record is within reach from any place in it. */
#define JOURNAL_WINDOW 2097152u

struct journal_file {
    struct slate_keeper keeper;
    struct durable file; /* while it is written */
    bool is_aside;       /* of no name, while it is written: */
    int aside;           /* its descriptor */
    bool stores;         /* what comes does not become smaller */
    gzFile gz;           /* NULL: closed */
    char why[160];       /* of the first failure */
    uint64_t at;         /* byte of the journal where the window begins */
    uint32_t count;      /* bytes in the window */
    uint8_t window[JOURNAL_WINDOW];
};

/* Begins a journal: it is there under its name once it has been synced, and not
 * before. False: why tells. Close it either way. */
bool journal_file_create(struct journal_file *journal, const char *path);

/* Begins one in a file of no name, and once it has been synced, opens it. */
bool journal_file_create_aside(struct journal_file *journal);
bool journal_file_reopen(struct journal_file *journal);

/* Opens one; what is not compressed is read as well. */
bool journal_file_open(struct journal_file *journal, const char *path);

/* What was not finished is gone. */
void journal_file_close(struct journal_file *journal);

/* The journals that the tool keeps ahead of writing: where, when, which. */

#define JOURNAL_ENDING ".journal"
/* One that was rewound rests until its device is changed anew. */
#define REWOUND_ENDING ".rewound" JOURNAL_ENDING

/* What a draft replaces is kept by default up to so many bytes. */
#define JOURNAL_MOST 2147483648u

/* Says ahead of consent what will be kept, or why nothing is. */
void journals_announce(const struct options *options,
                       const struct slate_draft *draft);

/* Keeps what the draft replaces on a device that is claimed, unless there is
 * no need to, or work goes on; path: receives where, "" for nowhere. Says on
 * stderr what is wrong; returns an exit code. */
int journals_keep(const struct options *options, struct target *target,
                  struct slate_draft *draft, bool resumed,
                  char path[STATE_PATH_ROOM]);

/* Tells how what was kept is put back. */
void journals_tell(const char *path, const struct target *target);

/* A journal that was read. One of version 1 is made into a present one, in a
 * file of no name: what stands in it is as it was. */
struct loaded {
    char path[STATE_PATH_ROOM];
    struct journal_file file;
    struct slate_journal journal;
    struct timespec kept;     /* when, by its folder */
    enum slate_status status; /* what became of it; else SLATE_OK */
    char why[300];            /* one sentence on that */
};

/* Loads a file, or one of our own place by its name: its head, or all of it,
 * which is checked then. files: where those are that one of version 1 needs to
 * tell what it wrote, or NULL. Running out of memory ends the program; unload
 * it in every case. */
struct loaded *journals_load(const char *word, bool whole, const char *files);
void journals_unload(struct loaded *loaded);

/* Makes a journal of version 1, which is open, into a present one, which is
 * open then. */
enum slate_status journals_convert(struct journal_file *file,
                                   struct slate_journal *journal,
                                   const char *files);

/* Where a journal is: a file as it is named, or one of our own place. */
bool journals_find(const char *word, char path[STATE_PATH_ROOM]);

/* Was it rewound? Lets one of our own place rest, once it was. */
bool journals_is_rewound(const char *path);
void journals_rest(const char *path);

/* A newer journal of the same device, whose draft the device holds, whole or
 * half-way: that one has to be rewound first. False: there is none. newer:
 * receives where it is */
bool journals_newer(const struct loaded *loaded, struct target *target,
                    char newer[STATE_PATH_ROOM]);

/* What names it in a command: the name of one of our own place, or the path. */
void journals_name(const char *path, char name[STATE_PATH_ROOM]);

/* The blocks that a probe has saved, in a file until they are restored. */

/* The files of one device: of probes that did not come to their end, perhaps
 * with another medium in the same reader. Each returns an exit code. */
int kept_list(struct state_files *list, const struct target *target);

/* Where the file of a started probe is. */
int kept_path(char path[STATE_PATH_ROOM], const struct target *target,
              const struct slate_probe *probe);

/* Writes what is saved, and makes it durable. */
int kept_save(const char *path, const struct target *target,
              const struct slate_probe *probe);

/* Reads it back into a started probe of the same device. */
int kept_load(const char *path, const struct target *target,
              struct slate_probe *probe);

/* The one door: what comes ahead of every change of a device, in every verb. */

struct passage {
    const struct options *options;
    struct target *target;
    const char *loss; /* what will be, as a sentence */
    bool brief; /* one of several: consent is a list of tags, little is said */
    bool shown; /* the device was, ahead of the question */
    bool ends;  /* a change that was cut: goes on with it, or puts it back */
    /* What was decided is made ready for the device as it is now; changed: it
     * is not as it was shown. Returns an exit code. NULL: nothing hangs on what
     * it holds. */
    int (*ready)(void *context, bool changed);
    void *context;
    char consent[64]; /* as given: by options or by hand */
};

/* Each says on stderr what is wrong, and returns an exit code. */

/* Whatever can be refused ahead of consent; also consent that is not there, and
 * cannot be asked for. */
int door_check(const struct passage *passage);

/* Consent: given with the options, or asked for at a terminal. */
int door_agree(struct passage *passage);

/* With consent: the device is looked at again, and what uses it is released. */
int door_pass(const struct passage *passage);

/* Both, where nothing hangs on what the device holds; shown: it was. */
int door_through(struct target *target, const struct options *options,
                 const char *loss, bool shown);

/* What was agreed to, for the core. */
struct slate_agreement door_agreement(const struct target *target);

/* Enters the device for commands of its own; and leaves it, with the exit code
 * so far: the host looks at it anew. */
int door_enter(struct target *target);
int door_leave(struct target *target, int code);

/* Why it could not be entered. */
int door_fail(const struct target *target, enum slate_status status);

/* Lifting what has to go before a draft. */

/* Lifts one, as the options say. */
enum slate_status lifts_do(struct target *target,
                           const struct slate_guard *guard,
                           const struct options *options);

/* Lifts what conceals content or capacity, where that is asked for and found,
 * and opens the device anew: a draft is made for what is shown then. Consent
 * has been given. Returns an exit code. */
int lifts_reveal(struct target *target, const struct options *options);

/* Is there anything for lifts_reveal to do? */
bool lifts_has_concealed(const struct target *target,
                         const struct options *options);

/* A low-level format: what is there, what is wished, doing it, and what came of
 * it. */

#define LOWLEVEL_RANGES 32u

struct lowlevel {
    const struct options *options;
    struct target *target;
    struct slate_lowlevel_facts facts; /* before */
    bool measured;                     /* the interleave is to be found */
    struct slate_defect *sticker;
    uint32_t stickers;
    uint64_t first_blocks;
    uint32_t block_bytes;                      /* wished; 0: as they are */
    struct slate_reformat work;                /* its drive: as it will be */
    bool formatted;                            /* to the end */
    struct slate_range range[LOWLEVEL_RANGES]; /* to be reassigned */
    struct slate_ranges blocks;
    uint64_t reassigned;      /* so many of them */
    char tag[SLATE_TAG_ROOM]; /* before */
};

/* Each says on stderr what goes wrong and returns an exit code. */

/* What is below the device's blocks. */
int lowlevel_find(struct lowlevel *job);

/* What the options wish for. */
int lowlevel_plan(struct lowlevel *job);

/* All of it, having the device for itself meanwhile: the present state is read,
 * the interleave is measured, it is formatted, and read. */
int lowlevel_do(struct lowlevel *job);

/* Blocks that the options name; they are put elsewhere by the device, one by
 * one.
 */
int lowlevel_take_blocks(struct lowlevel *job);
int lowlevel_reassign(struct lowlevel *job);

/* What came of it, as an exit code. */
int lowlevel_judge(const struct lowlevel *job);

/* Gives back what it holds. */
void lowlevel_end(struct lowlevel *job);

/* Can something be read of it as it is? */
bool lowlevel_is_readable(const struct lowlevel *job);

/* For people: what is there; what is wished; what came of it. */
void lowlevel_tell_facts(const struct lowlevel *job);

/* Why nothing below its blocks can be reached, as the device is attached. */
const char *lowlevel_unreached(const struct slate_media *media);
void lowlevel_tell_plan(const struct lowlevel *job);
void lowlevel_tell(const struct lowlevel *job);

/* The same for programs; a new reference. */
json_t *lowlevel_report(const struct lowlevel *job);

/* Probes with their saved blocks in a file. */

/* What became of the places that lie over all of the device. */
struct tried {
    uint32_t places;
    uint64_t lba[SLATE_PROBE_PLACES];
    enum slate_place place[SLATE_PROBE_PLACES];
};

struct probing {
    const struct options *options;
    struct target *target;
    struct slate_probe probe;
    uint8_t *work;              /* SLATE_PROBE_WORK bytes */
    char file[STATE_PATH_ROOM]; /* where the saved blocks are meanwhile */
    bool put_back;              /* one of those was restored first */
    bool quiet;                 /* somebody else shows the progress */
    bool gives_up;              /* what an earlier one left is no concern */
    uint32_t alone;     /* of them, those of another medium: left alone */
    struct tried tried; /* the first round: later ones lie between its places */
};

/* Each says on stderr what is wrong, and returns an exit code. */

/* Puts back what earlier probes of this device have left. */
int probing_put_all_back(struct probing *probing);

/* All of a probe: what earlier ones left, a round over the device, narrowing
 * down. work: for free(). */
int probing_do(struct probing *probing);

/* Starts a probe; ends it, also where something failed. */
int probing_begin(struct probing *probing);
int probing_end(struct probing *probing, int code);

/* All steps of one round, with its own file; Ctrl-C restores. */
int probing_run(struct probing *probing, const char *doing);

/* Blocks are not as they were. */
int probing_fail_lost(const struct probing *probing);

/* "blocks 2048, 4096 and 3 more" */
void probing_name_lost(const struct slate_probe *probe, char words[400]);

/* Trying the size of removable flash, ahead of a renewal. */

/* Is it to be tried? Not where data stays, nor within what was proved. */
bool trying_is_due(const struct target *target, const struct options *options,
                   const struct slate_draft *draft);

/* Tries it, with consent; every block is as it was afterwards, or, changed, as
 * it was before an earlier probe that was cut. Says on stderr what is wrong
 * with it; returns an exit code. */
int trying_do(const struct options *options, struct target *target,
              bool *changed);

/* Away from the host, and out of the machine. */

/* Can what uses the device be released? Says on stderr what is in the way;
 * returns an exit code. */
int check_release(const struct target *target);

/* Refuses a device that the host uses, naming who, and what ends that, where
 * anything does; returns an exit code. */
int refuse_used(const struct target *target);

/* Takes away what the host has on the device, and tells of it; the device that
 * the running system stands on is refused. Returns an exit code. */
int release_users(struct target *target, bool quiet);

/* Makes it safe to unplug. Says on stderr what is in the way; returns an exit
 * code. */
int eject_target(struct target *target);

/* A surface scan ahead of a new volume: the draft gets to know of the blocks
 * that are bad. */

/* What scans have found, of all ranges of one device. */
struct scanned {
    bool done, writes;
    uint64_t blocks, unwritable, unreadable, altered, weak;
    const char *words; /* what that means for the device */
};

/* Scans what the draft sets up anew: all of the device, or its new partitions
 * where others stay. By reading, or (in writing) by writing a pattern and
 * reading it. Tells the draft of what is bad, and makes it again. Says on
 * stderr what is wrong; returns an exit code. */
int scan_take(const struct options *options, struct target *target,
              struct slate_draft *draft, bool writing, struct scanned *scanned);

/* Steps of a started scan, with progress, until its end or until it is stopped.
 */
enum slate_status scan_steps(struct slate_scan *scan);

/* Says that there is no room for more bad blocks; returns the exit code. */
int scan_fail_full(const struct slate_scan *scan, const struct target *target);

/* Is what the options say of scans of any use? Says on stderr what is wrong;
 * returns an exit code. */
int scan_check(const struct options *options);

/* Tells what a scan that writes will do, ahead of consent to it; refuses one
 * beside partitions that stay. Returns an exit code. */
int scan_announce(const struct slate_draft *draft, bool quiet);

void scan_tell(const struct scanned *scanned, const struct slate_draft *draft);
json_t *scan_report(const struct scanned *scanned,
                    const struct slate_draft *draft);

/* A draft that is kept while it is carried out and proved, so that what is cut
 * short can go on. */

struct undertaking {
    const struct options *options;
    struct target *target;
    struct slate_draft *draft;
    struct slate_enact enact;
    struct slate_prove prove;
    char file[4200]; /* where the draft is kept while it is unfinished */
    char journal[STATE_PATH_ROOM]; /* what was replaced is there; "": nowhere */
    struct passage passage;        /* of which consent is told again */
    bool resumed;                  /* an unfinished one goes on */
    bool found;                    /* it had been written before it was cut */
    bool around; /* rounds are done, and a volume has to be drafted anew around
                    what failed in them */
};

/* Keeps the draft: where -o says, or in a place of our own, under a name with
 * the draft's seal in it, so that what another one still needs stays. Says on
 * stderr what is wrong; returns an exit code. */
int undertaking_keep(struct undertaking *work);

/* Lets go of what was kept in a place of our own, also of how far it came. */
void undertaking_drop(struct undertaking *work);

/* Writes, reads back, and looks at the device again. Returns an exit code. */
int undertaking_do(struct undertaking *work);

/* With the exit code so far: the draft is let go of when it is done, or when
 * nothing was written; else how to go on is said. Returns the exit code. */
int undertaking_end(struct undertaking *work, int code);

/* The renewal of one device: looked at, drafted, consented to, carried out,
 * proved. Several of them can be under way, each in a thread of its own. */

struct renewal {
    const struct options *options;
    const char *device; /* its address, or what else names it */
    bool brief;         /* one of several: what it says is short, and consent
                           is given as a list of tags */
    struct target target;
    struct undertaking work;
    struct scanned scanned;
    struct erasing erasing;
    bool opened;  /* the target has to be closed */
    bool enacted; /* it is done, and proved */
    struct slate_overwrite
        how; /* it was overwritten, and what became of that */
    struct slate_enact over;
    struct slate_prove over_prove;
    json_t *before; /* findings, for programs and tickets */
    json_t *lost;   /* what would be lost, as it was shown; NULL: not told */
    char *picture;  /* before and after, for a ticket; else NULL */
    time_t began;   /* once there was consent */
    bool begun;
};

/* What the functions below return is an exit code; they say on stderr what is
 * wrong. End a renewal that was begun. */
void renewal_begin(struct renewal *renewal, const struct options *options,
                   const char *device);
void renewal_end(struct renewal *renewal);

/* Looks at the device, drafts, and shows both. */
int renewal_prepare(struct renewal *renewal);

/* Consent: given with the options, or asked for at the prompt. */
int renewal_ask(struct renewal *renewal);

/* Carries the draft out, and reads back. */
int renewal_run(struct renewal *renewal);

/* "TARUK-47 has one exFAT volume: hosts show 16 GB of 16 GB" */
void renewal_words(const struct renewal *renewal, char *words, size_t room);

/* The result, for people and for programs. */
void renewal_tell(const struct renewal *renewal);
json_t *renewal_report(struct renewal *renewal);

/* What is known of it for a ticket, once it was begun and has ended so;
 * failure: what was said of that. */
json_t *renewal_ticket(struct renewal *renewal, int code, const char *failure);

/* How far overwriting has come, kept while it goes on: so that it goes on from
 * there, whatever ends it. */

/* What an earlier run of the draft has kept: blocks that are done for sure, and
 * those that failed, for drafted_failed. 0: nothing is known. */
uint64_t resume_load(const struct target *target,
                     const struct slate_draft *draft);

/* Keeps it; where that is not possible, going on takes longer. */
void resume_save(const struct target *target, const struct slate_draft *draft,
                 uint64_t done);

void resume_drop(const struct target *target, const struct slate_draft *draft);

/* What becomes of a device when all is done: --then and --then-run. */

/* The names of what there is, by an index; NULL behind the last. */
const char *then_name(uint32_t index);
bool then_is_known(const char *word);

/* Does what was asked for, with the exit code so far: the device is let go
 * when all went well; the command of the user's runs either way, and is told
 * how it went. The target is not used for anything else afterwards. Says on
 * stderr what is wrong; returns the exit code so far, or its own. */
int then_do(struct target *target, const struct options *options, int code);

#endif
