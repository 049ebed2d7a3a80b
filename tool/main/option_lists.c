/* SPDX-License-Identifier: MIT */
/* Lists of the words that options take. */
#include "main/main.h"

#include "draft/draft.h"
#include "work/work.h"

#define ROOM 200

/* The name at an index; NULL behind the last. */
typedef const char *(*namer)(uint32_t index);

static const char *list(char text[ROOM], namer name)
{
    size_t used = 0;

    for (uint32_t i = 0; text[0] == '\0' || used > 0; i++) {
        const char *word = name(i);

        if (word == NULL)
            break;
        used += (size_t)snprintf(text + used, ROOM - used, "%s%s",
                                 i == 0                ? ""
                                 : name(i + 1) == NULL ? " or "
                                                       : ", ",
                                 word);
    }
    return text;
}

#define LIST(list_name, namer_of)                                              \
    const char *list_name(void)                                                \
    {                                                                          \
        static char text[ROOM];                                                \
        return list(text, namer_of);                                           \
    }

static const char *use(uint32_t index)
{
    return index < SLATE_USE_COUNT ? slate_use_name((enum slate_use)index)
                                   : NULL;
}

static const char *format(uint32_t index)
{
    const struct slate_format *at = slate_format_at(index);

    return at == NULL ? NULL : at->composer.name;
}

/* None comes last. */
static const char *table(uint32_t index)
{
    return index <= SLATE_TABLE_GPT ? slate_table_name((enum slate_table_kind)(
                                          (index + 1) % (SLATE_TABLE_GPT + 1)))
                                    : NULL;
}

/* Lost ones are searched for. */
static const char *mend(uint32_t index)
{
    return index < SLATE_MEND_LOST
               ? slate_mend_name((enum slate_mend_kind)index)
               : NULL;
}

static const char *gpt_attribute(uint32_t index)
{
    return index < SLATE_ATTRIBUTE_KINDS &&
                   slate_attribute_bits((enum slate_attribute_kind)index) != 0
               ? slate_attribute_name((enum slate_attribute_kind)index)
               : NULL;
}

LIST(list_uses, use)
LIST(list_formats, format)
LIST(list_tables, table)
LIST(list_mends, mend)
LIST(list_gpt_attributes, gpt_attribute)
LIST(list_read_backs, slate_read_back_name)
LIST(list_discards, overwriting_discard_name)
LIST(list_thens, then_name)
