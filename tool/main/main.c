/* SPDX-License-Identifier: MIT */
/* trueslate: renews sticks, cards and disks. The table of verbs. */

#include "main/main.h"
#include "term/term.h"
#include "verbs/verbs.h"

static const struct verb verbs[] = {
    {"survey", NULL, TAKES(TAKES_BENCH, TAKES_JSON, TAKES_MEMORY),
     "what is attached",
     "Lists the attached devices: tag, size, what is on each, what is "
     "wrong.\vExample:\n  trueslate survey",
     verb_survey},
    {"await", NULL, TAKES(TAKES_BENCH, TAKES_JSON, TAKES_SECONDS),
     "wait for the next device to be plugged in",
     "Waits until a device is plugged in, and presents it.\vExample:\n  "
     "trueslate await --seconds 60",
     verb_await},
    {"assess", "[DEVICE...]",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE, TAKES_SEVERAL,
           TAKES_PICTURE),
     "what is on devices, and what is wrong with them",
     "Tells what is on DEVICE (sim:NAME, file:PATH, dev:NAME or a tag), what "
     "hosts show of it, why, and what helps. Several devices, or none named "
     "(all that are attached), get one line each, the worst first. Writes "
     "nothing.\vExample:\n  trueslate assess sim:tide-gauge-7 --picture "
     "tide.svg",
     verb_assess},
    {"advise", "DEVICE", TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE),
     "which table and file system suit who will read it",
     "Tells for each use of DEVICE which table and file system suit it, why, "
     "and what speaks against them. Writes nothing.\vExample:\n  trueslate "
     "advise sim:tide-gauge-7",
     verb_advise},
    {"guards", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE, TAKES_LIFT,
           TAKES_PASSWORD, TAKES_CONSENT, TAKES_ANYWAY),
     "what protects a device, and lifting it",
     "Tells what protects DEVICE: where it lives, what it stops, and whether a "
     "command, a person or nothing lifts it. With --lift lifts it, and looks "
     "again.\vExample:\n  trueslate guards sim:logger-card-5 --lift all "
     "--consent HEZES-67",
     verb_guards},
    {"probe", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_EVIDENCE, TAKES_BLOCK_SIZE,
           TAKES_CONSENT, TAKES_GIVE_UP),
     "whether a device keeps what it is given",
     "Writes to a few blocks of DEVICE, reads them back and restores them: "
     "finds devices that claim more than they have, or drop what is written. "
     "The old blocks are kept in a file meanwhile, and put "
     "back.\vExample:\n  trueslate probe sim:bargain-128 --consent "
     "XUDER-68",
     verb_probe},
    {"draft", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_GOAL, TAKES_BLOCK_SIZE, TAKES_OUTPUT,
           TAKES_LIFT, TAKES_SCAN, TAKES_CLEAR, TAKES_MEND, TAKES_PICTURE,
           TAKES_ANYWAY, TAKES_TRYING),
     "what renewing a device would do",
     "Shows DEVICE before and after, what will be lost and every step, and "
     "keeps the draft in a file. Writes nothing to the device. An earlier "
     "draft in place of DEVICE is revised: what is not said is as "
     "before.\vExample:\n  trueslate draft sim:tide-gauge-7 --for logger "
     "--label TIDE-7 -o tide.draft.json\n  trueslate draft tide.draft.json "
     "--part 4GB --label LOGS --part rest --label SPARE\n  trueslate draft "
     "sim:tide-gauge-7 --keep 1 --part rest --label TIDE-7",
     verb_draft},
    {"enact", "FILE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_CONSENT, TAKES_FILES, TAKES_JOURNAL,
           TAKES_FAILED, TAKES_ANYWAY, TAKES_TRYING),
     "carry out a draft, or go on with an interrupted one",
     "Writes what the draft in FILE says to its device. Everything that the "
     "draft lists as lost is lost.\vExample:\n  trueslate enact "
     "tide.draft.json --consent TARUK-47",
     verb_enact},
    {"prove", "FILE", TAKES(TAKES_BENCH, TAKES_JSON, TAKES_FILES),
     "read back what a draft wrote, and compare",
     "Reads back every block that the draft in FILE wrote and compares it. "
     "Writes nothing.\vExample:\n  trueslate prove tide.draft.json",
     verb_prove},
    {"renew", "DEVICE...",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_EVIDENCE, TAKES_GOAL,
           TAKES_BLOCK_SIZE, TAKES_OUTPUT, TAKES_CONSENT, TAKES_SEVERAL,
           TAKES_LIFT, TAKES_SCAN, TAKES_SCAN_WRITES, TAKES_PASSWORD,
           TAKES_AFRESH, TAKES_TRYING, TAKES_JOURNAL, TAKES_FAILED, TAKES_WAY,
           TAKES_ANYWAY),
     "assess, draft, ask, enact and prove in one go",
     "Makes DEVICE one volume of full capacity. Shows what is on it and what "
     "will be done, asks for its tag, writes, reads everything back. Several "
     "devices are shown and asked for one after the other, and renewed side by "
     "side; --consent takes their tags with commas between them.\vExample:\n  "
     "trueslate renew sim:tide-gauge-7 --for logger --label TIDE-7",
     verb_renew},
    {"overwrite", "DEVICE...",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_EVIDENCE, TAKES_BLOCK_SIZE,
           TAKES_OUTPUT, TAKES_CONSENT, TAKES_SEVERAL, TAKES_LIFT,
           TAKES_PASSWORD, TAKES_AFRESH, TAKES_TRYING, TAKES_OVERWRITE,
           TAKES_FAILED),
     "overwrite all that is on a device, and read it back",
     "Overwrites DEVICE, one of its partitions, or what none of them holds, in "
     "as many rounds as --with names, and reads it back. Blocks that fail are "
     "listed, and all others are done. What is cut short goes on. Afterwards "
     "the device has neither table nor volume; 'renew --overwrite' makes them "
     "in the same go.\vExample:\n  trueslate overwrite sim:winch-disk --with "
     "random,zero",
     verb_overwrite},
    {"erase", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_EVIDENCE, TAKES_BLOCK_SIZE,
           TAKES_CONSENT, TAKES_WAY),
     "have a device erase itself, and see whether it did",
     "Lists the ways in which DEVICE can erase itself by a command of its own: "
     "what each reaches, what not, what a power cut does, and which suits what "
     "stays in the house or leaves it. With --way it does so, waits, and "
     "compares with what was there. A device that is at it already is waited "
     "for.\vExample:\n  trueslate erase sim:station-nvme-1 --way "
     "sanitize-block",
     verb_erase},
    {"lowlevel", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_EVIDENCE, TAKES_CONSENT,
           TAKES_LOWLEVEL, TAKES_FAILED),
     "give a device its sectors: cylinders, interleave, size of blocks",
     "Shows what is below the blocks of DEVICE. With --drive and its like "
     "gives a drive with tracks its sectors: bad places from its sticker are "
     "left out, the interleave is measured, all of it is read before and "
     "afterwards, and what is bad is compared with the sticker. With --blocks "
     "gives newer disks another size of blocks. Everything on it is "
     "lost.\vExample:\n  trueslate lowlevel sim:winch-disk-2 --drive drum-20 "
     "--interleave measure --sticker 31/2/1870,77/0/9020",
     verb_lowlevel},
    {"evidence", "FILE", TAKES(TAKES_JSON),
     "whether a report is as it was written",
     "Tells whether FILE, the .html or .json that --evidence wrote, is as it "
     "was written. Whoever changes one can make a new checksum: compare it "
     "with the one that stands in the ticket.\vExample:\n  trueslate evidence "
     "ticket-4711.html",
     verb_evidence},
    {"tray", NULL,
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_EVIDENCE, TAKES_GOAL, TAKES_CONSENT,
           TAKES_LIFT, TAKES_EXPECT, TAKES_AFRESH, TAKES_TRYING, TAKES_SECONDS,
           TAKES_REWIND),
     "renew one device after the other as they are plugged in",
     "Waits for devices. Each that is plugged in from then on, and is what "
     "--expect says, is shown; its tag is asked for, or has to be among those "
     "of --consent; then it is renewed as the options say, and ejected, while "
     "others come. What was attached before is not touched. Ends with Ctrl-D, "
     "or when nothing has happened for --seconds, with a tally.\vExample:\n  "
     "trueslate tray --expect card,32GB --for logger --label LOGGER",
     verb_tray},
    {"relabel", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE, TAKES_LABEL, TAKES_OUTPUT,
           TAKES_CONSENT, TAKES_JOURNAL, TAKES_ANYWAY),
     "give a volume another name, in place",
     "Changes the label of a volume on DEVICE, every copy of it and nothing "
     "else, reads it back and compares. Without --consent "
     "shows what would change.\vExample:\n  trueslate relabel sim:winch-disk "
     "--label WINCH-2 --consent SEGAG-66",
     verb_relabel},
    {"scan", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_CONSENT, TAKES_SWEEP, TAKES_JSON, TAKES_EVIDENCE,
           TAKES_BLOCK_SIZE, TAKES_FROM, TAKES_PICTURE, TAKES_FAILED),
     "read every block: how fast, and which fail",
     "Reads all of DEVICE: which blocks cannot be read, which only at a second "
     "try, and which regions are slow; draws its pace from the first block to "
     "the last. Writes nothing.\vExample:\n  trueslate scan sim:winch-disk "
     "--picture winch.png",
     verb_scan},
    {"search", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE, TAKES_SEARCH, TAKES_FROM),
     "volumes that no partition holds any more",
     "Looks on DEVICE, where no partition is, for volumes that begin there: of "
     "partitions that were deleted, or of a table that was erased. Tells of "
     "each what speaks for it. Writes nothing.\vExample:\n  trueslate search "
     "sim:tide-gauge-9",
     verb_search},
    {"mend", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE, TAKES_ONLY, TAKES_OUTPUT,
           TAKES_CONSENT, TAKES_JOURNAL, TAKES_ANYWAY),
     "make tables and first blocks right, keeping all data",
     "Makes right in place what is found on DEVICE: the copies of a GPT and "
     "their places, its protective MBR, hybrid entries, remains of an old "
     "table, the first blocks of a volume from its own copy, types and order "
     "of partitions. With --put-back gives volumes that 'search' found their "
     "entries. What would be lost is told first. Without --consent shows what "
     "would change.\vExample:\n  trueslate mend sim:shore-disk-4 --only gpt",
     verb_mend},
    {"convert", "DEVICE",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_BLOCK_SIZE, TAKES_TABLE, TAKES_PARTS,
           TAKES_OUTPUT, TAKES_CONSENT, TAKES_JOURNAL, TAKES_ANYWAY),
     "another table over the same partitions",
     "Replaces the MBR of DEVICE by a GPT, or the GPT by an MBR, where the "
     "blocks that it needs are free: the partitions keep their places and all "
     "that is in them; logical ones become plain ones. With --part the largest "
     "run of blocks that they leave gets new ones as well. Without --consent "
     "shows what would change.\vExample:\n  trueslate convert sim:shore-disk-3 "
     "--table gpt --part rest --label ARCHIVE",
     verb_convert},
    {"rewind", "JOURNAL [DEVICE]",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_SEVERAL, TAKES_CONSENT, TAKES_FILES,
           TAKES_ANYWAY, TAKES_BLOCK_SIZE),
     "put back what a draft has replaced",
     "Restores what a draft has replaced, byte for byte, out of the JOURNAL "
     "that was kept ahead of its first write; also where that was cut short. "
     "DEVICE has to be named where the tag does not tell: for images. Refused "
     "where the device has been used since, and where a newer journal of it "
     "has "
     "to be rewound first. Only a journal of an earlier version needs the "
     "placed "
     "files, by --files, to know them again.\vExample:\n  trueslate rewind "
     "TARUK-47-3f8a12c09b77d1e4 --consent TARUK-47",
     verb_rewind},
    {"journals", "[JOURNAL...]",
     TAKES(TAKES_BENCH, TAKES_JSON, TAKES_SEVERAL, TAKES_DROP),
     "what can be put back",
     "Lists the journals that were kept, the newest first: of which device, "
     "when, before what, how large; with --compare whether each can be rewound "
     "still. A tag lists those of one device.\vExample:\n  trueslate journals "
     "TARUK-47",
     verb_journals},
    {"release", "DEVICE", TAKES(TAKES_BENCH, TAKES_BLOCK_SIZE),
     "unmount a device and dissolve what is stacked on it",
     "Takes away what the host has on DEVICE: mounts, swap, mappings, loop "
     "devices; names the program that holds what will not go.\vExample:\n  "
     "trueslate release TARUK-47",
     verb_release},
    {"eject", "DEVICE", TAKES(TAKES_BENCH, TAKES_BLOCK_SIZE),
     "make a device safe to unplug",
     "Makes all that was written durable, stops the device and says when it "
     "can be unplugged.\vExample:\n  trueslate eject TARUK-47",
     verb_eject},
    {"bench", "DIR", TAKES(TAKES_BENCH),
     "lay out a fresh bench of simulated devices",
     "Lays out the simulated devices described in DIR on the bench anew; what "
     "was on them is gone.\vExample:\n  trueslate bench share/bench --bench "
     "bench",
     verb_bench},
    {"plug", "NAME", TAKES(TAKES_BENCH), "plug a simulated device in",
     "Plugs a device of the bench in.\vExample:\n  trueslate plug tide-gauge-7",
     verb_plug},
    {"unplug", "NAME", TAKES(TAKES_BENCH), "plug a simulated device out",
     "Plugs a device of the bench out: it is not there until it is plugged "
     "in.\vExample:\n  trueslate unplug tide-gauge-7",
     verb_unplug},
};

#define VERB_COUNT (sizeof verbs / sizeof verbs[0])

static int print_help(void)
{
    puts(
        "Usage: trueslate VERB ...\n\n"
        "Renews a USB stick, SD card or disk that shows the wrong size or odd\n"
        "partitions: one table, one volume, full capacity.\n");
    for (size_t i = 0; i < VERB_COUNT; i++)
        printf("  %-9s %-11s %s\n", verbs[i].name,
               verbs[i].operand == NULL ? "" : verbs[i].operand,
               verbs[i].summary);
    puts(
        "\nDEVICE is sim:NAME, file:PATH, dev:NAME or a tag such as TARUK-47.\n"
        "'trueslate VERB --help' tells more; 'man trueslate' tells all.\n\n"
        "Exit codes: 0 done, 1 internal error, 2 wrong usage, 3 refused for\n"
        "safety, 4 device error, 5 not proved, 6 interrupted, 7 the goal does\n"
        "not fit the device.");
    return 0;
}

static const struct verb *find_verb(const char *name)
{
    for (size_t i = 0; i < VERB_COUNT; i++) {
        if (strcmp(name, verbs[i].name) == 0)
            return &verbs[i];
    }
    return NULL;
}

static const char *list_verbs(void)
{
    static char list[20 * VERB_COUNT];
    size_t used = 0;

    for (size_t i = 0; i < VERB_COUNT; i++)
        used += (size_t)snprintf(list + used, sizeof list - used, "%s%s",
                                 i == 0                ? ""
                                 : i + 1 == VERB_COUNT ? " or "
                                                       : ", ",
                                 verbs[i].name);
    return list;
}

/* Known before all words are: they may make no sense. */
static bool wants_json(int count, char **words)
{
    for (int i = 1; i < count; i++) {
        if (strcmp(words[i], "--json") == 0)
            return true;
    }
    return false;
}

int main(int count, char **words)
{
    const struct verb *verb;
    struct options options;
    int code;

    streams_begin();
    paint_begin();
    progress_guard(wants_json(count, words));
    if (wants_json(count, words))
        report_failures();
    if (count < 2) {
        print_help();
        return (int)SLATE_CLASS_USAGE;
    }
    if (strcmp(words[1], "--help") == 0)
        return print_help();
    if (strcmp(words[1], "--version") == 0) {
        puts("trueslate " SLATE_VERSION);
        return 0;
    }
    verb = find_verb(words[1]);
    if (verb == NULL)
        return fail(SLATE_ERR_ARGUMENT, "'%s' is no verb; expected %s",
                    words[1], list_verbs());
    parse_options(verb, count - 1, words + 1, &options);
    code = verb->run(&options);
    options_forget(&options);
    return code;
}
