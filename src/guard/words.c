/* SPDX-License-Identifier: MIT */
/* Guards in words: one row for each kind. */
#include "base/base.h"
#include "guard/guard.h"

enum span {
    SPAN_NONE,    /* nothing lifts it */
    SPAN_POWER,   /* until the power goes, or it is plugged in anew */
    SPAN_LASTING, /* for good */
    SPAN_CHOICE   /* as it was asked for */
};

struct row {
    const char *name;
    enum slate_lift lift;
    enum span span;
    bool stops_writing, deliberate;
    const char *text, *place, *command;
};

/* in the order of enum slate_guard_kind */
static const struct row rows[] = {
    {"write-protect-switch", SLATE_LIFT_BY_HAND, SPAN_NONE, true, false,
     "The device reports its medium as write-protected: a switch on the case, "
     "or its controller in a state of its own.",
     "The write protect bit in the mode parameter header.",
     "Look for a switch on the case and slide it; without one, try another "
     "port, then take the device out of service."},
    {"software-write-protect", SLATE_LIFT_NOW, SPAN_CHOICE, true, false,
     "Software write protect is on: the device refuses all writes.",
     "The SWP bit in the control mode page.",
     "MODE SELECT, control mode page, SWP 0."},
    {"reservation", SLATE_LIFT_NOW, SPAN_LASTING, true, true,
     "Another host has reserved the device: only that one may write.",
     "A persistent reservation in the device; it survives unplugging.",
     "PERSISTENT RESERVE OUT: register, then clear. Make sure that the other "
     "host is gone."},
    {"slider", SLATE_LIFT_BY_HAND, SPAN_NONE, true, false,
     "The reader reports the card's slider as locked.",
     "The plastic slider at the edge of the card; the card itself does not "
     "know of it.",
     "Take the card out, move the slider towards the contacts, put it back in; "
     "a worn slider may slip when the card goes in."},
    {"temporary-write-protect", SLATE_LIFT_NOW, SPAN_LASTING, true, false,
     "The card's temporary write protect bit is set: it refuses all writes.",
     "Bit 12 of the card's CSD register.",
     "PROGRAM_CSD (CMD27) with TMP_WRITE_PROTECT 0. A card that keeps the bit "
     "has come to the end of its life: replace it."},
    {"permanent-write-protect", SLATE_LIFT_NEVER, SPAN_NONE, true, false,
     "The card's permanent write protect bit is set: it will never take a "
     "write again.",
     "Bit 13 of the card's CSD register, which can be set only once.",
     "Nothing lifts it. Copy off what is on the card and replace it."},
    {"write-protect-groups", SLATE_LIFT_NOW, SPAN_LASTING, true, false,
     "Groups of blocks on the card are write-protected: it refuses to write "
     "these.",
     "The write-protect groups of a card of standard capacity.",
     "CLR_WRITE_PROT (CMD29) for each group."},
    {"card-password", SLATE_LIFT_PASSWORD, SPAN_CHOICE, true, true,
     "The card is locked with a password: it neither reads nor writes.",
     "The card's own lock.",
     "LOCK_UNLOCK (CMD42) with the password; without it, a forced erase, which "
     "takes all content with it."},
    {"hidden-area", SLATE_LIFT_NOW, SPAN_CHOICE, false, true,
     "A part of the capacity is hidden: hosts see a smaller disk.",
     "The disk's host protected area, or its accessible max address.",
     "SET MAX ADDRESS EXT, or SET ACCESSIBLE MAX ADDRESS EXT, with the native "
     "capacity; a disk takes it once, then wants a power cycle. A maker's "
     "recovery area may be in it."},
    {"overlay", SLATE_LIFT_NOW, SPAN_LASTING, false, true,
     "A part of the capacity is hidden by the disk's configuration: not even "
     "its native capacity tells of it.",
     "The disk's device configuration overlay.",
     "DEVICE CONFIGURATION RESTORE, once no hidden area is set. It brings back "
     "all features as the disk was made with."},
    {"disk-password", SLATE_LIFT_PASSWORD, SPAN_CHOICE, true, true,
     "The disk is locked with a password: it neither reads nor writes.",
     "The disk's security feature set.",
     "SECURITY UNLOCK with the password; a disk that was asked too often, or "
     "is frozen, needs a power cycle first."},
    {"frozen", SLATE_LIFT_POWER_CYCLE, SPAN_NONE, false, false,
     "The host has frozen the disk's security settings: no password is taken "
     "or changed.",
     "The disk's security feature set, until it loses its power.",
     "Unplug the disk and plug it in again while the host is running."},
    {"namespace-write-protect", SLATE_LIFT_NOW, SPAN_LASTING, true, false,
     "The namespace is write-protected.",
     "The namespace write protection feature of the drive.",
     "Set Features, namespace write protection, state 0."},
    {"until-power-cycle", SLATE_LIFT_POWER_CYCLE, SPAN_NONE, true, false,
     "The namespace is write-protected until the drive loses its power.",
     "The namespace write protection feature of the drive.",
     "Switch the machine off and on, or unplug the drive; then look again."},
    {"for-ever", SLATE_LIFT_NEVER, SPAN_NONE, true, false,
     "The namespace is write-protected for ever.",
     "The namespace write protection feature of the drive.",
     "Nothing lifts it. Copy off what is on the drive and replace it."},
    {"small-namespace", SLATE_LIFT_BY_HAND, SPAN_NONE, false, true,
     "The namespace is smaller than the drive: the rest belongs to none.",
     "The drive's list of namespaces.",
     "Making the namespaces of the drive anew, with the loss of all of them; "
     "until then it can be renewed to the capacity that it shows."},
    {"worn-out", SLATE_LIFT_NEVER, SPAN_NONE, true, false,
     "The drive has made itself read-only: its medium is used up or failing.",
     "The critical warning in the drive's health log.",
     "Nothing lifts it. Copy off what is on the drive and replace it."},
    {"host-policy", SLATE_LIFT_NOW, SPAN_POWER, true, false,
     "The host keeps the device read-only; the device itself tells of nothing.",
     "A setting of the host, or of the reader.",
     "Lifting the host's setting; where that does not hold, or there is none, "
     "another port, reader or host."},
    {"erasing", SLATE_LIFT_BY_HAND, SPAN_NONE, true, false,
     "The device is erasing itself: it neither reads nor writes until it is "
     "done, and goes on after a power cut.",
     "The device's own work, begun by a command.",
     "Let it end; 'erase' shows how far it is."},
    {"unerased", SLATE_LIFT_BY_HAND, SPAN_NONE, true, false,
     "An erase or a format of the device was cut, or failed: it holds nothing "
     "that can be read, and takes nothing.",
     "The device's own state, which it keeps without power.",
     "It needs an erase or a low-level format again, to the end: 'erase' or "
     "'lowlevel'. Where that fails too, replace it."}};

SLATE_ROWS_FOR(rows, SLATE_GUARD_KINDS);
_Static_assert(SLATE_GUARD_KINDS <= 32, "a bit of 32 for each kind");

SLATE_FROM_ROW(const char *, slate_guard_name, enum slate_guard_kind, rows,
               name)
SLATE_FROM_ROW(enum slate_lift, slate_guard_usual_lift, enum slate_guard_kind,
               rows, lift)

bool slate_guard_lift_lasts(enum slate_guard_kind kind, bool lasting)
{
    return SLATE_ROW_OF(rows, kind)->span == SPAN_LASTING ||
           (SLATE_ROW_OF(rows, kind)->span == SPAN_CHOICE && lasting);
}

SLATE_FROM_ROW(bool, slate_guard_stops_writing, enum slate_guard_kind, rows,
               stops_writing)
SLATE_FROM_ROW(bool, slate_guard_is_deliberate, enum slate_guard_kind, rows,
               deliberate)

bool slate_guard_conceals(enum slate_guard_kind kind)
{
    return kind == SLATE_GUARD_HIDDEN_AREA || kind == SLATE_GUARD_OVERLAY ||
           slate_guard_stops_reading(kind);
}

bool slate_guard_stops_reading(enum slate_guard_kind kind)
{
    return kind == SLATE_GUARD_CARD_PASSWORD ||
           kind == SLATE_GUARD_DISK_PASSWORD || kind == SLATE_GUARD_ERASING ||
           kind == SLATE_GUARD_UNERASED;
}

SLATE_NAMES(slate_lift_name, enum slate_lift, "now", "password", "power-cycle",
            "by-hand", "never")

const char *slate_guard_words(enum slate_guard_kind kind,
                              enum slate_guard_part part)
{
    const struct row *row = SLATE_ROW_OF(rows, kind);

    switch (part) {
    case SLATE_GUARD_PLACE:
        return row->place;
    case SLATE_GUARD_COMMAND:
        return row->command;
    case SLATE_GUARD_TEXT:
    default:
        return row->text;
    }
}
