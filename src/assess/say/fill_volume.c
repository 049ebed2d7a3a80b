/* SPDX-License-Identifier: MIT */
/* Filling the templates: what is in the partitions. */
#include "assess/say/fill.h"
#include "base/base.h"
#include "volume/common/common.h"

static void say_label(const struct slate_volume *volume,
                      struct slate_text *text)
{
    if (volume->label[0] == '\0')
        return;
    SLATE_SAY(text, " labelled \"{}\"", AS_TEXT(volume->label));
}

static const struct slate_volume *volume_of(const struct slate_facts *facts,
                                            uint32_t i, uint64_t *room)
{
    return slate_facts_volume(facts, i, room);
}

static void fill_volume(const struct slate_telling *to)
{
    uint64_t room;
    const struct slate_volume *volume = volume_of(to->facts, to->i, &room);

    slate_text_add(to->text, slate_volume_words(volume->kind));
    say_label(volume, to->text);
}

static const char *member_words(enum slate_volume_kind kind)
{
    const char *part_of = slate_kind_of(kind)->part_of;

    return part_of == NULL ? "a part of a dynamic disk" : part_of;
}

static void fill_member(const struct slate_telling *to)
{
    uint64_t room;
    const struct slate_volume *volume = volume_of(to->facts, to->i, &room);

    slate_text_add(to->text, volume->mirror ? "a member of a mirror"
                                            : member_words(volume->kind));
    say_label(volume, to->text);
}

/* What a host needs beside the device itself. */
static void fill_more(const struct slate_telling *to)
{
    uint64_t room;
    const struct slate_volume *volume = volume_of(to->facts, to->i, &room);

    if (volume->mirror)
        slate_text_add(to->text, "hosts may show the file system in it, and "
                                 "writing to it alone breaks the mirror");
    else if (slate_kind_of(volume->kind)->keyed)
        slate_text_add(to->text, "hosts need its key to show what is in it");
    else
        slate_text_add(to->text, "hosts need its other members, or its own "
                                 "system, to show what is in it");
}

/* Where hosts look for a volume. */
static void fill_nothing_there(const struct slate_telling *to)
{
    const struct slate_volume *volume = &to->facts->volume[to->i];
    size_t start = to->text->used;

    slate_say_partition(&to->facts->partition[to->i], to->text);
    if (start < to->text->used)
        to->text->bytes[start] = 'P';
    if (volume->lost != SLATE_VOLUME_NONE) {
        SLATE_SAY(to->text,
                  " begins with nothing that can be read; a sound copy of the "
                  "first block of {} stands at block {}.",
                  AS_TEXT(slate_volume_words(volume->lost)),
                  AS_NUMBER(volume->copy_lba));
        return;
    }
    slate_text_add(to->text, volume->kind == SLATE_VOLUME_NONE
                                 ? " begins with zeros where a volume would "
                                   "begin; the rest of it was not read."
                                 : " begins with content that no known volume "
                                   "begins with; the rest of it was not read.");
}

static void fill_nothing_cause(const struct slate_telling *to)
{
    const struct slate_volume *volume = &to->facts->volume[to->i];

    if (volume->lost != SLATE_VOLUME_NONE)
        slate_text_add(to->text, "The first blocks of the volume were erased, "
                                 "overwritten or damaged.");
    else if (volume->kind == SLATE_VOLUME_NONE)
        slate_text_add(
            to->text,
            "It was never formatted, or its first blocks were erased.");
    else
        slate_text_add(to->text,
                       "Its first blocks were overwritten or damaged, or it "
                       "belongs to a system with a format of its own.");
}

static void fill_nothing_help(const struct slate_telling *to)
{
    if (to->facts->volume[to->i].lost != SLATE_VOLUME_NONE)
        slate_text_add(to->text,
                       "Do not format it: the copy brings the volume back, by "
                       "a tool of the system that made it. If nobody needs "
                       "what is in it, renew the device.");
    else
        slate_text_add(
            to->text,
            "Ask whether anything in it is needed before anybody formats it. "
            "If not, renew the device: one volume over the full capacity.");
}

static void fill_place(const struct slate_telling *to)
{
    if (to->facts->layout.kind == SLATE_TABLE_NONE)
        slate_text_add(to->text, "block 0");
    else
        slate_say_partition(&to->facts->partition[to->i], to->text);
}

static void fill_type(const struct slate_telling *to)
{
    char guid[SLATE_GUID_TEXT];

    slate_text_add(to->text, "type ");
    if (to->facts->layout.kind == SLATE_TABLE_GPT) {
        slate_guid_text(&to->facts->partition[to->i].type, guid);
        slate_text_add(to->text, guid);
        return;
    }
    SLATE_SAY(to->text, "{}h", AS_HEX(to->facts->partition[to->i].mbr_type, 2));
}

static void fill_volume_bytes(const struct slate_telling *to)
{
    uint64_t room;

    slate_text_size(to->text, volume_of(to->facts, to->i, &room)->bytes);
}

static void fill_room(const struct slate_telling *to)
{
    uint64_t room;

    (void)volume_of(to->facts, to->i, &room);
    slate_text_size(to->text, room);
}

static void fill_slack(const struct slate_telling *to)
{
    uint64_t room;
    uint64_t bytes = volume_of(to->facts, to->i, &room)->bytes;

    slate_text_size(to->text, bytes < room ? room - bytes : bytes - room);
}

static void fill_attributes(const struct slate_telling *to)
{
    uint64_t bits = to->facts->partition[to->i].attributes;

    if ((bits & SLATE_GPT_READ_ONLY) != 0)
        slate_text_add(to->text, "read-only: hosts do not write to it");
    else if ((bits & SLATE_GPT_NO_LETTER) != 0 &&
             (bits & SLATE_GPT_HIDDEN) == 0)
        slate_text_add(to->text, "not to be mounted by itself: hosts show it "
                                 "only when they are told to");
    else
        slate_text_add(to->text, "hidden: hosts do not show it");
}

static void fill_attribute_bits(const struct slate_telling *to)
{
    if (to->facts->layout.kind != SLATE_TABLE_GPT)
        return;
    SLATE_SAY(to->text, ", attributes {}h",
              AS_HEX(to->facts->partition[to->i].attributes, 16));
}

static void fill_copy(const struct slate_telling *to)
{
    uint64_t room;
    const struct slate_volume *volume = volume_of(to->facts, to->i, &room);

    if (volume->copy == SLATE_COPY_OUTSIDE) {
        SLATE_SAY(to->text, "the copy would lie outside, at block {}",
                  AS_NUMBER(volume->copy_lba));
        return;
    }
    SLATE_SAY(to->text, "the copy at block {} says something else",
              AS_NUMBER(volume->copy_lba));
}

static void fill_state(const struct slate_telling *to)
{
    uint64_t room;

    slate_text_add(to->text,
                   volume_of(to->facts, to->i, &room)->replay
                       ? "has a log with changes that were not finished"
                       : "carries the mark");
}

/* What its host uses now may well be marked so. */
static void fill_dirty(const struct slate_telling *to)
{
    slate_text_add(
        to->text,
        to->facts->in_use
            ? "A volume carries the mark of one that is in use, and the device "
              "is in use."
            : "A volume was not unmounted properly, or is marked as damaged.");
}

static void fill_dirty_cause(const struct slate_telling *to)
{
    slate_text_add(
        to->text, to->facts->in_use
                      ? "Hosts set the mark for as long as a volume is mounted."
                      : "The device was unplugged, or its host stopped, while "
                        "it was in use; or it was copied then.");
}

static void fill_dirty_remedy(const struct slate_telling *to)
{
    slate_text_add(
        to->text, to->facts->in_use
                      ? "Nothing has to be done. What is marked still, once it "
                        "was released, has to be checked by the host that "
                        "wrote it."
                      : "Let the host that wrote it check the volume; eject "
                        "the device before unplugging it.");
}

static void fill_volume_count(const struct slate_telling *to)
{
    slate_say_count(slate_facts_volumes(to->facts), "volume", to->text);
}

static void fill_optical_label(const struct slate_telling *to)
{
    say_label(slate_facts_optical(to->facts), to->text);
}

static void fill_optical_bytes(const struct slate_telling *to)
{
    slate_text_size(to->text, slate_facts_optical(to->facts)->bytes);
}

static void fill_boot(const struct slate_telling *to)
{
    if (slate_facts_optical(to->facts)->kind == SLATE_VOLUME_OPTICAL) {
        slate_text_add(to->text, "A volume descriptor and a boot record stand "
                                 "at byte 32768; the image claims ");
        fill_optical_bytes(to);
        slate_text_add(to->text, ".");
        return;
    }
    slate_text_add(to->text, to->facts->layout.boot_code
                                 ? "Block 0 holds start-up code"
                                 : "There is a start-up partition");
    for (uint32_t i = 0; i < to->facts->layout.count; i++) {
        if (!to->facts->partition[i].active &&
            to->facts->partition[i].mbr_type != SLATE_MBR_EFI_SYSTEM)
            continue;
        slate_text_add(to->text, "; ");
        slate_say_partition(&to->facts->partition[i], to->text);
        slate_text_add(to->text, to->facts->partition[i].active
                                     ? " is active and holds "
                                     : " holds ");
        fill_volume(&(struct slate_telling){to->facts, i, to->text});
    }
    slate_text_add(to->text, ".");
}

/* Where the two block sizes were seen to differ. */
static void fill_mismatch(const struct slate_telling *to)
{
    const struct slate_volume *volume;
    uint64_t room;

    for (uint32_t i = 0; (volume = volume_of(to->facts, i, &room)) != NULL;
         i++) {
        if (volume->block_bytes != to->facts->made_for)
            continue;
        fill_volume(&(struct slate_telling){to->facts, i, to->text});
        slate_text_add(to->text, " at ");
        fill_place(&(struct slate_telling){to->facts, i, to->text});
        SLATE_SAY(to->text,
                  " claims {} in such blocks, where there is room for {}.",
                  AS_SIZE(volume->bytes), AS_SIZE(room));
        return;
    }
    SLATE_SAY(to->text,
              "The structures stand where blocks of {} bytes put them.",
              AS_NUMBER(to->facts->made_for));
}

const struct slate_fill slate_fills_of_volume[] = {
    {"volume", fill_volume},
    {"more", fill_more},
    {"place", fill_place},
    {"type", fill_type},
    {"volume-bytes", fill_volume_bytes},
    {"room", fill_room},
    {"slack", fill_slack},
    {"attributes", fill_attributes},
    {"attribute-bits", fill_attribute_bits},
    {"nothing-there", fill_nothing_there},
    {"nothing-cause", fill_nothing_cause},
    {"nothing-help", fill_nothing_help},
    {"member", fill_member},
    {"copy", fill_copy},
    {"state", fill_state},
    {"dirty", fill_dirty},
    {"dirty-cause", fill_dirty_cause},
    {"dirty-remedy", fill_dirty_remedy},
    {"volume-count", fill_volume_count},
    {"optical-label", fill_optical_label},
    {"optical-bytes", fill_optical_bytes},
    {"boot", fill_boot},
    {"mismatch", fill_mismatch},
    {NULL, NULL}};
