/* SPDX-License-Identifier: MIT */
/* Evidence for a ticket: what stands in it, and that any change shows. */
#include <stdio.h>
#include <stdlib.h>
#include <sys/stat.h>

#include "tool_case.h"

static char text[4194304];

static size_t load(const char *name)
{
    FILE *file = fopen(in_folder(name), "rb");
    size_t length;

    assert_non_null(file);
    length = fread(text, 1, sizeof text - 1, file);
    text[length] = '\0';
    fclose(file);
    return length;
}

static void store(const char *name, size_t length)
{
    FILE *file = fopen(in_folder(name), "wb");

    assert_non_null(file);
    assert_int_equal(fwrite(text, 1, length, file), length);
    fclose(file);
}

/* The tag of the device that was printed last. */
static const char *consent(void)
{
    static char given[16];
    json_t *value = printed("device.tag");

    snprintf(given, sizeof given, "%s", json_string_value(value));
    json_decref(value);
    return given;
}

static bool is_there(const char *name)
{
    struct stat about;

    return stat(in_folder(name), &about) == 0;
}

static void make_ticket(void)
{
    char line[200];

    assert_int_equal(fresh_bench(NULL), 0);
    snprintf(line, sizeof line,
             "renew sim:tide-gauge-7 --label TIDE-7 --consent %s --evidence "
             "$/ticket --replace",
             tag);
    expect(line, 0, "Evidence for the ticket");
}

/* The page tells all that a ticket needs, and needs nothing else itself. */
static void a_page_tells_what_was_done(void **state)
{
    static const char *const said[] = {"Tidestick 16",
                                       "serial TG7-00412",
                                       "boot image",
                                       "differ",
                                       "Agreed to lose",
                                       "SHA-256",
                                       "data:image/svg+xml;base64,",
                                       "class=\"good\">Done",
                                       "FAT32 volume &quot;TIDE-7&quot;"};
    static const char *const never[] = {"http://", "https://", "src=\"/",
                                        "<script", "<link"};
    json_t *ticket;

    (void)state;
    make_ticket();
    (void)load("ticket.html");
    for (size_t i = 0; i < sizeof said / sizeof said[0]; i++) {
        if (strstr(text, said[i]) == NULL)
            fail_msg("the page does not say %s", said[i]);
    }
    for (size_t i = 0; i < sizeof never / sizeof never[0]; i++)
        assert_null(strstr(text, never[i]));
    (void)load("ticket.svg");
    assert_non_null(strstr(text, "<svg"));
    ticket = json_load_file(in_folder("ticket.json"), 0, NULL);
    assert_non_null(ticket);
    assert_string_equal(
        json_string_value(json_object_get(
            json_array_get(json_object_get(ticket, "jobs"), 0), "tag")),
        tag);
    json_decref(ticket);
    sh("jsonschema --base-uri file://$SOURCE/docs/json/ -i "
       "$FOLDER/ticket.json $SOURCE/docs/json/evidence.schema.json "
       "2>/dev/null",
       0);
}

/* Every single byte of the page; any number of them cut off, or added. */
static void any_change_of_a_page_shows(void **state)
{
    size_t length;

    (void)state;
    make_ticket();
    length = load("ticket.html");
    expect("evidence $/ticket.html", 0, "as it was written");
    for (size_t i = 0; i < length; i += length / 97 + 1) {
        text[i] ^= 0x01;
        store("changed.html", length);
        expect("evidence $/changed.html", i == 0 ? 5 : 5, "changed");
        text[i] ^= 0x01;
    }
    for (size_t cut = 1; cut < length; cut = cut * 3 + 1) {
        store("changed.html", length - cut);
        assert_true(tool_run(&p, "evidence $/changed.html") != 0);
    }
    strcpy(text + length, "\n");
    store("changed.html", length + 1);
    expect("evidence $/changed.html", 5, "changed");
}

/* A JSON file may be laid out in another way; its content may not change. */
static void any_change_of_the_json_shows(void **state)
{
    static const char *const edits[][2] = {
        {"TIDE-7", "TIDE-8"},
        {"TG7-00412", "TG7-00413"},
        {"\"exit_code\": 0", "\"exit_code\": 1"},
        {"\"sha256\": \"", "\"sha256\": \"0"},
        {"\"proved\": true", "\"proved\": false"}};

    (void)state;
    make_ticket();
    expect("evidence $/ticket.json", 0, "as it was written");
    sh("python3 -c 'import json,sys; json.dump(json.load(open(sys.argv[1])), "
       "open(sys.argv[2],\"w\"), ensure_ascii=False)' $FOLDER/ticket.json "
       "$FOLDER/other.json",
       0);
    expect("evidence $/other.json", 0, "as it was written");
    for (size_t i = 0; i < sizeof edits / sizeof edits[0]; i++) {
        size_t length = load("ticket.json"), from = strlen(edits[i][0]),
               to = strlen(edits[i][1]);
        char *at = strstr(text, edits[i][0]);

        assert_non_null(at);
        memmove(at + to, at + from, length - (size_t)(at - text) - from);
        memcpy(at, edits[i][1], to);
        store("changed.json", length - from + to);
        expect("evidence $/changed.json", 5, "changed");
        expect("evidence $/changed.json --json", 5, "changed");
    }
    (void)load("ticket.json");
    store("changed.json", 1000);
    expect("evidence $/changed.json", 5, "changed");
    expect("evidence $/bench/tide-gauge-7.json", 2, "no evidence");
    expect("evidence $/nothing-there", 4, "No such file");
}

/* What fails stands in it as well, and nothing is said to be well that nobody
 * has looked at. */
static void failures_are_told(void **state)
{
    char line[300];

    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
    take_tag();
    snprintf(line, sizeof line,
             "renew sim:bargain-64 --consent %s --evidence $/bad", tag);
    assert_int_equal(tool_run(&p, line), 5);
    (void)load("bad.html");
    assert_non_null(strstr(text, "Not to be trusted"));
    assert_non_null(strstr(text, "its capacity is false"));
    assert_null(strstr(text, "Found after"));
    snprintf(line, sizeof line,
             "probe sim:bargain-64 --consent %s --evidence $/probe", tag);
    assert_int_equal(tool_run(&p, line), 5);
    (void)load("probe.html");
    assert_non_null(strstr(text, "claims more than it has"));
    /* nothing was done: there is nothing to tell */
    expect("renew sim:bargain-64 --consent WRONG-1 --evidence $/none", 3,
           "was proved");
    assert_false(is_there("none.html"));
}

/* It drops off half-way: that stands in it, and nothing of it is trusted. */
static void what_was_not_finished_is_told_as_such(void **state)
{
    static const char *const verbs[] = {"scan", "probe", "probe --full",
                                        "scan --writes"};

    (void)state;
    for (int i = 0; i < 4; i++) {
        char line[200];

        lay_device("tide-gauge-8", "{\"blocks\": 65536, \"content\": [], "
                                   "\"drop_after_commands\": 240}");
        snprintf(line, sizeof line,
                 "guards sim:tide-gauge-8 --json --bench $/bench");
        assert_int_equal(tool_run(&p, line), 0);
        snprintf(line, sizeof line,
                 "%s sim:tide-gauge-8%s%s --evidence $/cut --replace", verbs[i],
                 i == 0 ? "" : " --consent ", i == 0 ? "" : consent());
        assert_int_equal(tool_run(&p, line), 4);
        (void)load("cut.html");
        assert_non_null(strstr(text, "class=\"bad\">Not done"));
        assert_true(strstr(text, "no such device") != NULL ||
                    strstr(text, "it was pulled") != NULL);
        (void)load("cut.json");
        assert_null(strstr(text, "\"trusted\": true"));
        assert_null(strstr(text, "\"finished\": true"));
    }
}

static void every_verb_has_its_evidence(void **state)
{
    static const char *const rows[][3] = {
        {"scan sim:winch-disk --evidence $/s", "s.html", "blocks were read"},
        {"overwrite sim:winch-disk --consent SEGAG-66 --evidence $/o", "o.html",
         "1 round, read back"},
        {"erase sim:winch-disk --way format-unit --consent SEGAG-66 "
         "--evidence $/e",
         "e.html", "format-unit"},
        {"probe sim:winch-disk --consent SEGAG-66 --evidence $/p", "p.html",
         "no block is another"},
        {"probe sim:winch-disk --full --consent SEGAG-66 --evidence $/f",
         "f.html", "returned what was written"}};

    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        char line[100];

        expect(rows[i][0], 0, "Evidence for the ticket");
        (void)load(rows[i][1]);
        if (strstr(text, rows[i][2]) == NULL)
            fail_msg("%s does not say: %s", rows[i][1], rows[i][2]);
        snprintf(line, sizeof line, "evidence $/%s", rows[i][1]);
        expect(line, 0, "as it was written");
    }
}

/* Several devices stand in one; files that are no evidence are left alone. */
static void several_stand_in_one(void **state)
{
    char line[300], first[16];

    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    memcpy(first, tag, sizeof first);
    snprintf(line, sizeof line,
             "renew sim:tide-gauge-7 sim:tide-gauge-8 --consent %s,NUSER-37 "
             "--evidence $/both",
             first);
    expect(line, 0, "Evidence for the ticket");
    (void)load("both.html");
    assert_non_null(strstr(text, "2 devices"));
    snprintf(line, sizeof line, "both-%s.svg", first);
    assert_true(is_there(line));
    assert_true(is_there("both-NUSER-37.svg"));
    expect("scan sim:winch-disk --evidence $/both", 2, "both.html");
}

/* Whatever becomes of a picture, the report of the work is there: without the
 * library that draws, and where that takes the program down with it. */
static void a_picture_never_takes_the_report_along(void **state)
{
    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    sh("mkdir $FOLDER/none $FOLDER/bad; : >$FOLDER/none/libpangocairo-1.0.so.0;"
       "echo 'void abort(void); __attribute__((constructor)) static void "
       "fall(void) { abort(); }' >$FOLDER/fall.c && cc -shared -fPIC "
       "$FOLDER/fall.c -o $FOLDER/bad/libpangocairo-1.0.so.0",
       0);
    sh("LD_LIBRARY_PATH=$FOLDER/none $TOOL scan sim:winch-disk --evidence "
       "$FOLDER/bare >$FOLDER/said && grep -q 'Every block' $FOLDER/said && "
       "grep -q 'Evidence for the ticket' $FOLDER/said && "
       "$TOOL evidence $FOLDER/bare.html && $TOOL evidence $FOLDER/bare.json",
       0);
    assert_false(is_there("bare.svg"));
    sh("LD_LIBRARY_PATH=$FOLDER/bad $TOOL scan sim:winch-disk --evidence "
       "$FOLDER/fallen >$FOLDER/said 2>$FOLDER/err; test $? = 134 && "
       "grep -q 'Every block' $FOLDER/said",
       0);
    sh("LD_LIBRARY_PATH=$FOLDER/bad $TOOL scan sim:winch-disk --json "
       "--evidence $FOLDER/fallen >$FOLDER/said 2>$FOLDER/err; test $? = 134 "
       "&& grep -q 'trueslate.scan/' $FOLDER/said",
       0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_page_tells_what_was_done),
        cmocka_unit_test(any_change_of_a_page_shows),
        cmocka_unit_test(any_change_of_the_json_shows),
        cmocka_unit_test(failures_are_told),
        cmocka_unit_test(what_was_not_finished_is_told_as_such),
        cmocka_unit_test(every_verb_has_its_evidence),
        cmocka_unit_test(a_picture_never_takes_the_report_along),
        cmocka_unit_test(several_stand_in_one),
    };

    return cmocka_run_group_tests_name("evidence", tests, fresh_bench, clean);
}
