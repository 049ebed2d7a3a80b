/* SPDX-License-Identifier: MIT */
/* guards: what protects a device, and lifting it. */

#include "draft/draft.h"
#include "term/term.h"
#include "verbs/verbs.h"
#include "view/view.h"
#include "work/work.h"
#include "device/device.h"
#include "look/look.h"

struct guards {
    const struct options *options;
    struct target target;
    enum slate_status lifted[SLATE_GUARDS_MAX]; /* of those that were wanted */
    bool wanted[SLATE_GUARDS_MAX];
    struct attributes attributes;
};

static int lift_wanted(struct guards *guards)
{
    const struct options *options = guards->options;
    int code = 0;

    for (uint32_t i = 0; i < guards->target.facts.guards; i++) {
        const struct slate_guard *guard = &guards->target.facts.guard[i];

        guards->wanted[i] = lifts_want(options->lift, guard);
        if (!guards->wanted[i])
            continue;
        guards->lifted[i] = lifts_do(&guards->target, guard, options);
        if (guards->lifted[i] != SLATE_OK)
            code = exit_code(guards->lifted[i]);
    }
    return code;
}

static int lift_under_claim(struct guards *guards, int *lifted)
{
    TRY(door_enter(&guards->target));
    *lifted = lift_wanted(guards);
    return door_leave(&guards->target, 0);
}

static const char *lift_words(enum slate_lift lift)
{
    static const char *const words[] = {
        [SLATE_LIFT_NOW] = "can be lifted",
        [SLATE_LIFT_PASSWORD] = "can be lifted with its password",
        [SLATE_LIFT_POWER_CYCLE] = "waits for the next power-on",
        [SLATE_LIFT_BY_HAND] = "needs a hand",
        [SLATE_LIFT_NEVER] = "can never be lifted"};

    return words[lift];
}

static const char *result_words(const struct slate_guard *guard,
                                enum slate_status lifted)
{
    if (lifted == SLATE_ERR_ARGUMENT)
        return "not lifted: its password is missing or too long; give it with "
               "--password";
    if (lifted == SLATE_ERR_GUARD && guard->lift <= SLATE_LIFT_PASSWORD)
        return "not lifted: the device refuses the command";
    if (lifted != SLATE_OK)
        return slate_status_sentence(lifted);
    return slate_guard_conceals(guard->kind)
               ? "lifted: the device shows something else now, and may have "
                 "another tag; look at it anew"
               : "lifted; the device was asked again";
}

static void tell_guard(const struct guards *guards, uint32_t i)
{
    const struct slate_guard *guard = &guards->target.facts.guard[i];

    putchar('\n');
    painted(PAINT_BAD, "  %s", slate_guard_name(guard->kind));
    printf(": %s%s\n", lift_words(guard->lift),
           slate_guard_is_deliberate(guard->kind) &&
                   guard->lift <= SLATE_LIFT_PASSWORD
               ? ", when asked for by name"
               : "");
    print_line("What", PAINT_PLAIN, "%s",
               slate_guard_words(guard->kind, SLATE_GUARD_TEXT));
    print_line("Where", PAINT_PLAIN, "%s",
               slate_guard_words(guard->kind, SLATE_GUARD_PLACE));
    print_line("What lifts", PAINT_GOOD, "%s",
               slate_guard_words(guard->kind, SLATE_GUARD_COMMAND));
    if (!guards->wanted[i])
        return;
    print_line("Result", guards->lifted[i] == SLATE_OK ? PAINT_GOOD : PAINT_BAD,
               "%s", result_words(guard, guards->lifted[i]));
}

/* Attributes are cleared by their names alone. */
static void tell_attribute_command(const struct guards *guards, bool any)
{
    if (guards->attributes.count == 0 || guards->target.facts.read_only)
        return; /* the medium takes no write */
    printf("%s  trueslate guards %s --lift %s --consent %s%s\n",
           any ? "" : "\nTo clear one by its name, in place:\n",
           guards->target.name,
           slate_attribute_name(guards->attributes.found[0].kind),
           guards->target.media.tag, guards->target.also);
}

/* The command line for what a command can lift, where there is such. */
static void tell_commands(const struct guards *guards)
{
    bool plain = false, any = false;

    for (uint32_t i = 0; i < guards->target.facts.guards; i++) {
        const struct slate_guard *guard = &guards->target.facts.guard[i];
        bool named = slate_guard_is_deliberate(guard->kind);

        if (guard->lift > SLATE_LIFT_PASSWORD || (!named && plain))
            continue;
        plain = plain || !named;
        printf("%s  trueslate guards %s --lift %s%s --consent %s%s\n",
               any ? "" : "\nTo lift what a command can lift:\n",
               guards->target.name,
               named ? slate_guard_name(guard->kind) : "all",
               guard->kind == SLATE_GUARD_CARD_PASSWORD
                   ? " --password TEXT (or --erase)"
               : guard->lift == SLATE_LIFT_PASSWORD ? " --password TEXT"
                                                    : "",
               guards->target.media.tag, guards->target.also);
        any = true;
    }
    tell_attribute_command(guards, any);
}

static void tell(const struct guards *guards)
{
    bool any = guards->target.facts.guards > 0;

    view_device(&guards->target);
    for (uint32_t i = 0; i < guards->target.facts.guards; i++)
        tell_guard(guards, i);
    any = attributes_tell(&guards->attributes) || any;
    if (!any)
        print_line("All well", PAINT_GOOD,
                   "nothing protects the device or its content.");
    if (guards->options->lift == NULL)
        tell_commands(guards);
}

static int report(const struct guards *guards)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < guards->target.facts.guards; i++) {
        const struct slate_guard *guard = &guards->target.facts.guard[i];
        json_t *one = report_pack(
            "{s:s, s:s, s:b, s:b, s:s, s:s, s:s}", "kind",
            slate_guard_name(guard->kind), "lift", slate_lift_name(guard->lift),
            "stops_writing", slate_guard_stops_writing(guard->kind),
            "deliberate", slate_guard_is_deliberate(guard->kind), "text",
            slate_guard_words(guard->kind, SLATE_GUARD_TEXT), "place",
            slate_guard_words(guard->kind, SLATE_GUARD_PLACE), "command",
            slate_guard_words(guard->kind, SLATE_GUARD_COMMAND));

        if (guards->wanted[i])
            json_object_set_new(one, "lifted",
                                json_boolean(guards->lifted[i] == SLATE_OK));
        json_array_append_new(list, one);
    }
    return report_print(report_pack(
        "{s:s, s:o, s:o, s:o, s:o}", "shape", "trueslate.guards/2", "device",
        report_device(&guards->target), "users", report_users(&guards->target),
        "guards", list, "attributes", attributes_report(&guards->attributes)));
}

/* After "all", nothing should be left that stops writing. */
static int tell_left(const struct guards *guards)
{
    for (uint32_t i = 0; i < guards->target.facts.guards; i++) {
        const struct slate_guard *guard = &guards->target.facts.guard[i];
        bool lifted = guards->wanted[i] && guards->lifted[i] == SLATE_OK;

        if (!lifted && slate_guard_stops_writing(guard->kind))
            return fail(SLATE_ERR_GUARD, "%s is still protected by %s: %s",
                        guards->target.media.tag, slate_guard_name(guard->kind),
                        slate_guard_words(guard->kind, SLATE_GUARD_COMMAND));
    }
    return 0;
}

static int find_attributes(void *context, bool changed)
{
    struct guards *guards = context;

    (void)changed;
    attributes_find(&guards->attributes, &guards->target.facts);
    return 0;
}

static int pass_the_door(struct guards *guards)
{
    struct passage passage = {
        .options = guards->options,
        .target = &guards->target,
        .loss = guards->options->erase
                    ? "Lifting changes the device, and everything on it is "
                      "lost."
                    : "Lifting changes the device.",
        .ready = find_attributes,
        .context = guards};
    int code = door_agree(&passage);

    return code == 0 ? door_pass(&passage) : code;
}

int verb_guards(const struct options *options)
{
    struct guards guards = {.options = options};
    int lifted = 0;
    int code = target_named(&guards.target, options);

    THEN(code, target_look(&guards.target));
    THEN(code, find_attributes(&guards, true));
    if (code == 0 && options->lift != NULL)
        code = pass_the_door(&guards);
    if (code == 0 && options->lift != NULL)
        code = lift_under_claim(&guards, &lifted);
    if (code == 0 && options->lift != NULL && lifted == 0)
        lifted = attributes_clear(&guards.attributes, &guards.target, options);
    if (code == 0 && options->json)
        code = report(&guards);
    else if (code == 0)
        tell(&guards);
    if (code == 0 && lifted == 0 && options->lift != NULL)
        lifted = tell_left(&guards);
    else if (code == 0 && lifted != 0)
        fprintf(stderr,
                "trueslate: not everything that was asked for is lifted\n");
    target_close(&guards.target);
    return code != 0 ? code : lifted;
}
