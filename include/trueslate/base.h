/* SPDX-License-Identifier: MIT */
/* Ground floor: checksums, digests, GUIDs and sizes in words. */
#ifndef TRUESLATE_BASE_H
#define TRUESLATE_BASE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "trueslate/status.h"

#ifdef __cplusplus
extern "C" {
#endif

/**
 * CRC-32 as GPT uses it (UEFI 2.10, 5.3.2; polynomial 04C11DB7h, reflected,
 * initial value and final XOR all ones).
 *
 * @param crc    0 to begin, or the value of the bytes so far
 * @param bytes  may be NULL when @p length is 0
 * @param length number of bytes
 * @return the CRC-32 of all bytes so far
 */
uint32_t slate_crc32(uint32_t crc, const void *bytes, size_t length);

/**
 * CRC-32C (Castagnoli) as file systems seal their records with: the register
 * itself, neither inverted before nor after.
 *
 * @param crc    0xFFFFFFFF to begin, or the result for the bytes ahead
 * @param bytes  any
 * @param length bytes
 * @return the register behind them
 */
uint32_t slate_crc32c(uint32_t crc, const void *bytes, size_t length);

/**
 * CRC-7 of SD commands, responses and registers (Physical Layer Simplified
 * Specification 6.00, 4.5; polynomial 09h, initial value 0).
 *
 * @param bytes  the bytes
 * @param length number of bytes
 * @return the CRC in bits 0 to 6
 */
uint8_t slate_crc7(const void *bytes, size_t length);

/**
 * CRC-16 of SD data blocks (the same clause; polynomial 1021h, initial value
 * 0).
 *
 * @param bytes  the bytes
 * @param length number of bytes
 * @return the CRC
 */
uint16_t slate_crc16(const void *bytes, size_t length);

/** Every block is a whole number of pieces of this many bytes. */
#define SLATE_PIECE_BYTES 512u

/** A plain run of logical blocks. */
struct slate_range {
    uint64_t first;
    uint64_t count;
};

/** A list of ranges in an array that the caller has placed. */
struct slate_ranges {
    struct slate_range *range;
    uint32_t room;  /**< elements of it */
    uint32_t count; /**< of them filled */
};

/** Bytes in an array that the caller has placed. */
struct slate_bytes {
    uint8_t *byte;
    uint32_t room;
    uint32_t count; /**< of them filled */
};

#define SLATE_DIGEST_BYTES 32

/** State of a SHA-256 computation (FIPS 180-4, 6.2); placed by the caller. */
struct slate_sha256 {
    uint32_t state[8];
    uint64_t length;     /**< bytes so far */
    uint8_t partial[64]; /**< the bytes of the unfinished chunk */
};

/** Begins a digest. @param sha filled in */
void slate_sha256_start(struct slate_sha256 *sha);

/**
 * Adds bytes to a digest.
 *
 * @param sha    a started digest
 * @param bytes  may be NULL when @p length is 0
 * @param length number of bytes
 */
void slate_sha256_add(struct slate_sha256 *sha, const void *bytes,
                      size_t length);

/**
 * Ends a digest.
 *
 * @param sha    a started digest; not usable afterwards
 * @param digest receives the 32 bytes
 */
void slate_sha256_end(struct slate_sha256 *sha,
                      uint8_t digest[SLATE_DIGEST_BYTES]);

/** A GUID in the byte order of the disk (UEFI 2.10, appendix A). */
struct slate_guid {
    uint8_t bytes[16];
};

/** Room for a GUID in text, with its final zero. */
#define SLATE_GUID_TEXT 37

/**
 * Writes a GUID in its usual text form, upper case.
 *
 * @param guid the GUID
 * @param text receives 36 characters and a zero
 */
void slate_guid_text(const struct slate_guid *guid, char text[SLATE_GUID_TEXT]);

/**
 * Reads a GUID from its text form, in either case.
 *
 * @param text 36 characters and a zero
 * @param guid receives the GUID; untouched on failure
 * @return SLATE_OK, or SLATE_ERR_ARGUMENT when the text is no GUID
 */
SLATE_MUST_CHECK enum slate_status slate_guid_parse(const char *text,
                                                    struct slate_guid *guid);

/**
 * Makes a version 4 GUID (RFC 9562, 5.4) of 16 random bytes.
 *
 * @param random 16 bytes
 * @param guid   receives the GUID
 */
void slate_guid_random(const uint8_t random[16], struct slate_guid *guid);

/** A moment for time stamps, local time; month 0 stands for "not known". */
struct slate_stamp {
    uint16_t year; /**< 1980 to 2107 */
    uint8_t month; /**< 1 to 12 */
    uint8_t day;   /**< 1 to 31 */
    uint8_t hour, minute, second;
};

/** Room that is enough for each of the size texts below. */
#define SLATE_SIZE_TEXT 64

/**
 * A byte count in decimal units with three significant digits: "15.6 GB".
 *
 * @param bytes any number
 * @param text  receives the text
 */
void slate_size_decimal(uint64_t bytes, char text[SLATE_SIZE_TEXT]);

/**
 * A byte count in binary units with three significant digits: "14.6 GiB".
 *
 * @param bytes any number
 * @param text  receives the text
 */
void slate_size_binary(uint64_t bytes, char text[SLATE_SIZE_TEXT]);

/**
 * A byte count in both units: "15.6 GB (14.6 GiB)".
 *
 * @param bytes any number
 * @param text  receives the text
 */
void slate_size_both(uint64_t bytes, char text[SLATE_SIZE_TEXT]);

/**
 * The size that would be printed on the case of a device of this capacity:
 * the nearest of the sizes that media are sold in, when the capacity is from
 * 90 % to 108 % of it.
 *
 * @param bytes capacity in bytes
 * @return the nominal size in bytes, or 0 when no nominal size is near
 */
uint64_t slate_size_nominal(uint64_t bytes);

/**
 * A text being put together in the caller's buffer. What does not fit is cut
 * at the end; the text always ends with a zero.
 */
struct slate_text {
    char *bytes;
    size_t room; /**< bytes of the buffer, at least 1 */
    size_t used; /**< characters so far, without the zero */
};

/** Begins a text. @param buffer kept by reference  @param room at least 1 */
void slate_text_start(struct slate_text *text, char *buffer, size_t room);

/** The same where it is declared, of an array that holds "". */
#define SLATE_TEXT(array)                                                      \
    {                                                                          \
        array, sizeof(array), 0                                                \
    }

/** Appends a string. @param string zero-terminated */
void slate_text_add(struct slate_text *text, const char *string);

/**
 * Adds text from elsewhere as it may be shown: bytes of what could steer a
 * terminal, turn the direction of writing or hide, and of what is not UTF-8,
 * are written as \xHH. What does not fit is cut between characters.
 *
 * @param text where to
 * @param raw  any bytes up to a zero
 */
void slate_text_shown(struct slate_text *text, const char *raw);

/** Appends a number in decimal digits. @param number any */
void slate_text_number(struct slate_text *text, uint64_t number);

/** Appends the low digits of a number in hexadecimal. @param digits 1..16 */
void slate_text_hex(struct slate_text *text, uint64_t number, int digits);

/** Appends a size in both units. @param bytes any number */
void slate_text_size(struct slate_text *text, uint64_t bytes);

/** Appends bytes as lower-case hexadecimal. @param length number of bytes */
void slate_text_bytes(struct slate_text *text, const uint8_t *bytes,
                      size_t length);

#ifdef __cplusplus
}
#endif
#endif
