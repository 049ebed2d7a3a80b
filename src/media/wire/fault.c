/* SPDX-License-Identifier: MIT */
/* Faults in words. */
#include "trueslate/media.h"
#include "media/wire/transfer.h"

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

static const char *operation_words(enum slate_operation operation)
{
    switch (operation) {
    case SLATE_OPERATION_READ:
        return "reading";
    case SLATE_OPERATION_WRITE:
        return "writing";
    case SLATE_OPERATION_FLUSH:
        return "making the written data durable";
    case SLATE_OPERATION_COMMAND:
        return "opening";
    case SLATE_OPERATION_NONE:
    default:
        return "working";
    }
}

void slate_fault_answer_words(const struct slate_fault *fault,
                              struct slate_text *text)
{
    const char *words = slate_sense_words(fault->asc, fault->ascq);

    if (!fault->has_sense) {
        slate_text_add(text, slate_status_sentence(fault->status));
        return;
    }
    slate_text_add(text, slate_sense_key_words(fault->sense_key));
    if (words != NULL) {
        slate_text_add(text, ", ");
        slate_text_add(text, words);
    }
    slate_text_add(text, " (");
    slate_text_hex(text, fault->sense_key, 1);
    slate_text_add(text, "/");
    slate_text_hex(text, fault->asc, 2);
    slate_text_add(text, "/");
    slate_text_hex(text, fault->ascq, 2);
    slate_text_add(text, ")");
}

void slate_fault_words(const struct slate_fault *fault, struct slate_text *text)
{
    slate_text_add(text, slate_status_sentence(fault->status));
    slate_text_add(text, ", while ");
    slate_text_add(text, operation_words(fault->operation));
    if (fault->count > 0) {
        slate_text_add(text, " block ");
        slate_text_number(text, fault->lba);
    }
    if (fault->count > 1) {
        slate_text_add(text, " to ");
        slate_text_number(text, fault->lba + fault->count - 1);
    }
    if (!fault->has_sense)
        return;
    slate_text_add(text, "; the device answers: ");
    slate_fault_answer_words(fault, text);
}
