/* SPDX-License-Identifier: MIT */
/* What can be wrong with the device itself. */
#include "assess/judge/judge.h"

/* Below this every size occurs. */
#define ODD_SIZE_BYTES_MIN 16000000u

bool slate_is_no_medium(const struct slate_facts *facts)
{
    return facts->opened == SLATE_ERR_NO_MEDIUM;
}

bool slate_is_unknown_capacity(const struct slate_facts *facts)
{
    return facts->opened == SLATE_ERR_GEOMETRY &&
           (facts->geometry.block_count == 0 ||
            facts->geometry.block_bytes == 0);
}

bool slate_is_array_blocks(const struct slate_facts *facts)
{
    return facts->opened == SLATE_ERR_GEOMETRY &&
           !slate_is_unknown_capacity(facts);
}

bool slate_is_no_answer(const struct slate_facts *facts)
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

bool slate_is_erasing(const struct slate_facts *facts)
{
    return has_guard(facts, SLATE_GUARD_ERASING);
}

bool slate_is_unerased(const struct slate_facts *facts)
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

bool slate_is_no_sectors(const struct slate_facts *facts)
{
    return is_all_unread(facts, NO_ADDRESS_MARK);
}

bool slate_is_other_controller(const struct slate_facts *facts)
{
    return is_all_unread(facts, ID_ERROR);
}

bool slate_is_false_capacity(const struct slate_facts *facts)
{
    return facts->proved_blocks != 0 &&
           facts->proved_blocks < facts->geometry.block_count;
}

bool slate_is_read_errors(const struct slate_facts *facts)
{
    return facts->unread.count > 0;
}

bool slate_is_write_protected(const struct slate_facts *facts)
{
    for (uint32_t i = 0; i < facts->guards; i++) {
        if (slate_guard_stops_writing(facts->guard[i].kind) &&
            !slate_guard_stops_reading(facts->guard[i].kind))
            return true;
    }
    return facts->read_only && !slate_is_locked(facts);
}

bool slate_is_block_size_mismatch(const struct slate_facts *facts)
{
    return facts->made_for != 0;
}

bool slate_is_hidden_capacity(const struct slate_facts *facts)
{
    return facts->abilities.native_blocks > facts->geometry.block_count;
}

bool slate_is_zoned(const struct slate_facts *facts)
{
    return facts->abilities.zoned == SLATE_ZONED_BY_HOST;
}

bool slate_is_two_units(const struct slate_facts *facts)
{
    return facts->units > 1;
}

bool slate_is_protection_information(const struct slate_facts *facts)
{
    return facts->abilities.protection;
}

/* Files and memory have any size; what is sold has one of a few. */
bool slate_is_odd_size(const struct slate_facts *facts)
{
    enum slate_transport transport = facts->identity.transport;
    uint64_t bytes = slate_geometry_bytes(&facts->geometry);

    return transport != SLATE_TRANSPORT_IMAGE &&
           transport != SLATE_TRANSPORT_MEMORY &&
           transport != SLATE_TRANSPORT_LOOP && bytes >= ODD_SIZE_BYTES_MIN &&
           slate_size_nominal(bytes) == 0;
}
