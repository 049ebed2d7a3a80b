/* SPDX-License-Identifier: MIT */
/* Drafts as people ask for them, and as files hold them. */
#ifndef TOOL_DRAFT_H
#define TOOL_DRAFT_H

#include "base/base.h"
#include "device/device.h"

/* What is asked of a draft: by the command line, and by an earlier draft that
 * it revises. */

/* All that is wanted, and choices; former: NULL, or what is taken where the
 * command line says nothing. Says on stderr what is wrong; returns an exit
 * code. */
int asked_fill(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft);

/* Is what the command line says what a draft has? What it does not say is as
 * that draft has it. beside: partitions of it stay, which are read. Says on
 * stderr what makes no sense; returns an exit code. */
int asked_compare(struct target *target, const struct options *options,
                  struct slate_draft *drafted, bool beside, bool *same);

/* Choices alone, and what may be lifted, for a change in place. */
int asked_choose(struct target *target, const struct options *options,
                 struct slate_draft *draft);

/* Attributes in the content that a draft can clear. */

#define ATTRIBUTES_MOST (SLATE_ATTRIBUTE_KINDS * TARGET_PARTITIONS)

/* The attributes that were found, and what became of each. */
struct attributes {
    uint32_t count;
    struct slate_attribute found[ATTRIBUTES_MOST];
    uint32_t number[ATTRIBUTES_MOST]; /* of its partition; 0: no table */
    bool wanted[ATTRIBUTES_MOST];
    enum slate_status cleared[ATTRIBUTES_MOST];
};

/* Takes note of those that the facts tell of. */
void attributes_find(struct attributes *attributes,
                     const struct slate_facts *facts);

bool attribute_is_known(const char *name);

/* Is every name in the list one? */
bool attributes_are_known(const char *list);

/* Drafts the clearing of those that are named in the list, as far as each can
 * be; a draft that clears nothing is not made. */
enum slate_status attributes_draft(struct attributes *attributes,
                                   struct target *target, const char *list,
                                   struct slate_draft *draft);

/* "partition 2", or "the volume" where there is no table. */
void attribute_place(uint32_t number, char words[32]);

/* What a draft loses. */

/* Makes the ledger of a draft for the target that it was made for; a draft that
 * keeps data is refused where something living stands in it. Says on stderr
 * what is wrong; returns an exit code. */
int ledger_make(struct target *target, const struct options *options,
                const struct slate_draft *draft);

/* What the remedies of its findings would write over, while the device is open:
 * without this nobody says that nothing is lost. */
void remedies_weigh(struct target *target);

/* The remedy of its i-th finding, as it was weighed, where it was. */
void remedy_of(const struct target *target, uint32_t i,
               struct slate_remedy *remedy);

/* Bad blocks: typed, or listed in a file. */

/* Are these block numbers and ranges, as 812,900-911? */
bool bad_is_list(const char *word);

/* The same as ranges, in the order in which they were typed; false: there is no
 * room for all of them. */
bool bad_ranges(const char *word, struct slate_ranges *ranges);

/* Tells the draft of those that the options name, and of an earlier draft's.
 * Says on stderr what is wrong; returns an exit code. */
int bad_take(const struct options *options, const struct slate_draft *former,
             struct slate_draft *draft);

/* May the list of what fails be written where the options have it? One of ours
 * may be replaced. Says on stderr what is wrong; returns an exit code. */
int bad_may_write(const struct options *options, const struct target *target);

/* Writes blocks to a file, a range in each line, as --bad-list takes them. Says
 * on stderr what is wrong; returns an exit code. */
int bad_write(const char *path, const struct target *target,
              const struct slate_ranges *bad);

/* How many there are. */
uint64_t bad_blocks(const struct slate_ranges *ranges);

/* "812, 900-911 and 7 ranges more": the first ones, with that between them. */
void bad_words(const struct slate_ranges *bad, const char *between,
               uint32_t most, char *words, size_t room);

/* Drafts as files, read back: docs/formats.md tells the shape. */

/* The address of a device, as it was given. */
#define ADDRESS_ROOM 4200

/* The number of its form stands behind it. */
#define DRAFT_FAMILY "trueslate.draft/"

/* Reads a file into a placed draft, which is made; refuses what was edited or
 * damaged. Says nothing. */
enum slate_status draft_file_read(const char *path, struct slate_draft *draft,
                                  char address[ADDRESS_ROOM]);

/* The same, saying on stderr what is wrong. Returns an exit code. */
int draft_file_load(const char *path, struct slate_draft *draft,
                    char address[ADDRESS_ROOM]);

/* Is the file an earlier draft of the same device, and not the one whose work
 * on it is unfinished? */
bool draft_file_is_ours(const char *path, const struct target *target);

/* The fields of a draft's input as JSON, written and read back. */

/* Adds the groups of fields to an object; the draft stays as it is. */
void draft_json_add(json_t *object, struct slate_draft *draft);

/* Reads them into a draft whose form was taken; what is missing has its
 * default. SLATE_ERR_DRAFT_VERSION for a member or a name that is not known
 * here, SLATE_ERR_DRAFT_DAMAGED for what is impossible. */
enum slate_status draft_json_take(json_t *object, struct slate_draft *draft);

/* Lower-case digits, two for each byte; false for anything else. */
bool draft_json_hex(const char *hex, uint8_t *bytes, size_t length);

/* A folder of the host whose files are placed on a volume. */

struct target;

/* Where the files of a draft come from; part of struct drafted. */
struct folder {
    char path[PATH_MAX];
    struct slate_source source;
    const struct slate_files *files;
    bool reading;  /* a file is open; zeroed: none is */
    int fd;        /* of the file that was read last */
    uint32_t item; /* which one that is */
};

/* Lists the files that the options name, or else those of an earlier draft,
 * into a draft of which a part asks for them. Says on stderr what is wrong;
 * returns an exit code. */
int folder_take(const struct target *target, const struct options *options,
                const struct slate_draft *former, struct slate_draft *draft);

/* Reads the files of a draft for their digests, with progress. */
int folder_seal(struct slate_draft *draft, void *work, size_t work_bytes);

/* The files of a draft that was loaded come from this path. */
void folder_at(struct slate_draft *draft, const char *path);

/* Are all files what they were when the draft was made? Reads them, with
 * progress. Says on stderr what is wrong; returns an exit code. */
int folder_check(struct slate_draft *draft, void *work, size_t work_bytes);

/* As fail, for the file that was read last. */
int folder_fail(const struct slate_draft *draft, enum slate_status status);

/* Lets go of what is open. */
void folder_close(struct folder *folder);

/* Drafts with room for all partitions that a GPT can hold. */

#define DRAFTED_BAD 16384u

struct drafted {
    struct slate_draft draft;
    void *room;
    size_t bytes; /* of it */
    struct folder folder;
    struct slate_range failed_range[DRAFTED_BAD];
    struct slate_ranges failed;
};

/* A placed draft with nothing in it; drafted_free lets it go. Running out of
 * memory ends the program. */
struct slate_draft *drafted_new(void);
void drafted_free(struct slate_draft *draft);

/* Twice the room; what there is stays. */
void drafted_enlarge(struct slate_draft *draft);

/* Adds a file or folder, with as much room as that takes. */
void drafted_add_file(struct slate_draft *draft, const struct slate_item *item,
                      const char *name);

/* Blocks that failed while it was carried out and proved. */
struct slate_ranges *drafted_failed(const struct slate_draft *draft);

/* Where its files come from; and the path of that. */
struct folder *drafted_folder(struct slate_draft *draft);
const char *drafted_path(const struct slate_draft *draft);

/* What is in a folder of the host, as items of a draft. */

struct target;

/* The host's path of an item; false when it is too long. */
bool folder_path(const char *folder, const struct slate_files *files,
                 uint32_t item, char path[PATH_MAX]);

/* Lists a folder into a draft, level by level; first: NULL, or names in it,
 * with commas between them, that come ahead of the others. Says on stderr what
 * is wrong; returns an exit code. */
int folder_list(const struct target *target, const char *folder,
                const char *first, struct slate_draft *draft);

/* The list behind --lift: which guards a person wants to have lifted. */

/* Is every name in the list one? That a device has no such guard is no
 * mistake. */
bool lifts_are_known(const char *list);

/* Does the list ask for this guard? "all" means those that a command lifts and
 * that nobody has set on purpose; the others are lifted only by their name.
 * NULL asks for nothing. */
bool lifts_want(const char *list, const struct slate_guard *guard);

/* The kinds that are named: a sum of SLATE_GUARD_BIT. */
uint32_t lifts_named(const char *list);

/* What can be mended in place: found, drafted, told. */

/* "all", or kinds with commas between them, all of them known. */
bool mending_is_known(const char *list);

/* Drafts what of the list is there to be mended, on a device that was looked
 * at; wishes only where they are named. Says on
 * stderr what is wrong; returns an exit code. */
int mending_draft(struct target *target, const struct options *options,
                  const char *list, struct slate_draft *draft);

/* What a draft mends, in words. */
void mending_tell(const struct slate_draft *draft);

/* The same for programs. */
json_t *mending_report(const struct slate_draft *draft);

/* Overwriting, as people and programs are told of it. */

/* "random,zero", "3xrandom,AA": false: these are no rounds. */
bool overwriting_rounds(const char *word, struct slate_overwrite *over);

/* Names of when to discard, by an index; NULL behind the last. */
const char *overwriting_discard_name(uint32_t index);
bool overwriting_read_back(const char *word, enum slate_read_back *read_back);
bool overwriting_discard(const char *word, enum slate_discard *discard);

/* The partition of which the entry alone stays; 0: none. */
uint32_t overwriting_emptied(const struct slate_draft *draft);

/* "TARUK-47 is overwritten, and holds no table and no volume"; false: something
 * else comes out of the draft. */
bool overwriting_words(const struct slate_draft *draft, char *words,
                       size_t room);

/* What a draft overwrites, with what and how often; nothing when it does not.
 */
void overwriting_view(const struct slate_draft *draft);

/* What has become of it: in words, or for programs. Either of the two may be
 * NULL. */
void overwriting_tell(const struct slate_overwrite *over,
                      const struct slate_draft *draft,
                      const struct slate_enact *enact,
                      const struct slate_prove *prove);
json_t *overwriting_report(const struct slate_overwrite *over,
                           const struct slate_draft *draft,
                           const struct slate_enact *enact,
                           const struct slate_prove *prove);

/* Writes the blocks that failed to where the options have it, and says how many
 * there are. Returns an exit code: 0 when none failed. */
int overwriting_end(const struct options *options, const struct target *target,
                    const struct slate_draft *draft);

/* Volumes that no partition holds: searched for, and put back. */

/* Drafts entries for the volumes that begin at the blocks which the options
 * name. Says on stderr what is in the way; returns an exit code. */
int searching_draft(struct target *target, const struct options *options,
                    struct slate_draft *draft);

/* Tells which volumes it is that such a draft puts back. */
void searching_tell(const struct target *target);

/* "2048,73728"? */
bool searching_is_list(const char *list);

/* Start-up code for a volume, from a file. */

/* Takes the code that the options name, or else that of an earlier draft, into
 * a draft of which a part asks for it. Says on stderr what is wrong; returns an
 * exit code. */
int start_code_take(const struct options *options,
                    const struct slate_draft *former,
                    struct slate_draft *draft);

/* Drafts that the tool keeps of its own accord while they are unfinished. */

/* Lets go of what was kept of a draft, if anything was. */
void unfinished_drop(const struct target *target,
                     const uint8_t seal[SLATE_DIGEST_BYTES]);

/* Where the draft with this seal is kept; false: there is no place. */
bool unfinished_path(const struct target *target,
                     const uint8_t seal[SLATE_DIGEST_BYTES], char *path,
                     size_t room);

/* Is one of the kept drafts unfinished on the device, though no mark can be
 * read, since block 0 cannot, or the draft changes it in place? Then the facts,
 * which are there, say so. Says nothing. */
void unfinished_take_note(struct target *target);

/* Reads the draft of a change that was cut behind its last write: all of it is
 * on the device, and nobody has proved it. False: there is none. */
bool unfinished_written(struct target *target, struct slate_draft *draft);

/* Is it by the draft with this seal that the device is half-way? */
bool unfinished_is(const struct target *target,
                   const uint8_t seal[SLATE_DIGEST_BYTES]);

/* A change that was cut is ended, or put back, ahead of anything else. Says so
 * on stderr; returns an exit code. */
int unfinished_refuse(const struct target *target);

/* The draft whose mark the device bears: out of the file that -o names, or of
 * the one that was kept. Another goal than that draft's is refused. Says on
 * stderr what is wrong; returns an exit code. */
int unfinished_load(struct target *target, const struct options *options,
                    struct slate_draft *draft, char *path, size_t room);

/* A kept draft that overwrites beside partitions, as the options have it: no
 * mark in block 0 tells of it. False: none fits the device; says nothing. */
bool unfinished_beside(struct target *target, const struct options *options,
                       struct slate_draft *draft, char *path, size_t room);

/* --within: of a device that claims more than it has, what is there. */

/* Is it "proved", or a size? */
bool within_is_known(const char *word);

/* Puts it into the goal of a draft, once its parts are asked for: a volume that
 * nobody has named is called by what there is. Says on stderr what is wrong;
 * returns an exit code. */
int within_take(const struct options *options, const struct target *target,
                struct slate_draft *draft);

#endif
