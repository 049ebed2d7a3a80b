/* SPDX-License-Identifier: MIT */
/* Fuzz target: files to be placed, whose list, names and content may be
 * anything, and change while they are read.
 *
 * byte 0: volume and block size; 1: label, files ahead of it; 2: the read from
 * which on content has changed; then items: parent, flags and attributes, size
 * (2), its unit as a shift, length of the name, the name */
#include "check.h"
#include "target.h"

#define CHUNK 64u

static struct session s;
static uint64_t reads, change_at;

static enum slate_status read_item(void *context, uint32_t index, uint64_t at,
                                   uint32_t count, void *data)
{
    (void)context;
    demand(index < s.draft.files.count);
    demand(at + count <= s.draft.files.item[index].bytes);
    memset(data, ++reads >= change_at ? 'n' : 'o', count);
    return SLATE_OK;
}

static struct slate_source source = {.read = read_item};

/* What is left of the input. */
struct input {
    const uint8_t *bytes;
    size_t left;
};

static uint8_t next(struct input *input)
{
    if (input->left == 0)
        return 0;
    input->left--;
    return *input->bytes++;
}

static void take_item(struct input *input)
{
    struct slate_item taken = {.parent = next(input)};
    uint8_t flags = next(input);
    char name[256] = "";
    uint8_t length;

    taken.folder = (flags & 1) != 0;
    taken.attributes = flags >> 1 & 7;
    taken.changed.month = flags >> 4;
    taken.changed.year = 1980;
    taken.changed.day = 1;
    taken.bytes = next(input);
    taken.bytes |= (uint64_t)next(input) << 8;
    taken.bytes <<= next(input) % 50;
    if (taken.folder && flags < 0xF0)
        taken.bytes = 0;
    length = next(input);
    for (uint8_t i = 0; i < length; i++)
        name[i] = (char)next(input);
    if (slate_draft_file(&s.draft, &taken, name) != SLATE_OK)
        input->left = 0;
}

static void begin(struct input *input)
{
    static const enum slate_volume_kind kinds[] = {
        SLATE_VOLUME_FAT12, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT32,
        SLATE_VOLUME_EXFAT};
    static const uint64_t blocks[] = {6000, 20000, 80000, 6000};
    const struct slate_item root = {.folder = true};
    struct slate_files *files = &s.draft.files;
    uint8_t kind = next(input), label = next(input);
    struct wanted goal = {.volume = kinds[kind % 4],
                          .label = "FUZZ",
                          .table_given = (kind & 64) != 0};

    if (label >= 128)
        goal.label[0] = '\0';
    session_want(&s, &goal);
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = (struct slate_geometry){
        blocks[kind % 4], 512u << kind / 4 % 4, 512u << kind / 4 % 4, 0};
    files->source = &source;
    reads = 0;
    change_at = UINT64_MAX;
    s.draft.part[0].ask.files = true;
    demand(slate_draft_file(&s.draft, &root, "") == SLATE_OK);
    files->ahead = label % 8;
}

/* Digests, of a few of them that are not too long to read. */
static bool seal(void)
{
    struct slate_files_reading reading;
    enum slate_status status = SLATE_OK;
    bool finished = false;

    slate_files_read_start(&reading, &s.draft.files, false);
    while (!finished && status == SLATE_OK)
        status =
            slate_files_read_step(&reading, s.work, sizeof s.work, &finished);
    return status == SLATE_OK;
}

/* Each extent is its composer's, and none is another's; what has changed on the
 * way is told, or came too late. */
static void compose_all(void)
{
    struct slate_walk walk = {0};
    struct slate_extent e;
    uint64_t blocks = 0, until;

    while (slate_draft_next(&s.draft, &walk, &e)) {
        demand(e.count > 0 &&
               e.first + e.count <= s.draft.basis.geometry.block_count);
        demand(slate_draft_touches(&s.draft, e.first, 1));
        if (e.part == 0) {
            const struct slate_part *part = &s.draft.part[0];

            demand(
                part->format->composer.covers(&part->volume, e.first, &until));
            demand(until > e.first);
        }
        for (uint64_t at = 0; at < e.count; at += CHUNK) {
            uint32_t count =
                e.count - at < CHUNK ? (uint32_t)(e.count - at) : CHUNK;
            enum slate_status status =
                slate_draft_compose(&s.draft, &e, e.first + at, count, s.work);

            demand(status == SLATE_OK ||
                   (status == SLATE_ERR_SOURCE && change_at != UINT64_MAX));
            if (status != SLATE_OK)
                return;
        }
        if (e.moment > SLATE_MOMENT_ERASE)
            blocks += e.count;
    }
    demand(blocks <= s.draft.basis.geometry.block_count);
}

static void no_cluster_is_shared(void)
{
    for (uint32_t i = 1; i < s.draft.files.count; i++)
        demand(s.draft.files.spot[i].cluster >=
               s.draft.files.spot[i - 1].cluster +
                   s.draft.files.spot[i - 1].clusters);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t length)
{
    struct input input = {bytes, length};
    uint8_t change;

    begin(&input);
    change = next(&input);
    while (input.left > 0)
        take_item(&input);
    if (slate_draft_make(&s.draft) != SLATE_OK)
        return 0;
    no_cluster_is_shared();
    if (!seal())
        return 0;
    demand(slate_draft_make(&s.draft) == SLATE_OK);
    reads = 0;
    change_at = change == 0 ? UINT64_MAX : change;
    compose_all();
    return 0;
}
