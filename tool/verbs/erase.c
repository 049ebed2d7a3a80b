/* SPDX-License-Identifier: MIT */
/* erase: a device erases itself, by a command of its own. */

#include "work/work.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"
#include "term/term.h"
#include "view/view.h"
#include "device/device.h"
#include "look/look.h"

struct erase {
    const struct options *options;
    struct target target;
    struct erasing erasing;
    time_t began;
    char *picture;
};

static bool is_at_it(const struct erase *erase)
{
    return erase->erasing.state.activity == SLATE_ERASE_WORKING;
}

/* A device that is at it is waited for, whatever was asked. */
static int choose(struct erase *erase)
{
    int code = erasing_choose(&erase->erasing, erase->options, &erase->target);

    if (code == 0 && !erase->options->json)
        erasing_tell_chosen(&erase->erasing);
    return code == 0
               ? door_through(&erase->target, erase->options,
                              "Everything on this device will be lost.", true)
               : code;
}

static json_t *report(const struct erase *erase)
{
    json_t *all = report_pack(
        "{s:s, s:o, s:b, s:b}", "shape", "trueslate.erase/1", "device",
        report_device(&erase->target), "under_way", is_at_it(erase), "failed",
        erase->erasing.state.activity == SLATE_ERASE_FAILED);

    json_object_update_new(
        all, erasing_report_ways(&erase->erasing, &erase->target));
    if (erase->erasing.begun)
        json_object_set_new(all, "erased", erasing_report(&erase->erasing));
    return all;
}

static int finish(const struct erase *erase)
{
    int code = 0;

    if (erase->options->json)
        code = report_print(report(erase));
    else if (erase->erasing.begun)
        erasing_tell(&erase->erasing);
    else
        erasing_tell_ways(&erase->erasing, &erase->target);
    return code == 0 && erase->erasing.begun
               ? erasing_judge(&erase->erasing, &erase->target)
               : code;
}

static int write_ticket(const struct erase *erase, int code)
{
    const struct slate_erase *own = &erase->erasing.erase;
    const struct options *options = erase->options;
    struct ticket_job job = {
        .verb = options->verb->name,
        .target = &erase->target,
        .began = erase->began,
        .code = code,
        .picture = erase->picture,
        .outcome = code != 0 ? say_last()
                             : slate_erased_words(slate_erase_verdict(own))};

    if (options->evidence == NULL || !erase->erasing.begun)
        return code;
    job.report = report(erase);
    return ticket_write_one(options, &job);
}

/* The device as it was found, for a ticket. */
static int begin_ticket(struct erase *erase)
{
    int code = ticket_may_write(erase->options, &erase->target);

    if (code == 0 && erase->options->evidence != NULL)
        erase->picture = picture_text_of_device(&erase->target);
    erase->began = ticket_now();
    return code;
}

int verb_erase(const struct options *options)
{
    static struct erase erase;
    bool works;
    int code = target_named(&erase.target, options);

    erase.options = options;
    THEN(code, target_look(&erase.target));
    THEN(code, erasing_find(&erase.erasing, &erase.target));
    if (code == 0 && !options->json)
        view_device(&erase.target);
    works = is_at_it(&erase);
    if (code == 0 && works && !options->json)
        print_line("Waits", PAINT_GOOD, "the device is erasing itself already");
    if (code == 0 && !works && options->way != NULL)
        code = choose(&erase);
    THEN(code, begin_ticket(&erase));
    if (code == 0 && (works || options->way != NULL))
        code = erasing_do(&erase.erasing, &erase.target, options->read_all);
    THEN(code, finish(&erase));
    code = write_ticket(&erase, code);
    if (erase.erasing.begun)
        code = then_do(&erase.target, options, code);
    free(erase.picture);
    target_close(&erase.target);
    return code;
}
