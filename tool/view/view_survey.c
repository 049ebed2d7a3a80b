/* SPDX-License-Identifier: MIT */
/* The survey on the screen: one entry for each device. */
#include <unistd.h>

#include "view/view.h"

static void print_names(const struct target *target)
{
    const struct slate_identity *identity = &target->media.identity;
    uint64_t nominal =
        slate_size_nominal(slate_geometry_bytes(&target->media.geometry));
    char size[SLATE_SIZE_TEXT] = "";

    if (nominal != 0 && target->status == SLATE_OK)
        slate_size_decimal(nominal, size);
    painted(PAINT_STRONG, "%-11s",
            target->media.tag[0] == '\0' ? "--" : target->media.tag);
    printf("  %-7s %s%s%s", size, identity->maker,
           identity->maker[0] == '\0' ? "" : " ", identity->model);
    if (target->media.units > 1)
        printf(", unit %u", target->media.unit + 1);
    putchar('\n');
}

static void print_where(const struct target *target)
{
    const struct slate_media *media = &target->media;
    bool serial = media->identity.serial[0] != '\0' && !target->is_file;
    char size[SLATE_SIZE_TEXT] = "";

    if (target->status == SLATE_OK)
        slate_size_both(slate_geometry_bytes(&media->geometry), size);
    print_line("", PAINT_PLAIN, "%s%s%s%s%.64s, %.200s", size,
               size[0] == '\0' ? "" : ", ",
               transport_words(media->identity.transport), serial ? ", " : "",
               serial ? media->identity.serial : "", target->address);
}

/* The leading finding; where the device cannot be used at all, what helps as
 * well: there is no more to be seen of it. */
static void print_finding(const struct target *target)
{
    const struct slate_facts *facts = &target->facts;
    const struct slate_finding *finding = target->finding;
    struct slate_text text;
    char words[512];

    if (finding->severity == SLATE_SEVERITY_FINE ||
        finding->id == SLATE_FINDING_TWO_UNITS) /* told with the body */
        return;
    slate_text_start(&text, words, sizeof words);
    slate_finding_words(facts, finding, SLATE_FINDING_TEXT, &text);
    if (facts->opened != SLATE_OK) {
        slate_text_add(&text, " ");
        slate_finding_words(facts, finding, SLATE_FINDING_HELP, &text);
    }
    print_line(finding->severity == SLATE_SEVERITY_TROUBLE ? "  trouble"
                                                           : "  note",
               PAINT_BAD, "%s", words);
}

void view_body(const struct target *target)
{
    const struct slate_identity *identity = &target->media.identity;

    printf("One body with %u units: %s%s%s\n", target->media.units,
           identity->maker, identity->maker[0] == '\0' ? "" : " ",
           identity->model);
}

void view_survey_entry(const struct target *target, uint32_t twins)
{
    struct slate_text text;
    char words[512];

    print_names(target);
    print_where(target);
    if (target->status == SLATE_OK) {
        slate_text_start(&text, words, sizeof words);
        content_words(target, &text);
        print_line("  on it", PAINT_VOLUME, "%s", words);
    }
    if (target->known)
        print_finding(target);
    else
        print_line("  trouble", PAINT_BAD, "%s", target->why);
    view_users(target, "  ");
    if (twins > 0)
        print_line("  twin", PAINT_BAD,
                   "%u other device%s say%s exactly the same of %s: unplug all "
                   "but one before anything is written",
                   twins, twins == 1 ? "" : "s", twins == 1 ? "s" : "",
                   twins == 1 ? "itself" : "themselves");
}

void view_nothing_there(const char *what)
{
    static const char *const checks[] = {
        "the plug: pull it out, look into it, push it in all the way",
        "another port, without a hub: hubs and front ports are often short of "
        "power",
        "another cable, and the dock's own power supply",
        "cards: seated until they click; a reader without a card stands in the "
        "survey as \"no medium\"",
        "permission: run the survey as root; a device node that may not be "
        "read is named there"};
    bool root = geteuid() == 0;

    printf("%s Check, in this order:\n", what);
    for (int i = 0; i < (root ? 4 : 5); i++) {
        char label[16];

        snprintf(label, sizeof label, "%9d", i + 1);
        print_line(label, PAINT_PLAIN, "%s", checks[i]);
    }
}
