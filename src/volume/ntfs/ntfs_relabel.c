/* SPDX-License-Identifier: MIT */
/* Where an NTFS volume keeps its label: an attribute of its fourth record, in
 * the file table and in the mirror of that. What follows it moves with its
 * length; all of it has to be in the record's first stride, so that the label
 * changes with one block. */

#include "base/base.h"
#include "volume/ntfs/ntfs.h"

/* The last two bytes of a stride are not what stands there. */
#define REACH (SLATE_NTFS_STRIDE - 2)
#define END_BYTES 8u
#define PIECE 32u

/* A record's label: where its attribute stands, or would stand, how long it is,
 * and where the record's attributes end. */
struct label_place {
    uint32_t at, length, end, next_id;
};

static bool find_label(const uint8_t *record, uint32_t length,
                       struct label_place *place)
{
    uint32_t at = 0, bytes, used = slate_le32(record + SLATE_NTFS_RECORD_USED);

    memset(place, 0, sizeof *place);
    place->end = used;
    while ((at = slate_ntfs_next_attribute(record, length, at, &bytes)) != 0) {
        uint32_t type = slate_le32(record + at);

        if (type == SLATE_NTFS_VOLUME_NAME &&
            record[at + SLATE_NTFS_OUTSIDE] != 0)
            return false;
        if (place->at == 0 && type >= SLATE_NTFS_VOLUME_NAME)
            place->at = at;
        if (type == SLATE_NTFS_VOLUME_NAME)
            place->length = bytes;
        if (at + bytes + END_BYTES > used)
            return false;
    }
    return place->at != 0 && used <= length;
}

/* Puts the label's attribute in, in the place of the old one. */
static bool put_label(uint8_t *record, const char *label,
                      const struct label_place *place)
{
    uint8_t text[2 * SLATE_NTFS_LABEL_UNITS];
    uint32_t units = slate_ntfs_label_units(label, text), bytes = 2 * units;
    uint32_t length = SLATE_NTFS_HEAD_BYTES + (bytes + 7) / 8 * 8;
    uint32_t end = place->end - place->length + length;
    uint8_t *attribute = record + place->at;
    uint16_t id = slate_le16(attribute + SLATE_NTFS_ID);

    if (end > REACH || place->end > REACH)
        return false;
    if (place->length == 0) {
        id = slate_le16(record + SLATE_NTFS_NEXT_ID);
        slate_put_le16(record + SLATE_NTFS_NEXT_ID, (uint16_t)(id + 1));
    }
    memmove(attribute + length, attribute + place->length,
            place->end - place->at - place->length);
    memset(attribute, 0, length);
    slate_put_le32(attribute, SLATE_NTFS_VOLUME_NAME);
    slate_put_le32(attribute + SLATE_NTFS_LENGTH, length);
    slate_put_le16(attribute + SLATE_NTFS_NAME_AT, SLATE_NTFS_HEAD_BYTES);
    slate_put_le16(attribute + SLATE_NTFS_ID, id);
    slate_put_le32(attribute + SLATE_NTFS_VALUE_BYTES, bytes);
    slate_put_le16(attribute + SLATE_NTFS_VALUE_AT, SLATE_NTFS_HEAD_BYTES);
    memcpy(attribute + SLATE_NTFS_HEAD_BYTES, text, bytes);
    if (end < place->end)
        memset(record + end, 0, place->end - end);
    slate_put_le32(record + SLATE_NTFS_RECORD_USED, end);
    return true;
}

static bool add_edit(struct slate_label_plan *plan, uint64_t byte, bool copy,
                     const uint8_t *bytes, uint32_t length)
{
    struct slate_label_edit *edit = &plan->edit[plan->edits];

    if (plan->edits == SLATE_LABEL_EDITS)
        return false;
    plan->edits++;
    edit->byte = byte;
    edit->length = length;
    edit->copy = copy;
    memcpy(edit->bytes, bytes, length);
    return true;
}

/* What has changed: two fields of the record's head, and all from the label's
 * attribute on. byte: of the device, where the record stands */
static bool add_edits(struct slate_label_plan *plan, uint64_t byte, bool copy,
                      const uint8_t *record, const struct label_place *place)
{
    uint32_t end = slate_le32(record + SLATE_NTFS_RECORD_USED);
    uint32_t at = SLATE_NTFS_RECORD_USED;
    uint32_t length = SLATE_NTFS_NEXT_ID + 2 - SLATE_NTFS_RECORD_USED;
    bool fits = add_edit(plan, byte + at, copy, record + at, length);

    end = end > place->end ? end : place->end;
    for (at = place->at; at < end && fits; at += length) {
        length = end - at < PIECE ? end - at : PIECE;
        fits = add_edit(plan, byte + at, copy, record + at, length);
    }
    return fits;
}

/* Round 0 is of the table, round 1 of the mirror. */
static enum slate_status change(const struct slate_ntfs_reading *reading,
                                uint32_t round, struct slate_label_plan *plan)
{
    struct slate_reader *reader = reading->reader;
    uint32_t block = reader->media->geometry.block_bytes;
    struct label_place place;
    uint64_t byte = 0;
    const uint8_t *found = slate_ntfs_read_record(
        reading, round == 0 ? reading->table : reading->mirror,
        SLATE_NTFS_VOLUME_RECORD, &byte);
    uint8_t *record = reader->work + byte % block;

    if (reader->status != SLATE_OK)
        return reader->status;
    if (found == NULL || !find_label(record, reading->length, &place))
        return round == 0 ? SLATE_ERR_CHANGED : SLATE_OK; /* left alone */
    if (place.length == 0 && plan->label[0] == '\0')
        return SLATE_OK; /* there is none */
    if (!put_label(record, plan->label, &place))
        return SLATE_ERR_LABEL_ROOM;
    return add_edits(plan, reader->range.first * block + byte, round > 0,
                     record, &place)
               ? SLATE_OK
               : SLATE_ERR_LABEL_ROOM;
}

enum slate_status slate_ntfs_relabel(struct slate_media *media,
                                     const struct slate_relabel *wish,
                                     void *work, struct slate_label_plan *plan)
{
    struct slate_reader reader = {
        .media = media, .range = wish->range, .work = work};
    struct slate_volume volume = {0};
    struct slate_ntfs_reading reading;
    const uint8_t *boot;
    enum slate_status status;

    memset(plan, 0, sizeof *plan);
    status = slate_ntfs_label(wish->label, plan->label);
    SLATE_TRY(status);
    boot = slate_reader_cut(&reader)
               ? slate_reader_at(&reader, 0, SLATE_PIECE_BYTES)
               : NULL;
    if (boot == NULL || !slate_signature_judge(0, reader.work, &volume) ||
        volume.kind != SLATE_VOLUME_NTFS ||
        !slate_ntfs_begin(&reader, boot, &volume, &reading))
        return reader.status != SLATE_OK ? reader.status : SLATE_ERR_CHANGED;
    if (slate_ntfs_has_replay(&reading))
        return SLATE_ERR_UNCLEAN;
    plan->more = wish->round == 0;
    return change(&reading, wish->round, plan);
}
