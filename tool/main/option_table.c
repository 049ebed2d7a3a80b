/* SPDX-License-Identifier: MIT */
/* The options that there are, and which verbs take them. */
#include "main/option_table.h"

#include "main/option_lists.h"
#include "main/option_set.h"

#define ROUNDS                                                                 \
    "rounds of zero, random or a byte as AA, with commas between them, and "   \
    "3xrandom for three"

#define OWN(field) OPTION_OWN, offsetof(struct options, field)
#define WISH(field) OPTION_WISH, offsetof(struct options, field)
#define GOAL(field) OPTION_GOAL, offsetof(struct slate_goal, field)
#define ASK(field) OPTION_ASK, offsetof(struct slate_ask, field)

const struct option_row option_rows[] = {
    {"for", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "USE",
     "who will read it: {} (default: anything)", option_use, GOAL(use), NULL,
     list_uses},
    {"table", 0, 1, TAKES(TAKES_GOAL), "KIND",
     "partition table: {} (default: what fits the use)", option_table,
     GOAL(table), NULL, list_tables},
    {"cylinders", 0, 1, TAKES(TAKES_GOAL), "SHAPE",
     "MBR: partitions begin and end with tracks and cylinders, for systems "
     "that count them: heads and sectors of a track, as 16x63, or fit",
     option_cylinders, GOAL(cylinders), NULL, NULL},
    {"volume", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "KIND",
     "file system: {} (default: what fits the use)", option_volume, ASK(volume),
     NULL, list_formats},
    {"label", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "TEXT",
     "name of the volume, up to 11 characters; ext4: 16 bytes", option_label,
     ASK(label), NULL, NULL},
    {"cluster", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "SIZE",
     "allocation unit: 512 bytes to 64K, exfat 32M (default: what fits)",
     option_cluster, ASK(cluster_bytes), NULL, NULL},
    {"part", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "SIZE",
     "begins a partition of SIZE: 8GB, 512MiB, 25%, or rest; the options "
     "--volume, --label, --cluster, --files, --start-code, --bare, "
     "--no-journal, --active, "
     "--logical, "
     "--type, --name and --attributes that follow are its own (default: one "
     "over the whole "
     "device)",
     option_part, OPTION_PART, 0, NULL, NULL},
    {"keep", 0, 1, TAKES(TAKES_GOAL), "NUMBERS",
     "these partitions stay as they are, to the last bit: 1,3 or all; those "
     "that are not named go, and each --part is added (a container stays with "
     "all that is in it; logical partitions named one by one leave room for "
     "others between them)",
     option_keep, WISH(keep), NULL, NULL},
    {"overwrite", 0, 1, TAKES(TAKES_GOAL), "ROUNDS",
     "overwrite what goes, ahead of all else: " ROUNDS, option_rounds,
     GOAL(overwrite), NULL, NULL},
    {"with", 0, 1, TAKES(TAKES_OVERWRITE), "ROUNDS", ROUNDS " (default: zero)",
     option_rounds, GOAL(overwrite), NULL, NULL},
    {"read-back", 0, 1, TAKES(TAKES_GOAL, TAKES_OVERWRITE), "WHICH",
     "rounds that are read back and compared: {} (default: last)",
     option_read_back, GOAL(overwrite), NULL, list_read_backs},
    {"discard", 0, 1, TAKES(TAKES_GOAL, TAKES_OVERWRITE), "WHEN",
     "tell the device that it may forget what is overwritten: first, which "
     "makes flash faster, or last",
     option_discard, GOAL(overwrite), NULL, NULL},
    {"empty", 0, 1, TAKES(TAKES_GOAL), "N",
     "with --overwrite: all partitions stay, but of this one the entry alone",
     option_index, WISH(empty), NULL, NULL},
    {"partition", 0, 1, TAKES(TAKES_OVERWRITE), "N",
     "what is in this partition, and nothing else; its entry stays",
     option_index, WISH(empty), NULL, NULL},
    {"unheld", 0, 1, TAKES(TAKES_OVERWRITE), NULL,
     "what no partition holds, and nothing else", option_flag, OWN(unheld),
     NULL, NULL},
    {"keep-code", 0, 1, TAKES(TAKES_GOAL), NULL,
     "the start-up code in block 0 stays, under a new table as well",
     option_flag, GOAL(keep_code), NULL, NULL},
    {"keep-id", 0, 1, TAKES(TAKES_GOAL), NULL,
     "so does the disk signature of an MBR, or the GUID of a GPT", option_flag,
     GOAL(keep_id), NULL, NULL},
    {"entries", 0, 1, TAKES(TAKES_GOAL), "N",
     "GPT: room for so many partitions, 4 to 1024 (default: 128)",
     option_entries, GOAL(entries), NULL, NULL},
    {"type", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "TYPE",
     "type of a partition by hand: two hexadecimal digits for an MBR, a GUID "
     "for a GPT (default: the one that goes with its volume)",
     option_type, ASK(gpt_type), NULL, NULL},
    {"name", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "TEXT",
     "GPT: name of a partition (default: the label of its volume)", option_name,
     ASK(name), NULL, NULL},
    {"attributes", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), "KINDS",
     "GPT: these attributes of a partition, as 'guards' names them, with "
     "commas between them",
     option_attributes, ASK(attributes), NULL, NULL},
    {"bare", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), NULL, "without a volume",
     option_flag, ASK(bare), NULL, NULL},
    {"no-journal", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS), NULL,
     "ext4: without a journal, for small flash", option_flag, ASK(no_journal),
     NULL, NULL},
    {"active", 0, 1, TAKES(TAKES_GOAL), NULL,
     "MBR: old machines start from this partition", option_flag, ASK(active),
     NULL, NULL},
    {"logical", 0, 1, TAKES(TAKES_GOAL), NULL,
     "MBR: this partition, and in a new table those that follow, is a logical "
     "one (default: from the fourth on, where there are more)",
     option_logical, ASK(standing), NULL, NULL},
    {"files", 0, 1, TAKES(TAKES_GOAL), "FOLDER",
     "place all that is in FOLDER on the volume, with its sub-folders",
     option_files, ASK(files), "the files of one volume alone", NULL},
    {"files", 0, 2, TAKES(TAKES_FILES), "FOLDER",
     "where the files of the draft are by now (default: where they were)",
     option_text, OWN(files), NULL, NULL},
    {"files-first", 0, 1, TAKES(TAKES_GOAL), "NAMES",
     "these of them first in the root directory, in this order, as start-up "
     "code of old systems wants it: names with commas between them",
     option_text, WISH(files_first), NULL, NULL},
    {"start-code", 0, 1, TAKES(TAKES_GOAL), "FILE",
     "FAT: take the start-up code of a boot block in FILE, 512 bytes, or for "
     "FAT32 three times that; the volume's parameters stay its own",
     option_start_code, ASK(start), "the code of one volume alone", NULL},
    {"bad", 0, 1, TAKES(TAKES_GOAL, TAKES_OVERWRITE), "BLOCKS",
     "blocks that are bad and are not to be used: 812,900-911", option_bad,
     WISH(bad), NULL, NULL},
    {"bad-list", 0, 1, TAKES(TAKES_GOAL, TAKES_OVERWRITE), "FILE",
     "the same from FILE, which may have lines and # remarks", option_text,
     WISH(bad_list), NULL, NULL},
    {"scan", 0, 1, TAKES(TAKES_SCAN), NULL,
     "read every block first; those that cannot be read are not used",
     option_flag, OWN(scan), NULL, NULL},
    {"scan-writes", 0, 1, TAKES(TAKES_SCAN_WRITES), NULL,
     "once there is consent, write every block first and read it back; those "
     "that do not keep it are not used",
     option_flag, OWN(scan_writes), NULL, NULL},
    {"scan-from", 0, 1, TAKES(TAKES_SCAN), "BLOCK",
     "begin there: to go on with a scan that was stopped (with --bad for what "
     "it had found)",
     option_block, OWN(scan_from), NULL, NULL},
    {"seed", 0, 1, TAKES(TAKES_GOAL, TAKES_PARTS, TAKES_OVERWRITE), "HEX",
     "32 hexadecimal digits that serial numbers derive from, for output that "
     "repeats byte for byte (default: random)",
     option_seed, OWN(seed), NULL, NULL},
    {"clear", 0, 1, TAKES(TAKES_CLEAR), "KINDS",
     "change nothing but these attributes of the content, in place: kinds "
     "with commas between them, as 'guards' names them",
     option_clear, OWN(clear), NULL, NULL},
    {"mend", 0, 1, TAKES(TAKES_MEND), "KINDS",
     "make right in place, all else staying: gpt, hybrid, remains, start, "
     "type "
     "or order, with commas between them, or all that is found; grow, to-gpt, "
     "to-mbr",
     option_mend, OWN(mend), NULL, NULL},
    {"only", 0, 1, TAKES(TAKES_ONLY), "KINDS",
     "of what is found, these: gpt, hybrid, remains, start, type or order, "
     "with commas between them (default: all); also grow",
     option_mend, OWN(mend), NULL, NULL},
    {"put-back", 0, 1, TAKES(TAKES_ONLY, TAKES_MEND), "BLOCKS",
     "give the volumes that begin at these blocks, as 'search' found them, "
     "their entries in the table: block numbers with commas between them",
     option_put_back, OWN(put_back), NULL, NULL},
    {"table", 0, 1, TAKES(TAKES_ONLY), "KIND",
     "with --put-back, where there is no table: gpt or mbr (default: mbr, as "
     "far as that reaches)",
     option_table, GOAL(table), NULL, NULL},
    {"every", 0, 1, TAKES(TAKES_SEARCH), "SIZE",
     "from one place to the next (default: 1M); a larger one takes less time",
     option_every, OWN(every), NULL, NULL},
    {"from", 0, 1, TAKES(TAKES_FROM), "BLOCK",
     "begin there, to go on with what was stopped", option_block,
     OWN(from_block), NULL, NULL},
    {"table", 0, 1, TAKES(TAKES_TABLE), "KIND",
     "the table that it gets: gpt or mbr", option_table, GOAL(table), NULL,
     NULL},
    {"label", 0, 1, TAKES(TAKES_LABEL), "TEXT",
     "the volume's new name, adapted to its format; empty: none",
     option_relabel, OWN(relabel), NULL, NULL},
    {"partition", 0, 1, TAKES(TAKES_LABEL), "N",
     "the partition whose volume is meant (default: the only one)",
     option_index, OWN(partition), NULL, NULL},
    {"block-size", 0, 2, TAKES(TAKES_BLOCK_SIZE), "BYTES",
     "image files: the device it stands for has blocks of 512, 1024, 2048 or "
     "4096 bytes "
     "(default: as its content tells, else 512)",
     option_block_size, OWN(block_bytes), NULL, NULL},
    {"picture", 0, 2, TAKES(TAKES_PICTURE), "FILE",
     "draw it to scale into FILE, which ends in .svg, .png or .pdf",
     option_picture, OWN(picture), NULL, NULL},
    {"output", 'o', 2, TAKES(TAKES_OUTPUT), "FILE", "write the draft to FILE",
     option_text, OWN(output), NULL, NULL},
    {"replace", 0, 2,
     TAKES(TAKES_OUTPUT, TAKES_PICTURE, TAKES_JOURNAL, TAKES_FAILED,
           TAKES_EVIDENCE),
     NULL,
     "the file to be written may replace one that is there, whatever it is",
     option_flag, OWN(replace), NULL, NULL},
    {"failed", 0, 2, TAKES(TAKES_FAILED), "FILE",
     "write the blocks that failed to FILE, as --bad-list takes them",
     option_text, OWN(failed_list), NULL, NULL},
    {"journal", 0, 2, TAKES(TAKES_JOURNAL), "FILE",
     "keep in FILE what is replaced, for 'rewind' (default: in "
     "~/.local/state/trueslate, up to 2 GB)",
     option_text, OWN(journal), NULL, NULL},
    {"no-rewind", 0, 2, TAKES(TAKES_JOURNAL, TAKES_REWIND), NULL,
     "keep nothing: it cannot be put back then", option_flag, OWN(no_rewind),
     NULL, NULL},
    {"anyway", 0, 2, TAKES(TAKES_ANYWAY), NULL,
     "also where the device has been used since: that is lost", option_flag,
     OWN(anyway), NULL, NULL},
    {"drop", 0, 2, TAKES(TAKES_DROP), NULL,
     "let go of the journals that are named", option_flag, OWN(drop), NULL,
     NULL},
    {"give-up", 0, 2, TAKES(TAKES_GIVE_UP), NULL,
     "where an earlier probe's writing was never put back, zeros may stand",
     option_flag, OWN(give_up), NULL, NULL},
    {"within", 0, 1, TAKES(TAKES_GOAL, TAKES_OVERWRITE), "SIZE",
     "use no more of it than this, for a device that has less than it claims: "
     "a size, or proved, as a probe of it has found (with an MBR, or no "
     "table)",
     option_within, WISH(within), NULL, NULL},
    {"full", 0, 1, TAKES(TAKES_GIVE_UP), NULL,
     "write to every block and read all of them back: everything on it is "
     "lost",
     option_flag, OWN(full), NULL, NULL},
    {"writes", 0, 1, TAKES(TAKES_SWEEP), NULL,
     "write to every block, read it back, and restore what it held; that is "
     "kept in a file meanwhile",
     option_flag, OWN(writes), NULL, NULL},
    {"then", 0, 2, TAKES(TAKES_EVIDENCE), "WHAT",
     "when all went well: spin-down, eject, offline (the host shows it no "
     "more) or power-off",
     option_then, OWN(then), NULL, NULL},
    {"then-run", 0, 2, TAKES(TAKES_EVIDENCE), "COMMAND",
     "when it has ended, well or not, run this in a shell, with "
     "TRUESLATE_TAG, "
     "TRUESLATE_DEVICE, TRUESLATE_CODE and TRUESLATE_EVIDENCE set",
     option_text, OWN(then_run), NULL, NULL},
    {"evidence", 0, 2, TAKES(TAKES_EVIDENCE), "NAME",
     "write what was found and done, for a ticket: NAME.html, NAME.json and "
     "NAME.svg, with checksums",
     option_evidence, OWN(evidence), NULL, NULL},
    {"way", 0, 1, TAKES(TAKES_WAY), "NAME",
     "the device's own way to erase itself, as 'erase DEVICE' lists them",
     option_text, OWN(way), NULL, NULL},
    {"whole-drive", 0, 1, TAKES(TAKES_WAY, TAKES_LOWLEVEL), NULL,
     "NVMe: also where that reaches all namespaces of the drive", option_flag,
     OWN(whole_drive), NULL, NULL},
    {"read-all", 0, 1, TAKES(TAKES_WAY), NULL,
     "read every block afterwards (default: the places that are compared)",
     option_flag, OWN(read_all), NULL, NULL},
    {"drive", 0, 1, TAKES(TAKES_LOWLEVEL), "SHAPE",
     "cylinders, heads and sectors of a track, as 615x4x17, or a drive of the "
     "table in the manual, as drum-20",
     option_drive, OWN(drive[DRIVE_SHAPE]), NULL, NULL},
    {"interleave", 0, 1, TAKES(TAKES_LOWLEVEL), "N",
     "the next sector stands so many places on; or measure: one track is "
     "formatted with each value and read",
     option_drive, OWN(drive[DRIVE_INTERLEAVE]), NULL, NULL},
    {"skew", 0, 1, TAKES(TAKES_LOWLEVEL), "N",
     "places that the first sector moves on from track to track; N,M: and "
     "from cylinder to cylinder",
     option_drive, OWN(drive[DRIVE_SKEW]), NULL, NULL},
    {"spares", 0, 1, TAKES(TAKES_LOWLEVEL), "N",
     "sectors of each track that are kept for bad places (default: none)",
     option_drive, OWN(drive[DRIVE_SPARES]), NULL, NULL},
    {"precompensation", 0, 1, TAKES(TAKES_LOWLEVEL), "CYLINDER",
     "where write precompensation begins, or none", option_drive,
     OWN(drive[DRIVE_PRECOMPENSATION]), NULL, NULL},
    {"reduced-current", 0, 1, TAKES(TAKES_LOWLEVEL), "CYLINDER",
     "where reduced write current begins, or none", option_drive,
     OWN(drive[DRIVE_CURRENT]), NULL, NULL},
    {"burst", 0, 1, TAKES(TAKES_LOWLEVEL), "BITS",
     "the longest burst of errors that is corrected", option_drive,
     OWN(drive[DRIVE_BURST]), NULL, NULL},
    {"split", 0, 1, TAKES(TAKES_LOWLEVEL), "CYLINDER",
     "two logical drives: the second one begins there", option_drive,
     OWN(drive[DRIVE_SPLIT]), NULL, NULL},
    {"sticker", 0, 1, TAKES(TAKES_LOWLEVEL), "LIST",
     "bad places as the sticker has them: cylinder/head/byte from index, as "
     "31/2/1870,77/0/9020, without a byte for a whole track; or a file of "
     "such, which may have lines and # remarks",
     option_drive, OWN(drive[DRIVE_STICKER]), NULL, NULL},
    {"blocks", 0, 1, TAKES(TAKES_LOWLEVEL), "BYTES",
     "the size of a block: 512 or 4096, or another one that the device takes",
     option_drive, OWN(drive[DRIVE_BLOCKS]), NULL, NULL},
    {"reassign", 0, 1, TAKES(TAKES_LOWLEVEL), "BLOCKS",
     "no format: have the device put spare sectors in the place of these "
     "blocks, 812,900-911; what they held is lost",
     option_drive, OWN(drive[DRIVE_REASSIGN]), NULL, NULL},
    {"same", 0, 1, TAKES(TAKES_LOWLEVEL), NULL, "all as it is, once more",
     option_flag, OWN(same), NULL, NULL},
    {"forget-grown", 0, 1, TAKES(TAKES_LOWLEVEL), NULL,
     "bad places that the device has noted itself do not count any more",
     option_flag, OWN(forget_grown), NULL, NULL},
    {"no-look", 0, 1, TAKES(TAKES_LOWLEVEL), NULL,
     "do not read it first: what comes back cannot be told from what is new",
     option_flag, OWN(unlooked), NULL, NULL},
    {"afresh", 0, 2, TAKES(TAKES_AFRESH), NULL,
     "begin anew on a device whose renewal is unfinished", option_flag,
     OWN(afresh), NULL, NULL},
    {"lift", 0, 2, TAKES(TAKES_LIFT), "KINDS",
     "lift these guards: kinds with commas between them, or all (what a "
     "command can lift and nobody set on purpose)",
     option_lift, GOAL(lift), NULL, NULL},
    {"password", 0, 2, TAKES(TAKES_PASSWORD), "TEXT",
     "for a card or disk that has one", option_text, OWN(password), NULL, NULL},
    {"erase", 0, 2, TAKES(TAKES_PASSWORD), NULL,
     "with a password in --lift: take it away together with all content; a "
     "card needs no --password for that",
     option_flag, OWN(erase), NULL, NULL},
    {"lasting", 0, 2, TAKES(TAKES_LIFT), NULL,
     "where there is a choice, the lift shall survive power-off", option_flag,
     GOAL(lasting), NULL, NULL},
    {"consent", 0, 2, TAKES(TAKES_CONSENT), "TAG",
     "agree to change the device with this tag, and to lose what is on it",
     option_text, OWN(consent), NULL, NULL},
    {"remember", 0, 2, TAKES(TAKES_MEMORY), NULL,
     "keep in mind what is attached now, for --fresh", option_flag,
     OWN(remember), NULL, NULL},
    {"fresh", 0, 2, TAKES(TAKES_MEMORY), NULL,
     "show only what has appeared since --remember", option_flag, OWN(fresh),
     NULL, NULL},
    {"expect", 0, 2, TAKES(TAKES_EXPECT), "WORDS",
     "leave alone what is something else: stick, card or disk, and a size as "
     "it is sold, 32GB, with commas between them (default: stick,card)",
     option_expect, OWN(expect), NULL, NULL},
    {"seconds", 0, 2, TAKES(TAKES_SECONDS), "N", "wait at most so long",
     option_seconds, OWN(seconds), NULL, NULL},
    {"bench", 'b', 3, TAKES(TAKES_BENCH), "DIR",
     "simulated devices in this folder instead of the host's (default: "
     "$TRUESLATE_BENCH)",
     option_text, OWN(bench), NULL, NULL},
    {"json", 0, 3, TAKES(TAKES_JSON), NULL, "report in JSON, for programs",
     option_flag, OWN(json), NULL, NULL},
};

const size_t option_row_count = sizeof option_rows / sizeof option_rows[0];
