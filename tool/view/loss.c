/* SPDX-License-Identifier: MIT */
/* What a draft loses, in words. */
#include "view/view.h"

static char *new_line(struct loss *loss)
{
    return loss->line[loss->count++];
}

#define ROOM sizeof((struct loss *)NULL)->line[0]

/* Does it lie in what the draft keeps? */
static bool stays(const struct slate_draft *draft,
                  const struct stretch *stretch)
{
    for (uint32_t i = 0; draft != NULL && i < draft->parts; i++) {
        const struct slate_range *range = &draft->part[i].range;

        if (draft->part[i].ask.keep != 0 && !draft->part[i].ask.emptied &&
            stretch->first >= range->first &&
            stretch->first + stretch->count <= range->first + range->count)
            return true;
    }
    return false;
}

/* The volume of a stretch; NULL: none is known. */
static const struct slate_volume *volume_of(const struct slate_facts *facts,
                                            const struct stretch *stretch)
{
    if (facts->layout.kind == SLATE_TABLE_NONE)
        return &facts->whole;
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].number == stretch->number &&
            facts->partition[i].first == stretch->first)
            return &facts->volume[i];
    }
    return NULL;
}

/* Bytes of clusters that are neither free nor the format's own; false: nobody
 * has told. */
static bool bytes_of_files(const struct slate_volume *volume, uint64_t *bytes)
{
    uint64_t others =
        volume->free_clusters + (volume->own_known ? volume->own_clusters : 0);

    *bytes = others < volume->clusters
                 ? (volume->clusters - others) * volume->cluster_bytes
                 : 0;
    return volume->free_known && volume->clusters > 0 &&
           volume->free_clusters <= volume->clusters;
}

/* "FAT16 "BOOT", 48 MB (45.8 MiB), of which files take 3.1 MB" */
static void put_stretch(const struct slate_facts *facts, const struct map *map,
                        const struct stretch *stretch, char *line)
{
    const struct slate_volume *volume = volume_of(facts, stretch);
    char size[SLATE_SIZE_TEXT];
    uint64_t files;

    slate_size_both(stretch->count * map->block_bytes, size);
    if (volume == NULL || !bytes_of_files(volume, &files))
        snprintf(line, ROOM, "%s, %s, with all that is in it", stretch->words,
                 size);
    else if (files == 0)
        snprintf(line, ROOM, "%s, %s, in which no file takes room",
                 stretch->words, size);
    else
        snprintf(line, ROOM, "%s, %s, of which files take %s%s", stretch->words,
                 size, in_decimal(files).words,
                 volume->own_known ? "" : " at most");
}

/* What holds nothing, as far as it was looked at, is said to be so. */
static void put_nothing(const struct slate_facts *facts,
                        const struct slate_draft *draft, struct loss *loss)
{
    bool stays = draft != NULL && draft->switched;

    loss->bad = !stays && slate_facts_hold_content(facts);
    if (stays)
        snprintf(
            new_line(loss), ROOM, "%s",
            draft->table_stays
                ? "what no partition holds; no partition is touched"
                : "nothing that a partition holds; what stays is not touched");
    else if (loss->bad)
        snprintf(new_line(loss), ROOM,
                 "content that belongs to no volume known here");
    else
        snprintf(new_line(loss), ROOM,
                 "nothing was found in the %u places looked at; what lies "
                 "between was not read",
                 facts->sample.places);
}

static void put_stretches(const struct slate_facts *facts,
                          const struct slate_draft *draft, struct loss *loss)
{
    struct map map;
    uint32_t more = 0;

    map_of_facts(facts, &map);
    for (uint32_t i = 0; i < map.count; i++) {
        if (map.stretch[i].paint == PAINT_FREE || stays(draft, &map.stretch[i]))
            continue;
        if (loss->count == MAP_LINES)
            more++;
        else
            put_stretch(facts, &map, &map.stretch[i], new_line(loss));
    }
    loss->bad = loss->count > 0;
    if (loss->bad && more + map.unlisted > 0)
        snprintf(new_line(loss), ROOM, "and %u partition%s more",
                 more + map.unlisted, more + map.unlisted == 1 ? "" : "s");
    map_forget(&map);
}

/* What no entry names, and what else stands in the blocks themselves. */
static void put_ledger(const struct target *target, struct loss *loss)
{
    const struct slate_ledger *ledger = &target->ledger;

    for (uint32_t i = 0; i < ledger->count; i++) {
        char *line = new_line(loss);
        struct slate_text text;

        slate_text_start(&text, line, ROOM);
        slate_loss_words(&ledger->loss[i], target->facts.geometry.block_bytes,
                         &text);
    }
    if (ledger->unknown > 0)
        snprintf(
            new_line(loss), ROOM,
            "%llu block%s of unknown content, the first is block %llu (kept "
            "for rewinding)",
            (unsigned long long)ledger->unknown,
            ledger->unknown == 1 ? "" : "s",
            (unsigned long long)ledger->first_unknown);
    if (ledger->cut)
        snprintf(new_line(loss), ROOM,
                 "not everything was looked at: it would have taken more than "
                 "%u reads",
                 SLATE_LEDGER_READS);
}

void loss_of(const struct target *target, const struct slate_draft *draft,
             struct loss *loss)
{
    bool change = draft != NULL && slate_draft_is_change(draft);

    loss->bad = false;
    loss->count = 0;
    if (!change)
        put_stretches(&target->facts, draft, loss);
    if (draft != NULL)
        put_ledger(target, loss);
    loss->bad = loss->count > 0;
    if (loss->count == 0 && change)
        snprintf(new_line(loss), ROOM,
                 draft->parts == 0
                     ? "nothing: all but a few bytes stays as it is"
                     : "nothing that a partition holds; what is new comes "
                       "where none is");
    else if (loss->count == 0)
        put_nothing(&target->facts, draft, loss);
}
