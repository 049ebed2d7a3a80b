/* SPDX-License-Identifier: MIT */
/* Drafts as files. Only the input of the draft is read back, and its seal has
 * to come out the same; everything else in the file is there to be read. */
#include <unistd.h>

#include "draft/draft.h"

static bool read_hex(const json_t *object, const char *key, uint8_t *bytes,
                     size_t length)
{
    return draft_json_hex(json_string_value(json_object_get(object, key)),
                          bytes, length);
}

#define FILE_MOST 1073741824u /* a draft that places millions of files */

/* NULL: it is no JSON; or it was refused, as given tells where it is wanted. */
static json_t *load(const char *path, struct given *why)
{
    struct given given;
    json_t *shape = given_read(path, GIVEN_TEXT, FILE_MOST, &given)
                        ? json_loadb(given.bytes, given.length,
                                     JSON_REJECT_DUPLICATES, NULL)
                        : NULL;

    if (why != NULL)
        *why = given;
    given_free(&given);
    return shape;
}

bool draft_file_is_ours(const char *path, const struct target *target)
{
    json_t *shape = load(path, NULL);
    const char *name = json_string_value(json_object_get(shape, "shape"));
    uint8_t identity[SLATE_DIGEST_BYTES], seal[SLATE_DIGEST_BYTES];
    bool ours = name != NULL &&
                strncmp(name, DRAFT_FAMILY, strlen(DRAFT_FAMILY)) == 0 &&
                read_hex(json_object_get(shape, "basis"), "identity", identity,
                         sizeof identity) &&
                memcmp(identity, target->media.digest, sizeof identity) == 0;

    if (ours && target->facts.marked &&
        read_hex(shape, "seal", seal, sizeof seal))
        ours = memcmp(seal, target->facts.mark.seal, sizeof seal) != 0;
    json_decref(shape);
    return ours;
}

/* bytes: the path byte for byte, in hexadecimal, or NULL */
static bool read_path(const char *shown, const char *bytes,
                      char path[ADDRESS_ROOM])
{
    size_t length = bytes == NULL ? 0 : strlen(bytes) / 2;

    if (bytes == NULL && shown != NULL && strlen(shown) < ADDRESS_ROOM) {
        memcpy(path, shown, strlen(shown) + 1);
        return true;
    }
    if (bytes == NULL || length >= ADDRESS_ROOM ||
        !draft_json_hex(bytes, (uint8_t *)path, length))
        return false;
    path[length] = '\0';
    return strlen(path) == length;
}

static const char *text_of(const json_t *object, const char *key)
{
    return json_string_value(json_object_get(object, key));
}

static bool read_address(const json_t *shape, char address[ADDRESS_ROOM])
{
    return read_path(text_of(json_object_get(shape, "device"), "address"),
                     text_of(shape, "address_bytes"), address);
}

/* With as much room as all that is listed takes. */
static enum slate_status take_fields(json_t *shape, struct slate_draft *draft)
{
    for (;;) {
        enum slate_status status = draft_json_take(shape, draft);

        if (status == SLATE_OK || draft->shortage.of == NULL)
            return status;
        draft->shortage.of = NULL;
        drafted_enlarge(draft);
    }
}

static bool read_folder(const json_t *shape, struct slate_draft *draft)
{
    char path[ADDRESS_ROOM];

    if (draft->files.count == 0)
        return true;
    if (!read_path(text_of(shape, "files_from"),
                   text_of(shape, "files_from_bytes"), path) ||
        strlen(path) >= PATH_MAX)
        return false;
    folder_at(draft, path);
    return true;
}

/* Of which version it is, by its shape as by its number; 0: it is no draft. */
static uint32_t version_of(const json_t *shape)
{
    const char *name = json_string_value(json_object_get(shape, "shape"));
    json_int_t version = json_integer_value(json_object_get(shape, "version"));
    char wanted[60];

    snprintf(wanted, sizeof wanted, DRAFT_FAMILY "%lld", (long long)version);
    return name != NULL && version > 0 && version < UINT32_MAX &&
                   strcmp(name, wanted) == 0
               ? (uint32_t)version
               : 0;
}

static enum slate_status read_shape(json_t *shape, struct slate_draft *draft,
                                    char address[ADDRESS_ROOM])
{
    const char *name = json_string_value(json_object_get(shape, "shape"));
    uint8_t seal[SLATE_DIGEST_BYTES];
    uint32_t version = version_of(shape);
    enum slate_status status;

    if (name == NULL || strncmp(name, DRAFT_FAMILY, strlen(DRAFT_FAMILY)) != 0)
        return SLATE_ERR_DRAFT_DAMAGED;
    status = slate_draft_take_form(draft, version);
    THEN(status, take_fields(shape, draft));
    if (status == SLATE_ERR_DRAFT_VERSION)
        return status;
    THEN(status, slate_draft_make_again(draft));
    if (status == SLATE_ERR_DRAFT_REVISION)
        return status;
    return status == SLATE_OK && read_hex(shape, "seal", seal, sizeof seal) &&
                   memcmp(draft->seal, seal, sizeof seal) == 0 &&
                   read_address(shape, address) && read_folder(shape, draft)
               ? SLATE_OK
               : SLATE_ERR_DRAFT_DAMAGED;
}

static enum slate_status read_draft(const char *path, struct slate_draft *draft,
                                    char address[ADDRESS_ROOM],
                                    struct given *why)
{
    enum slate_status status = SLATE_ERR_DRAFT_DAMAGED;
    json_t *shape = load(path, why);

    if (shape != NULL)
        status = read_shape(shape, draft, address);
    json_decref(shape);
    return status;
}

enum slate_status draft_file_read(const char *path, struct slate_draft *draft,
                                  char address[ADDRESS_ROOM])
{
    return read_draft(path, draft, address, NULL);
}

int draft_file_load(const char *path, struct slate_draft *draft,
                    char address[ADDRESS_ROOM])
{
    enum slate_status status;
    struct given why;

    if (access(path, F_OK) != 0)
        return fail(SLATE_ERR_ARGUMENT, "%s: there is no such draft file",
                    path);
    status = read_draft(path, draft, address, &why);
    if (why.status != SLATE_OK)
        return given_fail(&why, "", path);
    return status == SLATE_OK ? 0 : fail_plainly(status, path);
}
