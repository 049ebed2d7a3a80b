/* SPDX-License-Identifier: MIT */
/* What leak checkers pass over; only in builds with sanitizers. */

const char *__lsan_default_suppressions(void);
const char *__lsan_default_options(void);

/* The fonts' library keeps patterns for as long as it is loaded. Giving them
 * back at the end of the program would take them from its own threads, which
 * run until then: that aborted one drawing in two on a busy machine. */
// NOLINTNEXTLINE(bugprone-reserved-identifier,cert-dcl37-c,cert-dcl51-cpp): the
// sanitizer's name
const char *__lsan_default_suppressions(void)
{
    return "leak:libfontconfig\n";
}

/* What was passed over is not told: tests read what is said. */
// NOLINTNEXTLINE(bugprone-reserved-identifier,cert-dcl37-c,cert-dcl51-cpp): the
// same
const char *__lsan_default_options(void)
{
    return "print_suppressions=0";
}
