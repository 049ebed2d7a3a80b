/* SPDX-License-Identifier: MIT */
/* What every test program includes: cmocka, and a few shorthands. */
#ifndef TESTS_CHECK_H
#define TESTS_CHECK_H

#include <setjmp.h>
#include <stdarg.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>

#include <cmocka.h>

#include <trueslate/door.h>

#include "ram.h"
#include "shim.h"

#define assert_ok(expression)                                                  \
    assert_string_equal(slate_status_name(expression), "SLATE_OK")
#define assert_status(expression, status)                                      \
    assert_string_equal(slate_status_name(expression),                         \
                        slate_status_name(status))

/* Consent to what a device is, whatever it holds; and entered with that. */
static inline struct slate_agreement agreed_to(const struct slate_media *media)
{
    return (struct slate_agreement){media->tag, NULL};
}

static inline void enter(struct slate_media *media)
{
    const struct slate_agreement agreed = agreed_to(media);

    assert_ok(slate_door_enter(media, &agreed, NULL, 0));
}

/* Numbers as they stand on disk, read independently of the library. */
static inline uint64_t number_at(const uint8_t *bytes, size_t at, int length)
{
    uint64_t value = 0;

    for (int i = length; i-- > 0;)
        value = value << 8 | bytes[at + (size_t)i];
    return value;
}

/* Opened, looked at and drafted: what most tests begin with. */
#define SESSION_PARTS 200

#define SESSION_CLEARS 8u
#define SESSION_BAD 256u
/* Bytes for a draft, with tens of thousands of files. */
#define SESSION_ROOM (64u << 20)

struct session {
    struct slate_media media;
    struct slate_facts facts;
    struct slate_partition found[SLATE_FACTS_PARTITIONS];
    struct slate_volume found_volume[SLATE_FACTS_PARTITIONS];
    struct slate_seen found_seen[SLATE_EVIDENCE_RANGES];
    struct slate_draft draft;
    uint64_t room[SESSION_ROOM / 8];
    uint8_t work[1048576];
};

/* What most tests want of a device: one part. */
struct wanted {
    enum slate_use use;
    bool table_given;
    enum slate_table_kind table;
    enum slate_volume_kind volume;
    uint32_t cluster_bytes;
    char label[SLATE_LABEL_ROOM];
    uint32_t lift;
    bool lasting;
};

/* Looks at the device that is open, with room for SLATE_FACTS_PARTITIONS. */
enum slate_status session_assess(struct session *s, enum slate_depth depth);

/* Each returns the first failure. */
enum slate_status session_look(struct session *s, const struct ram *ram);
enum slate_status session_draft(struct session *s, const struct ram *ram,
                                const struct wanted *goal);

/* The draft placed anew, with that for its goal and its one part, and choices
 * that are always the same. */
void session_want(struct session *s, const struct wanted *goal);

/* The same on what was looked at, and made; on a device of that geometry, of
 * which nothing else is known; and for a remedy. */
enum slate_status session_make(struct session *s, const struct wanted *goal);
enum slate_status session_plan(struct session *s, const struct wanted *goal,
                               struct slate_geometry geometry);
enum slate_status session_remedy(struct session *s,
                                 const struct slate_remedy *remedy);

/* Drafts a change in place for what was looked at. */
enum slate_status session_mend(struct session *s,
                               const struct slate_mend *mend);

/* The same with new parts beside a conversion. */
enum slate_status session_convert(struct session *s,
                                  const struct slate_mend *mend,
                                  const struct slate_ask *ask, uint32_t asks);

/* Drafts entries for volumes that begin at these blocks, SESSION_CLEARS at
 * most. */
enum slate_status session_put_back(struct session *s, const uint64_t *first,
                                   uint32_t count, enum slate_table_kind table);

/* What the draft leaves in blocks, which lie in one extent. */
void session_compose(const struct session *s, uint64_t first, uint32_t count,
                     void *data);

/* The draft is enacted and proved with a work buffer of this size. */
enum slate_status session_enact(struct session *s, size_t work_bytes);
enum slate_status session_prove(struct session *s, size_t work_bytes);

/* An enacting that is cut short. */
struct cut {
    const struct ram *before, *after; /* of a run that is not */
    uint64_t n;                       /* the write in which the power goes */
    struct shim_way way;
    uint32_t seed;
    size_t work_bytes;
};

/* A copy of the device, on which the draft is enacted until the power goes; it
 * is there again. */
void session_cut(struct session *s, const struct cut *cut, struct ram *ram,
                 struct shim *shim);

/* Goes on, to what an uncut run reaches; gives both back. */
void session_go_on(struct session *s, const struct cut *cut, struct ram *ram,
                   struct shim *shim);

#endif
