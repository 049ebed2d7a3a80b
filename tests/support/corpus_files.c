/* SPDX-License-Identifier: MIT */
/* Writes the corpus: as image files, as seeds for the fuzz targets, and what
 * the devices of a bench answer when they are opened. Usage:
 * corpus-files images FOLDER | seeds FOLDER | answers FOLDER BENCH */
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "corpus.h"
#include "seed.h"
#include <trueslate/port_sim.h>

static void stop(const char *what)
{
    perror(what);
    exit(1);
}

static void write_image(const char *folder, const struct corpus_case *one,
                        const struct ram *ram)
{
    char path[4096];
    int file;

    snprintf(path, sizeof path, "%s/%s.img", folder, one->name);
    file = open(path, O_RDWR | O_CREAT | O_TRUNC, 0644);
    if (file < 0 || ftruncate(file, (off_t)(ram->facts.block_count *
                                            ram->facts.block_bytes)) != 0)
        stop(path);
    for (size_t i = 0; i < ram->page_count; i++) {
        size_t length = RAM_PAGE_BYTES;
        uint64_t end = ram->facts.block_count * ram->facts.block_bytes;

        if (ram->pages[i] == NULL)
            continue;
        if (end - i * RAM_PAGE_BYTES < length)
            length = (size_t)(end - i * RAM_PAGE_BYTES);
        if (pwrite(file, ram->pages[i], length, (off_t)(i * RAM_PAGE_BYTES)) !=
            (ssize_t)length)
            stop(path);
    }
    close(file);
    /* name, block size, why a kernel may see it otherwise */
    printf("%s %u %s\n", one->name, ram->facts.block_bytes,
           one->kernel_differs == NULL ? "" : one->kernel_differs);
}

static void write_seed(const char *folder, const char *name,
                       const struct ram *ram)
{
    static uint8_t bytes[SEED_BYTES_MOST];
    size_t length = seed_of(ram, bytes, sizeof bytes);
    char path[4096];
    FILE *file;

    snprintf(path, sizeof path, "%s/%s", folder, name);
    file = fopen(path, "wb");
    if (file == NULL || fwrite(bytes, 1, length, file) != length)
        stop(path);
    fclose(file);
}

/* A port that notes what passes, in the form that fuzz_answers takes. */
struct recorder {
    struct slate_port port;
    const struct slate_port *behind;
    FILE *file;
};

static enum slate_status recorded_facts(void *context,
                                        struct slate_port_facts *out)
{
    const struct recorder *recorder = context;
    enum slate_status status =
        recorder->behind->ops->facts(recorder->behind->context, out);

    fputc((int)out->commands - SLATE_COMMANDS_SCSI, recorder->file);
    return status;
}

static enum slate_status recorded_exchange(void *context,
                                           struct slate_exchange *x)
{
    const struct recorder *recorder = context;
    enum slate_status status =
        recorder->behind->ops->exchange(recorder->behind->context, x);
    size_t length = x->data_length < 512 ? x->data_length : 512;

    fputc(x->state == 0 ? 0 : 0xC0 | (x->state & 0x3F), recorder->file);
    fputc(0, recorder->file);
    fputc(x->answer_length, recorder->file);
    if (x->direction == SLATE_DIRECTION_IN)
        fwrite(x->data, 1, length, recorder->file);
    fwrite(x->answer, 1, 20, recorder->file);
    return status;
}

static const struct slate_port_ops recording = {.size = sizeof recording,
                                                .facts = recorded_facts,
                                                .exchange = recorded_exchange};

struct recording {
    const char *folder, *bench;
};

static void record(void *context, const char *name)
{
    const struct recording *where = context;
    struct recorder recorder = {.port = {&recording, &recorder}};
    char path[4096], why[SLATE_SIM_WHY_ROOM];
    struct slate_media media;
    struct slate_sim *sim;

    if (slate_sim_open(where->bench, name, &sim, why) != SLATE_OK)
        return;
    snprintf(path, sizeof path, "%s/%s", where->folder, name);
    recorder.behind = slate_sim_port(sim);
    recorder.file = fopen(path, "wb");
    if (recorder.file == NULL)
        stop(path);
    if (slate_media_open(&media, &recorder.port) == SLATE_OK &&
        slate_media_flush(&media) != SLATE_OK)
        fprintf(stderr, "%s cannot be flushed\n", name);
    fclose(recorder.file);
    slate_sim_close(sim);
}

static int write_corpus(const char *folder, bool images)
{
    for (size_t i = 0; corpus_case(i) != NULL; i++) {
        struct ram ram;

        corpus_case(i)->build(&ram);
        if (images)
            write_image(folder, corpus_case(i), &ram);
        else
            write_seed(folder, corpus_case(i)->name, &ram);
        ram_close(&ram);
    }
    return 0;
}

/* A fresh volume of each format, but for what is long and tells nothing. */
static void write_composed(const char *folder,
                           const struct slate_format *format)
{
    const struct slate_wish wish = {
        .range = {0, 32768}, .block_bytes = 512, .id = {7}, .label = "Wave"};
    union slate_volume_plan plan;
    const struct slate_composed composed = {&format->composer, &plan, 512};
    struct slate_walk walk = {0};
    struct slate_extent extent;
    struct slate_supply supply;
    uint8_t block[512];
    char name[32];
    struct ram ram;

    if (format->plan(&wish, &plan) != SLATE_OK)
        return;
    ram_open(&ram, 512, 32768, true);
    slate_compose_supply(&composed, &supply);
    while (supply.next(supply.context, &walk, &extent)) {
        const char *step = format->composer.steps[extent.role];

        for (uint64_t i = 0;
             strstr(step, "log") == NULL && strstr(step, "up-case") == NULL &&
             i < extent.count;
             i++) {
            if (format->composer.fill(&plan, extent.first + i, 1, block) !=
                SLATE_OK)
                stop("fill");
            ram_put(&ram, (extent.first + i) * 512, block, sizeof block);
        }
    }
    snprintf(name, sizeof name, "fresh-%s", format->composer.name);
    write_seed(folder, name, &ram);
    ram_close(&ram);
}

int main(int count, char **words)
{
    if (count == 3 && strcmp(words[1], "images") == 0)
        return write_corpus(words[2], true);
    if (count == 3 && strcmp(words[1], "seeds") == 0) {
        const struct slate_format *format;

        for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++)
            write_composed(words[2], format);
        return write_corpus(words[2], false);
    }
    if (count == 4 && strcmp(words[1], "answers") == 0) {
        struct recording where = {words[2], words[3]};

        return slate_sim_list(words[3], record, &where) == SLATE_OK ? 0 : 1;
    }
    fprintf(stderr, "usage: corpus-files images FOLDER | seeds FOLDER | "
                    "answers FOLDER BENCH\n");
    return 2;
}
