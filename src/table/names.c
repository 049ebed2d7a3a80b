/* SPDX-License-Identifier: MIT */
/* What tables and their parts are called: by people, and by programs. */
#include "base/base.h"
#include "trueslate/layout.h"

const char *slate_table_words(enum slate_table_kind kind)
{
    /* in the order of enum slate_table_kind */
    static const char *const words[] = {"no table",
                                        "MBR",
                                        "GPT",
                                        "Apple partition map",
                                        "BSD disk label",
                                        "Sun disk label",
                                        "SGI volume header"};

    return SLATE_NAME_OF(words, kind);
}

const char *slate_table_name(enum slate_table_kind kind)
{
    static const char *const names[] = {"none", "mbr", "gpt", "apple",
                                        "bsd",  "sun", "sgi"};

    return SLATE_NAME_OF(names, kind);
}

const char *slate_role_name(enum slate_role role)
{
    static const char *const names[] = {"primary", "extended", "logical"};

    return SLATE_NAME_OF(names, role);
}

const char *slate_gpt_state_name(enum slate_gpt_state state)
{
    static const char *const names[] = {
        "absent", "unreadable", "header-damaged", "array-damaged", "sound"};

    return SLATE_NAME_OF(names, state);
}

const char *slate_layout_oddity_name(uint32_t bit)
{
    static const char *const names[] = {
        "beyond-end", "overlap",    "two-active",   "unordered", "outside",
        "duplicate",  "chain-loop", "chain-broken", "chs",       "unusual-gpt"};

    _Static_assert(1u << (sizeof names / sizeof names[0] - 1) ==
                       SLATE_LAYOUT_UNUSUAL_GPT,
                   "a name for each bit");
    return SLATE_NAME_OF(names, bit);
}
