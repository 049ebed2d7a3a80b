/* SPDX-License-Identifier: MIT */
/* Drives of the weather-buoy service's old machines, as their data sheets have
 * them. */
#include "trueslate/drive.h"

#include <string.h>

#define RPM 3600u
#define MFM_TRACK 10416u /* bytes: 5 Mbit/s, 3600 turns a minute */
#define RLL_TRACK 15625u /* 7.5 Mbit/s */
#define MFM_SECTORS 17u
#define RLL_SECTORS 26u
#define BURST 11u /* bits that the checksums of the time correct */

#define MFM(c, h, precompensation, current)                                    \
    {                                                                          \
        c, h, MFM_SECTORS, 0, 512, 3, 0, 0, precompensation, current, BURST,   \
            RPM, MFM_TRACK                                                     \
    }
#define RLL(c, h, precompensation, current)                                    \
    {                                                                          \
        c, h, RLL_SECTORS, 0, 512, 3, 0, 0, precompensation, current, BURST,   \
            RPM, RLL_TRACK                                                     \
    }

static const struct slate_drive_profile profiles[] = {
    {"drum-5", MFM(153, 4, 64, 128)},
    {"drum-10", MFM(306, 4, 128, 306)},
    {"drum-20", MFM(615, 4, 300, 615)},
    {"drum-20r", RLL(615, 4, 300, 615)},
    {"bollard-40", MFM(820, 6, 256, 820)},
    {"bollard-60r", RLL(820, 6, 256, 820)},
    {"fairlead-70", MFM(1024, 8, 512, 1024)},
    {"fairlead-112", MFM(1024, 13, 1024, 1024)}};

const struct slate_drive_profile *slate_drive_profiles(uint32_t *count)
{
    *count = (uint32_t)(sizeof profiles / sizeof profiles[0]);
    return profiles;
}

static char small(char letter)
{
    return letter >= 'A' && letter <= 'Z' ? (char)(letter - 'A' + 'a') : letter;
}

const struct slate_drive_profile *slate_drive_profile(const char *name)
{
    size_t length = strlen(name);
    uint32_t count;
    const struct slate_drive_profile *profile = slate_drive_profiles(&count);

    for (uint32_t i = 0; i < count; i++, profile++) {
        size_t at = 0;

        if (strlen(profile->name) != length)
            continue;
        while (at < length && small(name[at]) == profile->name[at])
            at++;
        if (at == length)
            return profile;
    }
    return NULL;
}
