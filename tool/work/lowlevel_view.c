/* SPDX-License-Identifier: MIT */
/* What is below a device's blocks, what a low-level format will do, and what
 * came of it, for people. */

#include "work/work.h"
#include "term/term.h"

#define NAMED 12u
#define LISTED_MOST 4096u
/* Milliseconds for one track, as drives of that time took. */
#define TRACK_MS 290u

static void say_bytes(uint64_t bytes, char *words, size_t room)
{
    char decimal[SLATE_SIZE_TEXT], binary[SLATE_SIZE_TEXT];

    slate_size_decimal(bytes, decimal);
    slate_size_binary(bytes, binary);
    snprintf(words, room, "%llu bytes: %s in decimal, %s in binary",
             (unsigned long long)bytes, decimal, binary);
}

/* The arithmetic of the capacity, as people do it. */
static void tell_arithmetic(const struct slate_drive *drive)
{
    uint64_t blocks = slate_drive_blocks(drive);
    char bytes[250], spares[60] = "";

    say_bytes(blocks * drive->block_bytes, bytes, sizeof bytes);
    if (drive->spares > 0)
        snprintf(spares, sizeof spares, " (%u less %u spare)", drive->sectors,
                 drive->spares);
    print_line("Capacity", PAINT_PLAIN,
               "%u cylinders x %u heads x %u sectors%s x %u bytes = %s",
               drive->cylinders, drive->heads, drive->sectors - drive->spares,
               spares, drive->block_bytes, bytes);
}

static void say_from(uint32_t cylinder, uint32_t cylinders, char words[40])
{
    if (cylinder >= cylinders)
        snprintf(words, 40, "nowhere");
    else
        snprintf(words, 40, "from cylinder %u on", cylinder);
}

static void tell_recording(const struct slate_drive *drive)
{
    char precompensation[40], current[40];

    say_from(drive->precompensation, drive->cylinders, precompensation);
    say_from(drive->reduced_current, drive->cylinders, current);
    print_line("Recording", PAINT_PLAIN,
               "write precompensation %s, reduced write current %s; bursts of "
               "up to %u bits are corrected",
               precompensation, current, drive->burst_bits);
}

/* The order in which sectors pass the head. */
static void tell_order(const struct slate_drive *drive)
{
    char words[900];
    size_t length;

    if (drive->interleave == 1) {
        print_line("Interleave", PAINT_PLAIN,
                   "1: each sector stands behind the one ahead of it");
        return;
    }
    length =
        (size_t)snprintf(words, sizeof words, "%u: sectors", drive->interleave);
    for (uint32_t i = 0; i < drive->sectors && length < sizeof words - 8; i++) {
        const struct slate_sector_place first = {0, 0, 0};

        length += (size_t)snprintf(words + length, sizeof words - length, " %u",
                                   slate_drive_sector(drive, &first, i) + 1);
    }
    snprintf(words + length, sizeof words - length, " pass the head");
    print_line("Interleave", PAINT_PLAIN, "%s", words);
}

static void tell_formats(const struct slate_lowlevel_facts *facts)
{
    static const char *const speeds[] = {"best", "better", "good", "degraded"};
    char words[500] = "";
    struct slate_text text = SLATE_TEXT(words);

    for (uint32_t i = 0; i < facts->formats; i++) {
        const struct slate_block_format *format = &facts->format[i];

        slate_text_add(&text, i == 0 ? "" : "; ");
        slate_text_number(&text, format->block_bytes);
        slate_text_add(&text, " bytes");
        if (format->extra_bytes > 0) {
            slate_text_add(&text, " and ");
            slate_text_number(&text, format->extra_bytes);
            slate_text_add(&text, " beside them");
        }
        if (facts->kind == SLATE_LOWLEVEL_NVME) {
            slate_text_add(&text, ", performance ");
            slate_text_add(&text, speeds[format->speed]);
        }
        if (!format->told)
            slate_text_add(&text, ", if the device takes it");
        if (format->block_bytes + format->extra_bytes == facts->block_bytes)
            slate_text_add(&text, " (as it is)");
    }
    if (facts->formats > 0)
        print_line("Blocks", PAINT_PLAIN, "%s", words);
}

/* The first ones of a list, in its own form. */
static void tell_places(const char *label, const struct lowlevel *job,
                        enum slate_defect_list which)
{
    static const char *const forms[] = {"blocks",
                                        "cylinder/head/byte from index",
                                        "cylinder/head/physical sector"};
    struct slate_defect list[NAMED];
    enum slate_defect_form form;
    uint32_t count;
    char words[600], more[40] = "";
    size_t length = 0;

    if (slate_defects_read(&job->target->media, which, &form, list, NAMED,
                           &count, job->target->work) != SLATE_OK ||
        count == 0)
        return;
    for (uint32_t i = 0; i < count && i < NAMED; i++) {
        const char *between = i == 0 ? "" : ", ";
        char place[40] = "";

        if (form != SLATE_DEFECT_BLOCK)
            snprintf(place, sizeof place, "/%u/%u", list[i].head, list[i].at);
        length += (size_t)snprintf(words + length, sizeof words - length,
                                   "%s%u%s", between, list[i].cylinder, place);
    }
    if (count > NAMED)
        snprintf(more, sizeof more, " and %u more", count - NAMED);
    snprintf(words + length, sizeof words - length, "%s, as %s", more,
             forms[form]);
    print_line(label, PAINT_PLAIN, "%s", words);
}

static void tell_listed(const struct lowlevel *job)
{
    static struct slate_defect list[LISTED_MOST];
    static const char *const names[] = {"known when it was made",
                                        "noted since"};
    char words[200] = "";

    for (int i = 0; i < 2; i++) {
        enum slate_defect_form form;
        uint32_t count;

        if (slate_defects_read(&job->target->media, (enum slate_defect_list)i,
                               &form, list, LISTED_MOST, &count,
                               job->target->work) != SLATE_OK)
            return;
        snprintf(words + strlen(words), sizeof words - strlen(words), "%s%u %s",
                 i == 0 ? "" : ", ", count, names[i]);
    }
    print_line("Bad places", PAINT_PLAIN, "%s", words);
    tell_places("At first", job, SLATE_DEFECTS_PRIMARY);
    tell_places("Since then", job, SLATE_DEFECTS_GROWN);
}

static void tell_commands(const struct lowlevel *job)
{
    const struct target *target = job->target;
    const struct slate_drive *drive = &job->facts.drive;
    char shape[120];
    const char *what = "--same";

    if (job->facts.settable && job->facts.has_drive) {
        snprintf(shape, sizeof shape,
                 "--drive %ux%ux%u --interleave measure --sticker FILE",
                 drive->cylinders, drive->heads, drive->sectors);
        what = shape;
    } else if (job->facts.settable) {
        what = "--drive SHAPE --interleave measure --sticker FILE";
    } else if (job->facts.block_bytes != 512 &&
               job->facts.block_bytes != 4096) {
        what = "--blocks 512";
    }
    printf("\nTo format it at low level%s:\n  trueslate lowlevel %s %s%s\n",
           job->facts.settable ? ", as its sticker says" : "", target->name,
           what, target->also);
}

const char *lowlevel_unreached(const struct slate_media *media)
{
    switch (media->identity.transport) {
    case SLATE_TRANSPORT_IMAGE:
    case SLATE_TRANSPORT_LOOP:
        return "a file is all that is there";
    case SLATE_TRANSPORT_USB:
        return media->abilities.passes_ata ? "a dock keeps such commands from "
                                             "its disk, which has to be "
                                             "attached directly for that"
                                           : "it takes no such command";
    case SLATE_TRANSPORT_SATA:
        return "its tracks were formed when it was made, and it has no other "
               "size of blocks to choose";
    case SLATE_TRANSPORT_NVME:
        return "the drive has no format to choose";
    case SLATE_TRANSPORT_SD:
        return "cards have no command for that, only one to erase themselves";
    default:
        return "its host passes no such command on";
    }
}

void lowlevel_tell_facts(const struct lowlevel *job)
{
    const struct slate_lowlevel_facts *facts = &job->facts;

    putchar('\n');
    if (facts->kind == SLATE_LOWLEVEL_NONE) {
        print_line("Below", PAINT_PLAIN,
                   "nothing below its blocks can be reached: %s",
                   lowlevel_unreached(&job->target->media));
        return;
    }
    if (facts->has_drive) {
        tell_arithmetic(&facts->drive);
        tell_order(&facts->drive);
        tell_recording(&facts->drive);
    }
    tell_formats(facts);
    if (facts->protection)
        print_line("Protection", PAINT_BAD,
                   "it is formatted with protection information; a low-level "
                   "format leaves it out");
    tell_listed(job);
    tell_commands(job);
}

static void tell_split(const struct lowlevel *job)
{
    char first[SLATE_SIZE_TEXT], second[SLATE_SIZE_TEXT];
    uint32_t block = job->work.drive.block_bytes;

    if (job->first_blocks == 0)
        return;
    slate_size_decimal(job->first_blocks * block, first);
    slate_size_decimal(
        (slate_drive_blocks(&job->work.drive) - job->first_blocks) * block,
        second);
    print_line("Split", PAINT_PLAIN,
               "two logical drives, of %s and of %s; the second one begins "
               "with cylinder %s",
               first, second, job->options->drive[DRIVE_SPLIT]);
}

static void tell_time(const struct lowlevel *job)
{
    char time[48];
    uint64_t tracks =
        (uint64_t)job->work.drive.cylinders * job->work.drive.heads;

    if (!job->work.has_drive) {
        print_line(
            "Time", PAINT_FAINT,
            "the device does not tell beforehand; large disks take hours");
        return;
    }
    progress_time_words(tracks * TRACK_MS / 1000, time);
    print_line("Time", PAINT_FAINT,
               "about %s for the format, as drives of that time go; all of it "
               "is read afterwards%s",
               time,
               job->options->unlooked || !lowlevel_is_readable(job)
                   ? ""
                   : ", and before");
}

static void tell_blocks(const struct lowlevel *job)
{
    char words[120];

    snprintf(words, sizeof words, "of %u bytes, instead of %u",
             job->block_bytes, job->facts.block_bytes);
    if (job->block_bytes != job->facts.block_bytes)
        print_line("Blocks", PAINT_PLAIN, "%s", words);
    if (job->facts.protection)
        print_line("Protection", PAINT_PLAIN,
                   "protection information is left out");
}

void lowlevel_tell_plan(const struct lowlevel *job)
{
    putchar('\n');
    painted(PAINT_STRONG, "It becomes\n");
    if (job->work.has_drive) {
        tell_arithmetic(&job->work.drive);
        if (job->measured)
            print_line("Interleave", PAINT_PLAIN,
                       "as one track shows that is formatted with each value "
                       "and read");
        else
            tell_order(&job->work.drive);
        tell_recording(&job->work.drive);
        tell_split(job);
    }
    tell_blocks(job);
    if (job->stickers > 0)
        print_line("Sticker", PAINT_PLAIN, "%u bad places, which are not used",
                   job->stickers);
    print_line("Command", PAINT_FAINT, "%s",
               slate_lowlevel_command(job->facts.kind));
    print_line("Power cut", PAINT_PLAIN, "%s",
               slate_lowlevel_cut(job->facts.kind));
    tell_time(job);
    putchar('\n');
    print_line("LOST", PAINT_BAD, "%s",
               job->facts.reaches_units
                   ? "everything on every namespace of this drive"
               : job->work.has_drive && job->target->media.units > 1
                   ? "everything on this drive, its other logical drive with it"
                   : "everything on this device");
}

/* Bars to scale, the fastest one full. */
static void tell_measured(const struct slate_interleave *measure)
{
    uint32_t best = slate_interleave_best(measure);
    uint64_t top = 0;

    for (uint32_t i = 1; i <= measure->most; i++) {
        uint64_t rate = slate_interleave_rate(measure, i);

        top = rate > top ? rate : top;
    }
    painted(PAINT_STRONG, "Interleave, as it was measured on one track\n");
    for (uint32_t i = 1; i <= measure->most; i++) {
        uint64_t rate = slate_interleave_rate(measure, i);
        char words[SLATE_SIZE_TEXT];

        slate_size_decimal(rate, words);
        printf("  %2u %s", i, paint_frame());
        for (uint64_t k = 0; k < 40; k++) {
            if (top > 0 && k * top < rate * 40)
                painted(i == best ? PAINT_GOOD : PAINT_VOLUME, "%s",
                        paint_fill(PAINT_VOLUME));
            else
                putchar(' ');
        }
        printf("%s %s/s%s\n", paint_frame(), rate == 0 ? "nothing" : words,
               i == best ? ", taken" : "");
    }
    print_line("Holds for", PAINT_FAINT,
               "this controller and this computer: another one may want "
               "another interleave");
    putchar('\n');
}

/* One mark for each stretch of cylinders: known bad places, and new ones. */
static void tell_map(const struct lowlevel *job)
{
    const struct slate_drive *drive = &job->work.drive;
    const struct slate_ranges *bad = &job->work.after.bad;
    char marks[65];

    memset(marks, ' ', 64);
    marks[64] = '\0';
    for (uint32_t i = 0; i < bad->count; i++) {
        for (uint64_t k = 0; k < bad->range[i].count; k++) {
            uint64_t block = bad->range[i].first + k;
            uint32_t cylinder = slate_drive_place(drive, block).cylinder;
            char *mark = &marks[(uint64_t)cylinder * 64 / drive->cylinders];

            if (!slate_defects_know(drive, job->sticker, job->stickers, block))
                *mark = 'N';
            else if (*mark == ' ')
                *mark = 's';
        }
    }
    printf("  Cylinders  %s%s%s\n", paint_frame(), marks, paint_frame());
    printf("              0%63u\n", drive->cylinders - 1);
    printf("              s on the sticker, N new\n");
}

/* As a sticker has it: where the sector begins. */
static void tell_bad_block(const struct lowlevel *job, uint64_t block)
{
    const struct slate_drive *drive = &job->work.drive;
    const struct slate_sector_place place = slate_drive_place(drive, block);
    uint64_t slot = slate_drive_slot(drive, &place);

    painted(PAINT_BAD, "             %u/%u/%u", place.cylinder, place.head,
            (uint32_t)((slot * drive->track_bytes + drive->sectors - 1) /
                       drive->sectors));
    printf(": sector %u, block %llu\n", place.sector + 1,
           (unsigned long long)block);
}

/* The new ones, to be added to the sticker. */
static void tell_bad(const struct lowlevel *job)
{
    const struct slate_ranges *bad = &job->work.after.bad;
    uint32_t named = 0;

    tell_map(job);
    for (uint32_t i = 0; i < bad->count; i++) {
        for (uint64_t k = 0; k < bad->range[i].count; k++) {
            uint64_t block = bad->range[i].first + k;

            if (slate_defects_know(&job->work.drive, job->sticker,
                                   job->stickers, block))
                continue;
            if (named == 0)
                printf("  New        cylinder/head/byte from index, for the "
                       "sticker:\n");
            if (named++ < NAMED)
                tell_bad_block(job, block);
        }
    }
    if (named > NAMED)
        printf("             and %u more\n", named - NAMED);
}

static void say_seen(const struct slate_defects_seen *seen, char *words,
                     size_t room)
{
    int length = snprintf(
        words, room, "%llu bad sectors: %llu are on the sticker, %llu are new",
        (unsigned long long)seen->bad, (unsigned long long)seen->known,
        (unsigned long long)seen->fresh);

    if (seen->looked && length > 0)
        snprintf(words + length, room - (size_t)length,
                 "; of the new ones %llu were bad before and came back, %llu "
                 "were not; %llu that were bad before are good now",
                 (unsigned long long)seen->back,
                 (unsigned long long)seen->appeared,
                 (unsigned long long)seen->gone);
    else if (seen->fresh > 0 && length > 0)
        snprintf(words + length, room - (size_t)length,
                 "; whether they were bad before is not known");
}

static void tell_next(const struct lowlevel *job)
{
    const struct target *target = job->target;
    const char *list = job->options->failed_list;

    printf("\nTo make it a volume of the old system, its partition within what "
           "that counts:\n  trueslate renew %s --for vintage --cylinders "
           "%ux%u%s%s%s\n",
           target->name, job->work.drive.heads, job->work.drive.sectors,
           job->work.seen.bad == 0 ? ""
           : list == NULL          ? " --scan"
                                   : " --bad-list ",
           job->work.seen.bad == 0 || list == NULL ? "" : plain_word(list),
           target->also);
}

static void tell_drive(const struct lowlevel *job)
{
    enum slate_drive_verdict verdict = slate_drive_judge(&job->work.seen);
    bool fine =
        verdict == SLATE_DRIVE_SOUND || verdict == SLATE_DRIVE_AS_LISTED;
    char words[500];

    if (job->work.seen.bad > 0)
        tell_bad(job);
    say_seen(&job->work.seen, words, sizeof words);
    print_line("Read", PAINT_PLAIN, "%s", words);
    if (job->work.after.weak > 0)
        print_line("Weak", PAINT_BAD, "%llu sector%s read at a second try only",
                   (unsigned long long)job->work.after.weak,
                   job->work.after.weak == 1 ? " was" : "s were");
    print_line("Verdict", fine ? PAINT_GOOD : PAINT_BAD, "%s",
               slate_drive_verdict_words(verdict));
}

void lowlevel_tell(const struct lowlevel *job)
{
    const struct slate_geometry *geometry = &job->target->media.geometry;
    char bytes[250];

    putchar('\n');
    if (job->measured)
        tell_measured(&job->work.measure);
    say_bytes(slate_geometry_bytes(geometry), bytes, sizeof bytes);
    print_line("Formatted", PAINT_GOOD, "%llu blocks of %u bytes, %s",
               (unsigned long long)geometry->block_count, geometry->block_bytes,
               bytes);
    if (strcmp(job->tag, job->target->media.tag) != 0)
        print_line("Tag", PAINT_STRONG,
                   "%s: its size is another one, and the tag goes by it",
                   job->target->media.tag);
    if (job->work.after.done)
        tell_drive(job);
    else
        print_line("Read", PAINT_PLAIN,
                   "64 places from the first block to the last can be read; "
                   "'scan' reads all");
    if (job->work.after.done)
        tell_next(job);
    else
        printf("\nTo make it one volume:\n  trueslate renew %s%s\n",
               job->target->name, job->target->also);
}
