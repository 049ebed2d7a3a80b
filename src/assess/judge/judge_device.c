/* SPDX-License-Identifier: MIT */
/* What can be wrong with the device itself. */
#include "assess/judge/judge.h"

/* Below this every size occurs. */
#define ODD_SIZE_BYTES_MIN 16000000u

static bool is_no_medium(const struct slate_facts *facts)
{
    return facts->opened == SLATE_ERR_NO_MEDIUM;
}

static bool is_unknown_capacity(const struct slate_facts *facts)
{
    return facts->opened == SLATE_ERR_GEOMETRY &&
           (facts->geometry.block_count == 0 ||
            facts->geometry.block_bytes == 0);
}

static bool is_array_blocks(const struct slate_facts *facts)
{
    return facts->opened == SLATE_ERR_GEOMETRY && !is_unknown_capacity(facts);
}

static bool is_no_answer(const struct slate_facts *facts)
{
    return facts->opened != SLATE_OK && facts->opened != SLATE_ERR_NO_MEDIUM &&
           facts->opened != SLATE_ERR_GEOMETRY;
}

static bool has_guard(const struct slate_facts *facts,
                      enum slate_guard_kind kind)
{
    for (uint32_t i = 0; i < facts->guards; i++) {
        if (facts->guard[i].kind == kind)
            return true;
    }
    return false;
}

bool slate_is_locked(const struct slate_facts *facts)
{
    return has_guard(facts, SLATE_GUARD_CARD_PASSWORD) ||
           has_guard(facts, SLATE_GUARD_DISK_PASSWORD);
}

static bool is_erasing(const struct slate_facts *facts)
{
    return has_guard(facts, SLATE_GUARD_ERASING);
}

static bool is_unerased(const struct slate_facts *facts)
{
    return has_guard(facts, SLATE_GUARD_UNERASED);
}

#define MEDIUM_ERROR 0x3
#define ID_ERROR 0x10
#define NO_ADDRESS_MARK 0x12

/* Not at the start, nor anywhere else that was looked at; what is said of the
 * first of them (SPC-4, annex F). */
static bool is_all_unread(const struct slate_facts *facts, uint8_t asc)
{
    const struct slate_unread *unread = &facts->unread;
    bool start = false, far = unread->count >= SLATE_UNREAD_MOST;

    for (uint32_t i = 0; i < unread->count && i < SLATE_UNREAD_MOST; i++) {
        start = start || unread->lba[i] == 0;
        far = far || unread->lba[i] >= facts->geometry.block_count / 2;
    }
    return start && far && unread->fault.has_sense &&
           unread->fault.sense_key == MEDIUM_ERROR &&
           unread->fault.asc == asc && unread->fault.ascq == 0;
}

static bool is_no_sectors(const struct slate_facts *facts)
{
    return is_all_unread(facts, NO_ADDRESS_MARK);
}

static bool is_other_controller(const struct slate_facts *facts)
{
    return is_all_unread(facts, ID_ERROR);
}

bool slate_is_false_capacity(const struct slate_facts *facts)
{
    return facts->proved_blocks != 0 &&
           facts->proved_blocks < facts->geometry.block_count;
}

static bool is_read_errors(const struct slate_facts *facts)
{
    return facts->unread.count > 0;
}

static bool is_write_protected(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->guards; i++) {
        if (slate_guard_stops_writing(facts->guard[i].kind) &&
            !slate_guard_stops_reading(facts->guard[i].kind))
            return true;
    }
    return facts->read_only && !slate_is_locked(facts);
}

static bool is_block_size_mismatch(const struct slate_facts *facts)
{
    return facts->made_for != 0;
}

static bool is_hidden_capacity(const struct slate_facts *facts)
{
    return facts->abilities.native_blocks > facts->geometry.block_count;
}

static bool is_zoned(const struct slate_facts *facts)
{
    return facts->abilities.zoned == SLATE_ZONED_BY_HOST;
}

static bool is_two_units(const struct slate_facts *facts)
{
    return facts->units > 1;
}

static bool is_protection_information(const struct slate_facts *facts)
{
    return facts->abilities.protection;
}

/* Files and memory have any size; what is sold has one of a few. */
static bool is_odd_size(const struct slate_facts *facts)
{
    enum slate_transport transport = facts->identity.transport;
    uint64_t bytes = slate_geometry_bytes(&facts->geometry);

    return transport != SLATE_TRANSPORT_IMAGE &&
           transport != SLATE_TRANSPORT_MEMORY &&
           transport != SLATE_TRANSPORT_LOOP && bytes >= ODD_SIZE_BYTES_MIN &&
           slate_size_nominal(bytes) == 0;
}

const struct slate_rule slate_rules_device[] = {
    DEVICE(NO_MEDIUM, "no-medium", TROUBLE, is_no_medium, BY_HAND,
           SLATE_FOLLOW_UNREADABLE, NONE, "There is no medium in it.",
           "The device answers: {sense}.",
           "The slot is empty, or the card does not make contact.",
           "Put the card in, or take it out, wipe its contacts and put it in "
           "again; try another reader."),
    DEVICE(UNKNOWN_CAPACITY, "unknown-capacity", TROUBLE, is_unknown_capacity,
           REPLACE, SLATE_FOLLOW_UNREADABLE, NONE,
           "The device does not tell its capacity.",
           "It answers, but reports {blocks} blocks of {block-bytes} bytes; it "
           "calls itself \"{model}\".",
           "The controller has lost its own settings and runs in its fall-back "
           "mode: the memory behind it is out of reach.",
           "Try another port once. Then take it out of service; only its maker "
           "can set it up again."),
    DEVICE(ARRAY_BLOCKS, "array-blocks", TROUBLE, is_array_blocks, LOWLEVEL,
           SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_BLOCKS, NONE,
           "Its blocks are {block-bytes} bytes long: hosts cannot use them.",
           "The device reports {blocks} blocks of {block-bytes} bytes.",
           "It comes out of a storage array, which keeps checksums of its own "
           "in each block.",
           "A low-level format to blocks of 512 or 4096 bytes makes it an "
           "ordinary disk, at a host adapter that passes the commands on. What "
           "it holds is lost."),
    DEVICE(NO_ANSWER, "no-answer", TROUBLE, is_no_answer, ELSEWHERE,
           SLATE_FOLLOW_UNREADABLE, NONE,
           "The device does not answer as it should.", "What it said: {sense}.",
           "Bad contact, too little power, or a controller that is failing.",
           "Try another port, cable or dock, without a hub."),
    DEVICE(LOCKED, "locked", TROUBLE, slate_is_locked, BY_HAND,
           SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_GUARDS, NONE,
           "The device is locked with a password: hosts cannot read it, and "
           "ask to format it, or show nothing.",
           "{guard-place}",
           "A recorder, a phone or a computer has locked it, so that nobody "
           "else can use it.",
           "{guard-command}"),
    DEVICE(ERASING, "erasing", TROUBLE, is_erasing, BY_HAND,
           SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_WAIT, NONE, "{guard-text}",
           "{guard-place}",
           "Somebody had it erase or format itself, and it has not ended.",
           "{guard-command}"),
    DEVICE(UNERASED, "unerased", TROUBLE, is_unerased, BY_HAND,
           SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_ERASE | SLATE_FOLLOW_SAME,
           NONE, "{guard-text}", "{guard-place}",
           "Power failed while it formatted itself, or it could not end what "
           "it had begun.",
           "{guard-command}"),
    DEVICE(NO_SECTORS, "no-sectors", TROUBLE, is_no_sectors, LOWLEVEL,
           SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_TRACKS,
           BECAUSE(BY(ERASING), BY(UNERASED)), "No sectors can be found on it.",
           "None of the key areas can be read; the answer: {sense}.",
           "Drive and controller have not been formatted together: until then, "
           "its tracks hold nothing that the controller knows.",
           "A low-level format gives it sectors. Cylinders, heads and bad "
           "places stand on its sticker."),
    DEVICE(OTHER_CONTROLLER, "other-controller", TROUBLE, is_other_controller,
           LOWLEVEL, SLATE_FOLLOW_UNREADABLE | SLATE_FOLLOW_TRACKS,
           BECAUSE(BY(ERASING), BY(UNERASED)),
           "Its sectors were made by another controller: this one cannot read "
           "them.",
           "None of the key areas can be read; the answer: {sense}.",
           "The drive was moved to another controller, which checks its "
           "sectors in a way of its own.",
           "Put it back to its own controller if its content is needed. Else a "
           "low-level format makes it this one's; what it holds is lost."),
    DEVICE(FALSE_CAPACITY, "false-capacity", TROUBLE, slate_is_false_capacity,
           REPLACE, 0, NONE,
           "The device claims {device-bytes} and has {proved-bytes}: what is "
           "written beyond that is lost.",
           "An earlier probe or scan of it, which is kept in mind by its "
           "serial number.",
           "Its controller was made to claim more than there is.",
           "Send it back. 'renew --within proved' uses what is there, and "
           "nothing stops hosts from writing beyond it."),
    DEVICE(READ_ERRORS, "read-errors", TROUBLE, is_read_errors, REPLACE, 0,
           BECAUSE(BY(LOCKED), BY(ERASING), BY(UNERASED), BY(NO_SECTORS),
                   BY(OTHER_CONTROLLER)),
           "{bad-count} of the key areas cannot be read.",
           "Each was tried three times: {bad-list}; the answer: {sense}.",
           "The medium is failing, or the contact is bad.",
           "Copy off what can be read, now. Try another port or cable; if the "
           "blocks stay bad, do not trust the device again."),
    DEVICE(WRITE_PROTECTED, "write-protected", TROUBLE, is_write_protected,
           BY_HAND, SLATE_FOLLOW_GUARDS, NONE,
           "The device is write-protected: nothing on it can be changed or "
           "renewed.",
           "{guard-place}", "{guard-text}", "{guard-command}"),
    DEVICE(
        BLOCK_SIZE_MISMATCH, "block-size-mismatch", TROUBLE,
        is_block_size_mismatch, ELSEWHERE, 0, NONE,
        "The content was made for blocks of {made-for} bytes, but the device "
        "counts in blocks of {block-bytes}: sizes and places are off by the "
        "same factor.",
        "{mismatch}",
        "A dock that translates blocks: the disk was set up in another one, or "
        "without one.",
        "To read the files, use the dock or port it was set up in. To go on "
        "with this one, renew the device here; everything on it is lost then."),
    DEVICE(HIDDEN_CAPACITY, "hidden-capacity", TROUBLE, is_hidden_capacity,
           ELSEWHERE, SLATE_FOLLOW_GUARDS, NONE,
           "{native-hidden} of {native} are hidden by the device itself.",
           "It shows {blocks} blocks; its native capacity is {native-blocks}.",
           "A limit was set in the device: by a maker for its recovery area, "
           "or by a computer that could not use all of it.",
           "Lift the limit only if nobody needs the recovery area; until then "
           "the device can be renewed to the capacity that it shows."),
    DEVICE(ZONED, "zoned", TROUBLE, is_zoned, ELSEWHERE, 0, NONE,
           "The device is zoned: it refuses writes that are not in order, and "
           "common hosts cannot use it.",
           "It reports itself as host-managed.",
           "A disk made for storage servers, recorded in overlapping tracks.",
           "Use it in the system that it was made for."),
    DEVICE(TWO_UNITS, "two-units", NOTE, is_two_units, NOTHING, 0, NONE,
           "The body has {units} units, which hosts show as separate devices; "
           "this is unit {unit}.",
           "The device lists {units} logical units.",
           "Its maker has set aside a part of it, often as a disc that cannot "
           "be written.",
           "Each unit is renewed by itself; the border between them is the "
           "maker's."),
    DEVICE(PROTECTION_INFORMATION, "protection-information", NOTE,
           is_protection_information, LOWLEVEL, SLATE_FOLLOW_SAME, NONE,
           "It is formatted with protection information: most docks and "
           "desktops cannot use it.",
           "The device reports protection information beside its blocks of "
           "{block-bytes} bytes.",
           "It comes out of a storage array.",
           "A low-level format without it makes it an ordinary disk; what it "
           "holds is lost."),
    DEVICE(ODD_SIZE, "odd-size", NOTE, is_odd_size, ELSEWHERE, 0,
           BECAUSE(MISCOUNT),
           "The capacity of {capacity} is far from every size that devices are "
           "sold in.",
           "The device reports {blocks} blocks of {block-bytes} bytes.",
           "Part of it may be hidden, a dock may translate its blocks, or it "
           "claims what it does not have.",
           "Compare with the size on the case."),
    RULES_END};
