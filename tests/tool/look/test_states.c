/* SPDX-License-Identifier: MIT */
/* What is said of a device is made from its state: each text in each state in
 * which it can be read, with what must stand in it, and what would be untrue.
 * TRUESLATE_SHOW prints them all. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "tool_case.h"

/* A state, by what a description has beside its own; a line for it, with '%'
 * for the device and '@' for its tag; words, ended by NULL. */
static const struct told {
    const char *state, *device, *members, *line;
    int code;
    const char *says[3], *never[4];
} told[] = {
    /* who uses it */
    {"mounted",
     "buoy-stick-15",
     "{\"mounted\": {\"at\": \"/srv/logger\"}}",
     "assess %",
     0,
     {"one that is in use", "mounted at /srv/logger"},
     {"unplugged", "not unmounted properly"}},
    {"not mounted",
     "buoy-stick-15",
     "{}",
     "assess %",
     0,
     {"not unmounted properly"},
     {"is in use", "mounted at"}},
    {"mounted",
     "buoy-stick-15",
     "{\"mounted\": {\"at\": \"/srv/logger\"}}",
     "eject %",
     4,
     {"'trueslate release @'"},
     {"cannot be released"}},
    {"held",
     "buoy-stick-15",
     "{\"mounted\": {\"at\": \"/srv/logger\", \"held_by\": \"tide-recorder\"}}",
     "eject %",
     4,
     {"cannot be released: tide-recorder"},
     {"'trueslate release"}},
    {"held",
     "buoy-stick-15",
     "{\"mounted\": {\"at\": \"/srv/logger\", \"held_by\": \"tide-recorder\"}}",
     "renew % --consent @",
     4,
     {"cannot be released: tide-recorder"},
     {"'trueslate release", "Then"}},
    {"mounted",
     "buoy-stick-15",
     "{\"mounted\": {\"at\": \"/srv/logger\"}}",
     "release %",
     0,
     {"/srv/logger"},
     {"nobody"}},
    {"not mounted",
     "buoy-stick-15",
     "{}",
     "release %",
     0,
     {"by nobody"},
     {"/srv"}},
    /* how it is attached */
    {"behind a dock",
     "shore-disk-3",
     "{}",
     "lowlevel %",
     0,
     {"a dock keeps such commands"},
     {"tracks were formed"}},
    {"on its own port",
     "shore-disk-4",
     "{}",
     "lowlevel %",
     0,
     {"its tracks were formed"},
     {"dock", "attached"}},
    {"on its own port",
     "shore-disk-4",
     "{}",
     "lowlevel % --same",
     4,
     {"its tracks were formed"},
     {"dock", "attached"}},
    {"a stick",
     "tide-gauge-7",
     "{}",
     "lowlevel %",
     0,
     {"takes no such"},
     {"dock", "attached directly"}},
    {"a card",
     "logger-card-5",
     "{}",
     "lowlevel % --same",
     4,
     {"cards have no command", "trueslate erase"},
     {"dock"}},
    /* what protects it */
    {"writable, hidden",
     "buoy-stick-15",
     "{}",
     "guards %",
     0,
     {"To clear one by its name", "--lift gpt-read-only"},
     {NULL}},
    {"write-protected, hidden",
     "buoy-stick-15",
     "{\"write_protected\": true}",
     "guards %",
     0,
     {"write-protected", "gpt-read-only, partition 1"},
     {"--lift"}},
    {"write-protected",
     "buoy-stick-15",
     "{\"write_protected\": true}",
     "assess %",
     0,
     {"write-protected"},
     {"trueslate renew", "trueslate mend"}},
    /* what it did with an erase */
    {"can erase itself",
     "shore-disk-1",
     "{\"erases\": {\"ways\": [\"sanitize-overwrite\"]}}",
     "erase %",
     0,
     {"trueslate overwrite", "It stays"},
     {"its last erase"}},
    {"an erase failed",
     "shore-disk-1",
     "{\"erases\": {\"ways\": [\"sanitize-overwrite\"], \"steps\": 2, "
     "\"does\": "
     "\"fails\"}}",
     "erase % --way sanitize-overwrite --consent @",
     4,
     {"could not erase itself", "it takes nothing else"},
     {"or overwrite it"}},
    {"an erase failed",
     NULL,
     NULL,
     "erase %",
     0,
     {"its last erase was cut"},
     {"trueslate overwrite", "It stays"}},
    {"an erase failed",
     NULL,
     NULL,
     "assess %",
     0,
     {"needs an erase"},
     {"cannot be stopped", "trueslate renew", "trueslate overwrite"}},
    {"an erase failed",
     NULL,
     NULL,
     "renew % --consent @",
     3,
     {"unerased"},
     {"cannot be stopped"}},
    {"refuses to erase",
     "disk-protected",
     "{\"guards\": [], \"erases\": {\"ways\": [\"sanitize-block\"], \"does\": "
     "\"refuses\"}}",
     "erase % --way sanitize-block --consent @",
     4,
     {"nothing was erased"},
     {"is not known", "read by nobody"}},
    {"refuses to format",
     "disk-protected",
     "{\"guards\": [], \"erases\": {\"ways\": [\"format\"], \"does\": "
     "\"refuses\"}}",
     "erase % --way format-unit --consent @",
     4,
     {"refused the command"},
     {"read by nobody", "cannot be stopped"}},
    {"write-protected",
     "disk-protected",
     "{\"erases\": {\"ways\": [\"sanitize-block\"]}}",
     "erase %",
     0,
     {"write-protected, and takes none"},
     {"trueslate overwrite", "--way"}},
    /* its medium */
    {"out and in again",
     "tide-gauge-8",
     "{\"swap\": {\"at_command\": 60, \"with\": \"tide-gauge-8\", \"told\": "
     "true}}",
     "renew % --consent @",
     3,
     {"was taken out, or another was put in"},
     {"holds something else"}},
    {"no medium",
     "tide-gauge-8",
     "{\"no_medium\": true}",
     "assess %",
     0,
     {"medium"},
     {"was taken out", "trueslate renew"}},
};

#define TOLD (sizeof told / sizeof told[0])

static void put_in(char *line, size_t room, const char *device)
{
    char made[400] = "";

    for (const char *at = line; *at != '\0'; at++) {
        size_t used = strlen(made);

        if (*at == '%')
            snprintf(made + used, sizeof made - used, "sim:%s", device);
        else if (*at == '@')
            snprintf(made + used, sizeof made - used, "%s", tag);
        else
            snprintf(made + used, sizeof made - used, "%c", *at);
    }
    snprintf(line, room, "%s", made);
}

/* The same words, however the lines are broken. */
static void join(char *text)
{
    char *to = text;

    for (const char *at = text; *at != '\0'; at++) {
        bool space = *at == ' ' || *at == '\n';

        if (!space)
            *to++ = *at;
        else if (to > text && to[-1] != ' ')
            *to++ = ' ';
    }
    *to = '\0';
}

static void hold(const struct told *one, const char *device)
{
    static char text[sizeof p.out + sizeof p.err + 2];
    char line[400];

    snprintf(line, sizeof line, "%s", one->line);
    put_in(line, sizeof line, device);
    (void)tool_run(&p, line);
    snprintf(text, sizeof text, "%s %s", p.out, p.err);
    if (getenv("TRUESLATE_SHOW") != NULL)
        print_message("\n== %s: %s\n%s", one->state, line, text);
    join(text);
    if (p.code != one->code)
        print_message("%s: %s\ncode %d: %s\n", one->state, line, p.code, text);
    assert_int_equal(p.code, one->code);
    for (size_t i = 0; i < 3 && one->says[i] != NULL; i++) {
        char words[200];

        snprintf(words, sizeof words, "%s", one->says[i]);
        put_in(words, sizeof words, device);
        if (strstr(text, words) == NULL)
            fail_msg("%s: %s\nlacks \"%s\": %s", one->state, line, words, text);
    }
    for (size_t i = 0; i < 4 && one->never[i] != NULL; i++) {
        if (strstr(text, one->never[i]) != NULL)
            fail_msg("%s: %s\nsays \"%s\": %s", one->state, line, one->never[i],
                     text);
    }
}

static void what_is_said_is_so(void **state)
{
    const char *device = NULL;

    (void)state;
    for (size_t i = 0; i < TOLD; i++) {
        char line[100];

        if (told[i].device != NULL) { /* else as the last line has left it */
            device = told[i].device;
            lay_device(device, told[i].members);
            snprintf(line, sizeof line, "rm -f $FOLDER/bench/%s.state", device);
            sh(line, 0);
            snprintf(line, sizeof line, "assess sim:%s --json", device);
            expect(line, 0, "tag");
            take_tag();
        }
        hold(&told[i], device);
    }
    print_message("%zu texts\n", TOLD);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(what_is_said_is_so)};

    return cmocka_run_group_tests_name("states", tests, fresh_bench, clean);
}
