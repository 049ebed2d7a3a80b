/* SPDX-License-Identifier: MIT */
/* Small volumes of each kind, and files of the workshop to place on them. */
#include "placing.h"

#include <stdio.h>

#define MIB UINT64_C(1048576)

const struct placing_kind placing_kinds[KINDS] = {
    {SLATE_VOLUME_FAT12, 3 * MIB, 5 * MIB},
    {SLATE_VOLUME_FAT16, 6 * MIB, 40 * MIB},
    {SLATE_VOLUME_FAT32, 40 * MIB, 280 * MIB},
    {SLATE_VOLUME_EXFAT, 3 * MIB, 9 * MIB},
};

void placing_begin(const struct placing *p, struct ram *ram, size_t kind,
                   uint32_t block_bytes, bool table)
{
    struct wanted goal = {.table_given = true,
                          .table = table ? SLATE_TABLE_MBR : SLATE_TABLE_NONE,
                          .volume = placing_kinds[kind].kind,
                          .label = "BUOY 12"};
    uint64_t bytes = block_bytes == 512 ? placing_kinds[kind].bytes_512
                                        : placing_kinds[kind].bytes_4096;

    ram_open(ram, block_bytes, bytes / block_bytes, true);
    assert_ok(session_look(p->s, ram));
    session_want(p->s, &goal);
    assert_ok(slate_draft_base(&p->s->draft, &p->s->facts));
    placed_begin(p->placed, &p->s->draft);
}

uint32_t placing_cluster_bytes(const struct placing *p)
{
    struct slate_figures figures;

    assert_ok(slate_draft_make(&p->s->draft));
    p->s->draft.part[0].format->figures(&p->s->draft.part[0].volume, &figures);
    return figures.cluster_bytes;
}

void placing_usual(const struct placing *p, uint32_t cluster)
{
    uint32_t survey, hidden, deep, deeper, notes;
    char name[300];

    placed_add(p->placed, 0, "START.SYS", 3 * cluster + 17);
    placed_add(p->placed, 0, "logger.cfg", 1);
    survey = placed_add_folder(p->placed, 0, "SURVEY");
    placed_add(p->placed, 0, "empty.dat", 0);
    notes = placed_add_folder(p->placed, 0, "Tide gauge notes");
    placed_add_folder(p->placed, 0, "nothing in it");
    hidden = placed_add(p->placed, 0, ".hidden", cluster);
    p->placed->files->item[hidden].attributes =
        SLATE_ITEM_HIDDEN | SLATE_ITEM_READ_ONLY;
    placed_add(p->placed, survey, "track one.bin", cluster - 1);
    deep = placed_add_folder(p->placed, survey, "deep");
    placed_add(p->placed, survey, "track two.bin", cluster + 1);
    placed_add(p->placed, survey, "large.bin", 70000);
    placed_add(p->placed, notes,
               "\xC3\x98lb\xC3\xB8ye \xE2\x80\x94 m\xC3\xA5ling.txt", 511);
    placed_add(p->placed, notes, "\xF0\x9F\x8C\x8A.log", 513);
    p->placed->files->item[notes].attributes = SLATE_ITEM_SYSTEM;
    deeper = placed_add_folder(p->placed, deep, "deeper");
    for (int i = 0; i < 40; i++) {
        snprintf(name, sizeof name, "logbook entry number %d.txt", i);
        placed_add(p->placed, deeper, name, (uint64_t)i);
    }
    memset(name, 'n', 255);
    name[255] = '\0';
    placed_add(p->placed, deeper, name, 2 * cluster);
    placed_digest(p->placed);
}

void placing_enact(const struct placing *p, struct ram *ram)
{
    assert_ok(slate_draft_make(&p->s->draft));
    assert_ok(session_enact(p->s, sizeof p->s->work));
    assert_ok(session_prove(p->s, sizeof p->s->work));
    placed_check(p->placed, &p->s->draft, ram, p->tree);
}
