/* SPDX-License-Identifier: MIT */
/* Inside the bench: what a simulated device is made of. */
#ifndef PORT_SIM_SIM_H
#define PORT_SIM_SIM_H

#include <jansson.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "trueslate/port_sim.h"

#define SIM_UNITS 4u
#define SIM_FAULTS 32u

/* What happens beyond the true capacity of a device that claims more. */
enum sim_beyond {
    SIM_BEYOND_WRAP,
    SIM_BEYOND_DROP,
    SIM_BEYOND_ZEROS,
    SIM_BEYOND_NOISE
};

enum sim_fault_kind {
    SIM_FAULT_READ,
    SIM_FAULT_WRITE,
    SIM_FAULT_SLOW
};

/* What protects a unit, as bits of sim_unit.guards. */
enum sim_guard {
    SIM_GUARD_SOFTWARE,    /* SCSI: software write protect */
    SIM_GUARD_TEMPORARY,   /* SD: CSD bit 12 */
    SIM_GUARD_PERMANENT,   /* SD: CSD bit 13 */
    SIM_GUARD_PASSWORD,    /* SD: locked */
    SIM_GUARD_RESERVED,    /* SCSI: another host's persistent reservation */
    SIM_GUARD_LOCKED,      /* ATA: security */
    SIM_GUARD_FROZEN,      /* ATA: security */
    SIM_GUARD_PROTECTED,   /* NVMe: namespace write protection, state 1 */
    SIM_GUARD_UNTIL_POWER, /* NVMe: state 2 */
    SIM_GUARD_FOR_EVER,    /* NVMe: state 3 */
    SIM_GUARD_WORN_OUT,    /* NVMe: the medium is read-only */
    SIM_GUARD_HOST,        /* the host keeps it read-only */
    SIM_GUARD_SLIDER,      /* SD: the reader tells of it, and refuses writes */
    SIM_GUARDS
};

/* Ways in which a device erases itself, as bits of sim_erasing.ways; each
 * command set has its own commands for them. */
enum sim_erase_way {
    SIM_ERASE_OVERWRITE,
    SIM_ERASE_BLOCK,
    SIM_ERASE_CRYPTO,
    SIM_ERASE_FORMAT,
    SIM_ERASE_FORMAT_CRYPTO, /* NVMe */
    SIM_ERASE_SECURITY,      /* ATA */
    SIM_ERASE_ENHANCED,      /* ATA */
    SIM_ERASE_WAYS
};

/* What it really does when it is told to erase itself. */
enum sim_erase_does {
    SIM_ERASE_ALL,
    SIM_ERASE_NOTHING, /* but it says that it is done */
    SIM_ERASE_HALF,    /* the same */
    SIM_ERASE_FAILS,   /* half-way, and says so */
    SIM_ERASE_REFUSES
};

struct sim_erasing {
    uint32_t ways, steps, minutes;
    uint32_t cut_at, reset_at; /* steps, from 1; 0: never */
    enum sim_erase_does does;
    bool formats_all; /* NVMe: a format reaches all namespaces */
    bool mute;        /* SCSI: does not tell how far it is */
    bool waits;       /* SCSI: FORMAT UNIT answers when it is done, and takes no
                         immediate bit */
    bool plain;       /* SCSI: the same, and takes no parameter list */
};

#define SIM_SPOTS 64u
#define SIM_FORMATS 8u

/* What is wrong with a place on a track. */
enum sim_spot_kind {
    SIM_SPOT_STAYS, /* bad for ever */
    SIM_SPOT_FADES, /* bad until the next format */
    SIM_SPOT_WORN   /* the same as the first, and its neighbours are weak */
};

struct sim_spot {
    enum sim_spot_kind kind;
    uint32_t cylinder, head, byte; /* from the index */
    bool primary;                  /* the maker has listed it in the drive */
};

/* A drive with tracks, behind a controller that forms their sectors. */
struct sim_tracks {
    bool used;                          /* the device is one */
    uint32_t cylinders, heads, sectors; /* that it has room for */
    uint32_t revolutions;               /* in a minute */
    uint32_t track_bytes;
    uint32_t rest; /* sectors that pass until controller and machine are ready
                      for the next one */
    uint32_t minutes; /* a format of all of it takes */
    uint32_t clock;   /* its time passes so many times faster */
    bool flexible;    /* tells its geometry by page 05h */
    bool rounds;      /* says of every page that it was rounded */
    bool fixed;       /* takes no other geometry */
    bool unformatted, other_controller; /* as delivered */
    uint32_t spot_count;
    struct sim_spot spot[SIM_SPOTS];
};

/* What a host can set of a device, and a format makes true. */
enum sim_shape_field {
    SIM_SHAPE_CYLINDERS,
    SIM_SHAPE_HEADS,
    SIM_SHAPE_SECTORS,
    SIM_SHAPE_SPARES,
    SIM_SHAPE_INTERLEAVE,
    SIM_SHAPE_TRACK_SKEW,
    SIM_SHAPE_CYLINDER_SKEW,
    SIM_SHAPE_PRECOMPENSATION,
    SIM_SHAPE_CURRENT,
    SIM_SHAPE_SPAN,
    SIM_SHAPE_BLOCK_BYTES,
    SIM_SHAPE_FIRST_BLOCKS, /* of the first logical drive; 0: all */
    SIM_SHAPE_FIELDS
};

struct sim_shape {
    uint64_t field[SIM_SHAPE_FIELDS];
};

/* A range of blocks that fails, or is slow. */
struct sim_fault {
    enum sim_fault_kind kind;
    uint64_t first, count;
    uint64_t times;            /* fails so often, then works; 0: for ever */
    uint64_t bytes_per_second; /* slow ones */
};

/* One logical unit (or the only one). */
struct sim_unit {
    uint64_t blocks;
    uint32_t block_bytes;    /* as reported */
    uint32_t stored_bytes;   /* as stored: 0 for the same */
    uint32_t physical_bytes; /* 0 for the same */
    uint64_t true_blocks;    /* 0 for an honest device */
    uint64_t native_blocks;  /* with what is hidden of it; 0: as reported */
    uint64_t factory_blocks; /* ATA: and with what the overlay hides; 0: none */
    enum sim_beyond beyond;
    uint32_t beyond_cache; /* blocks beyond that are remembered for a while */
    bool write_protected, no_medium, unknown_capacity, ignore_writes;
    uint32_t guards;           /* bits by enum sim_guard, as delivered */
    bool stubborn;             /* says that a guard is lifted, and keeps it */
    bool refuses_lifts;        /* refuses the commands that would lift one */
    bool groups;               /* SD: knows write-protect groups */
    uint64_t protected_groups; /* SD: the first 64 write-protect groups, bits */
    bool refuses_writes;       /* without telling why */
    bool accessible_max;       /* ATA: instead of a host protected area */
    bool removal_held;         /* SCSI: another host prevents removal */
    char password[33];         /* SD and ATA */
    uint32_t fault_count;
    struct sim_fault fault[SIM_FAULTS];
    json_t *content; /* array of patches, or NULL */
};

/* What a description says. */
struct sim_description {
    char name[64];
    char story[256];
    enum slate_transport transport;
    enum slate_command_set commands;
    char maker[9];    /* 8 characters, as INQUIRY has room for */
    char model[41];   /* 40; SCSI shows 16, SD 5 */
    char revision[9]; /* 8; SCSI shows 4 */
    char disk_model[41], disk_serial[33]; /* behind a dock */
    char serial[33];                      /* "" for a device without one */
    uint64_t bytes_per_second;            /* 0: as fast as the machine */
    bool removable, rotating, discard, few_commands, protection, dock, zoned;
    uint32_t erase_bytes;
    /* moments, counted in commands since the device was opened; 0: never */
    uint64_t drop_after, power_cut_at, short_transfer_every;
    bool torn;            /* the power cut tears the last write */
    bool torn_unreadable; /* its first block cannot be read then */
    uint64_t swap_at;     /* another medium is in the reader then */
    char swap_with[64];   /* the device whose blocks those are; one unit */
    bool swap_told;       /* SCSI: a unit attention tells of it */
    /* moments, counted in writes since the device was opened; 0: never */
    uint64_t refuse_after, forget_after, power_cut_in;
    char mounted[64];    /* where its host has a volume of it; "" */
    uint64_t mount_at;   /* from which command on */
    char held_by[64];    /* a program that works there; "" */
    uint32_t attentions; /* unit attentions after power-on */
    uint32_t busy;       /* commands answered with "busy" */
    uint32_t becoming_ready;
    struct sim_erasing erasing;
    struct sim_tracks tracks;
    uint32_t formats; /* sizes of blocks that a format can give it, bytes */
    uint32_t format[SIM_FORMATS];
    uint32_t units;
    struct sim_unit unit[SIM_UNITS];
};

struct sim_sense {
    uint8_t key, asc, ascq;
};

/* What several of the SCSI files answer. */
static const struct sim_sense sim_none = {0x0, 0x00, 0x00};
static const struct sim_sense sim_unknown_command = {0x5, 0x20, 0x00};
static const struct sim_sense sim_invalid_field = {0x5, 0x24, 0x00};
static const struct sim_sense sim_invalid_parameter = {0x5, 0x26, 0x00};
static const struct sim_sense sim_write_protected = {0x7, 0x27, 0x00};

struct sim_store; /* where the bytes are: store.c */

/* How an access to blocks ended; lba tells where it failed. */
enum sim_outcome {
    SIM_DONE,
    SIM_OUT_OF_RANGE,
    SIM_PROTECTED,
    SIM_READ_ERROR,
    SIM_WRITE_ERROR,
    SIM_NO_SECTORS,   /* the track has none */
    SIM_OTHER_SECTORS /* it has those of another controller */
};

struct sim_state {
    char path[4096];
    json_t *values;
};

struct slate_sim {
    struct sim_description about;
    struct sim_unit *unit; /* the one that is open */
    uint32_t unit_number;
    struct slate_port port;
    struct sim_store *store;
    struct sim_state state; /* what outlives a run */
    char bench[4096];       /* where it lies */
    uint64_t commands;      /* since it was opened */
    uint64_t writes;        /* the same, of them those that write blocks */
    uint64_t torn;          /* 1 + a block that is torn beyond reading */
    bool gone;              /* dropped off the bus, or without power */
    bool claimed;           /* its host mounts nothing then */
    struct sim_sense sense; /* SCSI: of the last command */
    bool swp; /* SCSI: software write protect, as the device keeps it */
    uint64_t raw_bytes;        /* of all units, before any format */
    uint64_t time_us;          /* by its own clock, of drives with tracks */
    uint64_t asked_ms;         /* by the host's, when it was asked last */
    uint32_t nvme_result;      /* NVMe: first word of the completion */
    uint8_t last_operation;    /* ATA: the command ahead */
    bool mode_changed;         /* SCSI: a unit attention tells of it once */
    bool medium_changed;       /* the same */
    uint32_t sd_state;         /* SD: SIM_SD_OFF and so on */
    bool sd_app;               /* SD: the next command is an ACMD */
    uint32_t sd_status;        /* SD: error bits to be told */
    uint64_t sd_erase[2];      /* SD: first and last block to erase */
    struct sim_recent *recent; /* what a liar remembers; NULL: nothing */
    uint32_t recent_next;
};

/* Guards, as the state has them; changing one is kept. */
bool sim_guard_named(const char *name, enum sim_guard *guard);
bool sim_guarded(const struct slate_sim *sim, enum sim_guard guard);
void sim_guard_set(struct slate_sim *sim, enum sim_guard guard, bool on);
bool sim_is_protected(const struct slate_sim *sim, uint64_t lba,
                      uint64_t count);
void sim_guards_power_cycle(const struct sim_state *state);

/* The password that a card or disk has now; "" for none. */
#define SIM_PASSWORD_ROOM 33
void sim_password(const struct slate_sim *sim,
                  char password[SIM_PASSWORD_ROOM]);
void sim_password_set(struct slate_sim *sim, const char *password,
                      size_t length);

/* What protects a card: SD commands 27 to 30 and 42 (sd_guards.c). */
bool sim_sd_guard_command(struct slate_sim *sim, struct slate_exchange *x);

/* Its groups, counted from 0 (sd_groups.c). */
uint64_t sim_sd_group_blocks(const struct slate_sim *sim);
bool sim_sd_is_group_on(const struct slate_sim *sim, uint64_t group);
void sim_sd_set_group(struct slate_sim *sim, uint64_t group, bool on);
bool sim_sd_is_grouped(const struct slate_sim *sim, uint64_t lba,
                       uint64_t count);

/* Where identification stands. */
enum {
    SIM_SD_OFF,
    SIM_SD_IDLE,
    SIM_SD_READY,
    SIM_SD_IDENT,
    SIM_SD_STANDBY,
    SIM_SD_TRANSFER
};

/* What it answers with (sd_answers.c); checked: with a checksum. */
void sim_sd_put_cid(const struct slate_sim *sim, uint8_t value[16]);
void sim_sd_respond_as(struct slate_sim *sim, struct slate_exchange *x,
                       uint32_t content, bool checked);
void sim_sd_put_csd(const struct slate_sim *sim, uint8_t value[16]);
void sim_sd_respond(struct slate_sim *sim, struct slate_exchange *x,
                    uint32_t content);
void sim_sd_send_data(struct slate_sim *sim, struct slate_exchange *x,
                      const uint8_t *data, uint32_t length);
bool sim_sd_is_spi(const struct slate_sim *sim);
bool sim_sd_is_standard(const struct slate_sim *sim);
uint64_t sim_sd_block_of(const struct slate_sim *sim, uint32_t argument);

/* Bits of the SD card status. */
#define SIM_SD_OUT_OF_RANGE 0x80000000u
#define SIM_SD_WP_VIOLATION 0x04000000u
#define SIM_SD_LOCKED 0x02000000u
#define SIM_SD_LOCK_FAILED 0x01000000u
#define SIM_SD_CSD_OVERWRITE 0x00010000u

/* What protects or hides parts of an ATA disk (ata_guards.c): carries out a
 * command of that kind and gives its error bits; -1 for another command. */
int sim_ata_guard_command(struct slate_sim *sim, struct slate_exchange *x);
uint64_t sim_ata_blocks(const struct slate_sim *sim);
void sim_ata_put_guards(const struct slate_sim *sim, uint8_t data[512]);
#define SIM_ATA_ABORTED 0x04

/* Erasing itself (erase.c): begins, false when it has no such way or refuses;
 * goes on by one step; does it in one go. */
bool sim_erase_has(const struct slate_sim *sim, enum sim_erase_way way);
void sim_erase_set_steps(struct slate_sim *sim);
bool sim_erase_begin(struct slate_sim *sim, enum sim_erase_way way);
void sim_erase_step(struct slate_sim *sim);
bool sim_erase_at_once(struct slate_sim *sim, enum sim_erase_way way);
bool sim_erase_is_working(const struct slate_sim *sim);
bool sim_erase_has_failed(const struct slate_sim *sim, enum sim_erase_way *way);
bool sim_erase_is_done(const struct slate_sim *sim);
/* Of 65536. */
uint32_t sim_erase_progress(const struct slate_sim *sim);
/* The shape of a device (shape.c): as a host has set it, or as the last format
 * made it. Applying it gives units and sizes; a format ends with it. */
void sim_shape_get(const struct slate_sim *sim, bool set,
                   struct sim_shape *shape);
void sim_shape_set(const struct slate_sim *sim, const struct sim_shape *shape);
bool sim_shape_is_possible(const struct slate_sim *sim);
void sim_shape_apply(struct slate_sim *sim);
void sim_shape_format(struct slate_sim *sim);
bool sim_shape_takes(const struct slate_sim *sim, uint32_t block_bytes);

/* Drives with tracks (tracks.c): what becomes of an access; the time that it
 * takes; how many steps of a format are due; blocks of the drive ahead of the
 * open unit's; places that the list of the last format, or a host since, has
 * flagged. */
enum sim_outcome sim_tracks_try(struct slate_sim *sim, bool write, uint64_t lba,
                                uint64_t count);
void sim_tracks_pass(struct slate_sim *sim, uint64_t lba, uint64_t count);
uint64_t sim_tracks_due(struct slate_sim *sim);
uint64_t sim_tracks_ahead(const struct slate_sim *sim);
void sim_tracks_flag_none(const struct slate_sim *sim);
bool sim_tracks_flag(const struct slate_sim *sim, uint64_t cylinder,
                     uint64_t head, uint64_t slot);
void sim_tracks_place(const struct slate_sim *sim, uint64_t lba,
                      uint64_t place[3]);
/* The next flagged place; at begins with 0. */
bool sim_tracks_next(const struct slate_sim *sim, size_t *at,
                     uint64_t place[3]);

/* Loses the cache; false when it has lost its power before: once in a life. */
bool sim_lose_power(struct slate_sim *sim);

/* Members of a description: "", 0 and false where they are not there. */
const char *sim_text_of(const json_t *object, const char *key);
uint64_t sim_number_of(const json_t *object, const char *key);
bool sim_flag_of(const json_t *object, const char *key);
/* The place of a member's text in a list; the length of that: it is in none. */
uint32_t sim_place_of(const char *text, const char *const *names,
                      uint32_t count);

/* "tracks" and "formats" of a description (describe_tracks.c); NULL, or what
 * was expected. */
const char *sim_describe_tracks(struct sim_description *about,
                                const json_t *object);

/* Reads and checks a description; why receives a sentence on failure. */
enum slate_status sim_describe(const char *path, struct sim_description *about,
                               char why[SLATE_SIM_WHY_ROOM]);
void sim_description_free(struct sim_description *about);

/* Puts the patches of a unit into its fresh store. */
enum slate_status sim_fill(const struct sim_unit *unit, struct sim_store *store,
                           char why[SLATE_SIM_WHY_ROOM]);

/* The blocks of a unit in a bench folder: a sparse file, with an index beside
 * it where the device is larger than a file can be. fresh: empties it. */
struct sim_store *sim_store_open(const char *bench, const char *name,
                                 uint32_t unit, uint64_t bytes, bool fresh);
void sim_store_close(struct sim_store *store);
bool sim_store_read(struct sim_store *store, uint64_t byte, void *data,
                    size_t length);
/* Writes are kept in the device's cache until they are flushed. */
bool sim_store_write(struct sim_store *store, uint64_t byte, const void *data,
                     size_t length);
bool sim_store_flush(struct sim_store *store);
/* Zeros, or noise in the place of all that was ever written, over a range. */
bool sim_store_erase(struct sim_store *store, uint64_t byte, uint64_t length,
                     bool noise);
/* Loses the cache; torn: the first half of the last write survives. Returns
 * the byte at which that one begins; UINT64_MAX for none. */
uint64_t sim_store_lose(struct sim_store *store, bool torn);
/* Bytes from one stored block to the next. */
uint32_t sim_stride(const struct sim_unit *unit);
/* All that is there, also what is hidden. */
uint64_t sim_all_blocks(const struct sim_unit *unit);
/* Exclusive use by this program. */
bool sim_store_lock(struct sim_store *store, bool lock);

/* One block beyond the true capacity that a liar's controller remembers, until
 * so many others were written. */
struct sim_recent {
    bool used;
    uint64_t lba;
    uint8_t data[8192];
};

/* Blocks as the device gives and takes them, with its faults. */
enum sim_outcome sim_read(struct slate_sim *sim, uint64_t lba, uint64_t count,
                          uint8_t *data);
enum sim_outcome sim_write(struct slate_sim *sim, uint64_t lba, uint64_t count,
                           const uint8_t *data);
enum sim_outcome sim_clear(struct slate_sim *sim, uint64_t lba, uint64_t count);

/* Bytes that a transfer of this length really moves. */
uint32_t sim_moved(struct slate_sim *sim, uint64_t bytes);

/* The device's side of the command sets. */
void sim_scsi(struct slate_sim *sim, struct slate_exchange *x);
void sim_ata(struct slate_sim *sim, struct slate_exchange *x);
void sim_nvme(struct slate_sim *sim, struct slate_exchange *x);
void sim_sd(struct slate_sim *sim, struct slate_exchange *x);

/* SCSI: erasing itself (scsi_erase.c): the commands for it; what is answered to
 * others meanwhile, none where they are taken; how far it is, in sense data. */
struct sim_sense sim_scsi_erase(struct slate_sim *sim,
                                struct slate_exchange *x);
struct sim_sense sim_scsi_erasing(struct slate_sim *sim, uint8_t operation);
struct sim_sense sim_scsi_working(const struct slate_sim *sim);
void sim_scsi_put_progress(const struct slate_sim *sim, uint8_t data[18]);

/* SCSI: mode pages (scsi_mode.c), defect lists (scsi_defects.c). */
struct sim_sense sim_mode_sense(const struct slate_sim *sim,
                                struct slate_exchange *x);
struct sim_sense sim_mode_select(struct slate_sim *sim,
                                 const struct slate_exchange *x);
struct sim_sense sim_scsi_take_defects(struct slate_sim *sim,
                                       const struct slate_exchange *x);
struct sim_sense sim_scsi_read_defects(const struct slate_sim *sim,
                                       struct slate_exchange *x);
struct sim_sense sim_scsi_reassign(struct slate_sim *sim,
                                   const struct slate_exchange *x);

/* SCSI: INQUIRY data and VPD pages; the length, 0 for a page it has not. */
uint32_t sim_inquiry(const struct slate_sim *sim, bool page, uint8_t number,
                     uint8_t data[600]);
/* ATA: the 512 bytes of IDENTIFY DEVICE. */
void sim_ata_identity(const struct slate_sim *sim, uint8_t data[512]);

/* Numbers and text on the wire. */
uint64_t sim_be(const uint8_t *bytes, int length);
void sim_put_be(uint8_t *bytes, int length, uint64_t value);
uint64_t sim_le(const uint8_t *bytes, int length);
void sim_put_le(uint8_t *bytes, int length, uint64_t value);
void sim_put_padded(uint8_t *field, size_t length, const char *text);
/* Copies an answer, cut to what was allowed and the host has room for. */
void sim_answer(struct slate_exchange *x, const uint8_t *data, uint64_t length,
                uint64_t allowed);

/* Has its host a volume of it mounted? Does so at the command at which the
 * description has it. */
bool sim_is_mounted(const struct slate_sim *sim);
void sim_mount_now(struct slate_sim *sim);

/* What outlives a run, out of NAME.state: in memory while the device is open,
 * and written at each change, with what somebody else has changed meanwhile.
 * Gives back what it holds with sim_state_close. */
void sim_state_open(struct sim_state *state, const char *path);
void sim_state_close(struct sim_state *state);

/* A number; 0 when there is none. */
uint64_t sim_state_get(const struct sim_state *state, const char *key);
void sim_state_set(const struct sim_state *state, const char *key,
                   uint64_t value);
/* The same of the device that is open. */
uint64_t sim_get(const struct slate_sim *sim, const char *key);
void sim_set(const struct slate_sim *sim, const char *key, uint64_t value);
/* The same for text; false when there is none. */
bool sim_state_text(const struct sim_state *state, const char *key, char *text,
                    size_t room);
void sim_state_set_text(const struct sim_state *state, const char *key,
                        const char *text, size_t length);

/* "folder/name" + suffix; false when it does not fit. */
bool sim_path(char *path, size_t room, const char *folder, const char *name,
              const char *suffix);

#endif
