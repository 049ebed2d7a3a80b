/* SPDX-License-Identifier: MIT */
/* Tags: five letters that can be spoken and two digits, "TARUK-47". They are
 * derived from transport, maker, model, serial number and capacity, so they
 * stay the same in another port. 0, 1, I, O do not occur; nor do letters that
 * are mistaken for another one when spoken (B, M, P, V, ...). */
#include "base/base.h"
#include "media/wire/wire.h"

static void add_field(struct slate_sha256 *sha, const char *field)
{
    slate_sha256_add(sha, field, strlen(field) + 1);
}

static void digest_identity(struct slate_media *media)
{
    const struct slate_identity *identity = &media->identity;
    struct slate_sha256 sha;
    uint8_t numbers[9], unit = (uint8_t)media->unit;

    numbers[0] = (uint8_t)identity->transport;
    slate_put_le64(numbers + 1, slate_geometry_bytes(&media->geometry));
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, numbers, sizeof numbers);
    add_field(&sha, identity->maker);
    add_field(&sha, identity->model);
    add_field(&sha, identity->serial);
    if (unit != 0) /* two units in one body have two tags */
        slate_sha256_add(&sha, &unit, 1);
    slate_sha256_end(&sha, media->digest);
}

void slate_tag_derive(struct slate_media *media)
{
    static const char consonant[] = "DFGHJKLNRSTWXZ";
    static const char vowel[] = "AEU";
    static const char digit[] = "23456789";
    static const char *const shape[] = {consonant, vowel, consonant, vowel,
                                        consonant, "-",   digit,     digit};
    uint64_t left;

    digest_identity(media);
    left = slate_le64(media->digest);
    for (size_t i = 0; i < SLATE_TAG_ROOM - 1; i++) {
        size_t choices = strlen(shape[i]);

        media->tag[i] = shape[i][left % choices];
        left /= choices;
    }
    media->tag[SLATE_TAG_ROOM - 1] = '\0';
}

/* Names and numbers that devices tell of themselves, made printable. */

void slate_take_text(char *to, size_t room, const uint8_t *from, size_t length)
{
    size_t n = 0;

    while (length > 0 && (from[length - 1] == ' ' || from[length - 1] == 0))
        length--;
    while (length > 0 && *from == ' ') {
        from++;
        length--;
    }
    for (; n < length && n < room - 1; n++)
        to[n] = (char)(from[n] >= 0x20 && from[n] < 0x7F ? from[n] : '?');
    to[n] = '\0';
}
