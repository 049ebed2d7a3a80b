/* SPDX-License-Identifier: MIT */
/* Renews a device held in RAM: a port of ten lines, a goal and a consent, and
 * the flow does the rest, through the public headers alone. */
#include <stdio.h>
#include <string.h>

#include <trueslate/trueslate.h>

#define BLOCK_BYTES 512u
#define BLOCK_COUNT 131072u /* 64 MiB */

static unsigned char ram[BLOCK_COUNT][BLOCK_BYTES];

/* The port: facts, read and write are all that a device needs. */
static enum slate_status tell_facts(void *context, struct slate_port_facts *out)
{
    (void)context;
    out->identity.transport = SLATE_TRANSPORT_MEMORY;
    out->block_bytes = BLOCK_BYTES;
    out->block_count = BLOCK_COUNT;
    return SLATE_OK;
}

static enum slate_status read_ram(void *context, uint64_t lba, uint32_t count,
                                  void *data)
{
    (void)context;
    memcpy(data, ram[lba], (size_t)count * BLOCK_BYTES);
    return SLATE_OK;
}

static enum slate_status write_ram(void *context, uint64_t lba, uint32_t count,
                                   const void *data)
{
    (void)context;
    memcpy(ram[lba], data, (size_t)count * BLOCK_BYTES);
    return SLATE_OK;
}

static const struct slate_port_ops ops = {.size = sizeof ops,
                                          .facts = tell_facts,
                                          .read = read_ram,
                                          .write = write_ram};

/* What is wanted of it, for what was found on it. */
static enum slate_status plan(void *context, struct slate_flow *flow)
{
    const struct slate_ask ask = {.label = "BUOY 12"};
    const struct slate_stamp noon = {2031, 5, 17, 12, 0, 0};
    struct slate_draft *draft = flow->draft;
    enum slate_status status = slate_media_random(
        flow->media, draft->choices.seed, sizeof draft->choices.seed);

    (void)context;
    draft->goal.use = SLATE_USE_LOGGER;
    draft->choices.stamp = noon;
    if (status == SLATE_OK)
        status = slate_draft_ask(draft, &ask);
    if (status == SLATE_OK)
        status = slate_draft_base(draft, flow->facts);
    return status == SLATE_OK ? slate_draft_make(draft) : status;
}

/* A person would look at flow->facts, flow->draft and flow->ledger here, and
 * repeat the tag. Nothing is at stake in this small program. */
static const char *agree(void *context, const struct slate_flow *flow)
{
    (void)context;
    return flow->media->tag;
}

static int fail(enum slate_status status, const char *stage)
{
    fprintf(stderr, "%s: %s\n", stage, slate_status_sentence(status));
    return 1;
}

int main(void)
{
    static unsigned char work[SLATE_WORK_MIN];
    static struct slate_media media;
    static struct slate_facts facts;
    static uint64_t room[SLATE_DRAFT_ROOM(1, SLATE_FACTS_PARTITIONS) / 8];
    static struct slate_partition found[SLATE_FACTS_PARTITIONS];
    static struct slate_volume found_volume[SLATE_FACTS_PARTITIONS];
    static struct slate_seen found_seen[SLATE_EVIDENCE_RANGES];
    const struct slate_facts_room facts_room = {
        found, found_volume, SLATE_FACTS_PARTITIONS, found_seen,
        SLATE_EVIDENCE_RANGES};
    static struct slate_draft draft;
    static struct slate_flow flow;
    const struct slate_flow_hooks hooks = {.plan = plan, .agree = agree};
    const struct slate_port port = {&ops, NULL};
    enum slate_status status = slate_media_open(&media, &port);
    char size[SLATE_SIZE_TEXT];

    if (status != SLATE_OK)
        return fail(status, "open");
    slate_facts_place(&facts, &facts_room);
    slate_draft_place(&draft, room, sizeof room);
    status = slate_flow_start(&flow, &hooks, &media, &facts, &draft, work,
                              sizeof work);
    if (status == SLATE_OK)
        status = slate_flow_run(&flow);
    if (status != SLATE_OK)
        return fail(status, slate_stage_name(flow.stage));
    slate_size_both(facts.volume[0].bytes, size);
    printf("%s now holds one %s volume \"%s\" of %s;\n"
           "%llu blocks were written and read back.\n",
           media.tag, slate_volume_words(facts.volume[0].kind),
           facts.volume[0].label, size, (unsigned long long)flow.enact.written);
    return 0;
}
