/* SPDX-License-Identifier: MIT */
/* Errors for people: one line on stderr, and the exit code that goes with it.
 */
#ifndef TOOL_SAY_H
#define TOOL_SAY_H

#include <trueslate/trueslate.h>

/* Exit codes are the classes of slate_status (docs/exit-codes in the manual).
 */
int exit_code(enum slate_status status);

/* Prints "trueslate: ..." and gives the exit code of the status. */
#if defined(__GNUC__)
__attribute__((format(printf, 2, 3)))
#endif
int fail(enum slate_status status, const char *format, ...);

/* What this thread has said last; "" for nothing. */
const char *say_last(void);

/* How to go on after an error: "words:", and below it a command. */
void say_how(const char *words, const char *command);

/* As fail, with the sentence of the status behind "subject: ". */
int fail_plainly(enum slate_status status, const char *subject);

/* As fail, with why a draft was refused behind "subject: ", and more behind
 * that. */
int fail_refused(const struct slate_draft *draft, enum slate_status status,
                 const char *subject, const char *more);

/* As fail, with where the device failed and what it answered. */
int fail_with_fault(enum slate_status status, const struct slate_media *media,
                    const char *subject);

#endif
