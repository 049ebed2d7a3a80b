/* SPDX-License-Identifier: MIT */
/* Additional sense codes of storage devices in words (SPC-4, annex D.2). */
#include "trueslate/media.h"

struct row {
    uint8_t asc, ascq;
    const char *words;
};

static const struct row rows[] = {
    {0x00, 0x00, "nothing more to say"},
    {0x02, 0x00, "the heads do not settle"},
    {0x03, 0x00, "a write fault of the drive"},
    {0x04, 0x00, "not ready, it does not say why"},
    {0x04, 0x01, "becoming ready"},
    {0x04, 0x02, "it has to be started first"},
    {0x04, 0x03, "not ready, a person has to act"},
    {0x04, 0x04, "it is being formatted"},
    {0x04, 0x07, "an operation is in progress"},
    {0x04, 0x11, "it has to be woken first"},
    {0x04, 0x1B, "it is being sanitized"},
    {0x05, 0x00, "the unit does not answer"},
    {0x08, 0x00, "communication failed"},
    {0x08, 0x01, "communication timed out"},
    {0x09, 0x00, "tracking failed"},
    {0x0B, 0x01, "it is too hot"},
    {0x0C, 0x00, "a write failed"},
    {0x0C, 0x02, "a write failed, no spare block is left"},
    {0x0C, 0x03, "a write failed, the block should be reassigned"},
    {0x10, 0x00, "the sector's identification is damaged"},
    {0x10, 0x01, "protection information: the guard is wrong"},
    {0x11, 0x00, "a block cannot be read"},
    {0x11, 0x01, "a block cannot be read, retries are used up"},
    {0x11, 0x04, "a block cannot be read, it was not reassigned"},
    {0x11, 0x0C, "a block cannot be read, rewrite it"},
    {0x12, 0x00, "no sector was found on the track"},
    {0x13, 0x00, "the sector's data was not found"},
    {0x14, 0x00, "a recorded entity was not found"},
    {0x14, 0x01, "the sector was not found"},
    {0x15, 0x00, "the heads are at the wrong place"},
    {0x16, 0x00, "the synchronization mark was not found"},
    {0x17, 0x01, "data recovered by trying again"},
    {0x18, 0x00, "data recovered by error correction"},
    {0x19, 0x00, "the defect list has an error"},
    {0x1A, 0x00, "the parameter list has the wrong length"},
    {0x1C, 0x00, "the defect list was not found"},
    {0x1D, 0x00, "what was written compares unequal"},
    {0x20, 0x00, "it does not know this command"},
    {0x20, 0x02, "access is denied"},
    {0x21, 0x00, "the block lies beyond the end"},
    {0x24, 0x00, "a field of the command is invalid"},
    {0x25, 0x00, "there is no such unit"},
    {0x26, 0x00, "a field of the parameters is invalid"},
    {0x27, 0x00, "it is write-protected"},
    {0x27, 0x01, "write-protected by its hardware"},
    {0x27, 0x02, "write-protected by software"},
    {0x27, 0x03, "associated write protection"},
    {0x27, 0x04, "persistent write protection"},
    {0x27, 0x05, "permanent write protection"},
    {0x28, 0x00, "the medium may have been changed"},
    {0x29, 0x00, "it was powered on or reset"},
    {0x29, 0x01, "it was powered on"},
    {0x2A, 0x01, "its mode parameters have changed"},
    {0x2A, 0x09, "its capacity has changed"},
    {0x2C, 0x00, "commands came in the wrong order"},
    {0x30, 0x00, "the medium does not fit this drive"},
    {0x30, 0x02, "the medium has an unknown format"},
    {0x31, 0x00, "the medium's format is damaged"},
    {0x31, 0x01, "formatting failed"},
    {0x31, 0x03, "sanitizing failed"},
    {0x32, 0x00, "no spare place for a defect is left"},
    {0x37, 0x00, "a parameter was rounded"},
    {0x39, 0x00, "it cannot save parameters"},
    {0x3A, 0x00, "there is no medium in it"},
    {0x3A, 0x01, "there is no medium, the tray is closed"},
    {0x3A, 0x02, "there is no medium, the tray is open"},
    {0x3E, 0x01, "the unit has failed"},
    {0x3F, 0x01, "its firmware has changed"},
    {0x3F, 0x0E, "its units have changed"},
    {0x40, 0x80, "a component failed its self-test"},
    {0x44, 0x00, "an internal failure"},
    {0x47, 0x00, "a parity error on the bus"},
    {0x47, 0x03, "a checksum error on the bus"},
    {0x4B, 0x00, "a data phase error"},
    {0x53, 0x00, "the medium could not be loaded or ejected"},
    {0x53, 0x02, "removal of the medium is prevented"},
    {0x55, 0x00, "a resource is short"},
    {0x5D, 0x00, "it expects to fail soon"},
    {0x5D, 0x10, "its hardware is about to fail"},
    {0x5E, 0x00, "it saves power"},
    {0x65, 0x00, "a voltage fault"},
};

const char *slate_sense_words(uint8_t asc, uint8_t ascq)
{
    const char *family = NULL;

    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (rows[i].asc != asc)
            continue;
        if (rows[i].ascq == ascq)
            return rows[i].words;
        if (rows[i].ascq == 0) /* the general case of the same code */
            family = rows[i].words;
    }
    return family;
}
