/* SPDX-License-Identifier: MIT */
/* The options that there are: a row each. A new one is a row, and where its
 * word is of a new kind, a setter. */
#ifndef TOOL_OPTION_ROWS_H
#define TOOL_OPTION_ROWS_H

#include <stddef.h>

#include "base/options.h"

/* Where the value of an option goes. */
enum option_place {
    OPTION_OWN,  /* struct options: of this run alone */
    OPTION_WISH, /* struct options: of what the device shall become */
    OPTION_GOAL, /* struct slate_goal */
    OPTION_ASK,  /* struct slate_ask of the partition that it stands behind */
    OPTION_PART  /* the same, of one that it begins */
};

/* What an option is said of. */
struct setting {
    struct options *options;
    struct slate_goal *goal;
    struct slate_ask *ask;
};

/* Sets it; NULL, or what was expected in place of the word. Once more with the
 * same word, it changes nothing. word: NULL for one without an argument */
typedef const char *(*option_setter)(const struct option_row *row,
                                     const struct setting *setting,
                                     const char *word);

/* Words with commas between them, "or" ahead of the last. */
typedef const char *(*option_list)(void);

struct option_row {
    const char *name;
    int letter; /* short form; 0: none */
    int group;  /* of the help: 1 what it becomes, 2 how, 3 where */
    const enum takes *takes;
    const char *argument; /* as the help names it; NULL: none */
    const char *doc;      /* "{}" stands for the list */
    option_setter set;
    enum option_place place;
    size_t at;        /* of the field */
    const char *once; /* what is expected in place of a second one; NULL: it
                         may be said again */
    option_list list;
};

#endif
