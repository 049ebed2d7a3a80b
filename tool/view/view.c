/* SPDX-License-Identifier: MIT */
/* Devices and findings on the screen, for people. */

#include "view/view.h"

/* Stretches that a survey names. */
#define CONTENT_LISTED 6u

static void add_names(const struct slate_identity *identity,
                      struct slate_text *text)
{
    if (identity->maker[0] != '\0') {
        slate_text_add(text, identity->maker);
        slate_text_add(text, " ");
    }
    slate_text_add(text, identity->model);
}

/* A line, or two of them where the terminal has no room for one. */
static void print_head(const char *head, const char *tail)
{
    bool fits = strlen(head) + strlen(tail) + 4 < (size_t)paint_columns();

    printf("  %s,%s%s\n", head, fits ? " " : "\n  ", tail);
}

static void print_size_line(const struct slate_geometry *geometry)
{
    uint64_t bytes = slate_geometry_bytes(geometry);
    uint64_t nominal = slate_size_nominal(bytes);
    char size[SLATE_SIZE_TEXT], head[2 * SLATE_SIZE_TEXT + 16], blocks[64];
    struct slate_text text;

    slate_size_both(bytes, size);
    slate_text_start(&text, head, sizeof head);
    slate_text_add(&text, size);
    if (nominal != 0) {
        slate_size_decimal(nominal, size);
        slate_text_add(&text, ", ");
        slate_text_add(&text, size);
        slate_text_add(&text, " nominal");
    }
    snprintf(blocks, sizeof blocks, "%llu blocks of %u bytes",
             (unsigned long long)geometry->block_count, geometry->block_bytes);
    print_head(head, blocks);
}

/* Why the case, the screen and the device never say the same. */
static void explain_size(const struct slate_geometry *geometry)
{
    uint64_t bytes = slate_geometry_bytes(geometry);
    uint64_t nominal = slate_size_nominal(bytes);
    char binary[SLATE_SIZE_TEXT];

    if (nominal == 0)
        return;
    slate_size_binary(bytes, binary);
    print_line("", PAINT_PLAIN,
               "The case says %s: decimal, and rounded%s. Hosts that count in "
               "binary show %s.",
               in_decimal(nominal).words,
               bytes < nominal ? "; flash keeps some of it as spare" : "",
               binary);
}

void view_size(const struct target *target)
{
    enum slate_transport transport = target->facts.identity.transport;

    if (transport != SLATE_TRANSPORT_IMAGE && transport != SLATE_TRANSPORT_LOOP)
        explain_size(&target->facts.geometry); /* files have no case */
}

void view_users(const struct target *target, const char *indent)
{
    const char *at = target->users;
    char label[32];

    snprintf(label, sizeof label, "%sSYSTEM", indent);
    if (target->system)
        print_line(label, PAINT_BAD,
                   "the running system stands on this device");
    snprintf(label, sizeof label, "%sin use", indent);
    while (*at != '\0') {
        int length = (int)strcspn(at, "\n");

        print_line(label, PAINT_STRONG, "%.*s", length, at);
        at += length + (at[length] == '\n' ? 1 : 0);
    }
}

void view_device(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    const char *serial = target->is_file ? "" : facts->identity.serial;
    char names[128] = "", head[160], address[4 * sizeof target->address];
    struct slate_text text = SLATE_TEXT(names);

    add_names(&facts->identity, &text);
    painted(PAINT_STRONG, "%s", facts->tag);
    printf("  %s\n", names);
    snprintf(head, sizeof head, "%s%s%s%s%s",
             transport_words(facts->identity.transport),
             serial[0] == '\0' ? "" : ", serial ", serial,
             facts->removable ? ", removable" : "",
             facts->read_only ? ", write-protected" : "");
    print_head(head, plain_shown(target->address, address, sizeof address));
    print_size_line(&facts->geometry);
    view_users(target, "");
}

/* Of two that differ. */
static const char *copy_label(const struct slate_facts *facts)
{
    return facts->layout.second ? "2nd copy" : "1st copy";
}

void view_content(const struct slate_facts *facts)
{
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t shown = slate_facts_shown_bytes(facts);
    char whole[SLATE_SIZE_TEXT], label[16];
    struct map map;

    map_of_facts(facts, &map);
    if (slate_layout_copies_differ(&facts->layout))
        snprintf(label, sizeof label, "%s", copy_label(facts));
    else if (facts->layout.kind == SLATE_TABLE_NONE)
        snprintf(label, sizeof label, "On it");
    else
        snprintf(label, sizeof label, "On it, %s",
                 slate_table_words(facts->layout.kind));
    print_bar(label, &map);
    print_stretches(&map);
    map_forget(&map);
    print_share("Hosts show", shown, all);
    slate_size_both(all, whole);
    printf("%14s%s of %s\n", "", shown == 0 ? "nothing" : in_both(shown).words,
           whole);
}

void view_other_copy(const struct slate_facts *facts)
{
    struct slate_facts other;
    struct map map;

    if (!slate_layout_copies_differ(&facts->layout))
        return;
    slate_facts_other_copy(facts, &other);
    map_of_facts(&other, &map);
    print_bar(copy_label(&other), &map);
    print_stretches(&map);
    map_forget(&map);
}

static enum paint paint_of(enum slate_severity severity)
{
    return severity == SLATE_SEVERITY_TROUBLE ? PAINT_BAD
           : severity == SLATE_SEVERITY_FINE  ? PAINT_GOOD
                                              : PAINT_STRONG;
}

void view_findings(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    char words[512];
    struct told told;

    told_of(target, &told);
    putchar('\n');
    print_line(told.fine ? "All well" : "You see",
               paint_of(told.finding[0].severity), "%s", told.see);
    if (!told.fine)
        print_line("Why", PAINT_STRONG, "%s", told.why);
    print_line("Seen in", PAINT_PLAIN, "%s", told.evidence);
    print_line("What helps", PAINT_GOOD, "%s", told.help);
    for (uint32_t i = 1; i < told.count; i++) {
        struct slate_text text;

        if (told.finding[i].consequence)
            continue; /* told with the finding that explains it */
        slate_text_start(&text, words, sizeof words);
        slate_finding_words(facts, &told.finding[i], SLATE_FINDING_TEXT, &text);
        print_line("And also", paint_of(told.finding[i].severity), "%s", words);
    }
}

static const char *mark_of(enum slate_severity severity)
{
    return severity == SLATE_SEVERITY_TROUBLE ? "!!"
           : severity == SLATE_SEVERITY_NOTE  ? "!"
                                              : "ok";
}

void view_line(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    const struct slate_finding *findings = target->finding;
    uint64_t all = slate_geometry_bytes(&facts->geometry);
    uint64_t nominal = slate_size_nominal(all), shown;
    char size[SLATE_SIZE_TEXT] = "", words[128];
    struct slate_text text;
    struct map map = {0};
    int columns = paint_columns();
    size_t room = (size_t)(columns < 80 ? columns - 35 : columns - 49), title;

    if (facts->opened == SLATE_OK) {
        slate_size_decimal(nominal == 0 ? all : nominal, size);
        map_of_facts(facts, &map);
    }
    slate_text_start(&text, words, sizeof words);
    finding_title(findings[0].id, &text);
    title = text.used;
    shown = slate_facts_shown_bytes(facts);
    if (facts->opened == SLATE_OK && shown < all / 100 * 99 && shown > 0) {
        slate_text_add(&text, ", ");
        slate_text_add(&text, in_decimal(shown).words);
        slate_text_add(&text, " shown");
    }
    if (text.used > room) /* what hosts show is told where it fits */
        words[title] = '\0';
    painted(paint_of(findings[0].severity), "%-3s",
            mark_of(findings[0].severity));
    painted(PAINT_STRONG, "%-9s", facts->tag);
    printf(" %7s ", size);
    print_small_bar(&map);
    if (paint_columns() < 80)
        printf(" %.*s\n", (int)room, words);
    else
        printf(" %-14.14s %s\n", facts->identity.model, words);
    map_forget(&map);
}

void content_words(const struct target *target, struct slate_text *text)
{
    const struct slate_facts *facts = &target->facts;
    const enum slate_finding_id id = target->finding[0].id;
    struct map map;

    if (id == SLATE_FINDING_UNFINISHED || id == SLATE_FINDING_BLANK) {
        slate_text_add(text, slate_finding_name(id));
        return;
    }
    map_of_facts(facts, &map);
    slate_text_add(text, slate_table_words(facts->layout.kind));
    for (uint32_t i = 0; i < map.count && i < CONTENT_LISTED; i++) {
        char size[SLATE_SIZE_TEXT];

        slate_size_decimal(map.stretch[i].count * map.block_bytes, size);
        slate_text_add(text, i == 0 ? ": " : ", ");
        slate_text_add(text, map.stretch[i].words);
        slate_text_add(text, " ");
        slate_text_add(text, size);
    }
    if (map.count > CONTENT_LISTED || map.unlisted > 0) {
        slate_text_add(text, ", and more: ");
        slate_text_number(text, facts->layout.found);
        slate_text_add(text, " partitions in all");
    }
    map_forget(&map);
}
