/* SPDX-License-Identifier: MIT */
/* Findings are drawn: which rules hold, and which explains which. A rule is a
 * row in the file of its judge; the ids are in the order of what explains
 * most. */
#include "assess/judge/judge.h"

static const struct slate_rule healthy[] = {
    DEVICE(
        HEALTHY, "healthy", SLATE_SEVERITY_FINE, NULL, NOTHING, 0, NONE,
        "Nothing is wrong: the table and the volumes agree with the capacity "
        "of {capacity}.",
        "Hosts show {shown}.", "All is as it should be.",
        "Nothing has to be done."),
    RULES_END};

static const struct slate_rule *const sets[] = {
    healthy,           slate_rules_device,  slate_rules_gpt,
    slate_rules_table, slate_rules_content, slate_rules_volume};

_Static_assert(SLATE_FINDINGS_MAX <= UINT8_MAX, "a byte for an id");

const struct slate_rule *slate_rule_of(enum slate_finding_id id)
{
    for (size_t i = 0; i < sizeof sets / sizeof sets[0]; i++) {
        for (const struct slate_rule *rule = sets[i]; rule->name != NULL;
             rule++) {
            if (rule->id == id)
                return rule;
        }
    }
    return healthy;
}

/* Which rules hold. */
struct standing {
    const struct slate_rule *rule[SLATE_FINDINGS_MAX]; /* by id */
    bool holds[SLATE_FINDINGS_MAX];
};

static bool concerns_any(const struct slate_rule *rule,
                         const struct slate_facts *facts)
{
    uint64_t room;

    for (uint32_t i = 0; slate_facts_volume(facts, i, &room) != NULL; i++) {
        if (rule->concerns(facts, i))
            return true;
    }
    return false;
}

/* Of a device that could not be opened, no more is known than that. */
static bool may_hold(uint32_t id, const struct slate_facts *facts)
{
    if (facts->halfway && id > SLATE_FINDING_WRITE_PROTECTED)
        return false; /* nothing on it is as it shall be, or was */
    return facts->opened == SLATE_OK || id <= SLATE_FINDING_NO_ANSWER ||
           id == SLATE_FINDING_TWO_UNITS;
}

static void judge(const struct slate_facts *facts, struct standing *found)
{
    for (uint32_t i = 0; i < SLATE_FINDINGS_MAX; i++) {
        const struct slate_rule *rule = slate_rule_of((enum slate_finding_id)i);

        found->rule[i] = rule;
        found->holds[i] = i != SLATE_FINDING_HEALTHY && may_hold(i, facts) &&
                          (rule->holds != NULL ? rule->holds(facts)
                                               : concerns_any(rule, facts));
    }
}

/* The first of those that hold and explain this one; itself for none. */
static enum slate_finding_id cause_of(enum slate_finding_id id,
                                      const struct standing *found)
{
    uint8_t first = (uint8_t)id;

    for (const uint8_t *by = found->rule[id]->explained_by;
         *by != SLATE_FINDING_HEALTHY; by++) {
        if (found->holds[*by] && *by < first)
            first = *by;
    }
    return (enum slate_finding_id)first;
}

/* The finding that stands behind this one in the end; itself for none. Only
 * earlier ones are asked: the walk ends. */
static enum slate_finding_id root_of(enum slate_finding_id id,
                                     const struct standing *found)
{
    enum slate_finding_id cause = cause_of(id, found);

    while (cause != id) {
        id = cause;
        cause = cause_of(id, found);
    }
    return id;
}

static void add(struct slate_finding *findings, uint32_t *count,
                const struct slate_rule *rule, enum slate_finding_id because)
{
    struct slate_finding *finding = &findings[(*count)++];

    finding->id = rule->id;
    finding->severity = rule->severity;
    finding->consequence = rule->id != because;
    finding->because = because;
}

/* Is a finding one of the group that this one leads? */
static bool is_led(enum slate_finding_id lead, uint32_t i,
                   const struct standing *found)
{
    return found->holds[i] && root_of((enum slate_finding_id)i, found) == lead;
}

/* A note that explains trouble is trouble. */
static enum slate_severity severity_of(enum slate_finding_id lead,
                                       const struct standing *found)
{
    enum slate_severity most = found->rule[lead]->severity;

    for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
        if (is_led(lead, i, found) && found->rule[i]->severity > most)
            most = found->rule[i]->severity;
    }
    return most;
}

/* One finding that nothing explains, then its consequences. */
static void add_group(struct slate_finding *findings, uint32_t *count,
                      enum slate_finding_id lead, const struct standing *found)
{
    add(findings, count, found->rule[lead], lead);
    findings[*count - 1].severity = severity_of(lead, found);
    for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
        if (i != (uint32_t)lead && is_led(lead, i, found))
            add(findings, count, found->rule[i], lead);
    }
}

uint32_t slate_assess_judge(const struct slate_facts *facts,
                            struct slate_finding findings[SLATE_FINDINGS_MAX])
{
    struct standing found;
    uint32_t count = 0;

    judge(facts, &found);
    for (int severity = TROUBLE; severity >= NOTE; severity--) {
        for (uint32_t i = 0; i < SLATE_FINDING_HEALTHY; i++) {
            enum slate_finding_id id = (enum slate_finding_id)i;

            if (is_led(id, i, &found) &&
                (int)severity_of(id, &found) == severity)
                add_group(findings, &count, id, &found);
        }
    }
    if (count == 0)
        add(findings, &count, healthy, SLATE_FINDING_HEALTHY);
    return count;
}

uint32_t slate_first_concerned(const struct slate_facts *facts,
                               enum slate_finding_id id)
{
    const struct slate_rule *rule = slate_rule_of(id);
    uint64_t room;

    for (uint32_t i = 0;
         rule->concerns != NULL && slate_facts_volume(facts, i, &room) != NULL;
         i++) {
        if (rule->concerns(facts, i))
            return i;
    }
    return 0;
}

bool slate_is_at_ease(const struct slate_finding *finding)
{
    const struct slate_rule *rule = slate_rule_of(finding->id);

    return rule->remedy == SLATE_REMEDY_RENEW && rule->severity == NOTE &&
           finding->severity == NOTE;
}

uint32_t slate_finding_follows(enum slate_finding_id id)
{
    return slate_rule_of(id)->follows;
}

const char *slate_finding_name(enum slate_finding_id id)
{
    return slate_rule_of(id)->name;
}
