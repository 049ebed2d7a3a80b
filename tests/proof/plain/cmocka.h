/* SPDX-License-Identifier: MIT */
/* The few words of cmocka that the core's tests use, for machines for which
 * there is no package of it: the first failure ends the program. */
#ifndef TESTS_PLAIN_CMOCKA_H
#define TESTS_PLAIN_CMOCKA_H

#include <stdarg.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

struct CMUnitTest {
    const char *name;
    void (*run)(void **state);
    int (*setup)(void **state);
};

#define cmocka_unit_test(test)                                                 \
    {                                                                          \
#test, test, NULL                                                      \
    }
#define cmocka_unit_test_setup(test, setup)                                    \
    {                                                                          \
#test, test, setup                                                     \
    }

#define print_message printf
#define fail_msg(...)                                                          \
    (printf("%s:%d: ", __FILE__, __LINE__), printf(__VA_ARGS__), puts(""),     \
     exit(1))
#define plain_hold(holds, words)                                               \
    ((holds) ? (void)0 : fail_msg("%s does not hold", words))

#define assert_true(a) plain_hold(a, #a)
#define assert_false(a) plain_hold(!(a), "not " #a)
#define assert_null(a) plain_hold((a) == NULL, #a " is NULL")
#define assert_non_null(a) plain_hold((a) != NULL, #a " is not NULL")
#define assert_int_equal(a, b)                                                 \
    plain_hold((uint64_t)(a) == (uint64_t)(b), #a " == " #b)
#define assert_int_not_equal(a, b)                                             \
    plain_hold((uint64_t)(a) != (uint64_t)(b), #a " != " #b)
#define assert_in_range(a, least, most)                                        \
    plain_hold((uint64_t)(a) >= (uint64_t)(least) &&                           \
                   (uint64_t)(a) <= (uint64_t)(most),                          \
               #a " in range")
#define assert_string_equal(a, b) plain_hold(strcmp(a, b) == 0, #a " == " #b)
#define assert_string_not_equal(a, b)                                          \
    plain_hold(strcmp(a, b) != 0, #a " != " #b)
#define assert_memory_equal(a, b, n)                                           \
    plain_hold(memcmp(a, b, n) == 0, #a " == " #b)
#define assert_memory_not_equal(a, b, n)                                       \
    plain_hold(memcmp(a, b, n) != 0, #a " != " #b)

static inline int plain_run(const struct CMUnitTest *test, size_t count)
{
    const char *left_out = getenv("LEFT_OUT");
    void *state = NULL;

    for (size_t i = 0; i < count; i++) {
        if (left_out != NULL && strstr(left_out, test[i].name) != NULL)
            continue;
        if (test[i].setup != NULL && test[i].setup(&state) != 0)
            return 1;
        printf("%s\n", test[i].name);
        fflush(stdout);
        test[i].run(&state);
    }
    return 0;
}

#define cmocka_run_group_tests_name(name, tests, setup, teardown)              \
    plain_run(tests, sizeof(tests) / sizeof(tests)[0])

#endif
