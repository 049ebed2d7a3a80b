/* SPDX-License-Identifier: MIT */
/* Running the tool and the scripts as programs. */
#ifndef TESTS_PROGRAM_H
#define TESTS_PROGRAM_H

#include <stdbool.h>
#include <stddef.h>

struct program {
    const char *input; /* given on standard input; NULL: nothing */
    bool as_nobody;    /* drops root's rights first */
    bool at_terminal;  /* all three streams are one: input is typed, and all
                          that is shown is in out */
    const char *type_after;       /* typed once this is shown; NULL: at once */
    bool (*interrupt_when)(void); /* sends the signal once this holds */
    int signal;                   /* 0: SIGINT */
    int code;                     /* exit code; 128 + signal when killed */
    char out[262144];             /* what it printed */
    char err[16384];
};

/* Runs a command line given as words up to NULL: with signals as they are by
 * default, whatever was made of them here, and with folders of a user that are
 * below program_folder. The fields above code are input and stay; the others
 * are filled in. */
void program_run(struct program *program, const char *const *words);

/* The same for the tool: words are split at spaces, '$' stands for the folder
 * made by program_folder. */
int tool_run(struct program *program, const char *line);

/* The same for a line of shell, in which TOOL and FOLDER are set. */
int shell_run(struct program *program, const char *line);

/* A fresh temporary folder, removed by program_clean. */
const char *program_folder(void);
void program_clean(void);

/* A path in that folder; valid until the eighth next call. */
const char *in_folder(const char *name);

#endif
