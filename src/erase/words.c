/* SPDX-License-Identifier: MIT */
/* Ways to erase in words: one row for each, and which suits whom. */
#include "base/base.h"
#include "erase/erase.h"

struct row {
    const char *name;
    bool tells;
    const char *text, *reaches, *leaves, *cut, *command;
};

#define SANITIZED                                                              \
    "The standard asks that nothing of what was stored can be had back, from " \
    "spare and reassigned blocks and from caches as well."
#define KEY_BOUND                                                              \
    "It is worth what the device's encryption is worth, which nobody sees "    \
    "from outside: whether it always was on, and whether the key is gone."
#define FIRMWARE_BOUND                                                         \
    "Whether the firmware keeps to the standard cannot be seen from outside: " \
    "reading shows only the blocks that the device shows."
#define GOES_ON                                                                \
    "It cannot be stopped: after a power cut the device goes on by itself, "   \
    "and takes no other command until it is done."

/* in the order of enum slate_erase_kind */
static const struct row rows[] = {
    {"sanitize-overwrite", true, "The device overwrites all that it has.",
     SANITIZED, FIRMWARE_BOUND, GOES_ON,
     "SANITIZE, OVERWRITE, once with zeros."},
    {"sanitize-block", true,
     "The device erases all its memory cells electrically.", SANITIZED,
     FIRMWARE_BOUND, GOES_ON, "SANITIZE, BLOCK ERASE."},
    {"sanitize-crypto", true,
     "The device throws away the key that all its content is encrypted with.",
     SANITIZED, KEY_BOUND, GOES_ON, "SANITIZE, CRYPTOGRAPHIC ERASE."},
    {"format-unit", true, "The device formats itself anew.",
     "All blocks that it shows can be written and read afterwards.",
     "The standard does not ask that old content goes: some devices only renew "
     "their tables. Blocks that were set aside keep what they hold. Read all, "
     "or overwrite as well.",
     "The device needs another format: until then nothing can be read or "
     "written.",
     "FORMAT UNIT."},
    {"sanitize-overwrite", true, "The disk overwrites all that it has.",
     SANITIZED, FIRMWARE_BOUND, GOES_ON,
     "SANITIZE DEVICE, OVERWRITE EXT, once with zeros."},
    {"sanitize-block", true,
     "The drive erases all its memory cells electrically.", SANITIZED,
     FIRMWARE_BOUND, GOES_ON, "SANITIZE DEVICE, BLOCK ERASE EXT."},
    {"sanitize-crypto", true,
     "The drive throws away the key that all its content is encrypted with.",
     SANITIZED, KEY_BOUND, GOES_ON, "SANITIZE DEVICE, CRYPTO SCRAMBLE EXT."},
    {"security-erase", false, "The disk overwrites all blocks that it shows.",
     "Every block that a host can reach is overwritten.",
     "Reassigned blocks and spare memory cells keep what they hold, and so "
     "does what a hidden area hides.",
     "The disk is locked, with the password \"" SLATE_ERASE_PASSWORD
     "\", and partly erased: erase it the same way again, which also unlocks "
     "it.",
     "SECURITY SET PASSWORD, ERASE PREPARE, ERASE UNIT."},
    {"security-enhanced", false,
     "The disk overwrites all that it has with a pattern of its maker's, or "
     "throws away its key.",
     "Every block that a host can reach, and those that were reassigned.",
     "What it really does is its maker's choice, and spare memory cells are "
     "not spoken of.",
     "The disk is locked, with the password \"" SLATE_ERASE_PASSWORD
     "\", and partly erased: erase it the same way again, which also unlocks "
     "it.",
     "SECURITY SET PASSWORD, ERASE PREPARE, ERASE UNIT in enhanced mode."},
    {"sanitize-overwrite", true, "The drive overwrites all that it has.",
     SANITIZED, FIRMWARE_BOUND, GOES_ON, "Sanitize, overwrite, once."},
    {"sanitize-block", true,
     "The drive erases all its memory cells electrically.", SANITIZED,
     FIRMWARE_BOUND, GOES_ON, "Sanitize, block erase."},
    {"sanitize-crypto", true,
     "The drive throws away the key that all its content is encrypted with.",
     SANITIZED, KEY_BOUND, GOES_ON, "Sanitize, crypto erase."},
    {"format-erase", false, "The drive formats the namespace and erases it.",
     "The namespace reads as the drive likes, and nothing of what was stored "
     "comes back.",
     "Spare memory cells are not spoken of; some drives throw away a key "
     "instead.",
     "The standard does not say what is left: erase it again.",
     "Format NVM, user data erase, in the block format that it has."},
    {"format-crypto", false,
     "The drive formats the namespace and throws away its key.",
     "What was stored in the namespace cannot be decrypted any more.",
     KEY_BOUND, "The standard does not say what is left: erase it again.",
     "Format NVM, cryptographic erase, in the block format that it has."},
    {"card-erase", true, "The card marks all its blocks as erased.",
     "They read as zeros or ones afterwards, as the card has it.",
     "When the memory cells themselves are erased is the card's own matter; "
     "spare ones keep what they hold.",
     "What was not reached is as it was: erase it again.",
     "ERASE (CMD32, CMD33, CMD38) over all blocks."}};

SLATE_ROWS_FOR(rows, SLATE_ERASE_KINDS);

SLATE_FROM_ROW(const char *, slate_erase_name, enum slate_erase_kind, rows,
               name)
SLATE_FROM_ROW(bool, slate_erase_tells, enum slate_erase_kind, rows, tells)

const char *slate_erase_words(enum slate_erase_kind kind,
                              enum slate_erase_part part)
{
    const struct row *row = SLATE_ROW_OF(rows, kind);

    switch (part) {
    case SLATE_ERASE_REACHES:
        return row->reaches;
    case SLATE_ERASE_LEAVES:
        return row->leaves;
    case SLATE_ERASE_CUT:
        return row->cut;
    case SLATE_ERASE_COMMAND:
        return row->command;
    case SLATE_ERASE_TEXT:
    default:
        return row->text;
    }
}

static const struct {
    const char *name, *words;
    bool bad;
} erased_rows[] = {
    {"unknown", "whether anything of it is left cannot be told by reading",
     false},
    {"blank-everywhere", "every block was read, and all hold the same byte",
     false},
    {"gone-at-places",
     "none of the places that were compared holds what it held; the others "
     "were not read",
     false},
    {"blank-at-places",
     "there was nothing to compare with, and there is nothing at the places "
     "that were read; the others were not",
     false},
    {"other-content",
     "none of the places that were compared holds what it held, but not all "
     "blocks hold the same byte, as after a change of keys",
     false},
    {"unreadable", "blocks cannot be read now: what they hold is not known",
     true},
    {"kept",
     "the device says that it is done, but places hold what they held before",
     true}};

SLATE_ROWS_FOR(erased_rows, SLATE_ERASED_KEPT + 1);

SLATE_FROM_ROW(const char *, slate_erased_name, enum slate_erased, erased_rows,
               name)
SLATE_FROM_ROW(const char *, slate_erased_words, enum slate_erased, erased_rows,
               words)
SLATE_FROM_ROW(bool, slate_erased_is_bad, enum slate_erased, erased_rows, bad)
