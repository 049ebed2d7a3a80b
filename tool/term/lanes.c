/* SPDX-License-Identifier: MIT */
/* Jobs that go on side by side, a line each. */
#include "term/term.h"

#include <sys/ioctl.h>
#include <unistd.h>

#define LOG_MS 10000u

void lanes_begin(struct lanes *lanes)
{
    memset(lanes, 0, sizeof *lanes);
    lanes->screen = isatty(STDERR_FILENO) == 1;
    lanes->logged = clock_ms();
}

void lanes_add(struct lanes *lanes, const char *name, struct lane *lane)
{
    if (lanes->count == LANES_MOST)
        return;
    lanes->name[lanes->count] = name;
    lanes->lane[lanes->count++] = lane;
}

/* Where the terminal does not tell, it is as small as they come. */
static void find_size(uint32_t *rows, int *columns)
{
    struct winsize size;
    bool told = ioctl(STDERR_FILENO, TIOCGWINSZ, &size) == 0 &&
                size.ws_row > 2 && size.ws_col > 20;

    *rows = told ? size.ws_row - 2u : 22u;
    *columns = told ? size.ws_col - 1 : 79;
}

static void go_back(struct lanes *lanes)
{
    if (lanes->drawn > 0)
        fprintf(stderr, "\033[%uA\r\033[J", lanes->drawn);
    lanes->drawn = 0;
}

static void draw_screen(struct lanes *lanes)
{
    uint32_t rows;
    int columns;

    find_size(&rows, &columns);
    go_back(lanes);
    for (uint32_t i = 0; i < lanes->count && lanes->drawn < rows; i++) {
        char line[LANE_ROOM];

        lane_get(lanes->lane[i], line);
        if (i + 1 < lanes->count && lanes->drawn + 1 == rows)
            fprintf(stderr, "and %u more\n", lanes->count - i);
        else
            fprintf(stderr, "%-9s %.*s\n", lanes->name[i],
                    (int)columns_fit(line, columns > 10 ? columns - 10 : 0),
                    line);
        lanes->drawn++;
    }
    fflush(stderr);
}

static void draw_log(struct lanes *lanes)
{
    uint64_t now = clock_ms();

    if (now - lanes->logged < LOG_MS)
        return;
    lanes->logged = now;
    for (uint32_t i = 0; i < lanes->count; i++) {
        char line[LANE_ROOM];

        lane_get(lanes->lane[i], line);
        fprintf(stderr, "%s: %s\n", lanes->name[i], line);
    }
}

void lanes_draw(struct lanes *lanes)
{
    fflush(stdout);
    if (lanes->screen)
        draw_screen(lanes);
    else
        draw_log(lanes);
}

void lanes_end(struct lanes *lanes)
{
    if (lanes->screen)
        go_back(lanes);
    fflush(stderr);
}
