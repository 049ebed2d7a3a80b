/* SPDX-License-Identifier: MIT */
/* Devices, findings and drafts on the screen, for people. */
#ifndef TOOL_VIEW_H
#define TOOL_VIEW_H

#include <trueslate/trueslate.h>

#include "device/report_device.h"
#include "device/target.h"

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
void view_draft_brief(const struct slate_facts *facts,
                      const struct slate_draft *draft);
void view_draft(const struct slate_facts *facts,
                const struct slate_draft *draft);

/* One line on what is on a device. */
void content_words(const struct target *target, struct slate_text *text);

#endif
