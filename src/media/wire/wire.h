/* SPDX-License-Identifier: MIT */
/* What the command sets share: transfers, tries, evidence, tags. */
#ifndef SLATE_MEDIA_WIRE_H
#define SLATE_MEDIA_WIRE_H

#include "trueslate/evidence.h"
#include "trueslate/media.h"

/* The device, or the medium that was looked at, is not there any more. */
bool slate_media_is_gone(enum slate_status status);

/* Gathering evidence while a device is looked at, and holding it against the
 * device later. */

/* Sees what is read of one device, as long as slate_policy.witness is it. */
struct slate_witness {
    struct slate_sha256 sha; /* of the last range, as far as it goes */
    struct slate_evidence *evidence;
};

void slate_witness_start(struct slate_witness *witness,
                         struct slate_evidence *evidence);

/* data: what was read. joined: a range that goes on where the last one ended
 * becomes one with it. */
void slate_witness_see(struct slate_witness *witness, uint64_t lba,
                       uint32_t count, const uint8_t *data,
                       uint32_t block_bytes, bool joined);

void slate_witness_end(struct slate_witness *witness);

bool slate_evidence_equal(const struct slate_evidence *a,
                          const struct slate_evidence *b);

/* Reads a range again; same: it holds what it held. work takes SLATE_WORK_MIN
 * bytes. Where slate_policy.unread is set, what cannot be read is no error. */
enum slate_status slate_seen_again(struct slate_media *media,
                                   const struct slate_seen *seen, uint8_t *work,
                                   bool *same);

/* What of some evidence is as it was: the range with one block, and all
 * others. */
struct slate_again {
    bool first, rest;
};

/* The same for all of it; what cannot be read is as what could not be then. */
enum slate_status slate_evidence_again(struct slate_media *media,
                                       const struct slate_evidence *evidence,
                                       uint64_t block, uint8_t *work,
                                       struct slate_again *again);

/* How one kind of device is spoken to; media.c stands above these. */

/* Ranges are checked and transfers split before these are called. */
struct slate_speech {
    enum slate_command_set commands; /* SD stands for its SPI form as well */
    enum slate_status (*open)(struct slate_media *media,
                              const struct slate_port_facts *facts);
    enum slate_status (*transfer)(struct slate_media *media, bool write,
                                  uint64_t lba, uint32_t count, void *data);
    enum slate_status (*flush)(struct slate_media *media);
    /* The exchange that a transfer is, as it is made of it; NULL: it is
     * more than one, or none. */
    void (*prepare)(struct slate_media *media, bool write, uint64_t lba,
                    uint32_t count, void *data, struct slate_exchange *x);
    /* Takes note of what the answer to such an exchange tells of the medium;
     * NULL: it tells nothing. */
    void (*heed)(struct slate_media *media, const struct slate_exchange *x);
    /* lba and count within what one command takes; NULL: no such command */
    enum slate_status (*clear)(struct slate_media *media, uint64_t lba,
                               uint64_t count, enum slate_clear how);
    enum slate_status (*eject)(struct slate_media *media); /* NULL: nothing */
    enum slate_status (*rest)(struct slate_media *media);  /* NULL: no such */
};

extern const struct slate_speech slate_speech_plain;
extern const struct slate_speech slate_speech_scsi;
extern const struct slate_speech slate_speech_ata;
extern const struct slate_speech slate_speech_nvme;
extern const struct slate_speech slate_speech_sd;

/* Reads or writes what one command takes; a command that is refused is a block
 * that cannot be. */
enum slate_status slate_media_move(struct slate_media *media, bool write,
                                   uint64_t lba, uint32_t count, void *data);

/* Sends one exchange over the port and counts it. */
enum slate_status slate_media_exchange(struct slate_media *media,
                                       struct slate_exchange *x);

/* An exchange carries data either way in one pointer; with direction OUT a
 * port only reads from it. */
static inline void *slate_outgoing(const void *data)
{
    union {
        const void *from;
        void *to;
    } pointer = {data};

    return pointer.to;
}

/* Printable ASCII without spaces at either end into an identity field. */
void slate_take_text(char *to, size_t room, const uint8_t *from, size_t length);

/* The short name of a device, made of what it says of itself. */

/* Fills media->digest and media->tag from identity and capacity. */
void slate_tag_derive(struct slate_media *media);

/* Transfers of any length: checked, split, counted, with the first fault. */

/* Takes note of a failure, unless there was one before; returns the status. */
enum slate_status slate_media_note(struct slate_media *media,
                                   enum slate_status status,
                                   enum slate_operation operation, uint64_t lba,
                                   uint32_t count);

/* May these blocks be asked for? */
enum slate_status slate_media_admit(const struct slate_media *media,
                                    uint64_t lba, uint64_t count);

/* Reads what the device takes at a time, by the policy. */
enum slate_status slate_media_read_run(struct slate_media *media, uint64_t lba,
                                       uint32_t count, void *data);

/* Begins to read blocks. Where the port cannot do that, or the device takes
 * more than one command for them, it is done when this returns. Such a read
 * goes by no policy: nothing is noted, counted out or shown. */
void slate_media_begin_read(struct slate_media *media,
                            struct slate_pending *pending, uint64_t lba,
                            uint32_t count, void *data);

/* The same for writing. */
void slate_media_begin_write(struct slate_media *media,
                             struct slate_pending *pending, uint64_t lba,
                             uint32_t count, const void *data);

/* Waits for what was begun. A transfer that failed is made once more, and
 * waited for, so that its failure is told as any other; but for reading plain
 * blocks where the policy is one try. Returns as slate_media_read or
 * slate_media_write. */
SLATE_MUST_CHECK enum slate_status
slate_media_finish(struct slate_media *media, struct slate_pending *pending);

/* Lifts the host's own read-only setting and asks again whether it is gone.
 * Returns SLATE_OK; SLATE_ERR_COMMAND when the port has no such operation;
 * SLATE_ERR_STILL_GUARDED when it says that it did, and the device is read-
 * only as before; or what the port says. */
SLATE_MUST_CHECK enum slate_status
slate_media_allow_writes(struct slate_media *media);

/* Takes the device for exclusive use at the host, and gives it back so that the
 * host reads the new table; SLATE_OK, or what the port says. The door alone
 * does that, and what ejects. */
SLATE_MUST_CHECK enum slate_status slate_media_claim(struct slate_media *media);
SLATE_MUST_CHECK enum slate_status
slate_media_release(struct slate_media *media);

/* May the device be changed? SLATE_ERR_OUTSIDE: nobody has entered it. */
static inline enum slate_status
slate_media_inside(const struct slate_media *media)
{
    return media->entered ? SLATE_OK : SLATE_ERR_OUTSIDE;
}

/* Puts what the device answered into words, without a final stop: its sense
 * data, or the sentence of the result where there are none. */
void slate_fault_answer_words(const struct slate_fault *fault,
                              struct slate_text *text);

/* Blocks for which zeros stand: they could not be read, or a look may take no
 * more. */

/* How many so far; and are there more than that now? */
uint32_t slate_media_unread_count(const struct slate_media *media);
bool slate_media_unread_since(const struct slate_media *media, uint32_t count);

#endif
