/* SPDX-License-Identifier: MIT */
/* All devices that are attached, those of a bench or those of the host; and how
 * they are named. */
#include <ctype.h>
#include <sys/stat.h>

#include "device/device.h"

struct each {
    const char *bench;
    void (*found)(void *context, const char *address);
    void *context;
};

static void each_sim(void *context, const char *name)
{
    const struct each *each = context;
    char why[SLATE_SIM_WHY_ROOM], address[160];
    struct slate_sim *sim = NULL;
    uint32_t units = 1;

    if (slate_sim_open(each->bench, name, &sim, why) == SLATE_OK)
        units = slate_sim_units(sim);
    slate_sim_close(sim);
    for (uint32_t i = 0; i < units; i++) {
        if (i == 0)
            snprintf(address, sizeof address, "sim:%.120s", name);
        else
            snprintf(address, sizeof address, "sim:%.120s/%u", name, i);
        each->found(each->context, address);
    }
}

static void each_host(void *context, const struct slate_linux_about *about)
{
    const struct each *each = context;
    char address[64];

    snprintf(address, sizeof address, "dev:%s", about->name);
    each->found(each->context, address);
}

bool attached_each(const char *bench,
                   void (*found)(void *context, const char *address),
                   void *context)
{
    struct each each = {bench, found, context};

    if (bench == NULL)
        return slate_linux_list(each_host, &each) == SLATE_OK;
    return slate_sim_list(bench, each_sim, &each) == SLATE_OK;
}

struct search {
    const char *bench;
    const char *tag;
    char *address;
    size_t room;
    int count;
};

static void compare(void *context, const char *address)
{
    struct search *search = context;
    struct target target;

    /* also those that cannot be used: the message is about them then */
    (void)target_at(&target, address, search->bench, 0);
    if (strcmp(target.media.tag, search->tag) == 0) {
        snprintf(search->address, search->room, "%s", address);
        search->count += search->count < 2 ? 1 : 0;
    }
    target_close(&target);
}

int attached_find(const char *bench, const char *tag, char *address,
                  size_t room)
{
    struct search search = {bench, tag, address, room, 0};

    return attached_each(bench, compare, &search) ? search.count : -1;
}

struct twins {
    const struct target *of;
    uint32_t same;  /* of the very identity, itself included */
    uint32_t alike; /* of another one that has the same tag */
};

static void compare_identity(void *context, const char *address)
{
    struct twins *twins = context;
    struct target target;
    bool same_tag;

    (void)target_at(&target, address, twins->of->bench, 0);
    same_tag = strcmp(target.media.tag, twins->of->media.tag) == 0;
    if (memcmp(target.media.digest, twins->of->media.digest,
               SLATE_DIGEST_BYTES) == 0)
        twins->same++;
    else if (same_tag)
        twins->alike++;
    target_close(&target);
}

uint32_t attached_twins_of(const struct target *target, bool *alike)
{
    struct twins twins = {target, 0, 0};

    *alike = false;
    if (target->is_file ||
        !attached_each(target->sim == NULL ? NULL : target->bench,
                       compare_identity, &twins))
        return 0;
    *alike = twins.alike > 0;
    return twins.same > 1 ? twins.same - 1 : 0;
}

/* What a person types to name a device, understood as it stands. */

#define LETTERS 5u

size_t address_tag(const char *word, char tag[SLATE_TAG_ROOM])
{
    size_t at = LETTERS;

    for (size_t i = 0; i < LETTERS; i++) {
        if (!isalpha((unsigned char)word[i]))
            return 0; /* also at the end of the word */
        tag[i] = (char)toupper((unsigned char)word[i]);
    }
    at += word[at] == '-' ? 1 : 0;
    if (!isdigit((unsigned char)word[at]) ||
        !isdigit((unsigned char)word[at + 1]))
        return 0;
    tag[LETTERS] = '-';
    tag[LETTERS + 1] = word[at];
    tag[LETTERS + 2] = word[at + 1];
    tag[LETTERS + 3] = '\0';
    return at + 2;
}

bool address_same(const char *a, const char *b)
{
    while (*a != '\0' &&
           toupper((unsigned char)*a) == toupper((unsigned char)*b)) {
        a++;
        b++;
    }
    return *a == *b;
}

static bool has_kind(const char *word)
{
    return strncmp(word, "sim:", 4) == 0 || strncmp(word, "file:", 5) == 0 ||
           strncmp(word, "dev:", 4) == 0;
}

bool address_of(const char *word, char *address, size_t room)
{
    struct stat about;
    const char *kind = "";
    int length;

    if (strncmp(word, "/dev/", 5) == 0)
        kind = "dev:";
    else if (!has_kind(word) &&
             (strchr(word, '/') != NULL ||
              (stat(word, &about) == 0 && S_ISREG(about.st_mode))))
        kind = "file:";
    else if (!has_kind(word))
        return false;
    length = snprintf(address, room, "%s%s", kind, word);
    return length > 0 && (size_t)length < room;
}
