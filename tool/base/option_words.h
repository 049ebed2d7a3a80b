/* SPDX-License-Identifier: MIT */
/* The words behind options, as values. Each returns false for a word that makes
 * no sense. */
#ifndef TOOL_OPTION_WORDS_H
#define TOOL_OPTION_WORDS_H

#include <trueslate/trueslate.h>

bool word_use(const char *word, enum slate_use *use);
/* "16x63", or "fit". */
bool word_cylinders(const char *word, struct slate_goal *goal);
/* "exfat" */
bool word_format(const char *word, enum slate_volume_kind *kind);
bool word_table(const char *word, struct slate_goal *goal);

/* "4096", "4K", "4KiB" */
bool word_number(const char *word, uint32_t *number);
bool word_number64(const char *word, uint64_t *number);
bool word_distance(const char *word, uint64_t *bytes); /* also "64MiB" */
bool word_cluster(const char *word, uint32_t *cluster_bytes);
bool word_label(const char *word, struct slate_ask *ask);

/* "0C", or a GUID. */
bool word_type(const char *word, struct slate_ask *ask);

/* At most 36 characters. */
bool word_name(const char *word, struct slate_ask *ask);

/* "gpt-hidden,gpt-read-only" */
bool word_attributes(const char *word, uint64_t *bits);

/* The size of a partition: "8GB", "1.5TiB", "12.5%", "rest". */
bool word_size(const char *word, struct slate_ask *ask);

/* "1,3", without a zero, or "all" */
bool word_numbers(const char *word);

/* Is each of "a,b,c", of which there is one at least, a name? */
bool word_list(const char *list, bool (*is_name)(const char *name));

/* A seed has the form of a GUID without its dashes. */
bool word_seed(const char *word, uint8_t seed[16]);

/* Is this name one of the list "a,b,c"? */
bool word_is_in(const char *list, const char *name);

#endif
