/* SPDX-License-Identifier: MIT */
/* Every case of the corpus shows the findings that it must, and no other; each
 * finding has its case, its words and its price. */
#include "check.h"
#include "corpus.h"

static struct session s;

static void findings_of(char *text, struct slate_finding *findings,
                        uint32_t *count)
{
    *count = slate_assess_judge(&s.facts, findings);
    text[0] = '\0';
    for (uint32_t i = 0; i < *count; i++) {
        strcat(text, i == 0 ? "" : " ");
        strcat(text, findings[i].consequence ? "+" : "");
        strcat(text, slate_finding_name(findings[i].id));
    }
}

/* They are told from a copy of the facts, the original being gone. */
static void words_are_whole(const struct slate_finding *finding)
{
    static struct slate_facts copy;

    copy = s.facts;
    memset(&s.facts, 0xE7, sizeof s.facts);
    for (int part = SLATE_FINDING_TEXT; part <= SLATE_FINDING_HELP; part++) {
        char words[1024];
        struct slate_text text;

        slate_text_start(&text, words, sizeof words);
        slate_finding_words(&copy, finding, (enum slate_finding_part)part,
                            &text);
        if (strlen(words) <= 10 || strlen(words) >= 400 ||
            strpbrk(words, "{}") != NULL)
            print_message("%s: %s\n", slate_finding_name(finding->id), words);
        assert_true(strlen(words) > 10 && strlen(words) < 400);
        assert_null(strpbrk(words, "{}"));
        assert_int_equal(words[strlen(words) - 1], '.');
        assert_true((words[0] >= '0' && words[0] <= 'Z') ||
                    strncmp(words, "ex", 2) == 0);
    }
    s.facts = copy;
}

/* What is recommended can be drafted, as it stands. */
static void remedy_can_be_drafted(const struct slate_finding *finding)
{
    struct slate_remedy remedy;

    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    slate_advise_remedy(&s.draft, &s.facts, finding, &remedy);
    if (remedy.kind == SLATE_REMEDY_MEND)
        assert_ok(session_mend(&s, &remedy.mend));
    if (remedy.kind != SLATE_REMEDY_RENEW)
        return;
    assert_true(remedy.minutes >= 1);
    if (remedy.feasible == SLATE_OK)
        assert_ok(session_remedy(&s, &remedy));
    else
        assert_true(session_remedy(&s, &remedy) != SLATE_OK);
}

static void each_case_shows_its_findings(void **state)
{
    uint32_t wrong = 0;

    (void)state;
    for (size_t i = 0; corpus_case(i) != NULL; i++) {
        const struct corpus_case *one = corpus_case(i);
        struct slate_finding findings[SLATE_FINDINGS_MAX];
        char found[1024];
        uint32_t count;
        struct ram ram;

        one->build(&ram);
        ram.port.context = &ram;
        assert_ok(session_look(&s, &ram));
        findings_of(found, findings, &count);
        if (strcmp(found, one->findings) != 0) {
            print_message("%s\n  expected %s\n  found    %s\n", one->name,
                          one->findings, found);
            wrong++;
        }
        for (uint32_t j = 0; j < count; j++) {
            words_are_whole(&findings[j]);
            remedy_can_be_drafted(&findings[j]);
        }
        assert_int_equal(ram.writes, 0);
        assert_true(s.media.traffic.commands <= 256);
        assert_true(s.media.traffic.blocks_read * ram.facts.block_bytes <=
                    4194304);
        ram_close(&ram);
    }
    assert_int_equal(wrong, 0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_case_shows_its_findings),
    };

    return cmocka_run_group_tests_name("corpus", tests, NULL, NULL);
}
