/* SPDX-License-Identifier: MIT */
/* What is found and done, for people. */
#ifndef TOOL_VIEW_H
#define TOOL_VIEW_H

#include "device/device.h"
#include "term/term.h"

/* A device drawn to scale: one bar, and a line for each stretch of it. */

struct stretch {
    uint64_t first, count; /* blocks */
    uint32_t number;       /* of the partition, from 1; 0: none */
    enum paint paint;
    char words[160]; /* what it is: FAT16 "TGBOOT" */
    char extra[48];  /* more about it: active, type 0Eh */
};

struct map {
    uint64_t blocks;
    uint32_t block_bytes;
    uint32_t count, room;
    struct stretch *stretch; /* each partition and each gap ahead of one */
    uint32_t unlisted;       /* partitions for which there was no room */
};

/* Stretches that are told in a line each; of more their number is told. */
#define MAP_LINES 32u

/* Columns of a bar, as the terminal has room; and around it. */
#define BAR_COLUMNS_MOST 144
#define BAR_FRAME 16
int bar_columns(void);

/* The column of a block, from 0: block * columns / blocks, without overflow. */
int map_column(uint64_t block, uint64_t blocks, int columns);

/* How a column of a bar is painted that shows more than one stretch: what
 * belongs to a partition is never painted as free. */
enum paint map_paint(const struct map *map, int column, int columns);

/* Gives back what a map holds. */
void map_forget(struct map *map);

/* The device as it was found; forget it afterwards, as the other one. */
void map_of_facts(const struct slate_facts *facts, struct map *map);

/* The device as it will be. */
void map_of_draft(const struct slate_draft *draft,
                  const struct slate_facts *facts, struct map *map);

/* What was found where no partition is, and nothing else. */
void map_of_lost(const struct slate_search *search, struct map *map);

/* The bar, behind a label: "Now  |##----|". */
void print_bar(const char *label, const struct map *map);

/* The same in a few columns, without a line end. */
void print_small_bar(const struct map *map);

/* A bar that shows the first part of a whole. */
void print_share(const char *label, uint64_t part, uint64_t whole);

/* One line for each stretch. */
void print_stretches(const struct map *map);

/* What a draft loses, in words. */

struct loss {
    bool bad; /* something is lost, or may be */
    uint32_t count;
    char line[MAP_LINES + SLATE_LOSSES_MAX + 3][340]; /* at least one */
};

/* By the facts, and by the ledger of the draft; draft: NULL where everything
 * goes. */
void loss_of(const struct target *target, const struct slate_draft *draft,
             struct loss *loss);

/* How fast a device is from its start to its end, and where it fails, drawn. */

struct profile {
    const struct target *target;
    const struct slate_surface *surface;
    const char *words; /* what was done, and what that means */
    const char *doing; /* "read" */
    uint64_t bad;      /* blocks */
};

/* Devices drawn to scale, as a picture file. */

enum picture_kind {
    PICTURE_NONE,
    PICTURE_SVG,
    PICTURE_PNG,
    PICTURE_PDF
};

/* By the ending of a file's name. */
enum picture_kind picture_kind(const char *path);

/* Draws the devices, one below the other, in the order given. Returns an exit
 * code, and says on stderr what went wrong. */
int picture_draw(const char *path, struct target *const *targets,
                 uint32_t count);

/* How fast a device is, region by region. */
int picture_profile(const char *path, const struct profile *profile);

/* The same of a device before and after a draft. */
int picture_draft(const char *path, const struct target *target,
                  const struct slate_draft *draft);

/* The same as SVG text, to be freed; NULL: it cannot be drawn here. */
char *picture_text_of_draft(const struct target *target,
                            const struct slate_draft *draft);
char *picture_text_of_profile(const struct profile *profile);
char *picture_text_of_device(struct target *target);

/* The extents of a draft as the steps that people are told. */

/* Of more partitions the steps are not told apart. */
#define STEPS_APART 4u
#define STEPS_MOST 64u

struct step {
    char words[80]; /* "2: write the root directory" */
    enum slate_moment moment;
    uint64_t first;  /* the lowest block of it */
    uint64_t blocks; /* in all */
    bool reads;      /* nothing is written */
    uint32_t places; /* runs that do not adjoin */
    uint64_t end;    /* of the last run */
};

struct steps {
    uint32_t count;
    struct step step[STEPS_MOST];
};

/* In their order: extents of the same moment, partition and purpose are one.
 * Ahead of them, that the device is tried, where that is due. */
void steps_of(const struct target *target, const struct slate_draft *draft,
              struct steps *steps);

/* "12 s", "3 min", "2 h"; "" for less than a second. */
void step_time(uint64_t seconds, char words[16]);

/* Devices, findings and drafts on the screen, for people. */

#define TOLD_ROOM 1024

/* The findings as people are told them. */
struct told {
    uint32_t count;
    struct slate_finding finding[SLATE_FINDINGS_MAX];
    bool fine;           /* nothing is wrong */
    char see[TOLD_ROOM]; /* what a person sees */
    char why[TOLD_ROOM]; /* what stands behind it */
    char evidence[TOLD_ROOM];
    char help[TOLD_ROOM]; /* what helps, and what it costs */
    struct slate_remedy remedy;
};

void told_of(const struct target *target, struct told *told);

/* The name of a finding, as words: "boot image". */
void finding_title(enum slate_finding_id id, struct slate_text *text);

/* Who the device is: tag, names, size. */
void view_device(const struct target *target);

/* Who uses it at the host, one a line, the labels indented by so much. */
void view_users(const struct target *target, const char *indent);

/* What is on it, to scale, and what hosts show of it. */
void view_content(const struct slate_facts *facts);

/* What the other copy of a table names, where both are sound and differ. */
void view_other_copy(const struct slate_facts *facts);

/* What you see, why, what helps; then every finding with its evidence. */
void view_findings(const struct target *target);

/* One line on a device: tag, size, a small map, the leading finding. */
void view_line(const struct target *target);

/* Where the size on the case and the size on the screen part ways. */
void view_size(const struct target *target);

/* The line ahead of the units that share a body. */
void view_body(const struct target *target);

/* One entry of the survey; twins: how many others cannot be told from it. */
void view_survey_entry(const struct target *target, uint32_t twins);

/* What it can be when a device is not there, in the order to check. */
void view_nothing_there(const char *what);

/* What a device gets by a draft: "one FAT32 volume "TIDE-7"", "3 partitions".
 */
void draft_words(const struct slate_draft *draft, char *words, size_t room);

/* Before, after, what will be lost, the steps, the remarks. */
/* Before and after, what is placed, lost and lifted, and the time. */
void view_draft_brief(const struct target *target,
                      const struct slate_draft *draft);
void view_draft(const struct target *target, const struct slate_draft *draft);

/* One line on what is on a device. */
void content_words(const struct target *target, struct slate_text *text);

#endif
