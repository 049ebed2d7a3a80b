/* SPDX-License-Identifier: MIT */
/* The findings in words: what is so, where it was seen, how that comes about,
 * what helps. fill.c tells what stands for each {name}. */
#include "assess/judge/judge.h"
#include "trueslate/mendable.h"
#include "assess/judge/mendable.h"
#include "base/say.h"

struct wording {
    const char *text, *evidence, *cause, *help;
};

/* With "copy off what is needed first" over every sound volume. */
#define RENEW "{renew}"
#define SAVE_FIRST                                                             \
    "Copy off what is needed, then renew the device: one volume over the "     \
    "full capacity."

/* in the order of enum slate_finding_id */
static const struct wording wordings[] = {
    /* no-medium */
    {"There is no medium in it.", "The device answers: {sense}.",
     "The slot is empty, or the card does not make contact.",
     "Put the card in, or take it out, wipe its contacts and put it in again; "
     "try another reader."},
    /* unknown-capacity */
    {"The device does not tell its capacity.",
     "It answers, but reports {blocks} blocks of {block-bytes} bytes; it calls "
     "itself \"{model}\".",
     "The controller has lost its own settings and runs in its fall-back mode: "
     "the memory behind it is out of reach.",
     "Try another port once. Then take it out of service; only its maker can "
     "set it up again."},
    /* array-blocks */
    {"Its blocks are {block-bytes} bytes long: hosts cannot use them.",
     "The device reports {blocks} blocks of {block-bytes} bytes.",
     "It comes out of a storage array, which keeps checksums of its own in "
     "each block.",
     "A low-level format to blocks of 512 or 4096 bytes makes it an ordinary "
     "disk, at a host adapter that passes the commands on. What it holds is "
     "lost."},
    /* no-answer */
    {"The device does not answer as it should.", "What it said: {sense}.",
     "Bad contact, too little power, or a controller that is failing.",
     "Try another port, cable or dock, without a hub."},
    /* locked */
    {"The device is locked with a password: hosts cannot read it, and ask to "
     "format it, or show nothing.",
     "{guard-place}",
     "A recorder, a phone or a computer has locked it, so that nobody else can "
     "use it.",
     "{guard-command}"},
    /* erasing */
    {"{guard-text}", "{guard-place}",
     "Somebody had it erase or format itself, and it has not ended.",
     "{guard-command}"},
    /* unerased */
    {"{guard-text}", "{guard-place}",
     "Power failed while it formatted itself, or it could not end what it had "
     "begun.",
     "{guard-command}"},
    /* no-sectors */
    {"No sectors can be found on it.",
     "None of the key areas can be read; the answer: {sense}.",
     "Drive and controller have not been formatted together: until then, its "
     "tracks hold nothing that the controller knows.",
     "A low-level format gives it sectors. Cylinders, heads and bad places "
     "stand on its sticker."},
    /* other-controller */
    {"Its sectors were made by another controller: this one cannot read them.",
     "None of the key areas can be read; the answer: {sense}.",
     "The drive was moved to another controller, which checks its sectors in a "
     "way of its own.",
     "Put it back to its own controller if its content is needed. Else a "
     "low-level format makes it this one's; what it holds is lost."},
    /* false-capacity */
    {"The device claims {device-bytes} and has {proved-bytes}: what is written "
     "beyond that is lost.",
     "An earlier probe or scan of it, which is kept in mind by its serial "
     "number.",
     "Its controller was made to claim more than there is.",
     "Send it back. 'renew --within proved' uses what is there, and nothing "
     "stops hosts from writing beyond it."},
    /* read-errors */
    {"{bad-count} of the key areas cannot be read.",
     "Each was tried three times: {bad-list}; the answer: {sense}.",
     "The medium is failing, or the contact is bad.",
     "Copy off what can be read, now. Try another port or cable; if the blocks "
     "stay bad, do not trust the device again."},
    /* unfinished */
    {"Renewing this device was interrupted: hosts see nothing on it until it "
     "is finished.",
     "{mark-seen}.",
     "It was unplugged, or stopped, while it was being renewed.",
     "Enact the same draft again; it goes on where it stopped."},
    /* write-protected */
    {"The device is write-protected: nothing on it can be changed or renewed.",
     "{guard-place}", "{guard-text}", "{guard-command}"},
    /* block-size-mismatch */
    {"The content was made for blocks of {made-for} bytes, but the device "
     "counts in blocks of {block-bytes}: sizes and places are off by the same "
     "factor.",
     "{mismatch}",
     "A dock that translates blocks: the disk was set up in another one, or "
     "without one.",
     "To read the files, use the dock or port it was set up in. To go on with "
     "this one, renew the device here; everything on it is lost then."},
    /* hidden-capacity */
    {"{native-hidden} of {native} are hidden by the device itself.",
     "It shows {blocks} blocks; its native capacity is {native-blocks}.",
     "A limit was set in the device: by a maker for its recovery area, or by a "
     "computer that could not use all of it.",
     "Lift the limit only if nobody needs the recovery area; until then the "
     "device can be renewed to the capacity that it shows."},
    /* boot-image */
    {"A boot image{optical-label} was written over the device, and brought its "
     "own small layout along.",
     "{boot}",
     "That is how a start-up stick is made: the image overwrites the table "
     "that was there.",
     RENEW},
    /* optical-image */
    {"An optical-disc image{optical-label} was written over the device; many "
     "hosts show it read-only.",
     "A volume descriptor stands at byte 32768; the image claims "
     "{optical-bytes}.",
     "The image of a disc was copied onto the device as a whole.", RENEW},
    /* member */
    {"It holds {member}: {more}.", "Seen at {place}.",
     "The device is part of something larger, or locked with a key.",
     "Unlock or connect it on the system that it comes from. If nobody needs "
     "it any more, renew the device."},
    /* mbr-limit */
    {"An MBR cannot address more than 2^32 blocks: {beyond-mbr} of {capacity} "
     "are out of reach.",
     "The device has {blocks} blocks of {block-bytes} bytes; its table is an "
     "MBR.",
     "The disk was set up for an old host, or cloned from a smaller one.",
     "Copy off what is needed, then renew the device with a GPT."},
    /* gpt-lost */
    {"The GPT is lost: both of its copies are damaged, so hosts find no "
     "partition.",
     "Block 0 announces a GPT; {gpt-primary}; {gpt-backup}.",
     "Both ends of the device were overwritten, or only the start of it was "
     "copied from another one.",
     RENEW},
    /* gpt-primary-damaged */
    {"The first copy of the GPT is damaged; some hosts use the second one, "
     "others show nothing.",
     "{gpt-primary}; {gpt-backup}.",
     "The start of the device was overwritten, or it was unplugged while the "
     "table was being written.",
     SAVE_FIRST},
    /* gpt-second-alone */
    {"The start of the device was erased, so hosts find no table; the second "
     "GPT still names {shadow-count}.",
     "{shadow}; {gpt-primary}.",
     "The start was overwritten or erased: by a tool that prepares devices, or "
     "by hand. What lies behind it may be whole.",
     "Write nothing to it while anything on it is needed: the first copy can "
     "be "
     "made anew from the second. If nobody needs it, renew the device."},
    /* start-erased */
    {"The device has no table that names what is on it: {found}.", "{sample}",
     "The table was erased or overwritten, or the device was used without one.",
     "Write nothing to it while anything on it is needed: a table that names "
     "the right block brings a volume back. If nobody needs it, renew the "
     "device."},
    /* beyond-end */
    {"The table was made for a larger device: it reaches beyond the end of "
     "this one.",
     "{beyond}", "{beyond-cause}", SAVE_FIRST},
    /* gpt-backup-misplaced */
    {"The table ends at {table-end} of {capacity}: the rest is out of reach.",
     "The first copy of the GPT says that the second stands at block "
     "{gpt-other}; the last block is {last-block}.",
     "A smaller device was copied onto this one, or the device has grown.",
     SAVE_FIRST},
    /* gpt-backup-damaged */
    {"The second copy of the GPT is damaged; hosts still use the first one.",
     "{gpt-backup}; {gpt-primary}.",
     "The end of the device was overwritten, or never written.", SAVE_FIRST},
    /* gpt-copies-disagree */
    {"The two copies of the GPT are both sound, and tell of different "
     "partitions: which of them counts depends on the host.",
     "{gpt-primary}; {gpt-backup}; their entries have different checksums.",
     "One copy was changed or restored without the other.", SAVE_FIRST},
    /* protective-missing */
    {"The GPT is sound, but nothing in block 0 announces it: most hosts show "
     "an empty device.",
     "Block 0 has no protective entry; {gpt-primary}.",
     "Something has erased block 0 alone.", SAVE_FIRST},
    /* protective-wrong */
    {"The protective entry in block 0 is not as it should be; strict hosts "
     "reject the GPT behind it.",
     "It covers {protective}; it should cover blocks 1 to {last-block}.",
     "Written by a tool that did not follow the standard, or for another "
     "device.",
     SAVE_FIRST},
    /* hybrid-disagrees */
    {"Two tables disagree: hosts that read the MBR see other partitions than "
     "hosts that read the GPT.",
     "The MBR's {hybrid} is no partition of the GPT.",
     "A hybrid table was made, and only one half of it was changed since.",
     SAVE_FIRST},
    /* mbr-remains */
    {"An old MBR stands in front of a GPT: hosts read the old one and find no "
     "volume.",
     "No partition of the MBR holds a volume; {shadow}.",
     "Block 0 was restored, or copied from another device.", SAVE_FIRST},
    /* gpt-remains */
    {"Remains of an earlier GPT are on the device; some hosts may take them "
     "for the table.",
     "{shadow}; block 0 does not announce it.",
     "The device was set up anew without erasing the second copy at its end.",
     "Renewing the device erases them. Nothing has to be done as long as hosts "
     "show what they should."},
    /* chain-broken */
    {"The chain of logical partitions is broken: some of them are lost to "
     "hosts.",
     "{chain}.",
     "A partition was deleted or resized by a tool that did not know the "
     "others.",
     SAVE_FIRST},
    /* listed-twice */
    {"The table lists one and the same partition twice: hosts show it as two "
     "drives, and may mount it twice.",
     "{twice}",
     "The table was edited by hand, or by a tool that did not see the other "
     "entry.",
     SAVE_FIRST},
    /* overlap */
    {"Partitions share blocks: writing to one damages the other.", "{overlaps}",
     "The table was edited by hand, or by two systems that did not know of "
     "each other.",
     SAVE_FIRST},
    /* out-of-range */
    {"A partition lies outside the range that its table leaves to partitions.",
     "{outside}",
     "The table was edited by hand, or by a tool that did not know the "
     "others.",
     SAVE_FIRST},
    /* other-table */
    {"The device has a table of another kind, {table}: most hosts ask to "
     "format it.",
     "It names {partition-count}.", "It was used in another kind of system.",
     RENEW},
    /* volume-larger */
    {"The volume is larger than its room: files at its end are lost, and hosts "
     "may refuse it.",
     "{volume} at {place} claims {volume-bytes}, {slack} more than there is "
     "room for.",
     "The partition was made smaller without its volume, or copied onto a "
     "smaller device.",
     SAVE_FIRST},
    /* small-table */
    {"Hosts reach {covered} of {capacity} at most; {rest}.",
     "{end}; the device has {blocks} blocks of {block-bytes} bytes.",
     "The table or the volume was made for a smaller device, or by a tool that "
     "stops at a size of its own.",
     RENEW},
    /* unallocated */
    {"{unallocated} of {capacity} belong to no partition.", "{gaps}",
     "Partitions were deleted or made smaller, or a tool stopped at a size of "
     "its own.",
     RENEW},
    /* random-content */
    {"It holds evenly random bytes: an encrypted volume without a header, or "
     "what an overwriting pass has left.",
     "Two samples of 4096 bytes at {place} show no pattern at all.",
     "Some ways of encrypting leave no trace of themselves.",
     "Ask its owner before anything else. If nobody has a key for it, renew "
     "the device."},
    /* half-overwritten */
    {"Overwriting of it was cut short: part of what was on it may still be "
     "there.",
     "{place} begins with the mark of a draft that is not finished.",
     "It was unplugged, or stopped, while what is in it was being overwritten.",
     "Enact the same draft again to finish, or overwrite it anew."},
    /* no-volume */
    {"A partition holds no volume that hosts can read: they ask to format it.",
     "{nothing-there}", "{nothing-cause}", "{nothing-help}"},
    /* type-disagrees */
    {"The table announces something else than what is there: hosts that go by "
     "the type do not show it.",
     "{place} has {type}, but holds {volume}.",
     "It was formatted without changing the type in the table.", SAVE_FIRST},
    /* volume-smaller */
    {"The volume is smaller than its partition: {slack} of it are out of "
     "reach.",
     "{volume} at {place} claims {volume-bytes}; there is room for {room}.",
     "The partition was made larger without its volume, or an image was "
     "written into it.",
     "NTFS, ext4, XFS and Btrfs are extended by the systems that they belong "
     "to; nothing is lost. Else copy off what is needed, then renew the "
     "device: one volume over the full capacity."},
    /* attributes */
    {"A partition is marked {attributes}.",
     "{place} has {type}{attribute-bits}.",
     "Set by a tool on purpose, or left over from another use.",
     "The mark alone can be cleared in place, with nothing lost. Otherwise "
     "copy off what matters, then renew the device."},
    /* zoned */
    {"The device is zoned: it refuses writes that are not in order, and common "
     "hosts cannot use it.",
     "It reports itself as host-managed.",
     "A disk made for storage servers, recorded in overlapping tracks.",
     "Use it in the system that it was made for."},
    /* empty-table */
    {"The table has no partition: hosts show nothing, or ask to format the "
     "device.",
     "The {table} of the device names no partition. {sample}",
     "All partitions were deleted, or the device was only prepared for use.",
     RENEW},
    /* blank */
    {"No table, no volume and nothing else was found on the device; hosts ask "
     "to format it.",
     "{sample}",
     "It is new, was overwritten, or what is on it lies between "
     "the places.",
     RENEW},
    /* unknown-content */
    {"The device holds content, but neither a partition table nor a volume "
     "that is known here.",
     "{sample}",
     "A device of a machine with a format of its own, or a start that was "
     "overwritten.",
     "Ask whose it is, and copy off what is needed; then renew the device: one "
     "volume over the full capacity."},
    /* several-volumes */
    {"The device carries {volume-count}: hosts show it as several drives, or "
     "only the first of them.",
     "{partition-list}.",
     "It was divided on purpose, or came out of a camera, console or computer.",
     RENEW},
    /* two-units */
    {"The body has {units} units, which hosts show as separate devices; this "
     "is unit {unit}.",
     "The device lists {units} logical units.",
     "Its maker has set aside a part of it, often as a disc that cannot be "
     "written.",
     "Each unit is renewed by itself; the border between them is the maker's."},
    /* no-table */
    {"The volume begins at block 0, without a table; some cameras and players "
     "want one.",
     "{volume} stands at block 0.", "It was formatted as a whole.",
     "Nothing has to be done as long as hosts show it."},
    /* foreign-volume */
    {"It holds {volume}, which is made for one family of systems: others show "
     "it as unknown, and may ask to format it.",
     "Seen at {place}.", "It comes from a computer of that family.",
     "Nothing has to be done as long as it is used there. Let no other host "
     "format it."},
    /* protection-information */
    {"It is formatted with protection information: most docks and desktops "
     "cannot use it.",
     "The device reports protection information beside its blocks of "
     "{block-bytes} bytes.",
     "It comes out of a storage array.",
     "A low-level format without it makes it an ordinary disk; what it holds "
     "is "
     "lost."},
    /* odd-size */
    {"The capacity of {capacity} is far from every size that devices are sold "
     "in.",
     "The device reports {blocks} blocks of {block-bytes} bytes.",
     "Part of it may be hidden, a dock may translate its blocks, or it claims "
     "what it does not have.",
     "Compare with the size on the case."},
    /* misaligned */
    {"A partition does not begin with a physical block: writing is slower, and "
     "wears flash out.",
     "The clusters of {place} begin between physical blocks of {unit-bytes} "
     "bytes.",
     "The partition was made in cylinders, as old tools do, or moved.",
     "Nothing has to be done; renewing aligns it."},
    /* copy-differs */
    {"The copy of what a volume begins with differs from it: a repair with it "
     "would go wrong.",
     "{volume} at {place}: {copy}.",
     "An older format has left it, or one of the two is damaged.",
     "Let the host that wrote it check the volume; or copy off what is needed "
     "and renew the device."},
    /* dirty */
    {"A volume was not unmounted properly, or is marked as damaged.",
     "{volume} at {place} {state}.",
     "The device was unplugged while in use, or its volume is mounted now.",
     "Let the host that wrote it check the volume; eject the device before "
     "unplugging it."},
    /* chs-disagrees */
    {"Cylinders, heads and sectors in the table do not agree with its block "
     "numbers; very old hosts go by them.",
     "{chs}.", "The table was made for another drive geometry.",
     "Nothing has to be done for hosts of this century; renewing corrects it."},
    /* unusual-gpt */
    {"The GPT is sound but unusual; some hosts reject it.", "{unusual}.",
     "Made by a tool of its own kind, or entries were copied.",
     "Nothing has to be done as long as hosts show it; renewing makes it an "
     "ordinary one."},
    /* cut-short */
    {"Not everything was looked at: it would have taken more than a look may "
     "take.",
     "{cut-short}",
     "The device has many volumes, or answers only after several tries.",
     "What is told here holds for what was looked at. Try another port or "
     "cable if the device is slow to answer."},
    /* healthy */
    {"Nothing is wrong: the table and the volumes agree with the capacity of "
     "{capacity}.",
     "Hosts show {shown}.", "All is as it should be.",
     "Nothing has to be done."},
};

_Static_assert(sizeof wordings / sizeof wordings[0] == SLATE_FINDINGS_MAX,
               "words for each finding");

const char *slate_severity_name(enum slate_severity severity)
{
    switch (severity) {
    case SLATE_SEVERITY_TROUBLE:
        return "trouble";
    case SLATE_SEVERITY_NOTE:
        return "note";
    case SLATE_SEVERITY_FINE:
    default:
        return "fine";
    }
}

/* Within a sentence, unless it begins with an abbreviation. */
static void add_lower(const struct slate_facts *facts, enum slate_finding_id id,
                      const char *words, struct slate_text *text)
{
    size_t start = text->used;
    char *first = text->bytes + start;

    slate_words_fill(facts, id, words, text);
    if (text->used > start + 1 && first[0] >= 'A' && first[0] <= 'Z' &&
        (first[1] == ' ' || (first[1] >= 'a' && first[1] <= 'z')))
        first[0] = (char)(first[0] - 'A' + 'a');
}

/* What keeps all data helps before anything else does. */
static bool add_mend(const struct slate_facts *facts,
                     const struct slate_finding *finding,
                     struct slate_text *text)
{
    const enum slate_finding_id id = finding->id;
    struct slate_mend mend;

    if (slate_rule_remedy(id) != SLATE_REMEDY_RENEW ||
        !slate_finding_mend(facts, id, &mend))
        return false;
    if (!slate_is_at_ease(finding))
        slate_text_add(text, "Copy off what is needed, as far as it can be "
                             "read, then ");
    else
        slate_text_add(text, "What can be done: ");
    if (mend.kind == SLATE_MEND_TO_GPT) {
        SLATE_SAY(text,
                  "convert the table, all data staying: {}; the rest can get a "
                  "partition then.",
                  AS_TEXT(slate_mend_words(mend.kind)));
        return true;
    }
    SLATE_SAY(text, "mend it in place, all data staying: {}.",
              AS_TEXT(slate_mend_words(mend.kind)));
    return true;
}

void slate_finding_words(const struct slate_facts *facts,
                         const struct slate_finding *finding,
                         enum slate_finding_part part, struct slate_text *text)
{
    const enum slate_finding_id id = finding->id;
    const struct wording *wording = &wordings[id];
    const char *parts[] = {wording->text, wording->evidence, wording->cause,
                           wording->help};

    /* how it came about is not to be seen on the device */
    if (part == SLATE_FINDING_CAUSE && id != SLATE_FINDING_HEALTHY &&
        id != SLATE_FINDING_WRITE_PROTECTED) {
        slate_text_add(text, "Likely: ");
        add_lower(facts, id, parts[part], text);
        return;
    }
    if (part == SLATE_FINDING_HELP && slate_is_at_ease(finding) &&
        parts[part][0] != 'N') /* says so itself */
        slate_text_add(text, "Nothing has to be done as long as hosts show "
                             "what they should. ");
    if (part == SLATE_FINDING_HELP && add_mend(facts, finding, text))
        return;
    slate_words_fill(facts, id, parts[part], text);
}
