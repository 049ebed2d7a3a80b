/* SPDX-License-Identifier: MIT */
/* Ways to erase, and what came of one, for people and for programs. */

#include "work/work.h"
#include "term/term.h"

static void tell_minutes(const struct slate_erase_way *way)
{
    if (way->minutes > 0)
        printf(", about %u min", way->minutes);
    if (way->reaches_units)
        printf(", all namespaces of the drive");
}

static void tell_way(const struct slate_erase_way *way)
{
    putchar('\n');
    painted(PAINT_GOOD, "  %s", slate_erase_name(way->kind));
    tell_minutes(way);
    printf("\n");
    print_line("What", PAINT_PLAIN, "%s",
               slate_erase_words(way->kind, SLATE_ERASE_TEXT));
    print_line("Reaches", PAINT_PLAIN, "%s",
               slate_erase_words(way->kind, SLATE_ERASE_REACHES));
    print_line("Limits", PAINT_BAD, "%s",
               slate_erase_words(way->kind, SLATE_ERASE_LEAVES));
    print_line("Power cut", PAINT_PLAIN, "%s",
               slate_erase_words(way->kind, SLATE_ERASE_CUT));
    print_line("Command", PAINT_FAINT, "%s",
               slate_erase_words(way->kind, SLATE_ERASE_COMMAND));
}

static void advise(const struct erasing *erasing, const struct target *target,
                   enum slate_erase_aim aim, char *words, size_t room)
{
    const char *why;
    uint32_t best = slate_erase_advise(&target->media, erasing->way,
                                       erasing->ways, aim, &why);

    if (best < erasing->ways)
        snprintf(words, room, "%s: %s",
                 slate_erase_name(erasing->way[best].kind), why);
    else
        snprintf(words, room, "%s", why);
}

static void tell_advice(const struct erasing *erasing,
                        const struct target *target)
{
    char words[400];

    putchar('\n');
    advise(erasing, target, SLATE_ERASE_STAYS, words, sizeof words);
    print_line("It stays", PAINT_GOOD, "%s", words);
    advise(erasing, target, SLATE_ERASE_LEAVES_HOUSE, words, sizeof words);
    print_line("It leaves", PAINT_GOOD, "%s", words);
    if (target->media.abilities.passes_ata &&
        target->media.identity.transport == SLATE_TRANSPORT_USB)
        print_line("The dock", PAINT_BAD,
                   "some docks reset a disk that works for long: attach it "
                   "directly where you can");
}

/* What it cannot do as it is. */
static void tell_state(bool failed, const struct target *target)
{
    if (failed)
        print_line("Now", PAINT_BAD,
                   "its last erase was cut, or failed: until another one has "
                   "come to its end, it takes nothing else");
    else if (target->media.read_only)
        print_line("Now", PAINT_BAD,
                   "it is write-protected, and takes none of this: 'trueslate "
                   "guards %s%s' tells what can be lifted",
                   target->name, target->also);
}

static void tell_erase_commands(const struct erasing *erasing,
                                const struct target *target, bool failed)
{
    if (!failed)
        printf("\nTo overwrite it:\n  trueslate overwrite %s%s\n", target->name,
               target->also);
    if (erasing->ways > 0)
        printf("%sTo have it erase itself:\n  trueslate erase %s --way %s "
               "--consent %s%s\n",
               failed ? "\n" : "", target->name,
               slate_erase_name(erasing->way[0].kind), target->media.tag,
               target->also);
}

void erasing_tell_ways(const struct erasing *erasing,
                       const struct target *target)
{
    bool failed = erasing->state.activity == SLATE_ERASE_FAILED;

    for (uint32_t i = 0; i < erasing->ways; i++)
        tell_way(&erasing->way[i]);
    if (erasing->ways == 0)
        print_line("No way", PAINT_PLAIN,
                   "the device names no command by which it erases itself");
    if (!failed)
        tell_advice(erasing, target);
    if (failed || target->media.read_only)
        putchar('\n');
    tell_state(failed, target);
    if (!target->media.read_only)
        tell_erase_commands(erasing, target, failed);
}

void erasing_tell_chosen(const struct erasing *erasing)
{
    const struct slate_erase_way *way = &erasing->way[erasing->chosen];

    tell_way(way);
    putchar('\n');
    print_line("LOST", PAINT_BAD, "%s",
               way->reaches_units
                   ? "everything on every namespace of this drive"
                   : "everything on this device");
}

static void tell_places(const struct slate_erase *erase)
{
    if (erase->joined)
        print_line("Compared", PAINT_PLAIN,
                   "%u of %u places hold one byte all over; what they held "
                   "before is not known here",
                   erase->plain, erase->places);
    else
        print_line("Compared", PAINT_PLAIN,
                   "%u of %u places held something: %u of them hold the same "
                   "now; %u places are one byte all over",
                   erase->held, erase->places, erase->kept, erase->plain);
    if (!erase->read_all)
        return;
    print_line(
        "Read", PAINT_PLAIN,
        "all %llu blocks: %llu differ from the rest, %llu cannot be read",
        (unsigned long long)erase->read, (unsigned long long)erase->other,
        (unsigned long long)erase->unread_blocks);
}

void erasing_tell(const struct erasing *erasing)
{
    enum slate_erased erased = slate_erase_verdict(&erasing->erase);

    putchar('\n');
    print_line("Erased", slate_erased_is_bad(erased) ? PAINT_BAD : PAINT_GOOD,
               "%s", slate_erased_words(erased));
    tell_places(&erasing->erase);
    if (!slate_erased_is_bad(erased) && !erasing->erase.read_all)
        print_line("More", PAINT_FAINT,
                   "with --read-all every block is read and compared");
}

json_t *erasing_report_ways(const struct erasing *erasing,
                            const struct target *target)
{
    json_t *list = report_made(json_array());
    char stays[400], leaves[400];

    for (uint32_t i = 0; i < erasing->ways; i++) {
        const struct slate_erase_way *way = &erasing->way[i];

        json_array_append_new(
            list,
            report_pack(
                "{s:s, s:i, s:b, s:b, s:s, s:s, s:s, s:s}", "way",
                slate_erase_name(way->kind), "minutes", (int)way->minutes,
                "whole_drive", way->reaches_units, "tells_progress",
                slate_erase_tells(way->kind), "text",
                slate_erase_words(way->kind, SLATE_ERASE_TEXT), "reaches",
                slate_erase_words(way->kind, SLATE_ERASE_REACHES), "leaves",
                slate_erase_words(way->kind, SLATE_ERASE_LEAVES), "power_cut",
                slate_erase_words(way->kind, SLATE_ERASE_CUT)));
    }
    advise(erasing, target, SLATE_ERASE_STAYS, stays, sizeof stays);
    advise(erasing, target, SLATE_ERASE_LEAVES_HOUSE, leaves, sizeof leaves);
    return report_pack("{s:o, s:s, s:s}", "ways", list, "stays", stays,
                       "leaves", leaves);
}

json_t *erasing_report(const struct erasing *erasing)
{
    const struct slate_erase *erase = &erasing->erase;
    enum slate_erased erased = slate_erase_verdict(erase);

    return report_pack(
        "{s:s, s:b, s:s, s:s, s:i, s:i, s:i, s:i, s:i, s:I, s:I, s:I}", "way",
        erase->joined ? "" : slate_erase_name(erase->way.kind), "joined",
        erase->joined, "verdict", slate_erased_name(erased), "text",
        slate_erased_words(erased), "places", (int)erase->places, "places_held",
        (int)erase->held, "places_kept", (int)erase->kept, "places_plain",
        (int)erase->plain, "places_unreadable", (int)erase->unread,
        "blocks_read", (json_int_t)erase->read, "blocks_other",
        (json_int_t)erase->other, "blocks_unreadable",
        (json_int_t)erase->unread_blocks);
}
