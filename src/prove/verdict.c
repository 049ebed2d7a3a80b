/* SPDX-License-Identifier: MIT */
/* What a probe has found, and in words. */
#include "base/base.h"
#include "prove/probe.h"

struct row {
    const char *name;
    bool bad;
    const char *words;
};

/* in the order of enum slate_verdict */
static const struct row rows[] = {
    {"holds", false,
     "The device kept what was written, everywhere it was tried, and no block "
     "is another one's alias."},
    {"seems-fine", false,
     "The device kept what was written, everywhere it was tried; it is too "
     "large to exclude with a few blocks that some are aliases of others."},
    {"refuses", true,
     "The device refuses every write, though nothing tells that it is "
     "protected: its controller or its medium is at its end. Copy off what is "
     "on it, and do not trust it again."},
    {"keeps-old", true,
     "The device acknowledges every write and keeps the old content: it is "
     "worn out. Copy off what is on it, and do not trust it again."},
    {"false-capacity", true,
     "The device claims more than it has: what is written beyond its true "
     "capacity is lost. Do not trust it with anything; send it back."},
    {"unreliable", true,
     "The device keeps what is written in some blocks and not in others. Copy "
     "off what is on it, and do not trust it again."},
    {"not-restored", true,
     "The device took what the probe wrote, and would not take back what was "
     "there. Do not trust it again."},
    {"unknown", false, "The probe was stopped before anything was known."},
};

static uint32_t count(const struct slate_probe *probe, enum slate_place place)
{
    uint32_t found = 0;

    for (uint32_t i = 0; i < probe->places; i++)
        found += probe->place[i] == place ? 1u : 0u;
    return found;
}

bool slate_place_is_lost(enum slate_place place)
{
    return place == SLATE_PLACE_OLD || place == SLATE_PLACE_OTHER ||
           place == SLATE_PLACE_ALIAS;
}

/* Held up to a point, and from there on nothing more: the index of that point;
 * UINT32_MAX when it is not so. One place alone might be a bad block. */
static uint32_t edge(const struct slate_probe *probe)
{
    uint32_t at = probe->places, lost = 0;

    while (at > 0 && slate_place_is_lost(probe->place[at - 1])) {
        at--;
        lost++;
    }
    for (uint32_t i = 0; i < at; i++) {
        if (slate_place_is_lost(probe->place[i]) ||
            probe->place[i] == SLATE_PLACE_REFUSED)
            return UINT32_MAX;
    }
    return lost >= 2 && at > 0 ? at : UINT32_MAX;
}

static enum slate_verdict judge(const struct slate_probe *probe)
{
    uint32_t held = count(probe, SLATE_PLACE_HELD);
    uint32_t refused = count(probe, SLATE_PLACE_REFUSED);
    uint32_t old = count(probe, SLATE_PLACE_OLD);
    uint32_t bad = refused + old + count(probe, SLATE_PLACE_OTHER) +
                   count(probe, SLATE_PLACE_ALIAS) +
                   count(probe, SLATE_PLACE_UNREAD) +
                   count(probe, SLATE_PLACE_SKIPPED);

    if (probe->suspected && !probe->bounded)
        return SLATE_VERDICT_UNRELIABLE;
    if (probe->bounded || probe->alias != 0 || edge(probe) != UINT32_MAX)
        return SLATE_VERDICT_FALSE_CAPACITY;
    if (held + bad == 0 || !probe->judged)
        return SLATE_VERDICT_UNKNOWN;
    if (held == 0 && refused == bad)
        return SLATE_VERDICT_REFUSES;
    if (held == 0 && old == bad && probe->run_held == 0)
        return SLATE_VERDICT_KEEPS_OLD;
    if (bad > 0 || probe->run_held != probe->run)
        return SLATE_VERDICT_UNRELIABLE;
    return probe->searched && probe->search_step <= probe->run
               ? SLATE_VERDICT_HOLDS
               : SLATE_VERDICT_SEEMS_FINE;
}

enum slate_verdict slate_probe_verdict(const struct slate_probe *probe)
{
    enum slate_verdict verdict = judge(probe);

    return probe->lost > 0 && !slate_verdict_is_bad(verdict)
               ? SLATE_VERDICT_NOT_RESTORED
               : verdict;
}

uint64_t slate_probe_true_blocks(const struct slate_probe *probe,
                                 uint64_t *most)
{
    uint32_t at = edge(probe);

    if (probe->alias != 0) {
        *most = probe->distance;
        return probe->distance;
    }
    if (probe->bounded) {
        *most = probe->most;
        return probe->least;
    }
    if (at == UINT32_MAX) {
        *most = probe->media->geometry.block_count;
        return *most;
    }
    *most = probe->lba[at];
    return probe->lba[at - 1] + 1;
}

SLATE_NAMES(slate_place_name, enum slate_place, "untried", "skipped", "held",
            "old", "other", "alias", "refused", "unread")

SLATE_FROM_ROW(const char *, slate_verdict_name, enum slate_verdict, rows, name)
SLATE_FROM_ROW(const char *, slate_verdict_words, enum slate_verdict, rows,
               words)
SLATE_FROM_ROW(bool, slate_verdict_is_bad, enum slate_verdict, rows, bad)
