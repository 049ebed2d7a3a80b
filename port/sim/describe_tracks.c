/* SPDX-License-Identifier: MIT */
/* The members of a description that are about what is below the blocks. */

#include "sim.h"

static bool take_kind(struct sim_spot *spot, const char *kind)
{
    static const char *const names[] = {"stays", "fades", "worn"};
    uint32_t place = sim_place_of(kind, names, 3);

    spot->kind = (enum sim_spot_kind)(place % 3);
    return place < 3 || kind[0] == '\0';
}

static const char *take_spot(struct sim_tracks *tracks, const json_t *object)
{
    struct sim_spot *spot = &tracks->spot[tracks->spot_count];

    if (tracks->spot_count == SIM_SPOTS)
        return "\"spots\" must be at most 64";
    spot->cylinder = (uint32_t)sim_number_of(object, "cylinder");
    spot->head = (uint32_t)sim_number_of(object, "head");
    spot->byte = (uint32_t)sim_number_of(object, "byte");
    spot->primary = sim_flag_of(object, "primary");
    if (!take_kind(spot, sim_text_of(object, "kind")))
        return "the \"kind\" of a spot must be stays, fades or worn";
    if (spot->cylinder >= tracks->cylinders || spot->head >= tracks->heads ||
        spot->byte >= tracks->track_bytes)
        return "a spot must lie on the drive";
    tracks->spot_count++;
    return NULL;
}

static uint32_t number_or(const json_t *object, const char *key,
                          uint32_t otherwise)
{
    uint64_t number = sim_number_of(object, key);

    return number == 0 || number > UINT32_MAX ? otherwise : (uint32_t)number;
}

static const char *take_tracks(struct sim_description *about,
                               const json_t *object)
{
    struct sim_tracks *tracks = &about->tracks;
    const struct sim_unit *unit = &about->unit[0];
    const json_t *spot;
    const char *wrong = NULL;
    size_t index;

    tracks->used = true;
    tracks->cylinders = (uint32_t)sim_number_of(object, "cylinders");
    tracks->heads = (uint32_t)sim_number_of(object, "heads");
    tracks->sectors = (uint32_t)sim_number_of(object, "sectors");
    tracks->revolutions = number_or(object, "revolutions", 3600);
    tracks->track_bytes = number_or(object, "track_bytes", 10416);
    tracks->rest = (uint32_t)sim_number_of(object, "rest");
    tracks->minutes = (uint32_t)sim_number_of(object, "minutes");
    tracks->clock = number_or(object, "clock", 1);
    tracks->flexible = sim_flag_of(object, "flexible");
    tracks->rounds = sim_flag_of(object, "rounds");
    tracks->fixed = sim_flag_of(object, "fixed");
    tracks->unformatted = sim_flag_of(object, "unformatted");
    tracks->other_controller = sim_flag_of(object, "other_controller");
    if (tracks->cylinders < 1 || tracks->cylinders > 65535 ||
        tracks->heads < 1 || tracks->heads > 255 || tracks->sectors < 1 ||
        tracks->sectors > 255)
        return "\"tracks\" must tell 1 to 65535 cylinders, 1 to 255 heads and "
               "1 to 255 sectors";
    if (about->commands != SLATE_COMMANDS_SCSI || about->units != 1 ||
        unit->blocks !=
            (uint64_t)tracks->cylinders * tracks->heads * tracks->sectors)
        return "a drive with \"tracks\" must speak SCSI and have as many "
               "\"blocks\" as they hold";
    json_array_foreach (json_object_get(object, "spots"), index, spot) {
        if (wrong == NULL)
            wrong = take_spot(tracks, spot);
    }
    return wrong;
}

static const char *take_formats(struct sim_description *about,
                                const json_t *list)
{
    const json_t *number;
    size_t index;

    json_array_foreach (list, index, number) {
        json_int_t bytes = json_integer_value(number);

        if (about->formats == SIM_FORMATS || bytes < 512 || bytes > 8192)
            return "\"formats\" must list up to 8 sizes of blocks, 512 to 8192";
        about->format[about->formats++] = (uint32_t)bytes;
    }
    return NULL;
}

const char *sim_describe_tracks(struct sim_description *about,
                                const json_t *object)
{
    const json_t *tracks = json_object_get(object, "tracks");
    const char *wrong = take_formats(about, json_object_get(object, "formats"));

    return wrong == NULL && tracks != NULL ? take_tracks(about, tracks) : wrong;
}
