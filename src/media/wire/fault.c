/* SPDX-License-Identifier: MIT */
/* Faults in words. */
#include "base/base.h"
#include "media/wire/wire.h"

const char *slate_sense_key_words(uint8_t sense_key)
{
    static const char *const words[16] = {
        "no sense data",   "recovered error", "not ready",
        "medium error",    "hardware error",  "illegal request",
        "unit attention",  "data protected",  "blank check",
        "vendor-specific", "copy aborted",    "aborted command",
        "reserved",        "volume overflow", "miscompare",
        "completed"};

    return words[sense_key & 15];
}

static SLATE_NAMES(
    operation_words, enum slate_operation, [SLATE_OPERATION_NONE] = "working",
    [SLATE_OPERATION_READ] = "reading", [SLATE_OPERATION_WRITE] = "writing",
    [SLATE_OPERATION_FLUSH] = "making the written data durable",
    [SLATE_OPERATION_COMMAND] = "opening")

void slate_fault_answer_words(const struct slate_fault *fault,
                              struct slate_text *text)
{
    const char *words = slate_sense_words(fault->asc, fault->ascq);

    if (!fault->has_sense) {
        slate_text_add(text, slate_status_sentence(fault->status));
        return;
    }
    slate_text_add(text, slate_sense_key_words(fault->sense_key));
    if (words != NULL)
        SLATE_SAY(text, ", {}", AS_TEXT(words));
    SLATE_SAY(text, " ({}/{}/{})", AS_HEX(fault->sense_key, 1),
              AS_HEX(fault->asc, 2), AS_HEX(fault->ascq, 2));
}

void slate_fault_words(const struct slate_fault *fault, struct slate_text *text)
{
    SLATE_SAY(text, "{}, while {}",
              AS_TEXT(slate_status_sentence(fault->status)),
              AS_TEXT(operation_words(fault->operation)));
    if (fault->count > 0)
        SLATE_SAY(text, " block {}", AS_NUMBER(fault->lba));
    if (fault->count > 1)
        SLATE_SAY(text, " to {}", AS_NUMBER(fault->lba + fault->count - 1));
    if (!fault->has_sense)
        return;
    slate_text_add(text, "; the device answers: ");
    slate_fault_answer_words(fault, text);
}
